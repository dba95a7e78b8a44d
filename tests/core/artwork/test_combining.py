"""Shapes combined: areas by Shapely, counts of anchors by how often the outlines cross."""

from __future__ import annotations

import functools
import math

import numpy as np
import pytest
import shapely
from scipy.spatial import cKDTree

from drawings import artwork_of, glyph_contours
from sobercrow.core.artwork import combining, joining
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.combining import Backing, Fence
from sobercrow.core.artwork.model import Artwork, Layer, Shape, stroked
from sobercrow.core.errors import Cancelled, EditError
from sobercrow.core.geometry.arcs import arcs_of
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle
from sobercrow.core.settings import mm_to_px

BOTH = Choice(shapes=frozenset({0, 1}))


def letter(text: str, size: float, dx: float = 0.0, dy: float = 0.0) -> Shape:
    outer, *holes = sorted(glyph_contours(text, size), key=lambda c: -abs(c.area()))
    return Shape(tuple(c.moved(dx, dy) for c in (outer, *holes)))


def disc(x: float, y: float, radius: float) -> Contour:
    form = Ellipse(x, y, radius, radius)
    return Contour(form.anchors(), np.ones(4, np.uint8), form=form)


def box(x: float, y: float, width: float, height: float) -> Contour:
    form = Rectangle(x, y, width, height)
    return Contour(form.anchors(), np.zeros(4, np.uint8), form=form)


def area_of(contours, spacing: float = 0.02) -> shapely.Geometry:
    rings = [shapely.Polygon(c.sampled(spacing)).buffer(0) for c in contours]
    return functools.reduce(shapely.symmetric_difference, rings, shapely.Polygon())


def whole(artwork: Artwork) -> shapely.Geometry:
    return shapely.union_all([area_of(shape.contours) for shape in artwork.shapes])


CASES = {
    "overlapping": (letter("B", 120), letter("g", 140, 30, 10)),
    "one in the other": (letter("O", 200), Shape((disc(85, -75, 20),))),
    "apart": (letter("i", 90), letter("l", 90, 120)),
    "sharing an edge": (Shape((box(40, 40, 40, 60),)), Shape((box(80, 40, 40, 60),))),
    "touching": (Shape((disc(40, 40, 20),)), Shape((disc(80, 40, 20),))),
    "the same": (letter("S", 100), letter("S", 100)),
}
WAYS = {
    combining.join_shapes: shapely.union,
    combining.subtract_shapes: shapely.difference,
    combining.intersect_shapes: shapely.intersection,
    combining.exclude_shapes: shapely.symmetric_difference,
}


@pytest.mark.parametrize("case", CASES)
@pytest.mark.parametrize("way", WAYS, ids=lambda way: way.__name__)
def test_two_shapes_come_to_what_shapely_makes_of_them(case: str, way) -> None:
    artwork = artwork_of(*CASES[case])
    one, other = (area_of(shape.contours) for shape in artwork.shapes)
    wanted = WAYS[way](one, other)
    if wanted.area < 0.3:
        with pytest.raises(EditError, match="Nothing would be left"):
            way(artwork, BOTH)
        return
    made = way(artwork, BOTH)
    assert whole(made.artwork).symmetric_difference(wanted).area < 1e-3 * wanted.area + 0.05
    (shape,) = made.artwork.shapes
    crossings = len(shapely.get_parts(one.boundary.intersection(other.boundary)))
    most = sum(s.anchor_count for s in artwork.shapes) + 2 * crossings
    assert shape.anchor_count <= most
    assert made.choice.shapes == {0}


def test_shapes_are_parted_along_all_edges_and_neighbours_share_them() -> None:
    artwork = artwork_of(Shape((disc(50, 50, 30),), "#1d4f79"), Shape((disc(80, 50, 30),), "#a33e2e"))
    made = combining.divide_shapes(artwork, BOTH).artwork
    assert sorted(shape.fill for shape in made.shapes) == ["#1d4f79", "#a33e2e", "#a33e2e"]
    assert sum(area_of(s.contours).area for s in made.shapes) == pytest.approx(whole(artwork).area, rel=1e-4)
    ends = [{tuple(p) for p in s.contours[0].anchors.tolist()} for s in made.shapes]
    assert len(ends[0] & ends[1]) >= 2, "to the last bit"
    arcs = [arc for shape in made.shapes for _, arc in arcs_of(shape.contours[0].curves())]
    assert all(arc is not None and arc.radius == pytest.approx(30, rel=1e-3) for arc in arcs), (
        "arcs that are cut stay arcs"
    )


