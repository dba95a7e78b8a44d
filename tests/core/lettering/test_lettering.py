"""Lettering matched and set anew, against fontTools, HarfBuzz and known circles; the faces come with us."""

from __future__ import annotations

import math
from pathlib import Path

import cv2
import numpy as np
import pytest
import uharfbuzz
from fontTools.pens.areaPen import AreaPen
from fontTools.pens.boundsPen import BoundsPen
from fontTools.ttLib import TTFont
from PIL import Image, ImageDraw, ImageFont

from drawings import compressed
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork, Group
from sobercrow.core.errors import Cancelled, LetteringError
from sobercrow.core.first_sight import first_settings
from sobercrow.core.job import Job
from sobercrow.core.lettering.baseline import Arc, Straight, proposed
from sobercrow.core.lettering.glyphs import glyphs_of
from sobercrow.core.lettering.heights import heights_of
from sobercrow.core.lettering.index import Index, read_index
from sobercrow.core.lettering.letters import lettering_in, letters_on
from sobercrow.core.lettering.matches import Match, told_of
from sobercrow.core.lettering.matching import match
from sobercrow.core.lettering.setting import placed, set_anew, spaced
from sobercrow.core.lettering.typefaces import LIBRARY, Face, all_files, faces_of
from sobercrow.core.picture.picture import Picture

FINER = 4


@pytest.fixture(scope="module")
def index(tmp_path_factory: pytest.TempPathFactory) -> Index:
    return read_index(all_files(installed=False), tmp_path_factory.mktemp("typefaces"))


def face(index: Index, family: str) -> Face:
    return next(one for one in index.faces if one.family == family)


def drawn(one: Face, text: str, size: int, sweep_deg: float = 0.0) -> tuple[np.ndarray, tuple[float, float, float]]:
    """A word drawn by FreeType, straight or turned glyph by glyph along an arc; and the circle of that."""
    glyphs = glyphs_of(one)
    advances = [glyphs.advance(character) * size for character in text]
    radius = sum(advances) / math.radians(sweep_deg) if sweep_deg else 0.0
    width, height = (2 * (radius + 2 * size),) * 2 if sweep_deg else (sum(advances) + 2 * size, 2.6 * size)
    middle = (0.5 * width, 0.5 * height)
    font = ImageFont.truetype(one.path, size * FINER, layout_engine=ImageFont.Layout.BASIC)
    sheet, side = np.zeros((math.ceil(height) * FINER, math.ceil(width) * FINER), np.uint8), 3 * size * FINER
    along = -0.5 * sum(advances)
    for character, advance in zip(text, advances, strict=True):
        x, y, turn = middle[0] + along, middle[1] + 0.5 * size, 0.0
        if sweep_deg:
            turn = (along + 0.5 * advance) / radius
            x = middle[0] + radius * math.sin(turn) - 0.5 * advance * math.cos(turn)
            y = middle[1] - radius * math.cos(turn) - 0.5 * advance * math.sin(turn)
        glyph = Image.new("L", (side, side))
        ImageDraw.Draw(glyph).text((side / 2, side / 2), character, font=font, fill=255, anchor="ls")
        c, s = math.cos(turn), math.sin(turn)
        way = np.array([[c, -s, x * FINER], [s, c, y * FINER]])
        way[:, 2] += way[:, :2] @ (0.5 - side / 2, 0.5 - side / 2) - 0.5
        sheet = np.maximum(sheet, cv2.warpAffine(np.asarray(glyph), way, sheet.shape[::-1], flags=cv2.INTER_CUBIC))
        along += advance
    grey = 255 - cv2.resize(sheet, None, fx=1 / FINER, fy=1 / FINER, interpolation=cv2.INTER_AREA)
    return np.ascontiguousarray(np.repeat(grey[..., None], 3, axis=2)), (*middle, radius)


def traced(pixels: np.ndarray) -> Artwork:
    job = Job(Picture(pixels, 300.0))
    return job.run(first_settings(job)).artwork


def matched(pixels: np.ndarray, index: Index, text: str | None = None) -> list[Match]:
    artwork = traced(pixels)
    return match([artwork.shapes[k] for k in sorted(lettering_in(artwork))], index, text)


