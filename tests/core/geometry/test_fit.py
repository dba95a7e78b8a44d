"""Fitting one cubic: exact ones come back, and noise is met as SciPy's least squares meets it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import least_squares
from scipy.spatial import cKDTree

from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.fit import fit_cubic

CURVE = np.array([(0.0, 0.0), (12.0, -9.0), (30.0, -4.0), (36.0, 10.0)])
PLACES = np.linspace(0.0, 1.0, 60)


def off(curve: np.ndarray, points: np.ndarray) -> np.ndarray:
    """How far points are from a cubic."""
    return cKDTree(bezier.evaluate(curve, np.linspace(0.0, 1.0, 4000))).query(points)[0]


@pytest.mark.parametrize("polish", [True, False])
@given(x=st.floats(-20, 20), y=st.floats(-20, 20), reach=st.floats(4, 18))
def test_a_cubic_comes_back_from_its_points_and_tangents(x: float, y: float, reach: float, polish: bool) -> None:
    curve = np.array([(0.0, 0.0), (reach, y), (40.0 - reach, x), (40.0, 5.0)])
    points = bezier.evaluate(curve, PLACES)
    fitted = fit_cubic(points, curve[1] - curve[0], curve[3] - curve[2], polish)
    assert np.array_equal(fitted[[0, 3]], points[[0, -1]])
    assert off(fitted, points).max() < (0.02 if polish else 0.6)


@pytest.mark.parametrize("noise", [0.05, 0.3])
def test_a_polished_fit_is_no_further_off_than_scipys(noise: float) -> None:
    points = bezier.evaluate(CURVE, PLACES) + np.random.default_rng(8).normal(0, noise, (60, 2))
    points[[0, -1]] = CURVE[[0, 3]]

    def misfit(handles: np.ndarray) -> np.ndarray:
        return off(np.array([points[0], handles[:2], handles[2:], points[-1]]), points)

    best = least_squares(misfit, CURVE[1:3].ravel(), diff_step=1e-3).x
    ours, quick = fit_cubic(points), fit_cubic(points, polish=False)
    assert (off(ours, points) ** 2).sum() <= 1.02 * (misfit(best) ** 2).sum()
    assert (off(quick, points) ** 2).sum() <= 1.3 * (misfit(best) ** 2).sum()


def test_too_few_points_are_told_and_points_on_one_spot_stay_there() -> None:
    with pytest.raises(ValueError, match="two points"):
        fit_cubic(np.zeros((1, 2)))
    assert np.array_equal(fit_cubic(np.ones((5, 2))), np.ones((4, 2)))
