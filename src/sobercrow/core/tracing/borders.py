"""Borders: where ink meets paper, to a fraction of a pixel."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from sobercrow.core.arrays import F64, I64, U8
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.inks.separation import InkField
from sobercrow.core.tracing._border_kernels import edge_blurs, follow_borders, locate_points

SHARP_BLUR_PX = 0.45
"""Edge width of a picture drawn by a program: the pixel alone. Taken where no edge can be measured."""
BLUR_SAMPLES = 2000
STOP_EVERY = 50
"""A stop is looked for after so many borders."""


@dataclass(frozen=True, slots=True, eq=False)
class Borders:
    """All closed borders between ink and paper.

    Attributes
    ----------
    lines : list of (n, 2) float64
        Points x, y in picture pixels, in order, ink on the right of the path (y down): clockwise around
        ink, anticlockwise around a hole. The last point is not the first again.
    areas_px2 : (len(lines),) float64
        Enclosed areas, negative for holes.
    blur_px : float
        Width of the picture's edges, as a standard deviation.
    """

    lines: list[F64]
    areas_px2: F64
    blur_px: float


def all_borders(parts: list[Borders]) -> Borders:
    """Return the borders of several inks as one."""
    areas: F64 = np.concatenate([p.areas_px2 for p in parts]) if parts else np.zeros(0)
    blur = float(np.median([p.blur_px for p in parts])) if parts else SHARP_BLUR_PX
    return Borders([line for p in parts for line in p.lines], areas, blur)


def find_borders(
    field: InkField, speck_px2: float = 0.0, hole_px2: float | None = None, between: Callable[[], object] = lambda: None
) -> Borders:
    """Return the iso-lines of the tones at the threshold, sharpened to sub-pixel places.

    Marching squares with saddles decided by the mean of their four tones; ink that touches the picture's
    edge ends there. Borders of spots enclosing less than `speck_px2`, and of holes enclosing less than `hole_px2` (as
    much if None), are left out. `between` is called now and then; it may raise to stop the work.
    """
    grey, iso, neutral = field.grey, field.iso, field.neutral
    crossings, starts = follow_borders(grey, iso, run_starts(grey, iso))
    blur = edge_blur(grey, crossings, field.paper_level - field.ink_level)
    lines, areas = [], []
    places = np.empty((int(np.diff(starts).max(initial=0)), 2))
    for number, (first, last) in enumerate(pairwise(starts)):
        if number % STOP_EVERY == 0:
            between()
        kept = locate_points(grey, crossings[first:last], iso, neutral, field.ink_level, field.paper_level, places)
        area = polygon_area(places[:kept])
        least = speck_px2 if area > 0 or hole_px2 is None else hole_px2
        if kept >= 4 and abs(area) >= max(least, 0.25):
            lines.append(places[:kept].copy())
            areas.append(area)
    return Borders(lines, np.array(areas, dtype=np.float64), blur)


def run_starts(grey: U8, iso: float) -> I64:
    """Return the ink pixels (below `iso`) left of which there is none, counted along the rows, in order."""
    ink = grey < iso
    begins = ink.copy()
    begins[:, 1:] &= ~ink[:, :-1]
    return np.flatnonzero(begins)


def edge_blur(grey: U8, crossings: I64, spread: float) -> float:
    """Return the width of the edges at crossings (n, 3), as a standard deviation in px.

    `spread` is what full ink and paper differ by.
    """
    room = np.empty(BLUR_SAMPLES)
    every = max(1, len(crossings) // (4 * BLUR_SAMPLES))
    count = edge_blurs(grey, crossings, every, spread, room) if spread > 0 else 0
    return max(float(np.percentile(room[:count], 25)) if count >= 8 else SHARP_BLUR_PX, 0.3)