@pytest.mark.parametrize(
    ("family", "text", "size", "sweep", "quality"),
    [
        ("Dosis", "Windvane", 64, 0.0, None),
        ("Quattrocento", "Harbour", 48, 0.0, 40),
        ("Jura", "Quayside", 64, 130.0, None),
        ("Cabin", "Bridle", 48, 95.0, 40),
    ],
)
def test_the_face_its_letters_and_its_arc_are_found(
    index: Index, family: str, text: str, size: int, sweep: float, quality: int | None
) -> None:
    pixels, circle = drawn(face(index, family), text, size, sweep)
    if quality is not None:
        pixels = compressed(cv2.GaussianBlur(pixels, (0, 0), 0.8), quality)
    first, second, *_ = matched(pixels, index)
    assert (first.face.family, first.text) == (family, text)
    assert first.size_px == pytest.approx(size, rel=0.01)
    assert first.deviation_px < (0.1 if quality is None else 0.2) < second.deviation_px
    assert told_of(first).endswith("the same")
    if sweep:
        assert isinstance(first.baseline, Arc)
        assert first.baseline.radius_px == pytest.approx(circle[2], rel=0.01)
        assert math.dist((first.baseline.x, first.baseline.y), circle[:2]) < 0.01 * circle[2]
    else:
        assert isinstance(first.baseline, Straight)
        assert first.baseline.angle_deg == pytest.approx(0.0, abs=0.2)


def test_typed_letters_are_taken_and_have_to_be_as_many(index: Index) -> None:
    pixels, _ = drawn(face(index, "Cantarell"), "Illinois", 64)
    assert matched(pixels, index, "Illinois")[0].text == "Illinois"
    with pytest.raises(LetteringError, match="7 letters, the lettering 8"):
        matched(pixels, index, "Indiana")


def test_set_anew_lettering_lies_where_the_traced_one_did_as_one_named_group(index: Index) -> None:
    one = face(index, "Dosis")
    artwork = traced(drawn(one, "fold8", 64)[0])
    chosen = frozenset(range(len(artwork.shapes)))
    found = match(artwork.shapes, index)[0]
    edited = set_anew(artwork, Choice(shapes=chosen), found)
    (group,) = edited.artwork.layers[0].items
    assert isinstance(group, Group)
    assert group.name == "fold8 · Dosis Medium"
    assert len(edited.choice.shapes) == 5
    for before, after in zip(
        sorted(s.bounds() for s in artwork.shapes), [s.bounds() for s in group.shapes], strict=True
    ):
        assert after == pytest.approx(before, abs=0.25)
    assert all(shape.contours[0].area() > 0 for shape in group.shapes)
    assert [sum(c.area() > 0 for c in shape.contours) for shape in group.shapes] == [1] * 5
    anchors = sum(len(c) for c in glyphs_of(one).contours("o"))
    assert sum(len(c) for c in group.shapes[1].contours) == anchors  # the type designer's own


def test_own_spacing_is_harfbuzzs_and_half_of_it_halfway(index: Index) -> None:
    """AV is kerned in this face: letters drawn without kerning move together."""
    one = face(index, "Cabin")
    found = matched(drawn(one, "AVATAR", 72)[0], index, "AVATAR")[0]
    assert found.face == one
    font = uharfbuzz.Font(uharfbuzz.Face(uharfbuzz.Blob.from_file_path(one.path)))
    buffer = uharfbuzz.Buffer()
    buffer.add_str("AVATAR")
    buffer.guess_segment_properties()
    uharfbuzz.shape(font, buffer, {"kern": True, "liga": False})
    advances = np.array([p.x_advance for p in buffer.glyph_positions]) / font.face.upem * found.size_px
    own = np.array([(glyph.x, glyph.y) for glyph in spaced(found)])
    assert np.hypot(*np.diff(own, axis=0).T) == pytest.approx(advances[:-1], abs=1e-6)
    here = np.array([(glyph.x, glyph.y) for glyph in found.letters])
    half = np.array([(glyph.x, glyph.y) for glyph in placed(found, 0.5)])
    assert half == pytest.approx(0.5 * (own + here), abs=1e-9)
    assert placed(found, 0.0) == list(found.letters)


@pytest.mark.parametrize("family", ["Comfortaa", "Cabin"])
def test_outlines_are_those_of_the_file(index: Index, family: str) -> None:
    """Quadratic and cubic ones, against the areas fontTools measures."""
    one = face(index, family)
    font = TTFont(one.path)
    em = font["head"].unitsPerEm
    for character in "aQ8&":
        pen = AreaPen(font.getGlyphSet())
        font.getGlyphSet()[font.getBestCmap()[ord(character)]].draw(pen)
        own = sum(contour.area() for contour in glyphs_of(one).contours(character))
        assert abs(own) == pytest.approx(abs(pen.value) / em**2, rel=1e-6)


