"""What stands in for parts of SciPy, against SciPy."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from fontTools.misc.bezierTools import calcCubicBounds
from hypothesis import given
from hypothesis import strategies as st
from scipy.fft import dct
from scipy.ndimage import gaussian_filter1d
from scipy.optimize import least_squares as reference
from scipy.spatial import cKDTree

from sobercrow.core.cleanup.light import _cosines
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._moment_kernels import border_moments
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.geometry.least_squares import least_squares
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.inks._colour_kernels import crowd_weights, nearest_centres

RANDOM = np.random.default_rng(8)


@pytest.mark.parametrize(
    ("beyond", "mode"), [(Beyond.ROUND, "wrap"), (Beyond.LAST, "nearest"), (Beyond.MIRRORED, "reflect")]
)
@pytest.mark.parametrize("shape", [(60,), (45, 2), (30, 4, 2)])
def test_lines_are_smoothed_as_by_ndimage(beyond: Beyond, mode: str, shape: tuple[int, ...]) -> None:
    values = RANDOM.normal(size=shape)
    assert np.allclose(smoothed(values, 1.7, beyond), gaussian_filter1d(values, 1.7, axis=0, mode=mode), atol=1e-12)


def test_cosine_transforms_are_orthonormal_ones() -> None:
    assert np.allclose(_cosines(13), dct(np.eye(13), axis=0, norm="ortho"))


@pytest.mark.parametrize("seed", range(5))
def test_small_least_squares_agree_with_scipy(seed: int) -> None:
    random = np.random.default_rng(seed)
    x = np.linspace(0, 3, 60)
    y = 2.0 * np.exp(-1.3 * x) + 0.4 * x + random.normal(0, 0.05, 60)

    def off(p: np.ndarray) -> np.ndarray:
        return p[0] * np.exp(-p[1] * x) + p[2] * x - y

    guess = np.array([1.0, 0.5, 0.0])
    assert np.allclose(least_squares(off, guess, 1e-10), reference(off, guess, method="lm").x, atol=1e-5)


@pytest.mark.parametrize("reach", [1.5, 1e4])
def test_nearest_segments_are_those_of_shapely(reach: float) -> None:
    starts = RANDOM.uniform(0, 60, (300, 2))
    ends = starts + RANDOM.normal(0, 1.2, starts.shape)
    points = RANDOM.uniform(-15, 75, (500, 2))
    away, index = nearest_segments(points, starts, ends, reach)
    lines = shapely.linestrings(np.stack([starts, ends], axis=1))
    all_away = np.array([shapely.distance(lines, shapely.Point(p)) for p in points])
    found = index >= 0
    assert np.array_equal(found, all_away.min(axis=1) < reach)
    assert np.allclose(away[found], all_away.min(axis=1)[found])
    assert np.allclose(all_away[np.flatnonzero(found), index[found]], away[found])


def test_colours_find_their_centres_and_crowds_as_in_a_tree() -> None:
    points, centres = RANDOM.uniform(0, 100, (400, 3)), RANDOM.uniform(0, 100, (9, 3))
    own = np.empty(400, dtype=np.int64)
    nearest_centres(points, centres, own)
    assert np.array_equal(own, cKDTree(centres).query(points)[1])
    weights, crowds = RANDOM.uniform(0, 1, 400), np.empty(400)
    crowd_weights(points, weights, 12.0, crowds)
    assert np.allclose(crowds, [weights[near].sum() for near in cKDTree(points).query_ball_point(points, 12.0)])


@given(st.integers(0, 500))
def test_boxes_of_curves_are_fonttools_own(seed: int) -> None:
    curves = np.random.default_rng(seed).integers(-3, 4, (4, 4, 2)).astype(float)  # lines and level ends among them
    boxes = np.array([calcCubicBounds(*map(tuple, curve)) for curve in curves])
    assert np.allclose(bezier.bounds(curves), [*boxes[:, :2].min(axis=0), *boxes[:, 2:].max(axis=0)])


def test_moments_of_a_border_are_those_of_its_pieces() -> None:
    points = RANDOM.uniform(0, 40, (30, 2))
    length, x, y, *rest = border_moments(points)
    steps, middles = np.roll(points, -1, axis=0) - points, (np.roll(points, -1, axis=0) + points) / 2
    weights = np.hypot(*steps.T) / np.hypot(*steps.T).sum()
    assert length == pytest.approx(np.hypot(*steps.T).sum())
    assert (x, y) == pytest.approx(tuple(weights @ middles))
    dx, dy = (middles - (x, y)).T
    wanted = [dx**2, dx * dy, dy**2, dx**3, dx**2 * dy, dx * dy**2, dy**3]
    assert rest == pytest.approx([float(weights @ power) for power in wanted])
