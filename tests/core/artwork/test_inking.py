"""Ink added and scraped away: areas by Shapely and skia-pathops."""

from __future__ import annotations

import math

import numpy as np
import pathops
import pytest
import shapely
from shapely.geometry.base import BaseGeometry

from drawings import artwork_of, glyph_contours
from sobercrow.core.artwork.inking import Nib, add_ink, scrape_ink, swept
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import EditError
from sobercrow.core.geometry._crossing_kernels import first_crossing
from sobercrow.core.geometry.combine import How, combine
from sobercrow.core.geometry.contour import AnchorKind, Contour


def region(contours: tuple[Contour, ...] | list[Contour]) -> BaseGeometry:
    area: BaseGeometry = shapely.Polygon()
    for contour in contours:
        area = area.symmetric_difference(shapely.Polygon(contour.sampled(0.05)).buffer(0))
    return area


def whole(artwork: Artwork) -> BaseGeometry:
    return shapely.union_all([region(shape.contours) for shape in artwork.shapes])


def ring(x: float, y: float, radius: float) -> Contour:
    angle = np.linspace(0, 2 * np.pi, 8, endpoint=False)
    at = np.array([x, y]) + radius * np.column_stack([np.cos(angle), np.sin(angle)])
    arm = radius * 4 / 3 * np.tan(np.pi / 16) * np.column_stack([-np.sin(angle), np.cos(angle)])
    return Contour(np.stack([at - arm, at, at + arm], axis=1), np.full(8, AnchorKind.SMOOTH, np.uint8))


def drawn_by_pathops(contours: tuple[Contour, ...] | list[Contour]) -> pathops.Path:
    path = pathops.Path(fillType=pathops.FillType.EVEN_ODD)
    for contour in contours:
        path.moveTo(*contour.anchors[0])
        for _, first, second, end in contour.curves().tolist():
            path.cubicTo(*first, *second, *end)
        path.close()
    return path


OPS = {
    How.UNITE: pathops.PathOp.UNION,
    How.SUBTRACT: pathops.PathOp.DIFFERENCE,
    How.INTERSECT: pathops.PathOp.INTERSECTION,
    How.EXCLUDE: pathops.PathOp.XOR,
}


@pytest.mark.parametrize("how", list(How))
def test_two_rings_come_to_what_pathops_makes_of_them_with_two_corners_more(how: How) -> None:
    one, other = ring(50, 50, 30), ring(83.3, 61.7, 21)
    parts = combine([one], [other], how)
    theirs = pathops.op(drawn_by_pathops([one]), drawn_by_pathops([other]), OPS[how])
    assert sum(abs(made.area()) for (made,) in parts) == pytest.approx(abs(theirs.area), rel=1e-4)
    (made,) = parts[0]
    corners = made.kinds == AnchorKind.CORNER
    assert corners.sum() == 2
    # where they meet: x and y from the two circles' equations
    d, r, q = math.hypot(33.3, 11.7), 30, 21
    a = (d * d + r * r - q * q) / (2 * d)
    off = np.hypot(*(made.anchors[corners] - (50, 50)).T)
    assert off == pytest.approx([r, r], abs=0.01)
    along = (made.anchors[corners] - (50, 50)) @ np.array([33.3, 11.7]) / d
    assert along == pytest.approx([a, a], abs=0.01)
    # what was not crossed stays to the last bit
    stayed = {tuple(p) for (part,) in parts for p in part.points.reshape(-1, 6)}
    assert len(stayed & {tuple(p) for p in one.points.reshape(-1, 6)}) >= 4 or how is How.INTERSECT


def test_strokes_one_after_the_other_leave_no_sliver_no_crossing_and_the_right_area() -> None:
    random = np.random.default_rng(4)
    outer, *holes = sorted(glyph_contours("R", 200), key=lambda c: -abs(c.area()))
    artwork = artwork_of(Shape((outer, *holes)), *glyph_contours("g", 200))
    for n in range(8):
        start = random.uniform((10, 60), (140, 210))
        points = start + np.cumsum(random.normal(0, 5, (int(random.integers(2, 20)), 2)), axis=0)
        nib = Nib(float(random.uniform(0.4, 1.5)), bool(random.integers(2)), float(random.uniform(-90, 90)))
        stroke = swept(points, nib, 300.0, 2.0)
        before, inked = whole(artwork), region(stroke)
        if n % 2 and not before.intersects(inked):
            with pytest.raises(EditError, match="no filled shape"):
                scrape_ink(artwork, stroke)
            continue
        made = scrape_ink(artwork, stroke) if n % 2 else add_ink(artwork, stroke, "#000000")
        expected = before.difference(inked) if n % 2 else before.union(inked)
        after = whole(made.artwork)
        assert after.symmetric_difference(expected).area < 1e-3 * expected.area
        for shape in made.artwork.shapes:
            assert region(shape.contours).area > 0.2
            for contour in shape.contours:
                curves = np.ascontiguousarray(contour.curves().reshape(-1, 8))
                assert not first_crossing(curves, True, np.empty(4))
        artwork = made.artwork


