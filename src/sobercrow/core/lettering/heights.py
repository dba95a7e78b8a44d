"""The lines lettering keeps to: base line, x-height, cap height, ascender, descender, slant; found from the letters."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.model import Shape
from sobercrow.core.artwork.snapping import Guide, Lies
from sobercrow.core.errors import LetteringError
from sobercrow.core.lettering.baseline import Straight, proposed
from sobercrow.core.lettering.letters import letters_on, middles_of
from sobercrow.core.lettering.posture import slants_of
from sobercrow.core.lettering.strokes import strokes_of

LEVEL_DEG = 3.0
"""Guides are level; lettering that runs at another angle keeps to none."""
ONE_LINE = 0.07
"""Tops or feet nearer to each other, as a share of the usual height, stand on one line: round letters overshoot."""
APART = 0.13
"""Lines that mean different things are at least so far from each other."""


@dataclass(frozen=True, slots=True)
class Heights:
    """Where lines run, in px down; None where no letter reaches there."""

    baseline: float
    x_height: float | None
    capital: float | None
    ascender: float | None
    descender: float | None

    def named(self) -> dict[str, float]:
        """Return those there are, with what they are called."""
        every = {
            "base line": self.baseline,
            "x-height": self.x_height,
            "cap height": self.capital,
            "ascender": self.ascender,
            "descender": self.descender,
        }
        return {name: at for name, at in every.items() if at is not None}


def heights_of(shapes: Sequence[Shape]) -> Heights:
    """Return the lines a line of level lettering keeps to.

    Feet stand on the base line, those far below it on the descender; tops of most small letters are the x-height, and
    higher ones the cap height. Where all are about as high, capitals or small letters, only the one line is told.

    Raises
    ------
    LetteringError
        If there are fewer than two letters, or they do not run level.
    """
    middles, _ = middles_of(shapes)
    line = proposed(middles, 1.0, arcs=False)[0]
    if len(middles) < 2 or not isinstance(line, Straight):
        raise LetteringError("Choose two letters or more to find the lines they keep to.")
    if abs(line.angle_deg) > LEVEL_DEG and np.ptp(middles[:, 1]) > 0.25 * np.ptp(middles[:, 0]):
        raise LetteringError("This lettering does not run level; guides are level and upright.")
    letters = letters_on(shapes, Straight(line.x, line.y, 0.0))
    boxes = np.array([letter.box + np.tile(letter.foot, 2) for letter in letters])
    tops, feet = boxes[:, 1], boxes[:, 3]
    usual = float(np.median(feet - tops))
    baseline = _most(feet, usual)
    low = feet[feet > baseline + APART * usual]
    high = tops[tops < baseline - 0.5 * usual]
    groups = _lines(high, usual)
    x_height = capital = ascender = None
    if groups:
        lowest, capital = float(np.median(groups[-1])), float(np.median(groups[0]))
        x_height = lowest if lowest - capital > APART * usual else None
        if len(groups) > 2:  # small letters, capitals, and what rises above these
            ascender, capital = capital, float(np.median(groups[1]))
    return Heights(baseline, x_height, capital, ascender, float(np.median(low)) if len(low) else None)


def guides_of(shapes: Sequence[Shape]) -> dict[str, Guide]:
    """Return guides at the lines level lettering keeps to, by what they are called; and along its slant, if it has one.

    Raises
    ------
    LetteringError
        As `heights_of`.
    """
    guides = {name: Guide(Lies.LEVEL, at) for name, at in heights_of(shapes).named().items()}
    try:
        slants = slants_of(strokes_of(shapes))
    except LetteringError:
        return guides
    if len(slants.values) > 1:
        first = slants.places[int(slants.places[:, 0].argmin())].tolist()
        guides["slant"] = Guide(Lies.UPRIGHT, 0.0, slants.usual).through(*first)
    return guides


def _lines(places: F64, usual: float) -> list[F64]:
    """Places in groups that stand on one line each, from the top."""
    ordered = np.sort(places)
    return np.split(ordered, np.flatnonzero(np.diff(ordered) > ONE_LINE * usual) + 1) if len(ordered) else []


def _most(places: F64, usual: float) -> float:
    """The line most places stand on."""
    return float(np.median(max(_lines(places, usual), key=len)))
