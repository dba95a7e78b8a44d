"""Lettering found in an area of a picture, small and in any colour; base lines through three places, beside SciPy's."""

from __future__ import annotations

import math
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import shapely
from PIL import Image, ImageDraw, ImageFont
from scipy.integrate import quad
from scipy.optimize import least_squares

from drawings import distance, set_word
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork, Group, Layer, Shape
from sobercrow.core.artwork.paint import Stroke
from sobercrow.core.artwork.placing import placed_shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.lettering.area import lettering_in_area, set_in_area
from sobercrow.core.lettering.baseline import (
    Arc,
    Straight,
    along_line,
    parted_from_line,
    three_places,
    through_three,
    with_angle,
    with_radius,
)
from sobercrow.core.lettering.index import Index, read_index
from sobercrow.core.lettering.keeping import reopened, retyped
from sobercrow.core.lettering.matches import Match, told_of
from sobercrow.core.lettering.matching import match
from sobercrow.core.lettering.setting import glyph_contours, set_anew
from sobercrow.core.lettering.typefaces import LIBRARY
from sobercrow.core.lettering.weight import bolder, heavier_px
from sobercrow.core.picture.picture import Picture

GROUND, INK = (24, 64, 88), (236, 214, 160)


@pytest.fixture(scope="module")
def index(tmp_path_factory: pytest.TempPathFactory) -> Index:
    files = [LIBRARY / name for name in ("Dosis-Medium.otf", "Cantarell-Regular.otf", "BebasNeue-Regular.otf")]
    return read_index(files, tmp_path_factory.mktemp("typefaces"))


def sign(text: str, em: int) -> Picture:
    """Light lettering on a dark sign, drawn by FreeType in four times the size and averaged; a bar beside it."""
    font = ImageFont.truetype(str(LIBRARY / "Dosis-Medium.otf"), 4 * em, layout_engine=ImageFont.Layout.BASIC)
    large = Image.new("RGB", (4 * 160, 4 * 60), GROUND)
    pen = ImageDraw.Draw(large)
    pen.text((4 * 20, 4 * 14), text, INK, font=font)
    pen.rectangle((0, 4 * 50, 4 * 160, 4 * 54), INK)
    return Picture(np.asarray(large.resize((160, 60), Image.Resampling.BOX)).copy(), 300.0)


@pytest.mark.parametrize("em", [16, 24])
def test_small_light_lettering_is_found_and_set_in_its_colour(index: Index, em: int) -> None:
    picture, box = sign("Windvane", em), (10.0, 8.0, 150.0, 48.0)
    shapes = lettering_in_area(picture, box)
    assert all(box[0] < s.bounds()[0] and s.bounds()[2] < box[2] for s in shapes)
    best = match(shapes, index)[0]
    assert (best.face.family, best.text) == ("Dosis", "Windvane")
    assert best.size_px == pytest.approx(em, rel=0.03)

    colour = shapes[0].colour
    assert np.abs(np.array([int(colour[k : k + 2], 16) for k in (1, 3, 5)]) - INK).max() <= 6
    beside = shapes[0].moved(0.0, 200.0)
    artwork = Artwork((Layer("Ink", (*shapes, beside)),), 160.0, 60.0, 300.0)
    made = set_in_area(artwork, box, best, 0.0, colour).artwork
    (group, kept) = made.layers[0].items if isinstance(made.layers[0].items[0], Group) else made.layers[0].items[::-1]
    assert isinstance(group, Group)
    assert group.name.startswith("Windvane · Dosis")
    assert kept == beside
    assert len(set_in_area(Artwork((), 160.0, 60.0, 300.0), box, best, 0.0, colour).artwork.shapes) == len(group.shapes)


def test_shapes_of_an_area_are_in_pixels_of_the_artwork() -> None:
    picture = sign("Kite", 24)
    plain = lettering_in_area(picture, (10.0, 8.0, 150.0, 48.0))
    half = lettering_in_area(picture, (5.0, 4.0, 75.0, 24.0), 80.0)
    assert [s.bounds() for s in half] == [pytest.approx([0.5 * v for v in s.bounds()]) for s in plain]


