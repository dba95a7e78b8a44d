"""Circles, ellipses and rectangles found among traced outlines; what was found of any kind, and what is refused."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, following
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import (
    Ellipse,
    Form,
    Mirror,
    Rectangle,
    Regular,
    Related,
    Relation,
    ellipse_of_moments,
    fit_circle,
    fit_ellipse,
    fit_rectangle,
    from_rectangle,
    in_axes,
    off_level,
    rectangle_around,
)
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.settings import Tracing

LEAST_RADIUS_PX, LEAST_POINTS = 2.5, 14
LEAST_ROUNDNESS = 0.5
"""Area over that of a circle of the same perimeter: an ellipse four times as long as wide has as much."""
SMOOTHED_POINTS = 7
"""Over so many border points in a row the noise of single ones averages out; what is left is another form."""
CIRCLE_SLACK_PX, CIRCLE_SLACK = 0.03, 0.002
ELLIPSE_SLACK_PX, ELLIPSE_SLACK = 0.018, 0.001
"""How far the border may stray smoothly from a true shape: in px, and as a share of its radius more."""
NEAR_PX, NEAR = 0.15, 0.015
ABOUT_ROUNDS, ABOUT_PX, ABOUT = 2, 0.08, 0.008
"""What is not as near as this after so many rounds of the fit will not be an ellipse."""
LEVEL_DEG = 1.5
SIDE_SLACK_PX = 0.03
LEAST_SIDE_PX = 3.0
LEAST_FILLED = 0.78
"""A rectangle whose corners are as round as can be fills this share of the one around it."""
CORNER_CLEAR_PX, CORNER_LOSS_PX = 1.8, 1.2
"""Border within the former of a sharp corner is rounded by blur, by up to the latter."""
ROUND_PX, MOST_ROUND = 1.8, 0.36
"""Corners are called round from so many px on, up to so much of the shorter side: beyond it is an oval."""
REFUSED_WITHIN = 0.25
REPLACED_WITHIN_PX = 0.5
BEYOND_PX = 1e6


@dataclass(frozen=True, slots=True)
class TrueShape:
    """A true shape, mirror symmetry or relation found, how far the border is from it, and whether it was refused."""

    form: Regular
    deviation_px: float
    refused: bool = False

    def scaled(self, factor: float) -> TrueShape:
        """Return it with all coordinates multiplied."""
        return replace(self, form=self.form.scaled(factor), deviation_px=self.deviation_px * factor)

    def judged(self, settings: Tracing) -> TrueShape:
        """Return it squared up as the settings say, an axis excepted, and whether they refuse it."""
        form = self.form if isinstance(self.form, (Mirror, Related)) else squared(self.form, settings.square_up_deg)
        return replace(self, form=form, refused=is_refused(form, settings.refused))

    def is_replaced_by(self, other: TrueShape) -> bool:
        """Tell whether it is a rectangle in whose place, drawn anew, there is another shape now."""
        same_place = math.hypot(self.form.x - other.form.x, self.form.y - other.form.y) < REPLACED_WITHIN_PX
        return isinstance(self.form, Rectangle) and isinstance(other.form, Ellipse) and same_place


def find_form(line: F64, tolerance_px: float, grain_px: float = 1.0) -> TrueShape | None:
    """Return the true shape a border (n, 2) is, or None if it is none within the tolerance.

    `grain_px` as in `trace`: what is wavier than that is noise.
    """
    every = max(1, round(grain_px))
    points = np.ascontiguousarray(line[::every] / grain_px)
    tolerance = tolerance_px / grain_px
    found = _round_form(points, tolerance)
    if found is None:
        found = _rectangle(points, tolerance)
    return None if found is None else found.scaled(grain_px)


def as_contour(form: Regular, like: Contour) -> Contour:
    """Return a form as a contour, run through as another one is; what draws nothing leaves that as it is."""
    if isinstance(form, (Mirror, Related)):
        return like
    made = Contour.of_form(form)
    return made if like.area() > 0 else made.reversed()


def squared(form: Form, degrees: float) -> Form:
    """Return a form with its axes made level if they are within so many degrees of it."""
    off = off_level(form.angle_deg)
    return replace(form, angle_deg=form.angle_deg - off) if abs(off) <= degrees else form


def size_of(form: Regular) -> float:
    """Return half of what a form is wide and high, in the mean; of an axis half its length, below nought.

    So an axis is refused by itself, not with a circle around it; relations are as far below, each kind elsewhere.
    """
    if isinstance(form, Mirror):
        return -0.5 * form.length
    if isinstance(form, Related):
        return -BEYOND_PX * (1 + list(Relation).index(form.relation)) - 0.5 * form.size
    return 0.5 * (form.rx + form.ry) if isinstance(form, Ellipse) else 0.25 * (form.width + form.height)


def is_refused(form: Regular, refused: Sequence[tuple[float, float, float]]) -> bool:
    """Tell whether a form was refused: one of about that size with its middle about there."""
    size = size_of(form)
    room = max(1.0, REFUSED_WITHIN * (0.5 * form.size if isinstance(form, Related) else abs(size)))
    return any(math.hypot(form.x - x, form.y - y) <= room and abs(size - s) <= room for x, y, s in refused)


def _round_form(points: F64, tolerance: float) -> TrueShape | None:
    if len(points) < LEAST_POINTS:
        return None
    perimeter = float(np.linalg.norm(following(points) - points, axis=1).sum())
    if 4.0 * math.pi * abs(polygon_area(points)) < LEAST_ROUNDNESS * perimeter**2:
        return None
    start = ellipse_of_moments(points)
    if start.ry < LEAST_RADIUS_PX or not _is_near(points, start):
        return None
    if start.rx / start.ry < 1.1:
        circle, distance = fit_circle(points)
        if _holds(distance, CIRCLE_SLACK_PX + CIRCLE_SLACK * circle.rx, tolerance):
            return TrueShape(circle, float(np.abs(distance).max()))
    off = abs(off_level(start.angle_deg))
    for level in (True, False) if off < LEVEL_DEG + 90.0 * (start.rx / start.ry < 1.1) else (False,):
        about, distance = fit_ellipse(points, start, level, ABOUT_ROUNDS)
        if not np.isfinite(distance).all() or _strays(distance) > ABOUT_PX + ABOUT * start.ry:
            continue
        ellipse, distance = fit_ellipse(points, about, level)
        if _holds(distance, ELLIPSE_SLACK_PX + ELLIPSE_SLACK * ellipse.ry, tolerance):
            return TrueShape(ellipse, float(np.abs(distance).max()))
    return None


def _is_near(points: F64, ellipse: Ellipse) -> bool:
    """Tell quickly whether points can lie on an ellipse about like this."""
    u, v = in_axes(points, ellipse).T
    out = np.hypot(u / ellipse.rx, v / ellipse.ry)
    slope = np.hypot(u / ellipse.rx**2, v / ellipse.ry**2) / np.maximum(out, 1e-9)
    return bool(_strays((out - 1.0) / np.maximum(slope, 1e-9)) < NEAR_PX + NEAR * ellipse.rx)


def smoothed(distance: F64, over: int) -> F64:
    """Return how far a closed border is from a form, either way, in the mean over so many points in a row."""
    beyond = np.concatenate([distance[-(over // 2) :], distance, distance[: over // 2]])
    return np.abs(np.convolve(beyond, np.full(over, 1.0 / over), "valid"))


def _strays(distance: F64) -> float:
    """How far a closed border strays smoothly from a form."""
    return float(smoothed(distance, SMOOTHED_POINTS).max())


def _holds(distance: F64, slack_px: float, tolerance: float) -> bool:
    if not np.isfinite(distance).all():
        return False
    return _strays(distance) <= min(slack_px, tolerance) and float(np.abs(distance).max()) <= max(
        tolerance, 4 * slack_px
    )


def _rectangle(points: F64, tolerance: float) -> TrueShape | None:
    """A rectangle, its corners sharp or round: blur rounds sharp ones by a pixel or two."""
    if len(points) < LEAST_POINTS:
        return None
    start = rectangle_around(points)
    if min(start.width, start.height) < LEAST_SIDE_PX or start.width * start.height * LEAST_FILLED > _area(points):
        return None
    if _strays(from_rectangle(points, start)) > NEAR_PX + NEAR * max(start.width, start.height):
        return None
    for round_corners in (False, True):
        if round_corners and not ROUND_PX <= start.radius <= MOST_ROUND * min(start.width, start.height):
            break
        clear = points if round_corners else points[_off_corners(points, start)]
        if len(clear) < LEAST_POINTS // 2:
            continue
        for level in (True, False) if abs(start.angle_deg) < LEVEL_DEG else (False,):
            form = fit_rectangle(clear, start, level, round_corners)
            distance = from_rectangle(points, form)
            on_sides = distance if round_corners else distance[_off_corners(points, form)]
            if not round_corners and float(np.abs(distance).max()) > CORNER_LOSS_PX:
                continue
            slack = SIDE_SLACK_PX + ELLIPSE_SLACK * min(form.width, form.height)
            if len(on_sides) and _holds(on_sides, slack, tolerance):
                return TrueShape(form, float(np.abs(on_sides).max()))
    return None


def _area(points: F64) -> float:
    return abs(float(polygon_area(points)))


def _off_corners(points: F64, form: Rectangle) -> NDArray[np.bool_]:
    """Tell which points are not near a corner of a rectangle."""
    beyond = np.abs(in_axes(points, form)) - (0.5 * form.width, 0.5 * form.height)
    return np.asarray((beyond < -CORNER_CLEAR_PX).any(axis=1))
