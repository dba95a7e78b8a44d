from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sobercrow.core.artwork import anchors, edits, hit
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import AnchorKind, Contour


def square(left: float, top: float, side: float) -> Contour:
    at = np.array([(left, top), (left + side, top), (left + side, top + side), (left, top + side)], float)
    return Contour(np.repeat(at[:, None], 3, axis=1), np.zeros(4, np.uint8))


def ring() -> Contour:
    at = 10 * np.array([(0, -1), (1, 0), (0, 1), (-1, 0)], float) + 50
    along = 5.523 * np.array([(1, 0), (0, 1), (-1, 0), (0, -1)], float)
    return Contour(np.stack([at - along, at, at + along], axis=1), np.full(4, AnchorKind.EVEN, np.uint8))


@pytest.fixture
def desk() -> Artwork:
    """A square with a square hole, a plain square, and a ring on top."""
    framed = Shape((square(0, 0, 30), square(10, 10, 10)))
    return Artwork((Layer("Ink", (framed, Shape((square(40, 0, 10),)), Shape((ring(),)))),), 100, 100, 300)


def test_shapes_are_deleted_filled_and_moved_and_the_rest_is_shared(desk: Artwork) -> None:
    assert edits.delete_shapes(desk, {1}).artwork.shapes == (desk.shapes[0], desk.shapes[2])
    filled = edits.fill_shapes(desk, {2}, "#A33E2E")
    assert [s.fill for s in filled.shapes] == ["#000000", "#000000", "#a33e2e"]
    moved = edits.move_shapes(desk, {0}, 2.5, -1.0)
    assert moved.shapes[0].bounds() == pytest.approx((2.5, -1, 32.5, 29))
    assert moved.shapes[1] is desk.shapes[1]


def test_edits_of_shapes_that_are_gone_are_refused(desk: Artwork) -> None:
    for edit in (lambda: edits.delete_shapes(desk, {7}), lambda: edits.move_shapes(desk, {-1}, 0, 0)):
        with pytest.raises(EditError, match="no longer there"):
            edit()
    with pytest.raises(EditError, match="no longer there"):
        anchors.move_anchors(desk, [AnchorRef(0, 0, 9)], 1, 1)


@settings(max_examples=15)
@given(st.integers(0, 3), st.floats(0.05, 0.95))
def test_an_added_anchor_keeps_the_form(curve: int, t: float) -> None:
    desk = Artwork((Layer("Ink", (Shape((ring(),)),)),), 100, 100, 300)
    added, ref = anchors.add_anchor(desk, 0, 0, curve, t)
    new, old = added.shapes[0].contours[0], desk.shapes[0].contours[0]
    assert (len(new), ref.anchor) == (5, curve + 1)
    for point in new.sampled(1.0):
        assert bezier.nearest(old.curves(), tuple(point))[2] < 1e-6
    assert new.area() == pytest.approx(old.area())


def test_an_anchor_added_on_a_straight_side_keeps_it_straight(desk: Artwork) -> None:
    added, ref = anchors.add_anchor(desk, 1, 0, 0, 0.3)
    assert np.array_equal(added.shapes[1].contours[0].points[ref.anchor], [[43, 0]] * 3)
    with pytest.raises(EditError):
        anchors.add_anchor(desk, 1, 0, 0, 0.0)


@settings(max_examples=10)
@given(st.integers(0, 3), st.floats(0.2, 0.8))
def test_deleting_an_added_anchor_holds_the_form(curve: int, t: float) -> None:
    desk = Artwork((Layer("Ink", (Shape((ring(),)),)),), 100, 100, 300)
    added, ref = anchors.add_anchor(desk, 0, 0, curve, t)
    held = anchors.delete_anchors(added, [ref], hold_form=True).artwork.shapes[0].contours[0]
    worst = max(bezier.nearest(ring().curves(), tuple(p))[2] for p in held.sampled(0.5))
    assert worst < 0.05


def test_deleting_plainly_keeps_the_neighbours_handles(desk: Artwork) -> None:
    old = desk.shapes[2].contours[0]
    plain = anchors.delete_anchors(desk, [AnchorRef(2, 0, 1)], hold_form=False).artwork.shapes[2].contours[0]
    assert np.array_equal(plain.points, old.points[[0, 2, 3]])


def test_deleting_refits_smooth_neighbours_along_their_tangents(desk: Artwork) -> None:
    held = anchors.delete_anchors(desk, [AnchorRef(2, 0, 1)], hold_form=True).artwork.shapes[2].contours[0]
    assert held.points[0, 2, 1] == pytest.approx(40.0)  # still level at the top
    assert held.points[0, 2, 0] > desk.shapes[2].contours[0].points[0, 2, 0] + 2
    assert held.area() == pytest.approx(ring().area(), rel=0.03)


