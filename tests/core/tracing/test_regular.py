"""Lines made straight, level and upright, and outlines made heavier, against geometry and Shapely."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, Polygon

from drawings import disc, lettering, polygon, separation
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.offset import evenly, offset_outlines, swept_outlines
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.outlines import trace
from sobercrow.core.tracing.regular import squared_up, straightened


def straight(corners: np.ndarray, closed: bool = True) -> Contour:
    return Contour(np.repeat(np.asarray(corners, float)[:, None], 3, axis=1), np.zeros(len(corners), np.uint8), closed)


@given(st.floats(-4.5, 4.5))
def test_a_rectangle_nearly_level_becomes_level_and_keeps_its_size(degrees: float) -> None:
    angle = math.radians(degrees)
    turn = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    made = squared_up(straight((np.array([(0, 0), (40, 0), (40, 20), (0, 20)]) - (20, 10)) @ turn), 5.0)
    steps = np.abs(np.roll(made.anchors, -1, axis=0) - made.anchors)
    assert (steps.min(axis=1) < 1e-9).all()
    assert steps[::2].max(axis=1) == pytest.approx(40 * math.cos(angle), abs=1e-6)
    assert made.anchors.mean(axis=0) == pytest.approx((0, 0), abs=1e-9)


def test_lines_further_off_and_ends_of_open_borders_stay() -> None:
    corners = np.array([(0.0, 0), (30, 6), (30, 30), (4, 30)])
    made = squared_up(straight(corners), 5.0)
    assert np.array_equal(made.anchors[:2], corners[:2])
    assert made.anchors[2, 1] == made.anchors[3, 1]
    ends = squared_up(straight([(0.0, 0.0), (20.0, 0.5), (21.0, 20.0)], closed=False), 5.0)
    assert np.array_equal(ends.anchors, [(0, 0), (21, 0), (21, 20)])
    both = squared_up(straight([(0.0, 0.0), (20.0, 0.5)], closed=False), 5.0)
    assert np.array_equal(both.anchors, [(0, 0), (20, 0.5)])


def test_flat_curves_become_lines_and_lines_in_one_direction_one() -> None:
    points = np.array(
        [
            [(0, 0), (0, 0), (10, 0.4)],
            [(20, 0.4), (30, 0), (40, -0.1)],
            [(50, 0.0), (60, 0), (60, 0)],
            [(60, 40), (60, 40), (40, 60)],
            [(0, 40), (0, 40), (0, 40)],
        ],
        float,
    )
    contour = Contour(points, np.array([0, 1, 0, 0, 0], np.uint8))
    made = straightened(contour, 8.0, 0.3)
    assert np.array_equal(made.anchors, [(0, 0), (60, 0), (60, 40), (0, 40)])
    assert np.array_equal(made.points[2, 2], (40, 60))  # what bends more stays a curve
    untouched = straightened(contour, 0.5, 0.3)
    assert len(untouched) == 5


def test_a_curve_that_runs_on_from_a_line_takes_its_direction() -> None:
    points = np.array(
        [[(0, 0), (0, 0), (3, 0.2)], [(7, 0.2), (10, 0), (12, -0.1)], [(20, 8), (20, 10), (20, 10)]], float
    )
    made = straightened(Contour(points, np.array([0, 1, 0], np.uint8)), 10.0, 0.3)
    assert made.points[1, 2, 1] == pytest.approx(0.0)
    assert np.hypot(*(made.points[1, 2] - made.points[1, 1])) == pytest.approx(math.hypot(2, 0.1))
    assert made.kinds[1] == AnchorKind.SMOOTH


@pytest.mark.parametrize("distance", [-2.0, 1.5])
def test_outlines_grow_as_shapely_grows_polygons(distance: float) -> None:
    outer = np.array([(10.0, 10), (70, 10), (70, 50), (40, 30), (10, 50)])
    hole = np.array([(20.0, 15), (20, 22), (30, 22), (30, 15)])
    rings = offset_outlines([(straight(outer), straight(hole))], distance)
    expected = Polygon(outer, [hole]).buffer(distance, join_style="mitre", mitre_limit=4.0)
    areas = [Polygon(ring).area for ring in rings]
    assert areas[0] - sum(areas[1:]) == pytest.approx(expected.area)
    signed = [straight(ring).area() for ring in rings]
    assert signed[0] > 0 > max(signed[1:], default=-1.0)


def test_points_are_added_evenly() -> None:
    line = evenly(np.array([(0.0, 0), (10, 0), (10, 1)]), 0.5)
    steps = np.linalg.norm(np.roll(line, -1, axis=0) - line, axis=1)
    assert steps.max() <= 0.5
    assert {(0.0, 0.0), (10.0, 0.0), (10.0, 1.0)} <= set(map(tuple, line.tolist()))


@pytest.mark.parametrize("weight", [-3.0, 2.0])
def test_weight_moves_the_border_by_as_much(weight: float) -> None:
    (shape,) = trace(separation(disc(120, 60.2, 59.7, 35.0)), Tracing(weight_px=weight)).artwork.shapes
    points = shape.contours[0].sampled(0.3)
    assert np.abs(np.hypot(*(points - (60.2, 59.7)).T) - 35.0 - weight).max() < 0.15
    corners = [(20.0, 20.0), (100.0, 20.0), (100.0, 90.0), (20.0, 90.0)]
    (square,) = trace(separation(polygon(120, corners)), Tracing(weight_px=weight)).artwork.shapes
    (contour,) = square.contours
    assert (len(contour), (contour.kinds == AnchorKind.CORNER).all()) == (4, True)
    assert square.bounds() == pytest.approx((20 - weight, 20 - weight, 100 + weight, 90 + weight), abs=0.1)


def test_weight_closes_and_opens_what_it_must() -> None:
    grey = lettering("oil", 64)
    plain, heavy = (trace(separation(grey), Tracing(weight_px=w)).artwork for w in (0.0, 12.0))
    assert len(heavy.shapes) < len(plain.shapes)
    assert sum(len(s.contours) - 1 for s in heavy.shapes) == 0
    assert trace(separation(grey), Tracing(weight_px=-15.0)).artwork.shapes == ()


def test_square_up_and_straighten_reach_the_artwork() -> None:
    angle = math.radians(1.2)
    around = [(60 + 40 * math.cos(angle + q), 60 + 40 * math.sin(angle + q)) for q in np.radians((45, 135, 225, 315))]
    (tilted,) = trace(separation(polygon(120, around)), Tracing(square_up_deg=2.0)).artwork.shapes
    steps = np.abs(np.roll(tilted.contours[0].anchors, -1, axis=0) - tilted.contours[0].anchors)
    assert steps.min(axis=1).max() < 1e-9
    (shape,) = trace(separation(disc(120, 60, 60, 50)), Tracing(straighten_deg=45.0, detail=100)).artwork.shapes
    assert shape.anchor_count >= 4


def test_holes_have_a_size_of_their_own() -> None:
    grey = lettering("eo", 60)
    kept = trace(separation(grey), Tracing(speck_px2=4.0)).artwork
    closed = trace(separation(grey), Tracing(speck_px2=4.0, hole_px2=5000.0)).artwork
    assert len(closed.shapes) == len(kept.shapes)
    assert sum(len(s.contours) for s in kept.shapes) == 4
    assert sum(len(s.contours) for s in closed.shapes) == 2


def test_a_pen_of_one_width_inks_what_shapely_buffers_and_a_ring_has_a_hole() -> None:
    t = np.linspace(0, 3, 40)
    line = np.column_stack([20 + 12 * t, 30 + 8 * np.sin(2 * t)])
    (outline,) = swept_outlines(line, np.full(40, 5.0), closed=False)
    true = LineString(line).buffer(2.5, quad_segs=32)
    assert Polygon(outline).symmetric_difference(true).area < 0.01 * true.area
    around = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    ring = np.column_stack([40 + 20 * np.cos(around), 40 + 20 * np.sin(around)])
    outer, hole = swept_outlines(ring, 4.0 + np.cos(around), closed=True)
    assert Polygon(outer, [hole]).area == pytest.approx(2 * np.pi * 20 * 4.0, rel=0.02)
    assert Polygon(outer).bounds[2] == pytest.approx(62.5, abs=0.05)
    assert Polygon(hole).bounds[0] == pytest.approx(21.5, abs=0.05)
