"""Outlines laid on letters whose size, place and turn are known; letters joined and parted by what they are like."""

from __future__ import annotations

import math

import numpy as np
import pytest

from sobercrow.core.artwork.model import Shape
from sobercrow.core.artwork.placing import placed_contour
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.combine import How, combine_all
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.lettering.baseline import Arc, Straight, through
from sobercrow.core.lettering.glyphs import glyphs_of
from sobercrow.core.lettering.index import FIELDS, Index, fields_of, read_index
from sobercrow.core.lettering.laying import LetterLines, laid_on, outlines_of
from sobercrow.core.lettering.letters import Letter, joined, letters_on, lines_of, parted
from sobercrow.core.lettering.likeness import Coarse, GlyphTable, alike_faces, how_unlike, whole
from sobercrow.core.lettering.matching import match
from sobercrow.core.lettering.typefaces import LIBRARY, Face

SIZE = 70.0
LEVEL = Straight(0.0, 200.0)


@pytest.fixture(scope="module")
def index(tmp_path_factory: pytest.TempPathFactory) -> Index:
    files = [LIBRARY / name for name in ("Dosis-Medium.otf", "Cabin-Bold.otf", "Jura-SemiBold.otf")]
    return read_index(files, tmp_path_factory.mktemp("typefaces"))


def face(index: Index, family: str) -> Face:
    return next(one for one in index.faces if one.family == family)


def glyph(one: Face, character: str, x: float, y: float, size: float = SIZE, turn_deg: float = 0.0) -> list[Contour]:
    """A glyph of known place, size and turn, outer contours as those of traced shapes run."""
    way = Affine.scaled(size, size, (0, 0)).then(Affine.turned(turn_deg, (0, 0))).then(Affine.moved(x, y))
    made = [placed_contour(contour, way) for contour in glyphs_of(one).contours(character)]
    return made if sum(c.area() for c in made) > 0 else [c.reversed() for c in made]


def word(one: Face, text: str, spread: float = 0.0) -> list[Shape]:
    """Letters of known place side by side on the level base line, each so many px further apart."""
    shapes, x = [], 40.0
    for character in text:
        shapes.append(Shape(tuple(glyph(one, character, x, LEVEL.y))))
        x += glyphs_of(one).advance(character) * SIZE + spread
    return shapes


def letter(contours: list[Contour], turn_deg: float = 0.0) -> Letter:
    (made,) = letters_on([Shape(tuple(contours))], Straight(0.0, LEVEL.y, turn_deg))
    return made


@pytest.mark.parametrize("character", ["g", "R", "8", "k"])
@pytest.mark.parametrize("turn_deg", [0.0, 1.5])
def test_size_place_and_turn_of_a_letter_come_back(index: Index, character: str, turn_deg: float) -> None:
    one = face(index, "Cabin")
    drawn = letter(glyph(one, character, 83.0, 203.5, SIZE, turn_deg))
    found = laid_on(LetterLines.of([drawn]), one, character, 0.93 * SIZE, 0.0)
    assert found is not None
    size, places, off = found
    assert size == pytest.approx(SIZE, rel=0.001)
    x, y = drawn.placed(places[:, :2])[0]
    assert (x, y) == pytest.approx((83.0, 203.5), abs=0.1)
    assert math.degrees(places[0, 2]) == pytest.approx(turn_deg, abs=0.25)
    assert off[0] < 0.04
    held = laid_on(LetterLines.of([drawn]), one, character, 0.93 * SIZE, 0.0, True)
    assert held is not None
    assert held[0] == pytest.approx(0.93 * SIZE, rel=1e-12)
    assert held[2][0] > off[0]


def test_a_letter_is_nearer_to_its_own_glyph_than_to_any_other(index: Index) -> None:
    one = face(index, "Dosis")
    drawn = letter(glyph(one, "R", 60.0, LEVEL.y))
    off = {}
    for character in "RPBKAk":
        found = laid_on(LetterLines.of([drawn]), one, character, SIZE, 0.0, True)
        off[character] = float(found[2][0]) if found is not None else math.inf
    assert min(off, key=off.__getitem__) == "R"
    assert off["R"] < 0.2 * min(away for character, away in off.items() if character != "R")
    with pytest.raises(LetteringError, match="empty"):
        outlines_of(one, " ")


def test_own_directions_and_back() -> None:
    turned = Letter((), np.array((10.0, 20.0)), 0.0, 30.0, np.zeros(4))
    points = np.random.default_rng(2).uniform(-50, 50, (20, 2))
    assert turned.placed(turned.own(points)) == pytest.approx(points, abs=1e-9)
    assert turned.own(np.array([(10.0 + math.cos(math.radians(30)), 20.5)]))[0] == pytest.approx((1.0, 0.0), abs=1e-9)


