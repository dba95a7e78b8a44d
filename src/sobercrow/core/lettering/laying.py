"""Outlines of a face laid on traced letters.

One size for the line, a place and a slight turn for each letter, by iterated closest points with distances along the
normal (Chen & Medioni 1992), strays weighed less and less. What is left, both ways, is how far they are off.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Self

import numpy as np

from sobercrow.core.arrays import F64, I64, cumulated, followers
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.polygon import boxes_of
from sobercrow.core.lettering._glyph_kernels import how_far, lay
from sobercrow.core.lettering.glyphs import glyphs_of
from sobercrow.core.lettering.letters import Letter
from sobercrow.core.lettering.typefaces import Face

SPACING_EM, POINTS = 0.012, 150
"""Points on glyphs, and at most so many on a letter."""
ROUNDS, REACH_EM = 10, 0.35
FIRST_STRAY_EM, STRAY_PX, STRAY_EM = 0.1, 0.5, 0.012
"""What is further off weighs little: at first, and at last, whichever of the two is more."""
TURN_RAD, TURN_EM = 0.02, 0.001
"""A letter may be turned by about so much against the base line, where that makes about such a difference."""

Laid = tuple[float, F64, F64]
"""The size, each letter's place and turn (n, 3), and how far it is off (n,)."""


@dataclass(frozen=True, slots=True, eq=False)
class LetterLines:
    """Outlines of letters as points, closed, each letter's in its own directions from its foot.

    Attributes
    ----------
    points : (n, 2) float64
    after : (n,) int64
        The point that follows each along its outline.
    firsts : (letters + 1,) int64
        Where each letter's points begin.
    """

    points: F64
    after: I64
    firsts: I64

    @classmethod
    def of(cls, letters: Sequence[Letter], points: int = POINTS) -> Self:
        """Take about so many points along the outlines of each letter."""
        rings: list[F64] = []
        for letter in letters:
            spacing = max(sum(len(contour.sampled(1.0)) for contour in letter.contours) / points, 0.35)
            rings += [letter.own(contour.sampled(spacing)) for contour in letter.contours]
        begin = cumulated([len(ring) for ring in rings])
        firsts = begin[cumulated([len(letter.contours) for letter in letters])]
        return cls(np.concatenate(rings), followers(begin), firsts)

    def middles(self) -> F64:
        """Return where the middle of each letter is across, (letters,)."""
        return _middles(self.points, self.firsts)


@dataclass(frozen=True, slots=True, eq=False)
class Outlines:
    """Segments along the outlines of glyphs, in their em: where they start and end, (n, 2) each.

    Those of each glyph begin at `firsts` (glyphs + 1).
    """

    starts: F64
    ends: F64
    firsts: I64

    def middles(self) -> F64:
        """Return how far along the middle of each glyph is, (glyphs,)."""
        return _middles(self.starts, self.firsts)


def _middles(points: F64, firsts: I64) -> F64:
    boxes = boxes_of(points, firsts)
    return np.asarray(0.5 * (boxes[:, 0] + boxes[:, 2]), dtype=np.float64)


@lru_cache(maxsize=512)
def outlines_of(face: Face, characters: str) -> Outlines:
    """Return the outlines of characters in a face.

    Raises
    ------
    LetteringError
        If nothing is drawn of one, or the face cannot be read.
    """
    cubics, contours, counts = glyphs_of(face).cubics(characters)
    for character, count in zip(characters, counts.tolist(), strict=True):
        if not count:
            raise LetteringError(f"“{character}” is empty in {face.name}.")
    points, cubic = bezier.spaced(cubics, SPACING_EM)
    begin = np.searchsorted(cubic, contours)
    return Outlines(points, points[followers(begin)], begin[cumulated(counts)])


def laid_on(
    lines: LetterLines, face: Face, characters: str, size: float, below: float, holds_size: bool = False
) -> Laid | None:
    """Lay a face's glyphs on letters, beginning with a size in px per em and how far the base line is below.

    None if there is nothing near to go by. With `holds_size` the size stays.

    Raises
    ------
    LetteringError
        If the face has no such glyph.
    """
    glyphs, middles = outlines_of(face, characters), lines.middles()
    places = np.zeros((len(middles), 3))
    places[:, 0] = middles - size * glyphs.middles()
    places[:, 1] = below
    segments = glyphs.starts, glyphs.ends, glyphs.firsts
    strays = np.maximum(FIRST_STRAY_EM * 0.5 ** np.arange(ROUNDS), STRAY_EM)
    stiff = (TURN_EM / TURN_RAD) ** 2
    size = lay(lines.points, lines.firsts, *segments, places, size, strays, STRAY_PX, stiff, REACH_EM, holds_size)
    if size == 0.0:
        return None
    off = np.empty(len(places))
    how_far(lines.points, lines.after, lines.firsts, *segments, places, size, REACH_EM, off)
    return size, places, off * size
