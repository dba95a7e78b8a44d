"""What is found when lettering is matched: a face, its letters in their places, and how near they are."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from sobercrow.core.lettering.baseline import Baseline
from sobercrow.core.lettering.typefaces import Face

SAME_PX, SAME_EM, CLOSE_EM = 0.25, 0.0035, 0.01
"""Outlines so near to each other, whichever of two is more, are called the same; and those that are close."""


@dataclass(frozen=True, slots=True)
class PlacedGlyph:
    """A character where the picture has it: the origin of its glyph, its turn, how far it is off, and whether sure."""

    character: str
    x: float
    y: float
    turn_deg: float
    deviation_px: float
    sure: bool = True

    def along(self, by_px: float) -> tuple[float, float]:
        """Return the place so far along its own base line from its origin."""
        turn = math.radians(self.turn_deg)
        return self.x + by_px * math.cos(turn), self.y + by_px * math.sin(turn)


@dataclass(frozen=True, slots=True)
class Match:
    """A face lettering may have been set in, and how near it is.

    Attributes
    ----------
    face : Face
    text : str
    size_px : float
        Of the em.
    letters : tuple of PlacedGlyph
    baseline : Baseline
    deviation_px : float
        How far outlines are off each other in the mean.
    stretch, lean_deg : float
        How wide letters are against the face's own, and how they lean to the right.
    bolder_px : float
        By how much they are made bolder on every side.
    """

    face: Face
    text: str
    size_px: float
    letters: tuple[PlacedGlyph, ...]
    baseline: Baseline
    deviation_px: float
    stretch: float = 1.0
    lean_deg: float = 0.0
    bolder_px: float = 0.0

    @property
    def advance_px(self) -> float:
        """How wide an em is along the line."""
        return self.size_px * self.stretch


def is_same(one: Match) -> bool:
    """Return whether a face is told to be the same as that of lettering."""
    return one.deviation_px <= max(SAME_PX, SAME_EM * one.size_px)


def is_close(one: Match) -> bool:
    """Return whether a face is the same as that of lettering, or close to it; else it is only near."""
    return is_same(one) or one.deviation_px <= CLOSE_EM * one.size_px


def told_of(one: Match) -> str:
    """Return in words how near a face is to lettering: the same, close but for some letters, or only near."""
    off = f"{one.deviation_px:.2f} px"
    if abs(one.stretch - 1.0) >= 0.005:
        off += f", {one.stretch:.0%} as wide"
    if abs(one.lean_deg) >= 0.25:
        off += f", leaned by {one.lean_deg:.1f}°"
    if is_same(one):
        return f"within {off}: the same"
    limit = 2.0 * float(np.median([glyph.deviation_px for glyph in one.letters]))
    other = sorted({glyph.character for glyph in one.letters if glyph.deviation_px > limit})
    if one.deviation_px <= CLOSE_EM * one.size_px:
        return f"close, {off}: other {' and '.join(other)}" if 0 < len(other) <= 3 else f"close, {off}"
    return f"only near, {off}"
