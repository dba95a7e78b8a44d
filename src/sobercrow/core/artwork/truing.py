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
    """Regular polygons; a square is found among the rectangles."""
    middle = line.mean(axis=0)
    size = float(np.hypot(*(line - middle).T).mean())
    found: list[Found] = []
    for sides in range(3, MOST_SIDES + 1):
        if sides == 4:
            continue
        best = min(
            (_fitted_polygon(line, sides, middle, size, turn) for turn in (0.0, 0.5)), key=lambda one: _rms(one[1])
        )
        level = min(
            (_fitted_polygon(line, sides, middle, size, turn, fixed=True) for turn in (0.0, 0.25, 0.5, 0.75)),
            key=lambda one: _rms(one[1]),
        )
        better = _rms(best[1]) < BETTER * _rms(level[1]) and _rms(level[1]) - _rms(best[1]) > BETTER_PX
        corners, off = best if better else level
        found.append((POLYGONS[sides], corners, off))
    nearest = min(found, key=lambda one: _rms(one[2]))
    return [nearest]


def _fitted_polygon(
    line: F64, sides: int, middle: F64, size: float, turn: float, fixed: bool = False
) -> tuple[F64, F64]:
    """The regular polygon nearest to points, begun turned by a share of its step; corners and distances."""
    step = 2.0 * math.pi / sides
    start = [float(middle[0]), float(middle[1]), 1.1 * size]
    first = -0.5 * math.pi + turn * step

    def corners(p: F64) -> F64:
        angle = (first if fixed else float(p[3])) + step * np.arange(sides)
        return np.column_stack([p[0] + p[2] * np.cos(angle), p[1] + p[2] * np.sin(angle)])

    def off(p: F64) -> F64:
        angle = first if fixed else float(p[3])
        away = line - p[:2]
        turned = np.arctan2(away[:, 1], away[:, 0]) - angle
        within = np.mod(turned, step) - 0.5 * step
        return np.asarray(np.hypot(*away.T) * np.cos(within) - p[2] * math.cos(0.5 * step))

    made = least_squares(off, np.array(start if fixed else [*start, first]), SETTLED)
    return corners(made), off(made)


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
