"""Sketched lines that are meant to be circles, ellipses, rectangles or straight."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.forms import (
    Ellipse,
    Rectangle,
    ellipse_of_moments,
    fit_circle,
    fit_ellipse,
    fit_rectangle,
    from_rectangle,
    off_level,
    rectangle_around,
)
from sobercrow.core.geometry.polygon import line_through
from sobercrow.core.sketch.ends import Drawn
from sobercrow.core.strokes.strokes import evenly_spaced
from sobercrow.core.tracing.true_shapes import TrueShape

LEAST_SLACK_PX = 0.8
STRAY, FARTHEST = 0.5, 1.6
"""A line is a form if it strays from it by so many spreads in the mean square, and nowhere by more than the latter."""
CIRCLE = 0.6
"""An ellipse is a circle if its radii differ by so many spreads, or by a tenth of them."""
CIRCLE_SHARE = 0.1
FLATTEST = 5.0
"""An ellipse is at most so many times as long as wide."""
LEAST_RADIUS = 2.5
"""It has a radius of so many spreads at least."""
LEAST_SIDE = 7.0
LEVEL_DEG = 1.5
BOW, STRAIGHT_FARTHEST = 0.35, 0.9
"""A line is straight if its middle lies no more than so many spreads beside its ends, and nothing more than the
latter."""
LEAST_LENGTH = 5.0
"""And if it is so many spreads long."""


def form_of(line: Drawn, spread: float) -> TrueShape | None:
    """Return the circle, ellipse or rectangle a closed line is meant to be, or None; strokes stray by `spread`, px."""
    if not line.closed or len(line.points) < 8:
        return None
    slack = max(spread, LEAST_SLACK_PX)
    points = evenly_spaced(np.concatenate([line.points, line.points[:1]]), 1.0)[:-1]
    if not line.corners:
        return _round_form(points, slack)
    return _rectangle(points, slack) if len(line.corners) == 4 else None


def _round_form(points: F64, slack: float) -> TrueShape | None:
    start = ellipse_of_moments(points)
    if start.ry < LEAST_RADIUS * slack or start.rx > FLATTEST * start.ry:
        return None
    ellipse, away = fit_ellipse(points, start)
    if not _is_near(away, slack) or min(ellipse.rx, ellipse.ry) <= 0.0:
        return None
    if abs(ellipse.rx - ellipse.ry) < max(CIRCLE * slack, CIRCLE_SHARE * ellipse.ry):
        circle, off = fit_circle(points)
        if _is_near(off, slack):
            return _found(circle, off)
    level = abs(off_level(ellipse.angle_deg)) < LEVEL_DEG
    if level:
        ellipse, away = fit_ellipse(points, ellipse, level=True)
    return _found(ellipse, away) if _is_near(away, slack) else None


def _rectangle(points: F64, slack: float) -> TrueShape | None:
    start = rectangle_around(points)
    if min(start.width, start.height) < LEAST_SIDE * slack:
        return None
    form = fit_rectangle(points, start, level=abs(start.angle_deg) < LEVEL_DEG, round_corners=False)
    away = from_rectangle(points, form)
    return _found(form, away) if _is_near(away, slack) else None


def _is_near(away: F64, slack: float) -> bool:
    return bool(np.sqrt((away**2).mean()) < STRAY * slack and np.abs(away).max() < FARTHEST * slack)


def _found(form: Ellipse | Rectangle, away: F64) -> TrueShape:
    return TrueShape(form, float(np.abs(away).max()))


def straightened(run: F64, spread: float) -> F64 | None:
    """Return the two ends (2, 2) of a run of points that is meant to be straight, or None."""
    slack = max(spread, LEAST_SLACK_PX)
    chord = run[-1] - run[0]
    length = float(np.hypot(*chord))
    if length < LEAST_LENGTH * slack:
        return None
    middle, way = line_through(run, chord / length)
    off = run - middle
    across = off[:, 1] * way[0] - off[:, 0] * way[1]
    if np.abs(across).max() > STRAIGHT_FARTHEST * slack:
        return None
    third = max(len(run) // 3, 1)
    bow = across[third : len(run) - third].mean() - 0.5 * (across[:third].mean() + across[len(run) - third :].mean())
    return run[[0, -1]] if abs(float(bow)) < BOW * slack else None
