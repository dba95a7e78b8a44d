"""Ends of curves put exactly onto the curves they meet: fitting moves both by less than strokes stray."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import Contour

MOST = 0.8
"""Ends so many spreads from another curve were led to it."""
OWN_LEAST = 3.0
"""An end may lie on another curve of its own line if its own spans so many spreads."""


def ends_on_curves(contours: Sequence[Contour], spread: float) -> list[Contour]:
    """Return contours whose free ends lie exactly on other curves where they were no further off than strokes stray."""
    made = list(contours)
    boxes = np.array([contour.bounds() for contour in contours]).reshape(-1, 2, 2)
    low, high = boxes[:, 0] - MOST * spread, boxes[:, 1] + MOST * spread
    for k, contour in enumerate(contours):
        if contour.closed or len(contour) < 2:
            continue
        for row in (0, -1):
            end = made[k].anchors[row]
            near = np.flatnonzero(((low <= end) & (end <= high)).all(axis=1)).tolist()
            curves = [made[n].curves() for n in near if n != k] + [_beyond(made[k], row, spread)]
            made[k] = _led_to(made[k], row, np.concatenate(curves), MOST * spread)
    return made


def _beyond(contour: Contour, row: int, spread: float) -> F64:
    """The curves of a contour an end may meet: all but the one it ends."""
    curves = contour.curves()
    own, rest = (curves[0], curves[1:]) if row == 0 else (curves[-1], curves[:-1])
    return rest if np.hypot(*(own[3] - own[0])) > OWN_LEAST * spread else rest[:0]


def _led_to(contour: Contour, row: int, curves: F64, most: float) -> Contour:
    """A contour whose end lies on the nearest of some curves, if one is near enough."""
    end = contour.anchors[row]
    near = ((curves.min(axis=1) - most <= end) & (end <= curves.max(axis=1) + most)).all(axis=1)
    curves = curves[near]
    if not len(curves):
        return contour
    x, y = end.tolist()
    index, t, away = bezier.nearest(curves, (x, y))
    if not 0.0 < away <= most:
        return contour
    points = contour.points.copy()
    points[row] += bezier.evaluate(curves[index], np.array([t]))[0] - points[row, 1]
    return Contour(points, contour.kinds, closed=False)