@pytest.mark.parametrize(
    ("box", "sentence"),
    [((10, 8, 13, 40), "too small"), ((100, 20, 150, 45), "one colour"), ((400, 400, 500, 500), "too small")],
)
def test_areas_without_lettering_say_so(box: tuple[float, float, float, float], sentence: str) -> None:
    with pytest.raises(LetteringError, match=sentence):
        lettering_in_area(sign("i", 24), box)


@pytest.mark.parametrize("sweep_deg", [40.0, 150.0, 300.0])
@pytest.mark.parametrize("inside", [False, True])
def test_a_base_line_goes_through_three_places(sweep_deg: float, inside: bool) -> None:
    half = math.radians(0.5 * sweep_deg)
    turn = np.array([-half, 0.0, half]) - 0.5 * math.pi
    turn = -turn if inside else turn
    places = np.stack([200 + 90 * np.cos(turn), 150 + 90 * np.sin(turn)], axis=1)
    arc = through_three(places)
    assert isinstance(arc, Arc)
    assert arc.inside == inside
    fit = least_squares(lambda p: np.hypot(*(places - p[:2]).T) - p[2], (190.0, 140.0, 80.0)).x
    assert (arc.x, arc.y, arc.radius_px) == pytest.approx(tuple(fit), abs=1e-5)
    assert three_places(arc, places[0], places[2]) == pytest.approx(places, abs=1e-6)
    # read on from the first place: the second lies ahead of it, and letters stand on the outer side or the inner
    along, below = arc.seen(places).T
    assert along[0] < along[1] < along[2]
    assert below == pytest.approx(np.zeros(3), abs=1e-9)
    wider = with_radius(arc, 120.0, places[1])
    assert np.hypot(*(places[1] - (wider.x, wider.y))) == pytest.approx(120.0)


def test_what_hardly_bends_is_straight_and_is_turned_about_a_place() -> None:
    line = through_three(np.array([(10.0, 50.0), (60.0, 50.1), (110.0, 50.0)]))
    assert line == Straight(10.0, 50.0, 0.0)
    turned = with_angle(line, 30.0, np.array((60.0, 80.0)))
    assert turned.angle_deg == 30.0
    assert turned.seen(np.array([[60.0, 50.0]]))[0, 1] == pytest.approx(0.0, abs=1e-9)


def test_letters_are_matched_on_a_base_line_that_is_given_and_the_likeliest_are_told_early(index: Index) -> None:
    shapes = lettering_in_area(sign("Windvane", 24), (10.0, 8.0, 150.0, 48.0))
    best = match(shapes, index)[0]
    assert isinstance(best.baseline, Straight)
    given = with_angle(best.baseline, best.baseline.angle_deg + 4.0, np.array((80.0, 40.0)))
    early: list[list[Match]] = []
    found = match(shapes, index, "Windvane", baseline=given, early=early.append)
    assert found[0].baseline == given
    assert found[0].text == "Windvane"
    assert len(early) == 1
    assert early[0][0].face == found[0].face
    assert Path(found[0].face.path).name == "Dosis-Medium.otf"


@pytest.mark.parametrize(("stretch", "lean_deg"), [(0.92, 4.0), (1.0, 0.0)])
def test_a_typeface_is_stretched_and_leaned_as_far_as_the_picture_says(
    index: Index, stretch: float, lean_deg: float
) -> None:
    way = Affine.scaled(stretch, 1.0, (0.0, 0.0)).then(Affine.leaned(lean_deg, (0.0, 200.0)))
    drawn = [placed_shape(shape, way) for shape in set_word("Harbour", [6.0] * 7, [0.0] * 7, [0.0] * 7).shapes]
    best = match(drawn, index)[0]
    assert (best.face.family, best.text) == ("Cantarell", "Harbour")
    assert best.stretch == pytest.approx(stretch, abs=0.003)
    assert best.lean_deg == pytest.approx(lean_deg, abs=0.2)
    assert best.deviation_px < 0.05
    assert ("as wide" in told_of(best)) == (stretch != 1.0)
    made = glyph_contours(best, 0.0)
    for contours, shape in zip(made, drawn, strict=True):
        assert max(map(distance, contours, shape.contours)) < 0.15


