"""The true shapes that a drawn one comes nearest to: circle, ellipse, rectangle, round corners, polygon, bar."""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import change_shapes, checked_shapes
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.placing import Nine, Sized, box_of, to_size
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import (
    Ellipse,
    Form,
    Rectangle,
    ellipse_of_moments,
    fit_circle,
    fit_ellipse,
    fit_rectangle,
    from_rectangle,
    kind_of,
    rectangle_around,
)
from sobercrow.core.geometry.least_squares import least_squares

POINTS = 240
SETTLED = 1e-7
MOST_SIDES = 8
BETTER = 0.8
"""A turned form is taken if it is off by less than this share of a level one, and by so much in px."""
BETTER_PX = 0.06
SAME_OFF_PX = 0.02
"""Of forms that are about as near, the plainer one comes first."""
_UP = -0.5 * math.pi
POLYGONS = {3: "triangle", 4: "square", 5: "pentagon", 6: "hexagon", 7: "heptagon", 8: "octagon"}
LEAST_ROUND_PX, MOST_ROUND = 0.8, 0.45
"""Corners as round as half of both sides make a circle."""


@dataclass(frozen=True, slots=True, eq=False)
class Candidate:
    """One true shape: its name, what it draws, and how far the drawn shape is from it, rms and at most, in px."""

    name: str
    contour: Contour
    rms_px: float
    largest_px: float


def candidates(contour: Contour) -> list[Candidate]:
    """Return the true shapes a closed contour comes nearest to, the nearest first.

    Each is fitted to the contour by least squares of the distances. Level ones are taken unless a turned one is
    definitely nearer.

    Raises
    ------
    EditError
        If the contour is open or has no area.
    """
    if not contour.closed or abs(contour.area()) < 1.0:
        raise EditError("Only a closed shape of some size can be made a true one.")
    line = contour.sampled(max(_length(contour) / POINTS, 0.05))
    found = [*_round(line), *_rectangles(line), *_polygons(line)]
    made = [_candidate(contour, name, form, off) for name, form, off in found]
    return sorted(
        made, key=lambda one: one.rms_px + (SAME_OFF_PX if one.name in ("ellipse", "rounded rectangle") else 0.0)
    )


def _length(contour: Contour) -> float:
    line = contour.sampled(1.0)
    return float(np.hypot(*np.diff(np.vstack([line, line[:1]]), axis=0).T).sum())


AnyForm = TypeVar("AnyForm", Ellipse, Rectangle)
Found = tuple[str, Form | F64, F64]
"""A name, the form or a polygon's corners, and how far the points are from it."""


def _candidate(like: Contour, name: str, form: Form | F64, off: F64) -> Candidate:
    if isinstance(form, Ellipse | Rectangle):
        made = Contour.of_form(form)
    else:
        made = Contour(np.repeat(form[:, None], 3, axis=1), np.zeros(len(form), np.uint8))
    made = made if (made.area() > 0) is (like.area() > 0) else made.reversed()
    return Candidate(name, made, _rms(off), float(np.abs(off).max()))


def _rms(off: F64) -> float:
    return math.sqrt(float((off**2).mean()))


def _level_if_it_holds(level: tuple[AnyForm, F64], turned: tuple[AnyForm, F64]) -> tuple[AnyForm, F64]:
    one, other = _rms(level[1]), _rms(turned[1])
    return turned if other < BETTER * one and one - other > BETTER_PX else level


def _round(line: F64) -> list[Found]:
    circle, off = fit_circle(line)
    found: list[Found] = [("circle", circle, off)]
    start = ellipse_of_moments(line)
    if min(start.rx, start.ry) > 0.3:
        ways = [fit_ellipse(line, start, level, 40) for level in (True, False)]
        form, away = _level_if_it_holds(*ways)
        if np.isfinite(away).all() and min(form.rx, form.ry) > 0.0 and _rms(away) < _rms(off) - SAME_OFF_PX:
            found.append(("ellipse", form, away))
    return found


def _rectangles(line: F64) -> list[Found]:
    found: list[Found] = []
    for rounded in (False, True):
        fits = [fit_rectangle(line, _start(line, level), level, rounded) for level in (True, False)]
        form, off = _level_if_it_holds(*((fit, from_rectangle(line, fit)) for fit in fits))
        if min(form.width, form.height) <= 0.0:
            continue
        if not rounded:
            square = abs(form.width - form.height) < 0.02 * form.width
            found.append(("square" if square else kind_of(form), form, off))
        elif (
            LEAST_ROUND_PX < form.radius < MOST_ROUND * max(form.width, form.height)
            and _rms(off) < _rms(found[0][2] if found else off + 1.0) - SAME_OFF_PX
        ):
            found.append(("rounded rectangle", form, off))
    return found


