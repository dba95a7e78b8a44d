"""What the command line does at the end: the same as the edits one by one, in one order."""

from __future__ import annotations

import functools

import numpy as np
import pytest
import shapely

from drawings import glyph_contours
from sobercrow.core.artwork.finishing import Finish, Half, finish
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.errors import EditError

RED, BLUE = "#a33e2e", "#1d4f79"


def letter(name: str, dx: float, dy: float, fill: str) -> Shape:
    outer = sorted(glyph_contours(name, 120), key=lambda c: -abs(c.area()))
    return Shape(tuple(c.moved(dx, dy) for c in outer), fill)


ARTWORK = Artwork(
    (
        Layer(
            "Ink", (letter("B", 0, 0, RED), letter("R", 30, 10, BLUE), letter("G", 50, 0, RED), letter("B", 75, 5, RED))
        ),
    ),
    300.0,
    200.0,
    254.0,
)


def area_of(artwork: Artwork, fill: str | None = None) -> shapely.Geometry:
    shapes = [s for s in artwork.shapes if fill in (None, s.fill)]
    return shapely.union_all(
        [
            functools.reduce(
                shapely.symmetric_difference, [shapely.Polygon(c.sampled(0.1)).buffer(0) for c in s.contours]
            )
            for s in shapes
        ]
    )


def test_nothing_asked_nothing_done() -> None:
    assert finish(ARTWORK, Finish()) is ARTWORK


@pytest.mark.parametrize("half", list(Half))
def test_the_half_that_is_kept_stays_and_the_other_is_its_image(half: Half) -> None:
    made = area_of(finish(ARTWORK, Finish(mirror=half)))
    before = area_of(ARTWORK)
    left, top, right, bottom = before.bounds
    middle = (left + right) / 2, (top + bottom) / 2
    planes = {
        Half.LEFT: shapely.box(left - 9, top - 9, middle[0], bottom + 9),
        Half.RIGHT: shapely.box(middle[0], top - 9, right + 9, bottom + 9),
        Half.TOP: shapely.box(left - 9, top - 9, right + 9, middle[1]),
        Half.BOTTOM: shapely.box(left - 9, middle[1], right + 9, bottom + 9),
    }
    kept = before.intersection(planes[half])
    assert made.intersection(planes[half]).symmetric_difference(kept).area < 4e-3 * kept.area
    assert made.area == pytest.approx(2 * kept.area, rel=4e-3)


def test_joined_trimmed_solid_and_backed_in_this_order() -> None:
    joined = finish(ARTWORK, Finish(join_colours=True))
    assert sum(shape.fill == RED for shape in joined.shapes) < 3
    missing = area_of(ARTWORK, RED).difference(area_of(joined, RED))
    others = shapely.union_all([area_of(ARTWORK, s.fill) for s in ARTWORK.shapes if s.fill != RED])
    assert area_of(joined, RED).difference(area_of(ARTWORK, RED)).area < 2.0
    assert missing.difference(others).area < 2.0, "only what lay hidden is gone"
    trimmed = finish(ARTWORK, Finish(trim=True))
    assert area_of(trimmed, BLUE).intersection(area_of(trimmed, RED)).area < 1.0
    again = finish(trimmed, Finish(trim=True))
    assert again is trimmed, "where nothing is hidden any more it stays as it is"
    backed = finish(ARTWORK, Finish(solid=True, backing_mm=1.0))
    assert [layer.name for layer in backed.layers] == ["Backing", "Ink"]
    (silhouette,) = backed.layers[1].shapes
    assert all(contour.area() > 0 for contour in silhouette.contours)
    grown = area_of(Artwork(backed.layers[:1], 300, 200, 254))
    assert grown.contains(area_of(ARTWORK).buffer(9.0))


def test_without_artwork_a_backing_goes_around_the_drawing_and_a_silhouette_says_no() -> None:
    empty = Artwork((Layer("Ink", ()),), 100.0, 100.0, 254.0)
    border = np.array([(20, 20), (60, 20), (60, 60), (20, 60)], float)
    assert len(finish(empty, Finish(backing_mm=1.0), [border]).shapes) == 1
    with pytest.raises(EditError, match="nothing to make solid"):
        finish(empty, Finish(solid=True))