def test_a_corner_of_a_polygon_is_deleted_with_straight_sides_left_elsewhere(desk: Artwork) -> None:
    held = anchors.delete_anchors(desk, [AnchorRef(1, 0, 2)]).artwork.shapes[1].contours[0]
    curves = held.curves()
    assert len(held) == 3
    assert np.array_equal(curves[0, 0], curves[0, 1])


def test_a_contour_with_too_few_anchors_goes_and_with_the_outer_one_the_shape(desk: Artwork) -> None:
    hole_gone = anchors.delete_anchors(desk, [AnchorRef(0, 1, k) for k in range(3)]).artwork
    assert len(hole_gone.shapes[0].contours) == 1
    shape_gone = anchors.delete_anchors(desk, [AnchorRef(0, 0, k) for k in range(4)]).artwork
    assert shape_gone.shapes == desk.shapes[1:]


def test_handles_of_smooth_anchors_turn_together_and_of_even_ones_mirror(desk: Artwork) -> None:
    even = anchors.move_handle(desk, AnchorRef(2, 0, 0), 2, 54.0, 37.0).shapes[2].contours[0].points[0]
    assert np.allclose(even[1] - even[0], even[2] - even[1])
    smooth = anchors.set_kind(desk, [AnchorRef(2, 0, 0)], AnchorKind.SMOOTH)
    turned = anchors.move_handle(smooth, AnchorRef(2, 0, 0), 2, 54.0, 37.0).shapes[2].contours[0].points[0]
    assert np.hypot(*(turned[1] - turned[0])) == pytest.approx(5.523)
    before, after = turned[1] - turned[0], turned[2] - turned[1]
    assert before[0] * after[1] == pytest.approx(before[1] * after[0])
    corner = anchors.set_kind(desk, [AnchorRef(2, 0, 0)], AnchorKind.CORNER)
    free = anchors.move_handle(corner, AnchorRef(2, 0, 0), 2, 54.0, 37.0).shapes[2].contours[0].points[0]
    assert np.array_equal(free[0], desk.shapes[2].contours[0].points[0, 0])


@pytest.mark.parametrize("kind", [AnchorKind.SMOOTH, AnchorKind.EVEN])
def test_a_corner_made_smooth_gets_handles_on_one_line(desk: Artwork, kind: AnchorKind) -> None:
    handle_in, at, handle_out = anchors.set_kind(desk, [AnchorRef(1, 0, 0)], kind).shapes[1].contours[0].points[0]
    assert np.hypot(*(at - handle_in)) == pytest.approx(10 / 3)
    assert np.allclose(at - handle_in, handle_out - at)


def test_anchors_move_with_their_handles(desk: Artwork) -> None:
    moved = anchors.move_anchors(desk, [AnchorRef(2, 0, 0), AnchorRef(0, 1, 2)], 3, 4)
    assert np.allclose(moved.shapes[2].contours[0].points[0] - desk.shapes[2].contours[0].points[0], (3, 4))
    assert np.allclose(moved.shapes[0].contours[1].anchors[2], (23, 24))
    assert moved.shapes[1] is desk.shapes[1]


def test_what_lies_under_a_point(desk: Artwork) -> None:
    assert hit.shape_at(desk, 5, 5) == 0
    assert hit.shape_at(desk, 15, 15) is None  # in the hole
    assert hit.shape_at(desk, 50, 50) == 2
    assert hit.shape_at(desk, 31, 5) is None
    assert hit.shape_at(desk, 31, 5, reach_px=1.5) == 0
    assert hit.anchor_at(desk, 40.5, 0.5, 1.0) == AnchorRef(1, 0, 0)
    assert hit.anchor_at(desk, 45, 5, 1.0) is None
    top = frozenset({AnchorRef(2, 0, 0)})
    assert hit.handle_at(desk, top, 55.4, 40.2, 1.0) == (AnchorRef(2, 0, 0), 2)
    assert hit.handle_at(desk, frozenset(), 55.4, 40.2, 1.0) is None
    place = hit.curve_at(desk, 45, 0.4, 1.0)
    assert place is not None
    assert (place.shape, place.curve, round(place.distance_px, 3)) == (1, 0, 0.4)


def test_what_lies_in_a_frame(desk: Artwork) -> None:
    assert hit.shapes_in(desk, (-1, -1, 55, 31)) == {0, 1}
    assert hit.anchors_in(desk, (9, 9, 21, 11)) == {AnchorRef(0, 1, 0), AnchorRef(0, 1, 1)}


def test_shapes_refuse_fills_that_are_no_colour() -> None:
    for fill in ("red", "#12345", "#ABCDEF"):
        with pytest.raises(ValueError, match="colour"):
            Shape((ring(),), fill)
