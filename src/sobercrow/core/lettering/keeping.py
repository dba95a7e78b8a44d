"""Lettering that was set, opened again: where it is now, and with another text."""

from __future__ import annotations

import cmath
import math
from dataclasses import replace
from pathlib import Path

import numpy as np

from sobercrow.core.artwork.lettered import Lettered
from sobercrow.core.artwork.model import Group
from sobercrow.core.errors import LetteringError
from sobercrow.core.lettering.baseline import of_numbers
from sobercrow.core.lettering.glyphs import glyphs_of
from sobercrow.core.lettering.matches import Match, PlacedGlyph
from sobercrow.core.lettering.setting import glyph_contours
from sobercrow.core.lettering.typefaces import Face, faces_of


def reopened(group: Group) -> Match:
    """Return set lettering as it is now: moved, turned and scaled as its shapes were since.

    Raises
    ------
    LetteringError
        If the typeface's file is gone or cannot be read.
    """
    kept = group.lettered
    assert kept is not None
    letters = tuple(PlacedGlyph(character, x, y, turn, 0.0) for character, x, y, turn in kept.glyphs)
    form = kept.stretch, kept.lean_deg, kept.bolder_px
    match = Match(_face(kept), kept.text, kept.size_px, letters, of_numbers(kept.line), 0.0, *form)
    was = [contour for contours in glyph_contours(match, 0.0) for contour in contours]
    now = [contour for shape in group.shapes for contour in shape.contours]
    if list(map(len, was)) == list(map(len, now)):
        a, b = (np.concatenate([c.anchors for c in some]) @ (1.0, 1j) for some in (was, now))
        turn = complex(np.vdot(a - a.mean(), b - b.mean()) / max(float((np.abs(a - a.mean()) ** 2).sum()), 1e-12))
        return _moved(match, turn, complex(b.mean() - turn * a.mean()))
    middles = [np.concatenate([c.anchors for c in some]) for some in (was, now)]  # anchors were edited
    shift = 0.5 * (middles[1].min(axis=0) + middles[1].max(axis=0) - middles[0].min(axis=0) - middles[0].max(axis=0))
    return _moved(match, 1.0 + 0.0j, complex(*shift.tolist()))


def retyped(match: Match, text: str) -> Match:
    """Return a match with another text, spaced by its typeface along its base line about the same middle.

    Raises
    ------
    LetteringError
        If there is no text, or the typeface has not all of its letters.
    """
    text = " ".join(text.split())
    glyphs = glyphs_of(match.face)
    missing = sorted({character for character in text if not character.isspace() and not glyphs.has(character)})
    if not text or missing:
        raise LetteringError(
            f"{match.face.name} has no {' '.join(missing)}." if missing else "Type what the lettering is to say."
        )
    ends = np.array([match.letters[0].along(0.0), _end(match.letters[-1], match)])
    first, last = match.baseline.seen(ends)[:, 0]
    advances = glyphs.advances(text) * match.advance_px
    starts = np.cumsum(advances) - advances + 0.5 * (first + last - float(advances.sum()))
    letters = []
    for character, start, advance in zip(text, starts.tolist(), advances.tolist(), strict=True):
        if not character.isspace():
            x, y, turn = match.baseline.at(start + 0.5 * advance)
            middle = PlacedGlyph(character, x, y, turn, 0.0)
            letters.append(replace(middle, x=middle.along(-0.5 * advance)[0], y=middle.along(-0.5 * advance)[1]))
    return replace(match, text=text, letters=tuple(letters))


def _end(letter: PlacedGlyph, match: Match) -> tuple[float, float]:
    return letter.along(glyphs_of(match.face).advance(letter.character) * match.advance_px)


def _face(kept: Lettered) -> Face:
    path = Path(kept.path)
    if not path.is_file():
        raise LetteringError(f"The typeface {path.name} is no longer there; find another one for this lettering.")
    for found in faces_of(path):
        if found.face.number == kept.number and [tag for tag, _ in found.face.axes] == [tag for tag, _ in kept.axes]:
            return replace(found.face, axes=kept.axes)
    raise LetteringError(f"{path.name} is another typeface now; find another one for this lettering.")


def _moved(match: Match, turn: complex, shift: complex) -> Match:
    scale, degrees = abs(turn), math.degrees(cmath.phase(turn))
    if abs(turn - 1.0) < 1e-9:
        turn, scale, degrees = 1.0 + 0.0j, 1.0, 0.0
    if abs(shift) < 1e-9:  # it lies where it was set
        shift = 0.0 + 0.0j

    def there(x: float, y: float) -> tuple[float, float]:
        place = turn * complex(x, y) + shift
        return place.real, place.imag

    moved = match.baseline.mapped(turn, shift)
    letters = []
    for letter in match.letters:
        x, y = there(letter.x, letter.y)
        letters.append(replace(letter, x=x, y=y, turn_deg=letter.turn_deg + degrees))
    return replace(
        match, size_px=scale * match.size_px, bolder_px=scale * match.bolder_px, letters=tuple(letters), baseline=moved
    )