def seen_in(shapes: tuple[Shape, ...], colour: str) -> shapely.Geometry:
    """What is seen of a colour, the later shapes lying upon the earlier ones."""
    seen = shapely.Polygon()
    for shape in shapes:
        area = area_of(shape.contours)
        seen = seen.union(area) if shape.fill == colour else seen.difference(area)
    return seen


def test_joined_by_colour_touching_ones_are_one_and_the_rest_stays_as_it_was() -> None:
    red, blue = "#a33e2e", "#1d4f79"
    shapes = [Shape((disc(20 + 30 * k, 40, 20),), red if k % 2 == 0 else blue) for k in range(4)]
    shapes += [Shape((disc(20 + 30 * k, 55, 20),), red if k % 2 == 0 else blue) for k in range(4)]
    far = Shape((disc(300, 40, 20),), red)
    artwork = artwork_of(*shapes, far)
    made = joining.join_by_colour(artwork).artwork
    assert len(made.shapes) == 5
    assert made.shapes[-1] is far
    for colour in (red, blue):
        both = [seen_in(a.shapes, colour) for a in (artwork, made)]
        assert both[0].symmetric_difference(both[1]).area < 1e-3 * both[0].area, "all looks as before"
    with pytest.raises(EditError, match="nothing to join"):
        joining.join_by_colour(made)


def test_trimmed_shapes_overlap_no_more_and_look_the_same() -> None:
    stack = [Shape((disc(40 + 15 * k, 50, 25),), colour) for k, colour in enumerate(("#1d4f79", "#a33e2e", "#c9a24b"))]
    under = Shape((disc(70, 50, 5),), "#000000")
    artwork = artwork_of(under, *stack)
    made = combining.trim(artwork).artwork
    areas = [area_of(s.contours) for s in made.shapes]
    assert [s.fill for s in made.shapes] == [s.fill for s in stack], "what lay wholly beneath is gone"
    overlaps = [a.intersection(b).area for n, a in enumerate(areas) for b in areas[:n]]
    assert max(overlaps) < 2e-4 * areas[0].area, "but for arcs cut being drawn as the circles they are of"
    seen = area_of(stack[0].contours).difference(shapely.union_all([area_of(s.contours) for s in stack[1:]]))
    assert areas[0].symmetric_difference(seen).area < 1e-3 * seen.area
    assert made.shapes[-1] is stack[-1]
    with pytest.raises(EditError, match="Nothing lies hidden"):
        combining.trim(made)


def test_solid_has_no_holes_and_no_inner_parts() -> None:
    artwork = artwork_of(letter("B", 120), letter("O", 120, 60), Shape((disc(60, 60, 4),)), letter("i", 80, 300))
    made = combining.solid(artwork)
    rings = [area_of([c]) for s in artwork.shapes for c in s.contours]
    wanted = shapely.union_all([shapely.Polygon(p.exterior) for p in shapely.get_parts(shapely.union_all(rings))])
    assert whole(made.artwork).symmetric_difference(wanted).area < 1e-3 * wanted.area
    assert [len(shape.contours) for shape in made.artwork.shapes] == [1] * len(shapely.get_parts(wanted))