def test_fields_are_the_shares_covered(index: Index) -> None:
    """Against a mean of pixels by NumPy, and a traced letter's against the glyph's in the index."""
    tones = np.random.default_rng(1).integers(0, 256, (64, 48), dtype=np.uint8)
    means = tones.reshape(FIELDS, 4, FIELDS, 3).mean(axis=(1, 3)).ravel()
    assert np.abs(fields_of(tones).astype(float) - means).max() <= 1.0
    assert fields_of(np.full((3, 2), 200, np.uint8)).tolist() == [200] * FIELDS**2
    one = face(index, "Dosis")
    number = index.faces.index(one)
    rows = slice(int(index.starts[number]), int(index.starts[number + 1]))
    for character in "aB7":
        known = index.fields[rows][index.codes[rows] == ord(character)][0].astype(float)
        own = letter(glyph(one, character, 50.0, LEVEL.y)).fields().astype(float)
        assert np.abs(own - known).mean() < 8.0


def _faces(letters: list[Letter], index: Index, text: str | None) -> list[Coarse]:
    glyphs = GlyphTable.of(index, text)
    return alike_faces(letters, how_unlike(letters, glyphs), glyphs, text)


def test_the_likeliest_face_size_and_characters_of_a_word(index: Index) -> None:
    letters = letters_on(word(face(index, "Jura"), "Quay", 2.0), Straight(0.0, LEVEL.y - 9.0))
    best, *others = _faces(letters, index, None)
    assert (index.faces[best.face].family, best.characters) == ("Jura", "Quay")
    assert best.size_px == pytest.approx(SIZE, rel=0.03)
    assert best.below_px == pytest.approx(9.0, abs=1.5)
    assert all(best.cost < other.cost for other in others)
    typed = _faces(letters, index, "Quap")
    assert typed[0].characters == "Quap"
    assert typed[0].cost > best.cost


def test_halves_are_joined_and_letters_that_touch_are_parted(index: Index) -> None:
    one = face(index, "Dosis")
    glyphs = GlyphTable.of(index)
    middle = 0.5 * sum(glyph(one, "H", 100.0, LEVEL.y)[0].bounds()[::2])
    halved = letter(glyph(one, "H", 100.0, LEVEL.y))
    cut = parted(halved, middle - halved.foot[0], LEVEL)
    assert cut is not None
    together = joined(*cut, LEVEL)
    assert np.abs(together.box - halved.box).max() < 0.6
    assert how_unlike([together], glyphs).min() < 0.3 * how_unlike(list(cut), glyphs).min(axis=1).max()
    left, right = (Shape(half.contours) for half in cut)
    spread = [Shape(tuple(c.moved(by, 0.0) for c in s.contours)) for s, by in ((left, -2.0), (right, 2.0))]
    assert len(whole(letters_on(spread, LEVEL), glyphs, LEVEL, None)[0]) == 1
    assert len(whole(letters_on(spread, LEVEL), glyphs, LEVEL, "ll")[0]) == 2  # it is known that there are two

    pair = glyph(one, "o", 100.0, LEVEL.y), glyph(one, "o", 100.0 + 0.985 * width(one, "o"), LEVEL.y)
    (united,) = combine_all([tuple(one_of) for one_of in pair], How.UNITE)
    apart, _ = whole([letter(list(united))], glyphs, LEVEL, None)
    assert len(apart) == 2
    assert apart[0].along_px < apart[1].along_px


def width(one: Face, character: str) -> float:
    left, _, right, _ = glyph(one, character, 0.0, 0.0)[0].bounds()
    return right - left


def test_lines_are_parted_and_the_places_of_a_base_line_fitted() -> None:
    rows = [(x, y) for y in (50.0, 130.0) for x in (10.0, 60.0, 110.0)]
    square = np.array([(0, 0), (30, 0), (30, 36), (0, 36)], dtype=float)
    shapes = [
        Shape((Contour(np.repeat((square + at)[:, None], 3, axis=1), np.zeros(4, dtype=np.uint8)),)) for at in rows
    ]
    assert [len(line) for line in lines_of(shapes)] == [3, 3]
    angles = np.radians([190.0, 230.0, 275.0, 330.0])
    on_arc = np.column_stack([7 + 90 * np.cos(angles), 9 + 90 * np.sin(angles)])
    found = through(on_arc, Arc(0.0, 0.0, 60.0, 180.0))
    assert isinstance(found, Arc)
    assert (found.x, found.y, found.radius_px) == pytest.approx((7, 9, 90), abs=1e-6)
    kept = Arc(0.0, 0.0, 60.0, 180.0)
    assert through(on_arc[:2], kept) == kept  # through two places an arc could be any
    flipped = through(np.array([(0.0, 0.0), (10.0, 0.0)]), Straight(0.0, 0.0, 180.0))
    assert isinstance(flipped, Straight)
    assert abs(math.remainder(flipped.angle_deg - 180.0, 360.0)) < 1e-9


def test_progress_is_told_and_may_stop_a_search(index: Index) -> None:
    shapes = word(face(index, "Cabin"), "Reel", 2.0)
    told: list[float] = []
    assert match(shapes, index, progress=told.append)[0].text == "Reel"
    assert 0.0 <= min(told) <= max(told) <= 1.0

    def stop(share: float) -> None:
        if share > 0.15:
            raise InterruptedError

    with pytest.raises(InterruptedError):
        match(shapes, index, progress=stop)
