"""Pouring between lines: areas and gaps known from how the lines were drawn (Shapely)."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
import shapely

from drawings import artwork_of
from sobercrow.core.artwork import gaps, pouring
from sobercrow.core.artwork.edits import delete_shapes
from sobercrow.core.artwork.model import Artwork, Layer, Pouring, Shape, stroked
from sobercrow.core.artwork.pouring import POURED
from sobercrow.core.errors import EditError
from sobercrow.core.formats.plain import artwork_of as artwork_from
from sobercrow.core.formats.plain import plain_artwork
from sobercrow.core.geometry.combine import region
from sobercrow.core.geometry.contour import Contour


def line(*points: tuple[float, float]) -> Contour:
    at = np.array(points, float)
    return Contour(np.repeat(at[:, None], 3, axis=1), np.zeros(len(at), np.uint8), closed=False)


def house(gap: float = 0.0, side_gap: float = 0.0) -> Artwork:
    """Two rooms with walls 4 px wide: a gap in the outer wall of the left one, and one in the wall between."""
    walls = [
        line((100 + gap / 2 + 2, 20), (280, 20), (280, 160), (20, 160), (20, 20), (100 - gap / 2 - 2, 20)),
        line((150, 20), (150, 90 - side_gap / 2 - 2)),
        line((150, 90 + side_gap / 2 + 2), (150, 160)),
    ]
    if gap == 0:
        walls[0] = line((20, 20), (280, 20), (280, 160), (20, 160), (20, 18))
    if side_gap == 0:
        walls[1:] = [line((150, 20), (150, 160))]
    made = artwork_of(*(stroked((wall,), "#23262b", 4.0) for wall in walls))
    return Artwork(made.layers, 300.0, 200.0, 254.0)


LEFT, RIGHT = (80.0, 60.0), (200.0, 60.0)


@pytest.mark.parametrize(("gap", "side"), [(3.0, 0.0), (8.0, 0.0), (0.0, 5.0), (6.0, 11.0)])
def test_gaps_are_found_where_lines_end_and_are_as_wide_as_they_were_made(gap: float, side: float) -> None:
    found = gaps.find_gaps(house(gap, side), 20.0)
    wanted = sorted(((g, p) for g, p in ((gap, (100, 20)), (side, (150, 90))) if g), reverse=True)
    assert len(found) == len(wanted)
    for got, (width, place) in zip(found, wanted, strict=True):
        assert got.length_px == pytest.approx(width, abs=0.2)
        assert got.middle == pytest.approx(place, abs=0.8)
    assert gaps.find_gaps(house(gap, side), min(w for w, _ in wanted) - 0.5) == []


def test_necks_between_the_sides_of_lines_are_no_gaps() -> None:
    waist = line((20, 20), (100, 60), (180, 20))
    foot = line((20, 110), (100, 70), (180, 110))
    ends = [line((20, 20), (20, 110)), line((180, 20), (180, 110))]
    artwork = artwork_of(*(stroked((c,), "#000000", 3.0) for c in (waist, foot, *ends)))
    assert gaps.find_gaps(artwork, 20.0) == []


def test_a_pour_fills_its_area_runs_on_under_the_lines_and_no_further() -> None:
    artwork = house(6.0, 11.0)
    how = Pouring(12.0, 1.5)
    made = pouring.pour(artwork, *LEFT, "#8fb9aa", how)
    layer = made.artwork.layers[0]
    assert (layer.name, layer.shapes[0].fill) == (POURED, "#8fb9aa")
    own, lines = region(layer.shapes[0].contours, 0.1), gaps.lines_of(artwork)
    room = shapely.box(22, 22, 148, 158)
    assert room.difference(own).difference(lines).area < 0.6, "no paper shows"
    bridges = shapely.box(95, 17, 105, 23).union(shapely.box(147, 83, 153, 97))
    assert own.difference(shapely.union_all([room, lines, bridges])).area < 1.5, "nor does it come out"
    rim = own.difference(room)
    assert rim.area == pytest.approx(1.5 * (2 * 126 + 2 * 136), rel=0.1)
    again = pouring.pour(made.artwork, *LEFT, "#a33e2e", how).artwork
    assert [shape.fill for shape in again.layers[0].shapes] == ["#a33e2e"], "poured again it is coloured anew"
    both = pouring.pour(again, *RIGHT, "#c9a24b", how).artwork
    assert len(both.layers[0].shapes) == 2


def test_an_opened_or_too_wide_gap_lets_it_out_or_through() -> None:
    artwork = house(6.0, 11.0)
    wide = Pouring(12.0, 0.0)
    outer, inner = (next(g for g in gaps.find_gaps(artwork, 12.0) if abs(g.length_px - w) < 1) for w in (6.0, 11.0))
    assert len(pouring.areas_of(artwork, wide)) == 2
    through = replace(wide, opened=frozenset({inner.middle}))
    (area,) = pouring.areas_of(artwork, through)
    assert shapely.contains_xy(area, [LEFT[0], RIGHT[0]], [LEFT[1], RIGHT[1]]).all()
    out = replace(wide, opened=frozenset({outer.middle}))
    with pytest.raises(EditError, match="colour would run out"):
        pouring.pour(artwork, *LEFT, "#8fb9aa", out)
    with pytest.raises(EditError, match="colour would run out"):
        pouring.pour(artwork, 10.0, 190.0, "#8fb9aa", wide)
    with pytest.raises(EditError, match="This is a line"):
        pouring.pour(artwork, 20.0, 100.0, "#8fb9aa", wide)
    with pytest.raises(EditError, match="enclose no area"):
        pouring.pour_all(artwork, Pouring(2.0, 0.0))


def test_all_areas_are_coloured_one_by_one_or_from_the_picture_and_poured_again_when_lines_change() -> None:
    artwork, how = house(), Pouring(3.0, 1.0)
    each = pouring.pour_all(artwork, how)
    assert sorted(s.fill for s in each.artwork.layers[0].shapes) == sorted(pouring.COLOURS[:2])
    assert len(each.choice.shapes) == 2
    pixels = np.full((200, 300, 3), 255, np.uint8)
    pixels[:, :150], pixels[:, 150:] = (200, 30, 40), (30, 60, 200)
    seen = pouring.pour_from_picture(artwork, how, pixels).artwork.layers[0].shapes
    assert sorted(s.fill for s in seen) == ["#1e3cc8", "#c81e28"]
    merged = delete_shapes(each.artwork, {3}).artwork  # the wall between goes
    again = pouring.pour_again(merged, how).artwork
    (room,) = again.layers[0].shapes
    assert region(room.contours, 0.2).area == pytest.approx(258 * 138, rel=0.01)
    with pytest.raises(EditError, match="Nothing has been poured"):
        pouring.pour_again(artwork, how)
    # it knows what it was poured between
    assert pouring.lines_changed(each.artwork, merged)
    assert not pouring.lines_changed(artwork, each.artwork)
    assert pouring.poured_anew(merged).layers[0] == again.layers[0]
    assert artwork_from(plain_artwork(again)) == again
    assert pouring.poured_anew(artwork) is artwork


def test_gaps_are_closed_with_ink_as_wide_as_the_line_in_its_layer() -> None:
    artwork = house(6.0)
    made = pouring.close_gaps(artwork, gaps.find_gaps(artwork, 12.0)).artwork
    (fresh,) = set(made.layers[0].shapes) - set(artwork.shapes)
    left, top, right, bottom = fresh.bounds()
    assert bottom - top == pytest.approx(4.0, abs=0.4)
    assert right - left >= 6.0
    assert fresh.fill == "#23262b"
    assert len(pouring.areas_of(made, Pouring(0.0, 0.0))) == 2
    with pytest.raises(EditError, match="no gaps"):
        pouring.close_gaps(artwork, [])


def test_an_artwork_without_lines_has_neither_gaps_nor_areas() -> None:
    empty = Artwork((Layer("Ink", ()),), 100.0, 100.0, 300.0)
    assert gaps.find_gaps(empty, 10.0) == []
    assert pouring.areas_of(empty, Pouring(5.0, 0.0)) == []
    disc = artwork_of(
        Shape(
            (
                Contour(
                    np.array([[(50 + 20 * math.cos(a), 50 + 20 * math.sin(a))] * 3 for a in np.linspace(0, 6, 30)]),
                    np.zeros(30, np.uint8),
                ),
            )
        )
    )
    assert pouring.areas_of(disc, Pouring(5.0, 0.0)) == []