@pytest.mark.parametrize("corners", list(Fence))
def test_a_backing_is_shapelys_buffer_and_closes_what_is_narrow(corners: Fence) -> None:
    artwork = Artwork(artwork_of(letter("B", 160), letter("g", 160, 100)).layers, 300.0, 300.0, 300.0)
    made = combining.backing(artwork, Backing(0.5, 0.0, corners))
    layer = made.artwork.layers[0]
    assert (layer.name, len(made.artwork.layers)) == ("Backing", len(artwork.layers) + 1)
    grow = mm_to_px(0.5, 300.0)
    pen = {"quad_segs": 90} if corners is Fence.ROUND else {"join_style": "mitre", "mitre_limit": 4.0}
    wanted = whole(artwork).buffer(grow, **pen)
    own = area_of([c for shape in layer.shapes for c in shape.contours])
    lines = [shapely.get_coordinates(shapely.segmentize(area.boundary, 0.02)) for area in (own, wanted)]
    for one, other in (lines, lines[::-1]):
        assert cKDTree(other).query(one)[0].max() < mm_to_px(0.02, 300.0)
    closed = combining.backing(artwork, Backing(0.5, 6.0, corners))
    assert all(len(shape.contours) == 1 for shape in closed.artwork.layers[0].shapes), (
        "the letters' counters are closed"
    )
    line = combining.backing(artwork, Backing(0.5, 6.0, corners, as_line=True)).artwork.layers[-1]
    assert (line.name, line.shapes[0].stroke_px) == ("Cut line", pytest.approx(mm_to_px(0.25, 300.0)))


def test_a_backing_without_artwork_goes_around_the_drawing() -> None:
    empty = Artwork((Layer("Ink", ()),), 200.0, 200.0, 254.0)
    border = disc(100, 100, 40).sampled(0.3)
    made = combining.backing(empty, Backing(1.0, 0.0), [border]).artwork
    assert whole(made).area == pytest.approx(math.pi * 50**2, rel=2e-3)
    with pytest.raises(EditError, match="nothing to make a backing for"):
        combining.backing(empty, Backing())
    with pytest.raises(EditError, match="swallow"):
        combining.backing(made, Backing(100.0 * 25.4))


def test_strokes_become_the_shapes_they_ink() -> None:
    line = Contour(
        np.repeat(np.array([(20.0, 20.0), (80.0, 30.0), (60.0, 70.0)])[:, None], 3, axis=1),
        np.zeros(3, np.uint8),
        False,
    )
    artwork = artwork_of(stroked((line,), "#1d4f79", 8.0), letter("i", 40))
    made = combining.strokes_to_shapes(artwork, BOTH)
    wanted = shapely.LineString(line.anchors).buffer(4.0, quad_segs=64)
    assert area_of(made.artwork.shapes[0].contours).symmetric_difference(wanted).area < 2e-3 * wanted.area
    assert (made.artwork.shapes[0].fill, made.artwork.shapes[0].stroke) == ("#1d4f79", None)
    assert made.artwork.shapes[1] is artwork.shapes[1]
    assert made.choice.shapes == {0, 1}


@pytest.mark.parametrize("way", [*WAYS, combining.divide_shapes], ids=lambda way: way.__name__)
def test_one_shape_alone_is_not_combined(way) -> None:
    with pytest.raises(EditError, match="two shapes"):
        way(artwork_of(letter("B", 90)), Choice(shapes=frozenset({0})))


def test_joining_by_colour_tells_its_share_leaves_locked_layers_and_can_be_stopped() -> None:
    red = "#a33e2e"
    pairs = [[Shape((disc(30 + 100 * k + dx, 40, 20),), red) for dx in (0, 25)] for k in range(3)]
    layers = [Layer(f"Layer {k}", tuple(pair), locked=k == 1) for k, pair in enumerate(pairs)]
    artwork = Artwork(tuple(layers), 400.0, 100.0, 300.0)
    told: list[float] = []
    made = joining.join_by_colour(artwork, progress=told.append).artwork
    assert [len(layer.shapes) for layer in made.layers] == [1, 2, 1]
    assert made.layers[1].shapes == artwork.layers[1].shapes
    assert told == pytest.approx([1 / 6, 5 / 6]), "by the uppermost shape of each group"
    assert len(joining.join_by_colour(artwork, {2}).artwork.layers[0].shapes) == 2

    def stop(_share: float) -> None:
        raise Cancelled

    with pytest.raises(Cancelled):
        joining.join_by_colour(artwork, progress=stop)
