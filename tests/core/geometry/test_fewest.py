"""The fewest cubics through points: against curves that are known."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import AnchorKind, Contour, directions
from sobercrow.core.geometry.fewest import Runs, fewest_cubics


def as_contour(anchors: np.ndarray) -> Contour:
    return Contour(anchors, np.full(len(anchors), AnchorKind.SMOOTH, np.uint8), closed=False)


def off(anchors: np.ndarray, points: np.ndarray) -> float:
    """How far points are from the curve through anchors at most, by Shapely."""
    line = shapely.LineString(as_contour(anchors).sampled(0.02))
    return max(line.distance(shapely.Point(p)) for p in points)


@settings(deadline=None, max_examples=25)
@given(st.lists(st.floats(-30, 30), min_size=4, max_size=4))
def test_points_of_one_tame_cubic_need_but_one(offsets: list[float]) -> None:
    a, b, c, d = offsets
    curve = np.array([(0, 0), (40 + a, 30 + b), (80 + c, 30 + d), (120, 0)], float)
    points = bezier.evaluate(curve, np.linspace(0, 1, 240))
    out, into = curve[1] - curve[0], curve[3] - curve[2]
    anchors = fewest_cubics(points, 0.5, out, into)
    assert len(anchors) <= 3
    assert off(anchors, points) <= 0.52


@pytest.mark.parametrize("tolerance", [0.05, 0.2, 1.0])
def test_a_wave_is_held_within_the_tolerance_by_fewer_anchors_the_looser_it_is(tolerance: float) -> None:
    x = np.linspace(0, 300, 1200)
    points = np.column_stack([x, 20 * np.sin(x / 24)])
    anchors = fewest_cubics(points, tolerance)
    assert off(anchors, points) <= tolerance + 0.02
    # a wave's length is 151 px: two pieces for each half at the finest, one at the loosest
    assert len(anchors) <= {0.05: 18, 0.2: 12, 1.0: 9}[tolerance]
    assert np.array_equal(anchors[[0, -1], 1], points[[0, -1]])
    into, out = directions(as_contour(anchors))
    assert (into[1:-1] * out[1:-1]).sum(axis=1) == pytest.approx(1.0, abs=2e-4)  # a straight piece may be off by 0.8°


def test_a_straight_run_is_one_line_without_handles() -> None:
    points = np.column_stack([np.linspace(0, 90, 181), np.linspace(0, 45, 181)])
    anchors = fewest_cubics(points, 0.1)
    assert len(anchors) == 2
    assert (anchors == anchors[:, 1:2]).all()


def test_a_place_next_to_the_end_of_a_piece_is_still_on_it(monkeypatch) -> None:
    x = np.arange(76.0)
    anchors = np.column_stack([x, np.sin(x)])
    contour = Contour(np.stack([anchors - 0.3, anchors, anchors + 0.3], axis=1), np.ones(76, np.uint8), closed=False)
    beside = np.full((75, 2, 2), np.nextafter(1.0, 0.0))  # 74 and this is 75 to the last bit
    monkeypatch.setattr(bezier, "level_places", lambda _: beside)
    (thinned,) = Runs.of([contour]).thinned(0.05)
    assert np.allclose(thinned[-1, 1], anchors[-1])
