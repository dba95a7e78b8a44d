"""What is chosen scaled, turned and mirrored: against Shapely's affinity."""

from __future__ import annotations

import functools

import numpy as np
import pytest
import shapely
from shapely import affinity

from drawings import artwork_of, glyph_contours
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.model import Artwork, Shape, stroked
from sobercrow.core.artwork.placing import Nine, Sized, box_of, place, to_size
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour

ARTWORK = artwork_of(Shape(tuple(glyph_contours("B", 120))), *glyph_contours("i", 90))
BOTH = Choice(shapes=frozenset({0, 1}))


def area_of(shape: Shape) -> shapely.Geometry:
    rings = [shapely.Polygon(c.sampled(0.05)) for c in shape.contours]
    return functools.reduce(shapely.symmetric_difference, rings)


@pytest.mark.parametrize(
    ("way", "theirs"),
    [
        (Affine.turned(31.0, (10, 20)), lambda g: affinity.rotate(g, 31.0, (10, 20))),
        (Affine.scaled(1.7, 0.4, (10, 20)), lambda g: affinity.scale(g, 1.7, 0.4, origin=(10, 20))),
        (Affine.scaled(-1.0, 1.0, (10, 20)), lambda g: affinity.scale(g, -1.0, 1.0, origin=(10, 20))),
        (Affine.leaned(12.0, (10, 20)), lambda g: affinity.skew(g, -12.0, 0.0, origin=(10, 20))),
    ],
)
def test_shapes_come_to_lie_where_shapely_lays_them(way: Affine, theirs) -> None:
    made = place(ARTWORK, BOTH, way)
    for k, (before, after) in enumerate(zip(ARTWORK.shapes, made.shapes, strict=True)):
        if k > 1:
            assert after is before
            continue
        wanted, own = theirs(area_of(before)), area_of(after)
        assert own.symmetric_difference(wanted).area < 1e-2 * wanted.area
        signs = [np.sign(c.area()) for c in after.contours]
        assert signs == [np.sign(c.area()) for c in before.contours], "outlines run on clockwise, holes against it"


@pytest.mark.parametrize("about", list(Nine))
def test_an_exact_size_leaves_its_point_where_it_is_and_the_other_side_follows(about: Nine) -> None:
    before = box_of(ARTWORK, BOTH)
    made = to_size(ARTWORK, BOTH, Sized(width=50.0), about)
    after = box_of(made, BOTH)
    assert after[2] - after[0] == pytest.approx(50.0)
    ratio = 50.0 / (before[2] - before[0])
    assert after[3] - after[1] == pytest.approx(ratio * (before[3] - before[1]))
    assert about.of(after) == pytest.approx(about.of(before))
    free = box_of(to_size(ARTWORK, BOTH, Sized(width=50.0, keep_form=False), about), BOTH)
    assert free[3] - free[1] == pytest.approx(before[3] - before[1])


def test_anchors_go_with_their_handles_and_the_rest_of_the_contour_stays() -> None:
    refs = frozenset(AnchorRef(1, 0, k) for k in (1, 2))
    made = place(ARTWORK, Choice(anchors=refs), Affine.turned(90.0, (0.0, 0.0)))
    before, after = ARTWORK.shapes[1].contours[0].points, made.shapes[1].contours[0].points
    for k in range(len(before)):
        turned = np.column_stack([-before[k][:, 1], before[k][:, 0]])
        assert after[k] == pytest.approx(turned if k in (1, 2) else before[k])


@pytest.mark.parametrize(("with_stroke", "width"), [(True, 9.0), (False, 3.0)])
def test_a_stroke_is_scaled_along_or_not(with_stroke: bool, width: float) -> None:
    line = Contour(np.repeat(np.array([(0.0, 0.0), (9.0, 4.0)])[:, None], 3, axis=1), np.zeros(2, np.uint8), False)
    drawn = Artwork(artwork_of(stroked((line,), "#000000", 3.0)).layers, 100.0, 100.0, 300.0)
    made = place(drawn, Choice(shapes=frozenset({0})), Affine.scaled(3.0, 3.0, (0, 0)), with_stroke)
    assert made.shapes[0].stroke_px == pytest.approx(width)
    sized = to_size(drawn, Choice(shapes=frozenset({0})), Sized(40.0, 20.0), Nine.RIGHT, with_stroke)
    left, top, right, bottom = sized.shapes[0].bounds()
    assert (right - left, bottom - top, right) == pytest.approx((40.0, 20.0, 10.5)), "of what is inked"


@pytest.mark.parametrize(
    ("choice", "size", "words"),
    [
        (Choice(), Sized(10.0), "Choose"),
        (BOTH, Sized(0.0), "greater than nothing"),
        (Choice(anchors=frozenset({AnchorRef(0, 0, 0)})), Sized(10.0), "no extent"),
    ],
)
def test_what_cannot_be_sized_says_why(choice: Choice, size: Sized, words: str) -> None:
    with pytest.raises(EditError, match=words):
        to_size(ARTWORK, choice, size)
    with pytest.raises(EditError, match="flat"):
        place(ARTWORK, BOTH, Affine.scaled(0.0, 1.0, (0, 0)))
