"""Mirroring: against Shapely's reflections, cut by half-planes."""

from __future__ import annotations

import functools

import numpy as np
import pytest
import shapely
from shapely import affinity

from drawings import artwork_of, glyph_contours
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.mirroring import Axis, Side, axis_between, axis_of, copy_over, half_from_half, turn_over
from sobercrow.core.artwork.model import Artwork, Shape, stroked
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.contour import AnchorKind, Contour

LETTER = Shape(tuple(sorted(glyph_contours("R", 160), key=lambda c: -abs(c.area()))))
LEFT, TOP, RIGHT, BOTTOM = LETTER.bounds()
MIDDLE = ((LEFT + RIGHT) / 2, (TOP + BOTTOM) / 2)
ONE = Choice(shapes=frozenset({0}))


def area_of(artwork: Artwork) -> shapely.Geometry:
    rings = [shapely.Polygon(c.sampled(0.03)).buffer(0) for s in artwork.shapes for c in s.contours]
    return functools.reduce(shapely.symmetric_difference, rings)


def mirrored(area: shapely.Geometry, axis: Axis) -> shapely.Geometry:
    way = axis.way
    return affinity.affine_transform(area, [way.a, way.c, way.b, way.d, way.e, way.f])


def half(area: shapely.Geometry, axis: Axis, side: Side) -> shapely.Geometry:
    plane = shapely.box(-2000, -2000, 0, 2000) if side is Side.LEFT else shapely.box(0, -2000, 2000, 2000)
    plane = affinity.rotate(plane, axis.angle_deg - 90.0, origin=(0, 0))
    return area.intersection(affinity.translate(plane, axis.x, axis.y))


@pytest.mark.parametrize("angle", [90.0, 0.0, 63.0, 140.0])
@pytest.mark.parametrize("side", list(Side))
def test_half_from_half_is_one_side_and_its_image_in_one_shape_without_a_seam(angle: float, side: Side) -> None:
    artwork = artwork_of(LETTER)
    axis = Axis(MIDDLE[0] + 2.3, MIDDLE[1] - 3.1, angle)
    kept = half(area_of(artwork), axis, side)
    wanted = kept.union(mirrored(kept, axis).buffer(1e-7))
    made = half_from_half(artwork, ONE, axis, side)
    own = area_of(made.artwork)
    assert own.symmetric_difference(wanted).area < 2e-3 * wanted.area
    assert own.symmetric_difference(mirrored(own, axis)).area < 1e-6 * own.area, "its own mirror image"
    assert len(made.artwork.shapes) == 1
    there = axis.frame[0]
    for contour in made.artwork.shapes[0].contours:
        ends = there(contour.curves()[:, [0, 3]])[..., 0]
        assert not (np.abs(ends) < 1e-6).all(axis=1).any(), "no edge runs along the axis"


def test_what_lies_wholly_on_one_side_is_a_pair_and_on_the_other_gone() -> None:
    artwork = artwork_of(LETTER)
    left, _, right, _ = LETTER.bounds()
    made = half_from_half(artwork, Choice(), Axis(right + 20.0, 0.0), Side.LEFT)
    assert len(made.artwork.shapes) == 2
    assert made.artwork.shapes[0] == LETTER
    assert made.artwork.shapes[1].bounds()[2] == pytest.approx(2 * (right + 20.0) - left)
    with pytest.raises(EditError, match="left of the axis"):
        half_from_half(artwork, ONE, Axis(left - 20.0, 0.0), Side.LEFT)


@pytest.mark.parametrize(("x", "count"), [(MIDDLE[0], 1), (400.0, 2)])
def test_a_joined_copy_is_the_union_where_it_meets_its_original(x: float, count: int) -> None:
    artwork = artwork_of(LETTER)
    axis = Axis(x, 0.0)
    made = copy_over(artwork, ONE, axis, join=True)
    wanted = area_of(artwork).union(mirrored(area_of(artwork), axis))
    assert area_of(made.artwork).symmetric_difference(wanted).area < 2e-3 * wanted.area
    assert len(made.artwork.shapes) == count
    assert len(made.choice.shapes) == count


def test_a_copy_that_meets_its_original_along_the_axis_is_joined_without_an_edge_there() -> None:
    box = Contour(
        np.repeat(np.array([(10.0, 0), (50, 0), (50, 30), (10, 30)])[:, None], 3, axis=1), np.zeros(4, np.uint8)
    )
    made = copy_over(artwork_of(box), ONE, Axis(50.0, 0.0), join=True).artwork
    assert sorted(map(tuple, made.shapes[0].contours[0].anchors.tolist()))[0] == (10.0, 0.0)
    assert area_of(made).equals_exact(shapely.box(10, 0, 90, 30), 1e-9) or area_of(made).area == pytest.approx(80 * 30)
    assert len(made.shapes) == 1


def test_open_strokes_are_led_on_over_the_axis_and_smooth_where_they_cross_it_upright() -> None:
    bow = Contour(
        np.array([[(0, 40), (0, 40), (0, 20)], [(10, 0), (30, 0), (50, 0)]], float), np.zeros(2, np.uint8), False
    )
    artwork = artwork_of(stroked((bow,), "#1d4f79", 3.0))
    (shape,) = half_from_half(artwork, ONE, Axis(30.0, 0.0), Side.LEFT).artwork.shapes
    (contour,) = shape.contours
    assert not contour.closed
    assert contour.anchors.tolist() == [[0, 40], [30, 0], [60, 40]]
    assert contour.kinds[1] == AnchorKind.SMOOTH
    crossing = half_from_half(artwork, ONE, Axis(20.0, 0.0), Side.LEFT).artwork.shapes[0].contours[0]
    assert crossing.anchors[-1].tolist() == [40, 40]
    assert len(crossing) == 3


def test_axes_are_those_of_what_is_chosen_of_two_anchors_or_of_two_places() -> None:
    artwork = artwork_of(LETTER)
    left, top, right, bottom = LETTER.bounds()
    assert axis_of(artwork, ONE) == Axis((left + right) / 2, (top + bottom) / 2, 90.0)
    anchors = LETTER.contours[0].anchors
    two = Choice(anchors=frozenset({AnchorRef(0, 0, 0), AnchorRef(0, 0, 1)}))
    axis = axis_of(artwork, two)
    assert turn_over(artwork, ONE, axis).shapes[0].contours[0].anchors.tolist() != anchors.tolist()
    for k in (0, 1):
        place = axis.way(anchors[k])
        assert place == pytest.approx(anchors[k])
    with pytest.raises(EditError, match="two places"):
        axis_between((3.0, 4.0), (3.0, 4.0))
    with pytest.raises(EditError, match="Choose"):
        axis_of(artwork, Choice())
