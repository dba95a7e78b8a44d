"""The forms of working lines: straight, circles and ellipses, or as they were drawn; and what lies on them."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.forms import Ellipse, in_axes
from sobercrow.core.strokes.strokes import Strokes, tree_of

TOLERANCE, BESIDE = 0.8, 1.4
"""A working line runs within so many stroke widths of its form; what lies within the latter belongs to it."""
ALIKE_COS = math.cos(math.radians(12.0))


@dataclass(frozen=True, slots=True)
class StraightLine:
    """A place on a straight working line, its direction, a unit vector, and how far from the place it begins and
    ends."""

    x: float
    y: float
    dx: float
    dy: float
    first: float = 0.0
    last: float = 0.0

    def end(self, along: float) -> tuple[float, float]:
        """Return a place so far along."""
        return self.x + along * self.dx, self.y + along * self.dy

    def scaled(self, factor: float) -> StraightLine:
        """Return the line in pixels so many times as fine."""
        return StraightLine(self.x * factor, self.y * factor, self.dx, self.dy, self.first * factor, self.last * factor)


@dataclass(frozen=True, slots=True, eq=False)
class Freehand:
    """A working line as it was drawn, neither straight nor round: points (n, 2)."""

    points: F64

    def scaled(self, factor: float) -> Freehand:
        """Return the line in pixels so many times as fine."""
        return Freehand(self.points * factor)


WorkingForm = StraightLine | Ellipse | Freehand


@dataclass(frozen=True, slots=True)
class Sought:
    """What working lines are looked for.

    Attributes
    ----------
    diagonal_px : float
        How long the diagonal of the sheet is.
    width_px : float
        About how wide strokes are.
    least_length_px : float
        So much of a line is seen at least.
    over : (h, w) bool, optional
        Where what is darker hides them.
    """

    diagonal_px: float
    width_px: float
    least_length_px: float
    over: NDArray[np.bool_] | None = None

    def hides(self, places: F64) -> NDArray[np.bool_]:
        """Tell at which places (n, 2) a line would not be seen: beneath what is darker, or outside the sheet."""
        if self.over is None:
            return np.zeros(len(places), dtype=np.bool_)
        size = np.array(self.over.shape)
        cells = np.floor(places[:, ::-1]).astype(np.int64)
        rows, columns = np.clip(cells, 0, size - 1).T
        return np.asarray(self.over[rows, columns] | (cells < 0).any(axis=1) | (cells >= size).any(axis=1))


def is_on(strokes: Strokes, form: WorkingForm, width_px: float) -> NDArray[np.bool_]:
    """Tell of each stroke point whether it lies on a working line; strokes are about so wide."""
    if isinstance(form, Freehand):
        away, _ = tree_of(form.points).query(strokes.points, distance_upper_bound=BESIDE * width_px)
        return np.asarray(np.isfinite(away))
    on = (away_from(strokes.points, form) < BESIDE * width_px) & runs_along(strokes.points, strokes.ways, form)
    if isinstance(form, StraightLine):
        at = (strokes.points - (form.x, form.y)) @ (form.dx, form.dy)
        on &= (at > form.first - BESIDE * width_px) & (at < form.last + BESIDE * width_px)
    return np.asarray(on)


def lies_on(points: F64, ways: F64, form: StraightLine | Ellipse, reach: float) -> NDArray[np.bool_]:
    """Tell which points (n, 2), with their directions (n,), are within reach of a form and run along it."""
    return np.asarray((away_from(points, form) < reach) & runs_along(points, ways, form))


def away_from(points: F64, form: StraightLine | Ellipse) -> F64:
    """Return how far points (n, 2) are from a form, px; from an ellipse close to it, by Sampson's approximation.

    Sampson 1982, "Fitting conic sections to very scattered data".
    """
    if isinstance(form, StraightLine):
        x, y = points.T
        return np.asarray(np.abs((y - form.y) * form.dx - (x - form.x) * form.dy))
    if form.is_circle:
        return np.asarray(np.abs(np.hypot(points[:, 0] - form.x, points[:, 1] - form.y) - form.rx))
    u, v = in_axes(points, form).T
    slope = np.hypot(u / form.rx**2, v / form.ry**2)
    return np.asarray(0.5 * np.abs((u / form.rx) ** 2 + (v / form.ry) ** 2 - 1.0) / np.maximum(slope, 1e-9))


def runs_along(points: F64, ways: F64, form: StraightLine | Ellipse) -> NDArray[np.bool_]:
    """Tell of which points (n, 2) the directions (n,) are the form's there."""
    c, s = np.cos(ways), np.sin(ways)
    if isinstance(form, StraightLine):
        return np.asarray(np.abs(c * form.dx + s * form.dy) > ALIKE_COS)
    turn = math.radians(form.angle_deg)
    u, v = in_axes(points, form).T
    across_u, across_v = u / form.rx**2, v / form.ry**2
    along = c * math.cos(turn) + s * math.sin(turn), s * math.cos(turn) - c * math.sin(turn)
    across = (along[0] * across_u + along[1] * across_v) / np.maximum(np.hypot(across_u, across_v), 1e-9)
    return np.asarray(np.abs(across) < math.sqrt(1.0 - ALIKE_COS**2))
