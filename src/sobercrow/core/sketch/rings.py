"""Small rings in a sketch, too small to be followed at the scale of the hand: found by votes along normals."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.forms import fit_circle
from sobercrow.core.sketch.lifted import Traced
from sobercrow.core.strokes.strokes import Strokes

LEAST_RADIUS, MOST_RADIUS, STEP = 1.8, 10.0, 0.35
"""Radii looked for, and the steps between them, in spreads."""
CELL = 0.5
"""Votes are counted in cells so many spreads wide."""
LEAST_VOTES = 0.4
"""Of a whole ring of one stroke so much at least must vote for one middle."""
MOST = 60
ON, ALIKE = 0.9, 0.5
"""Points of a ring lie within so many spreads of it and run along it, their direction within 30°."""
COVER = 0.85
"""So much of its round has strokes."""
STRAY = 0.6
TAKEN, TAKEN_ALIKE = 1.3, 0.6
LEAST_POINTS = 12
ROUNDS = 4


def find_rings(strokes: Strokes, spread: float) -> tuple[list[Traced], NDArray[np.bool_]]:
    """Return small rings as closed lines, and which stroke points (n,) they account for.

    Every stroke point votes for the middles of rings it may be on, at both sides along its normal (Kimme, Ballard &
    Sklansky 1975, "Finding circles by an array of accumulators").
    """
    used = np.zeros(len(strokes), dtype=np.bool_)
    if len(strokes) < LEAST_POINTS:
        return [], used
    found: list[Traced] = []
    for _, x, y, radius in sorted(_candidates(strokes, spread), reverse=True)[:MOST]:
        ring = _fitted(strokes, used, np.array([x, y]), radius, spread)
        if ring is None:
            continue
        middle, radius = ring
        off = strokes.points - middle
        away = np.hypot(*off.T)
        along = np.abs(off[:, 0] * np.cos(strokes.ways) + off[:, 1] * np.sin(strokes.ways))
        used |= (np.abs(away - radius) < TAKEN * spread) & (along < TAKEN_ALIKE * away)
        angle = np.linspace(0.0, 2.0 * math.pi, max(12, round(2.0 * math.pi * radius)), endpoint=False)
        found.append(Traced(middle + radius * np.column_stack([np.cos(angle), np.sin(angle)]), True))
    return found, used


def _candidates(strokes: Strokes, spread: float) -> list[tuple[float, float, float, float]]:
    """Likely rings: votes, x, y and radius."""
    cell = CELL * spread
    origin = strokes.points.min(axis=0) - (MOST_RADIUS + 1.0) * spread
    room = np.ptp(strokes.points, axis=0) + 2.0 * (MOST_RADIUS + 1.0) * spread
    width, height = (np.ceil(room / cell).astype(int) + 1).tolist()
    normal = np.column_stack([-np.sin(strokes.ways), np.cos(strokes.ways)])
    made = []
    for radius in np.arange(LEAST_RADIUS, MOST_RADIUS + 1e-9, STEP) * spread:
        votes = np.zeros(width * height)
        for side in (1.0, -1.0):
            cells = np.round((strokes.points + side * radius * normal - origin) / cell).astype(np.int64)
            votes += np.bincount(cells[:, 1] * width + cells[:, 0], minlength=width * height)
        share = (votes / (2.0 * math.pi * radius)).reshape(height, width).astype(np.float32)
        # what lies a cell beside the middle votes for it too
        near = cv2.GaussianBlur(share, (0, 0), 1.0) * np.float32(2.0 * math.pi)
        greatest = cv2.dilate(near, np.ones((5, 5), np.uint8))
        rows, columns = np.nonzero((near == greatest) & (near > LEAST_VOTES))
        places = np.column_stack([columns, rows]) * cell + origin
        made += [
            (float(v), *place, float(radius)) for v, place in zip(near[rows, columns], places.tolist(), strict=True)
        ]
    return made


def _fitted(
    strokes: Strokes, used: NDArray[np.bool_], middle: F64, radius: float, spread: float
) -> tuple[F64, float] | None:
    """A ring fitted to the free points on it; None if they do not go round."""
    on = np.zeros(len(strokes), dtype=np.bool_)
    for _ in range(ROUNDS):
        off = strokes.points - middle
        away = np.hypot(*off.T)
        along = np.abs(off[:, 0] * np.cos(strokes.ways) + off[:, 1] * np.sin(strokes.ways))
        on = (np.abs(away - radius) < ON * spread) & ~used & (along < ALIKE * away)
        if on.sum() < LEAST_POINTS:
            return None
        circle, _ = fit_circle(strokes.points[on])
        middle, radius = np.array([circle.x, circle.y]), circle.rx
    if not 0.8 * LEAST_RADIUS * spread < radius < 1.2 * MOST_RADIUS * spread:
        return None
    off = strokes.points[on] - middle
    parts = int(np.clip(2.0 * math.pi * radius / (0.8 * spread), 12, 60))
    angle = np.arctan2(off[:, 1], off[:, 0]) / (2.0 * math.pi) % 1.0
    covered = len(np.unique((angle * parts).astype(int))) / parts
    stray = math.sqrt(float(((np.hypot(*off.T) - radius) ** 2).mean()))
    return (middle, radius) if covered >= COVER and stray <= STRAY * spread else None