def _start(line: F64, level: bool) -> Rectangle:
    """Where the fit of a rectangle begins: the smallest one around, or the level one."""
    if not level:
        return rectangle_around(line)
    low, high = line.min(axis=0), line.max(axis=0)
    x, y = 0.5 * (low + high)
    width, height = high - low
    return Rectangle(float(x), float(y), float(width), float(height), 0.15 * float(min(width, height)))


def _polygons(line: F64) -> list[Found]:
    """The nearest regular polygon, turned level if that is hardly further off; a square is found among rectangles."""
    middle = line.mean(axis=0)
    size = float(np.hypot(*(line - middle).T).mean())
    turned = [_RegularFit(line, sides).turned(middle, size) for sides in range(3, MOST_SIDES + 1) if sides != 4]
    found: list[Found] = []
    for fit, at, off in sorted(turned, key=lambda one: _rms(one[2])):
        if found and _rms(off) >= min(_rms(one[2]) for one in found):
            break  # a level one would be further off still
        level, level_off = fit.level(at)
        better = _rms(off) < BETTER * _rms(level_off) and _rms(level_off) - _rms(off) > BETTER_PX
        best = (at, off) if better else (level, level_off)
        found.append((POLYGONS[fit.sides], fit.corners(best[0]), best[1]))
    return [min(found, key=lambda one: _rms(one[2]))]


@dataclass(frozen=True, slots=True, eq=False)
class _RegularFit:
    """Fits regular polygons of so many sides to points: x and y of the middle, the radius, the first corner's angle."""

    line: F64
    sides: int

    @property
    def step(self) -> float:
        return 2.0 * math.pi / self.sides

    def corners(self, at: F64) -> F64:
        angle = at[3] + self.step * np.arange(self.sides)
        return np.column_stack([at[0] + at[2] * np.cos(angle), at[1] + at[2] * np.sin(angle)])

    def off(self, at: F64) -> F64:
        """How far the points are from one."""
        away = self.line - at[:2]
        within = np.mod(np.arctan2(away[:, 1], away[:, 0]) - at[3], self.step) - 0.5 * self.step
        return np.asarray(np.hypot(*away.T) * np.cos(within) - at[2] * math.cos(0.5 * self.step))

    def turned(self, middle: F64, size: float) -> tuple[_RegularFit, F64, F64]:
        """The nearest one, begun at whichever turn is nearest, and how far the points are from it."""
        starts = [np.array((*middle, 1.1 * size, _UP + self.step * share)) for share in (0.0, 0.25, 0.5, 0.75)]
        made = least_squares(self.off, min(starts, key=lambda at: _rms(self.off(at))), SETTLED)
        return self, made, self.off(made)

    def level(self, near: F64) -> tuple[F64, F64]:
        """The nearest one that has a corner or a side up or level, turned most like another."""
        angle = _UP + 0.25 * self.step * round((float(near[3]) - _UP) / (0.25 * self.step))
        made = least_squares(lambda at: self.off(np.append(at, angle)), near[:3], SETTLED)
        at = np.append(made, angle)
        return at, self.off(at)


def make_true(artwork: Artwork, choice: Choice) -> Edited:
    """Make chosen shapes the true ones they come nearest to; holes are made true by themselves.

    Raises
    ------
    EditError
        If no filled shape is chosen.
    """
    chosen = checked_shapes(artwork, choice.shapes)
    if not any(artwork.shapes[k].contours[0].closed for k in chosen):
        raise EditError("Choose closed shapes to be made true.")

    def true(contour: Contour) -> Contour:
        if not contour.closed or abs(contour.area()) < 1.0:
            return contour
        return candidates(contour)[0].contour

    def change(k: int, shape: Shape) -> Shape:
        return replace(shape, contours=tuple(true(c) for c in shape.contours)) if k in chosen else shape

    return Edited(change_shapes(artwork, change), choice)


def made_true(artwork: Artwork, shape: int, candidate: Candidate) -> Artwork:
    """Put a candidate in the place of a shape's outer contour; its holes stay."""
    return change_shapes(
        artwork, lambda k, one: replace(one, contours=(candidate.contour, *one.contours[1:])) if k == shape else one
    )


def same_size(artwork: Artwork, choice: Choice) -> Edited:
    """Bring chosen shapes to one size, the mean of theirs, each about its own middle.

    Raises
    ------
    EditError
        If fewer than two are chosen.
    """
    chosen: Collection[int] = checked_shapes(artwork, choice.shapes)
    if len(chosen) < 2:
        raise EditError("Choose two shapes or more to bring them to one size.")
    boxes = [box_of(artwork, Choice(shapes=frozenset({k}))) for k in chosen]
    sizes = np.array([(b[2] - b[0], b[3] - b[1]) for b in boxes if b is not None])
    width, height = sizes.mean(axis=0).tolist()
    for k in chosen:
        artwork = to_size(artwork, Choice(shapes=frozenset({k})), Sized(width, height), Nine.MIDDLE)
    return Edited(artwork, choice)