def test_base_lines_are_proposed_and_places_on_them_come_back() -> None:
    angles = np.radians(np.linspace(200, 320, 7))
    arc = np.column_stack([300 + 120 * np.cos(angles), 200 + 120 * np.sin(angles)])
    best = proposed(arc, 20.0)[0]
    assert isinstance(best, Arc)
    assert (best.x, best.y, best.radius_px) == pytest.approx((300, 200, 120), abs=1e-6)
    assert not best.inside
    under = proposed(arc * (1, -1), 20.0)[0]
    assert isinstance(under, Arc)
    assert under.inside
    for line in (best, under, Straight(5.0, 7.0, 30.0)):
        x, y, _ = line.at(42.0)
        assert line.seen(np.array([(x, y)]))[0] == pytest.approx((42.0, 0.0), abs=1e-9)
    assert isinstance(proposed(np.array([(0.0, 0.0), (9.0, 1.0), (19.0, 0.0), (30.0, 1.0)]), 10.0)[0], Straight)
    with pytest.raises(LetteringError, match="no lettering"):
        proposed(np.empty((0, 2)), 10.0)


def test_dots_belong_to_their_letters_and_slanted_neighbours_stay_apart(index: Index) -> None:
    artwork = traced(drawn(face(index, "TeX Gyre Chorus"), "bij", 96)[0])
    assert len(artwork.shapes) == 5
    letters = letters_on(artwork.shapes, Straight(0.0, 170.0))
    assert [len(letter.contours) for letter in letters] == [2, 2, 2]  # a bowl, and two dots


def test_the_index_is_kept_and_damaged_files_are_told_of_once_by_name(tmp_path: Path) -> None:
    fonts, kept = tmp_path / "fonts", tmp_path / "kept"
    fonts.mkdir()
    data = (LIBRARY / "Dosis-Medium.otf").read_bytes()
    for name, content in {
        "good.otf": data,
        "cut.otf": data[: len(data) // 3],
        "empty.ttf": b"",
        "hostile.ttf": b"\x00\x01\x00\x00\xff\xff" + bytes(400),
        "notes.txt": b"no typeface",
    }.items():
        (fonts / name).write_bytes(content)
    files = all_files([fonts], installed=False)
    files = [path for path in files if path.parent == fonts]
    first = read_index(files, kept)
    assert [one.family for one in first.faces] == ["Dosis"]
    assert sorted(sentence.split()[0] for sentence in first.refused) == ["cut.otf", "empty.ttf", "hostile.ttf"]
    again = read_index(files, kept)
    assert (again.faces, again.refused) == (first.faces, ())  # told once
    assert np.array_equal(again.fields, first.fields)
    with pytest.raises(LetteringError, match="no folder"):
        all_files([tmp_path / "nowhere"])

    def stop(_share: float) -> None:
        raise Cancelled

    with pytest.raises(Cancelled):
        read_index(files, kept, stop)


def test_our_faces_have_licences_and_are_of_many_kinds() -> None:
    faces = [found.face for path in all_files(installed=False) for found in faces_of(path)]
    assert len({one.family for one in faces}) >= 12
    assert all(one.embedding != "no embedding" for one in faces)
    assert len(list((LIBRARY / "licences").glob("*.txt"))) >= 12


def test_without_letters_or_typefaces_one_sentence_says_so(index: Index) -> None:
    blank = Artwork((), 100.0, 100.0, 300.0)
    with pytest.raises(LetteringError, match="looks like letters"):
        lettering_in(blank)
    artwork = traced(drawn(face(index, "Dosis"), "kite", 64)[0])
    with pytest.raises(LetteringError, match="no typefaces"):
        match(artwork.shapes, Index.of([]))


@pytest.mark.parametrize("family", ["Dosis", "Cantarell", "Inconsolata"])
def test_lines_of_lettering_are_the_heights_the_face_states(index: Index, family: str) -> None:
    """OpenType, OS/2: sxHeight and sCapHeight; the foot of a p is what fontTools measures of it."""
    one, size = face(index, family), 120
    font = TTFont(one.path)
    em, stated = font["head"].unitsPerEm, font["OS/2"]
    pixels, _ = drawn(one, "Hxpzv", size)
    lines = heights_of(traced(pixels).shapes)
    base = 0.5 * 2.6 * size + 0.5 * size
    assert lines.baseline == pytest.approx(base, abs=0.012 * size)
    pen = BoundsPen(font.getGlyphSet())
    font.getGlyphSet()[font.getBestCmap()[ord("p")]].draw(pen)
    for found, true in (
        (lines.x_height, stated.sxHeight),
        (lines.capital, stated.sCapHeight),
        (lines.descender, pen.bounds[1]),
    ):
        assert found is not None
        assert found == pytest.approx(lines.baseline - true / em * size, abs=0.025 * size)
    capitals = heights_of(traced(drawn(one, "HEX", size)[0]).shapes)
    assert set(capitals.named()) == {"base line", "cap height"}
