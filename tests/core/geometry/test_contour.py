from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import Contour, work_out_bounds

POINTS = arrays(np.float64, st.tuples(st.integers(2, 7), st.just(3), st.just(2)), elements=st.floats(-50, 50, width=32))


def contour(points: np.ndarray, closed: bool = True) -> Contour:
    return Contour(points, np.zeros(len(points), np.uint8), closed)


@given(POINTS)
def test_curves_run_from_anchor_to_anchor(points: np.ndarray) -> None:
    closed, opened = contour(points).curves(), contour(points, closed=False).curves()
    assert len(closed) == len(points)
    assert np.array_equal(opened, closed[:-1])
    assert np.array_equal(closed[:, 0], points[:, 1])
    assert np.array_equal(closed[:, 3], np.roll(points[:, 1], -1, axis=0))


@given(POINTS, st.floats(0.3, 5))
def test_samples_lie_on_the_curves_and_no_further_apart_than_asked(points: np.ndarray, spacing: float) -> None:
    made = contour(points)
    samples = made.sampled(spacing)
    gaps = np.linalg.norm(np.roll(samples, -1, axis=0) - samples, axis=1)
    assert gaps.max() <= 3 * spacing + 1e-9  # a cubic's speed is at most three times its control polygon's
    for anchor in made.anchors:
        assert np.linalg.norm(samples - anchor, axis=1).min() < 1e-9


@given(POINTS)
def test_the_area_is_that_of_the_finely_sampled_polygon(points: np.ndarray) -> None:
    made = contour(points)
    x, y = made.sampled(0.05).T
    polygon = 0.5 * (x @ np.roll(y, -1) - y @ np.roll(x, -1))
    assert made.area() == pytest.approx(polygon, abs=0.5 + 1e-3 * abs(polygon))


@given(POINTS, st.floats(-9, 9), st.floats(0.1, 4))
def test_moving_and_scaling_do_what_they_do_to_the_points(points: np.ndarray, by: float, factor: float) -> None:
    made = contour(points)
    assert np.allclose(made.moved(by, -by).points, points + np.array((by, -by)))
    assert made.scaled(factor).area() == pytest.approx(made.area() * factor**2, rel=1e-6, abs=1e-6)
    left, top, right, bottom = made.bounds()
    assert np.allclose(made.moved(by, 1).bounds(), (left + by, top + 1, right + by, bottom + 1))


@given(POINTS)
def test_equal_contours_are_equal_and_hash_alike(points: np.ndarray) -> None:
    assert contour(points) == contour(points.copy())
    assert hash(contour(points)) == hash(contour(points.copy()))
    assert contour(points) != contour(points, closed=False)
    assert contour(points) != contour(points + 1)


def test_the_callers_arrays_stay_their_own() -> None:
    points = np.zeros((2, 3, 2))
    made = contour(points)
    points += 5
    assert made.points.max() == 0


def test_extremes_of_an_arch_are_at_its_top() -> None:
    arch = np.array([(0, 0), (0, -10), (20, -10), (20, 0)], float)
    (t,) = [t for t in bezier.extremes(arch) if 0.1 < t < 0.9]
    assert t == pytest.approx(0.5)
    assert bezier.bounds(arch[None]) == pytest.approx((0, -7.5, 20, 0))


def test_bounds_worked_out_together_are_those_of_each() -> None:
    points = [np.random.default_rng(k).uniform(0, 50, (k + 1, 3, 2)) for k in range(6)]
    together, alone = ([Contour(p, np.ones(len(p)), closed=len(p) % 2 == 0) for p in points] for _ in range(2))
    work_out_bounds(together)
    assert [one._box is not None for one in together] == [False, *[True] * 5], "one anchor has no curve"
    assert [one.bounds() for one in together] == [one.bounds() for one in alone]
    work_out_bounds([])
