"""A match stretched and leaned as far as the picture says; of a variable font, at the place on its axes it says."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.errors import LetteringError
from sobercrow.core.lettering.laying import Laid, LetterLines, laid_on
from sobercrow.core.lettering.letters import Letter
from sobercrow.core.lettering.matches import Match, PlacedGlyph
from sobercrow.core.lettering.typefaces import Face, axes_of

STRETCH, LEAN_DEG = 0.25, 14.0
"""No more is tried on either side."""
LEAST_STRETCH, LEAST_LEAN_DEG = 0.01, 0.7
"""What is less is none."""
BETTER = 0.8
"""Outlines come so much nearer, or it is left."""
TRIES, FIRST_STEPS = 20, (0.25, -0.25)
"""For each number; of those that are fitted, and with axes once more the other way (Nelder & Mead 1965)."""


class _Shape(NamedTuple):
    """A width against the face's own, a lean to the right, and a place on the axes."""

    stretch: float
    lean_deg: float
    axes: tuple[tuple[str, float], ...]

    def undone(self, points: F64) -> F64:
        """Return points of letters as they would be without stretch and lean."""
        upright = points[:, 0] + math.tan(math.radians(self.lean_deg)) * points[:, 1]
        return np.stack([upright / self.stretch, points[:, 1]], axis=1)

    def done(self, x: float, y: float) -> tuple[float, float]:
        """Return a place without stretch and lean as it is with them."""
        return self.stretch * x - math.tan(math.radians(self.lean_deg)) * y, y


def shaped(one: Match, letters: Sequence[Letter]) -> Match:
    """Return a match whose outlines come much nearer to its letters stretched and leaned, or elsewhere on its axes.

    Else it is returned as it is. `letters` are those it was laid on, in their order.
    """
    from scipy.optimize import minimize  # SciPy comes in when it is first needed

    if len(letters) != len(one.letters):
        return one
    lines = LetterLines.of(letters)
    ranges = axes_of(one.face)
    characters = "".join(letter.character for letter in one.letters)
    best: tuple[float, _Shape, Laid] | None = None

    def shape_at(at: F64) -> _Shape:
        axes = []
        for (tag, low, high), share, (_, own) in zip(ranges, at[2:].tolist(), one.face.axes, strict=True):
            axes.append((tag, float(np.clip(own + share * (high - low), low, high))))
        stretch, lean = (float(np.clip(value, -1.0, 1.0)) for value in at[:2])
        return _Shape(1.0 + STRETCH * stretch, LEAN_DEG * lean, tuple(axes))

    def off(at: F64) -> float:
        nonlocal best
        shape = shape_at(at)
        laid = _laid(one, lines, characters, shape)
        if laid is None:
            return math.inf
        cost = float(laid[2].mean()) + 1e-3 * one.size_px * float(np.abs(at).max() > 1.0)
        if best is None or cost < best[0]:
            best = cost, shape, laid
        return cost

    start = np.zeros(2 + len(ranges))
    for step in FIRST_STEPS if ranges else FIRST_STEPS[:1]:
        simplex = np.vstack([start, start + step * np.eye(len(start))])
        how = {"maxfev": TRIES * len(start), "initial_simplex": simplex}
        start = minimize(off, start, method="Nelder-Mead", options=how).x
    if best is None or best[0] > BETTER * one.deviation_px:
        return one
    _, shape, laid = best
    if not ranges and abs(shape.stretch - 1.0) < LEAST_STRETCH and abs(shape.lean_deg) < LEAST_LEAN_DEG:
        return one
    return _with_shape(one, letters, shape, laid)


def _laid(one: Match, lines: LetterLines, characters: str, shape: _Shape) -> Laid | None:
    plain = replace(lines, points=shape.undone(lines.points))
    try:
        return laid_on(plain, _face_at(one.face, shape), characters, one.size_px, 0.0)
    except LetteringError:
        return None


def _face_at(face: Face, shape: _Shape) -> Face:
    return replace(face, axes=shape.axes) if shape.axes else face


def _with_shape(one: Match, letters: Sequence[Letter], shape: _Shape, laid: Laid) -> Match:
    size, places, off = laid
    placed: list[PlacedGlyph] = []
    for letter, glyph, (dx, dy, turn), away in zip(letters, one.letters, places, off, strict=True):
        x, y = letter.placed(np.array(shape.done(float(dx), float(dy)))).tolist()
        turned = letter.turn_deg + math.degrees(float(turn))
        placed.append(replace(glyph, x=x, y=y, turn_deg=turned, deviation_px=float(away)))
    return replace(
        one,
        face=_face_at(one.face, shape),
        size_px=size,
        letters=tuple(placed),
        deviation_px=float(off.mean()),
        stretch=shape.stretch,
        lean_deg=shape.lean_deg,
    )
