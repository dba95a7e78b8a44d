"""Loops and crowded anchors: crossings against Shapely, and what becomes of them."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drawings import lettering, separation
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.outlines import trace
from sobercrow.core.tracing.tidy import LEAST_APART_PX, crosses_itself, tidied

places = st.tuples(st.floats(0, 40), st.floats(0, 40))


def blob(anchors: np.ndarray, arm: float) -> Contour:
    """A closed contour with handles along the line from the anchor before to the one after."""
    way = np.roll(anchors, -1, axis=0) - np.roll(anchors, 1, axis=0)
    return Contour(np.stack([anchors - arm * way, anchors, anchors + arm * way], axis=1), np.ones(len(anchors)))


def with_loop() -> Contour:
    """A leaf whose two sides run past each other at the tip: a loop of less than four px."""
    left = [(3.0, 16.0), (0.0, 10.0), (3.0, 4.0)]
    tip = [(20.0, 3.0), (30.0, 10.6), (30.6, 11.2)], [(30.6, 8.8), (30.0, 9.4), (20.0, 17.0)]
    return Contour(np.array([left, *tip]), np.zeros(3))


@settings(max_examples=60)
@given(st.lists(places, min_size=4, max_size=8, unique=True), st.floats(0.05, 0.6))
def test_crossings_are_those_shapely_sees(anchors: list[tuple[float, float]], arm: float) -> None:
    contour = blob(np.array(anchors), arm)
    ring = shapely.LinearRing(contour.sampled(0.05))
    if crosses_itself(contour) != (not ring.is_simple):
        # where it runs along itself, or just touches itself, it does not cross
        parts = shapely.get_parts(shapely.polygonize([shapely.node(ring)]))
        assert len(parts) < 2 or min(shapely.area(parts)) < 0.05


def test_a_loop_at_a_tip_is_cut_off_and_nothing_else_moves() -> None:
    contour = with_loop()
    assert crosses_itself(contour)
    made = tidied(contour)
    assert not crosses_itself(made)
    assert made.area() == pytest.approx(contour.area(), abs=1.5)  # the loop counts the other way
    old, new = shapely.LinearRing(contour.sampled(0.02)), shapely.LinearRing(made.sampled(0.02))
    assert shapely.distance(shapely.points(made.sampled(0.1)), old).max() < 0.02
    assert shapely.hausdorff_distance(old, new) < 2.0
    reverse = tidied(contour.reversed())
    assert reverse.area() == pytest.approx(-made.area(), abs=1e-6)


def test_a_smooth_anchor_that_crowds_another_goes() -> None:
    angles = np.radians([0.0, 1.9, 90.0, 180.0, 270.0])
    on = 20.0 + 20.0 * np.column_stack([np.cos(angles), np.sin(angles)])
    way = np.column_stack([-np.sin(angles), np.cos(angles)])
    ahead = np.diff([*angles, angles[0] + 2 * np.pi])
    arms = 4.0 / 3.0 * np.tan(ahead / 4.0) * 20.0
    points = np.stack([on - way * np.roll(arms, 1)[:, None], on, on + way * arms[:, None]], axis=1)
    circle = Contour(points, np.ones(5))
    made = tidied(circle)
    assert len(made) == 4
    assert np.abs(np.hypot(*(made.sampled(0.1) - 20.0).T) - 20.0).max() < 0.1


@pytest.mark.parametrize("face", ["DejaVu Serif", "STIXGeneral:italic", "cmr10"])
@pytest.mark.parametrize("size", [28, 60])
def test_traced_letters_have_neither(face: str, size: int) -> None:
    artwork = trace(separation(lettering("Sphinx, quartz & vow 74", size, face)), Tracing(speck_px2=1.0)).artwork
    for contour in (c for shape in artwork.shapes for c in shape.contours):
        assert not crosses_itself(contour)
        near = np.hypot(*(np.roll(contour.anchors, -1, axis=0) - contour.anchors).T) < LEAST_APART_PX
        corner = contour.kinds == AnchorKind.CORNER
        assert (corner[near] & np.roll(corner, -1)[near]).all()


def test_the_ends_of_an_open_contour_stay_and_its_loop_goes() -> None:
    ends = [(2.0, 10.0), (2.0, 10.0), (14.0, 10.0)], [(22.5, -6.0), (22.0, -20.0), (22.0, -20.0)]
    loop = [(20.8, 10.0), (22.3, 9.85), (22.6, 9.8)], [(22.4, 10.4), (22.0, 10.3), (21.7, 10.2)]
    contour = Contour(np.array([ends[0], *loop, ends[1]]), np.zeros(4), closed=False)
    assert crosses_itself(contour)
    made = tidied(contour)
    assert not crosses_itself(made)
    assert np.array_equal(made.anchors[[0, -1]], contour.anchors[[0, -1]])
    assert not made.closed