def test_ink_beside_everything_is_a_new_shape_and_a_cut_parts_one_in_two() -> None:
    artwork = artwork_of(ring(50, 50, 30))
    stroke = swept(np.array([(120.0, 20.0), (150.0, 60.0)]), Nib(1.0), 254.0, 1.0)
    beside = add_ink(artwork, stroke, "#a33e2e")
    assert beside.choice.shapes == {1}
    assert beside.artwork.shapes[1].fill == "#a33e2e"
    length, width = 50.0, 10.0
    assert region(beside.artwork.shapes[1].contours).area == pytest.approx(length * width + math.pi * 25, rel=2e-3)
    through = swept(np.array([(10.0, 50.0), (90.0, 50.0)]), Nib(0.4), 254.0, 1.0)
    assert len(scrape_ink(artwork, through).artwork.shapes) == 2
    over = swept(np.array([(50.0, 50.0), (50.1, 50.0)]), Nib(12.0), 254.0, 1.0)
    assert scrape_ink(artwork, over).artwork.shapes == ()


def test_only_what_the_nib_meets_is_worked_out_again() -> None:
    dots = [ring(x, y, 3.0) for x in range(10, 210, 20) for y in range(10, 210, 20)]
    artwork = artwork_of(Shape(tuple(dots)), Shape((ring(500, 100, 90), ring(500, 100, 10)), "#1d4f79"))
    cut = swept(np.array([(7.0, 10.0), (33.0, 10.0)]), Nib(0.2), 254.0, 1.0)
    left = scrape_ink(artwork, cut).artwork
    assert whole(left).symmetric_difference(whole(artwork).difference(region(cut))).area < 0.05
    halves, other = left.shapes[:-1], left.shapes[-1]
    assert other is artwork.shapes[1]
    kept = {id(contour) for shape in halves for contour in shape.contours}
    assert kept >= {id(dot) for dot in dots if dot.bounds()[1] > 20}
    # a hole that was not met goes with the part around it, though another part is larger
    through = swept(np.array([(450.0, 0.0), (450.0, 200.0)]), Nib(0.4), 254.0, 1.0)
    parts = scrape_ink(artwork, through).artwork.shapes[1:]
    assert sorted(len(part.contours) for part in parts) == [1, 2]
    bridge = swept(np.array([(190.0, 90.0), (420.0, 90.0)]), Nib(0.4), 254.0, 1.0)
    same = artwork_of(Shape(tuple(dots)), Shape((ring(500, 100, 90), ring(500, 100, 10))))
    (one,) = add_ink(same, bridge, "#000000").artwork.shapes
    assert len(one.contours) == len(dots) - 1 + 2


def test_ink_becomes_one_with_what_it_touches_of_its_own_colour_alone() -> None:
    black, blue = Shape((ring(60, 60, 30),)), Shape((ring(140, 60, 30),), "#1d4f79")
    artwork = artwork_of(black, blue)
    bridge = swept(np.array([(60.0, 60.0), (140.0, 60.0)]), Nib(0.6), 254.0, 1.0)
    made = add_ink(artwork, bridge, "#1d4f79").artwork
    assert [shape.fill for shape in made.shapes] == ["#000000", "#1d4f79"]
    assert made.shapes[0] is black
    wanted = region(blue.contours).union(region(bridge))
    assert region(made.shapes[1].contours).symmetric_difference(wanted).area < 1e-3 * wanted.area
    above = add_ink(artwork, bridge, "#a33e2e").artwork
    assert above.shapes[:2] == artwork.shapes
    assert above.shapes[2].fill == "#a33e2e"


def test_a_flat_nib_is_broad_one_way_and_thin_the_other() -> None:
    nib = Nib(2.0, flat=True, angle_deg=0.0)  # 20 px broad at 254 dpi
    down = region(swept(np.array([(50.0, 10.0), (50.0, 90.0)]), nib, 254.0, 1.0))
    across = region(swept(np.array([(10.0, 50.0), (90.0, 50.0)]), nib, 254.0, 1.0))
    assert down.area == pytest.approx(20 * 85, rel=0.01)
    assert across.area == pytest.approx(100 * 5, rel=0.01)