def test_letters_stand_along_a_line_that_was_drawn_and_are_set_on_it_again(index: Index) -> None:
    """A wave, letters turned along it by known amounts; the line's own length by its integral."""
    x = np.linspace(60.0, 560.0, 41)
    wave = np.stack([x, 200.0 + 40.0 * np.sin((x - 60.0) / 80.0)], axis=1)
    corners = np.repeat(wave[:, None], 3, axis=1)
    line = Shape((Contour(corners, np.zeros(41, np.uint8), False),), None, Stroke("#000000", 1.0))
    base = along_line(line.contours[0])
    length = quad(lambda t: math.hypot(1.0, 0.5 * math.cos((t - 60.0) / 80.0)), 60.0, 560.0)[0]
    assert base.seen(wave[-1:])[0, 0] == pytest.approx(length, rel=2e-3)
    assert base.seen(wave)[:, 1] == pytest.approx(np.zeros(41), abs=1e-9)

    flat = set_word("meadow", [8.0] * 6, [0.0] * 6, [0.0] * 6)
    shapes = []
    for shape in flat.shapes:
        left, _, right, _ = shape.bounds()
        place, y, turn = base.at(0.5 * (left + right) - 60.0)
        way = Affine.moved(-0.5 * (left + right), -200.0).then(Affine.turned(turn, (0.0, 0.0)))
        shapes.append(placed_shape(shape, way.then(Affine.moved(place, y))))
    letters, drawn = parted_from_line([*shapes, line])
    assert letters == shapes
    assert drawn == base
    best = match(letters, index, baseline=drawn)[0]
    assert (best.face.family, best.text) == ("Cantarell", "meadow")
    assert best.deviation_px < 0.3
    artwork = Artwork((Layer("Ink", (*shapes, line)),), 640.0, 400.0, 300.0)
    made = set_anew(artwork, Choice(shapes=frozenset(range(7))), best).artwork
    assert line in made.shapes
    (group,) = (item for item in made.layers[0].items if isinstance(item, Group))
    again = reopened(group)
    assert again.baseline == base
    other = retyped(again, "dawn")
    assert [base.seen(np.array([[g.x, g.y]]))[0, 1] for g in other.letters] == pytest.approx([0.0] * 4, abs=2.5)
    assert reopened(replace(group, items=tuple(s.moved(5.0, 7.0) for s in group.shapes))).letters[0].x == pytest.approx(
        again.letters[0].x + 5.0
    )


@pytest.mark.parametrize("by_px", [0.0, 0.8, -0.6])
def test_letters_are_made_bolder_and_how_heavy_they_are_drawn_is_told(by_px: float) -> None:
    """Against shapely's buffer with mitred corners."""
    word = set_word("Harbour", [9.0] * 7, [0.0] * 7, [0.0] * 7)
    made = [bolder(shape.contours, by_px) for shape in word.shapes]
    assert [len(c) for cs in made for c in cs] == [len(c) for s in word.shapes for c in s.contours]
    for contours, shape in zip(made, word.shapes, strict=True):
        plain, grown = (
            shapely.make_valid(shapely.Polygon(cs[0].sampled(0.3), [c.sampled(0.3) for c in cs[1:]]))
            for cs in (shape.contours, contours)
        )
        wanted = plain.buffer(by_px, join_style="mitre")
        assert grown.symmetric_difference(wanted).area < 0.06 * plain.length
    drawn = [replace(shape, contours=contours) for shape, contours in zip(word.shapes, made, strict=True)]
    assert heavier_px([shape.contours for shape in word.shapes], drawn) == pytest.approx(by_px, abs=0.03)
