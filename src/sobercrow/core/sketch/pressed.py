"""How wide a line is where it was pressed: by how dark its strokes are, and how many."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.sketch.lifted import Traced
from sobercrow.core.sketch.reading import SketchReading
from sobercrow.core.sketch.refit import LIKE_COS, Reach, Sampled
from sobercrow.core.strokes.strokes import usual_darkness

OVER = 5.0
"""Pressure is read over so many spreads along a line: strokes begin and end on the way."""
THINNEST, WIDEST = 0.45, 2.2
"""The width is the usual one times pressure against the usual, within these bounds."""
STEP = 0.35
"""Widths are read at places so many stroke widths apart."""


def widths_along(reading: SketchReading, contours: list[Contour], strays_px: float) -> list[tuple[F64, F64]]:
    """Return for each line places along it, (n, 2), and how wide it is there, (n,), in pixels of the reading.

    The middle of all lines has the width of single strokes; where more strokes lie, or darker ones, it is wider.
    """
    step = max(STEP * reading.width_px, 1.0)
    lines = [Traced(contour.sampled(step), contour.closed) for contour in contours]
    if not lines:
        return []
    every = Sampled.of(lines)
    row, _ = every.nearest_like(reading.strokes.points, reading.strokes.ways, Reach().window * strays_px, LIKE_COS)
    near = np.flatnonzero(row >= 0)
    tone = reading.strokes.dark / max(usual_darkness(reading.strokes), 1e-6)
    laid = np.bincount(row[near], tone[near], len(every.points)) / step
    pressure = np.concatenate(
        [
            smoothed(
                laid[every.line == k],
                min(OVER * strays_px / step, len(line.points) / 6.0),
                Beyond.ROUND if line.closed else Beyond.LAST,
            )
            for k, line in enumerate(lines)
        ]
    )
    usual = max(float(np.median(pressure)), 1e-6)
    widths = reading.width_px * np.clip(pressure / usual, THINNEST, WIDEST)
    return [(line.points, widths[every.line == k]) for k, line in enumerate(lines)]
