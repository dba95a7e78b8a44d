"""How far the strokes of one line stray from it, read from how broadly a sketch's ink lies about its lines."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from sobercrow.core.arrays import F32, F64
from sobercrow.core.parallel import on_cores
from sobercrow.core.sketch.lifted import Traced, lines_through
from sobercrow.core.sketch.parts import Part, parts_of
from sobercrow.core.sketch.refit import Sampled, drawn_to_strokes
from sobercrow.core.strokes.strokes import Strokes, together, tree_of

LEAST_DARK = 0.12
PER_DEVIATION = 1.0 / 0.35
"""Strokes stray by so many times their standard deviation: evenly to both sides, and slowly along."""
ALONG_PX = 25
LEAST_LONG = 2.0
"""Strokes shorter than so many of their widths may be grain of the paper."""
SINGLE_SHARE, SINGLE_GAIN = 18.0, 1.09
"""The narrowest places on single strokes, so many per cent, have ink of one stroke alone; its deviation is so many
times theirs."""
FIRST, LEAST_PX, ROUNDS, SETTLED = 2.0, 0.7, 3, 0.08
INK_REACH = 1.5
"""Ink is a stroke's within so many stroke widths of its middle."""
ENOUGH_POINTS = 8_000
"""Of a sketch in parts so many points of strokes are looked at, or those of its largest part."""
BROAD_PLACES = 90.0
"""Lines are broad at so many per cent of all places and less."""
WINDOW = 2.5
"""Ink within so many strays of a line, and a stroke's width, is taken for its own."""


@dataclass(frozen=True, slots=True)
class Straying:
    """How far strokes of one line stray from it, and how much broader than a single stroke lines are where they are
    broad."""

    px: float
    unevenness: float


def find_straying(dark: F32, strokes: Strokes, weights: F64, others: F64, width_px: float) -> Straying:
    """Return how strokes of one line stray, by the darkness (h, w) of a sketch and the strokes of its lines.

    `others` (n, 2) are places on strokes that are no lines: ink nearest to those does not count. Lines are looked for
    at one scale, the ink about them tells a better one, a few times over.
    """
    parts = _enough(parts_of(strokes, weights, width_px))
    strokes = together(*(part.strokes for part in parts))
    single = [Traced(run, False) for run in strokes.runs() if len(run) > LEAST_LONG * width_px]
    if not single:
        return Straying(width_px, 1.0)
    ink, tone = _ink(dark, strokes.points, others, INK_REACH * width_px)
    narrow, _ = _breadths(ink, tone, single, 1.6 * width_px)
    narrow = narrow[narrow > 0.0]
    one = SINGLE_GAIN * float(np.percentile(narrow, SINGLE_SHARE)) if len(narrow) else 0.5 * width_px
    strays, broad = FIRST * one, one
    for _ in range(ROUNDS):
        lines = [line for part in on_cores(parts, partial(_lines, strays=strays)) for line in part]
        if not lines:
            break
        local, whole = _breadths(ink, tone, lines, WINDOW * strays + 2.0 * one)
        broad = float(np.percentile(local, BROAD_PLACES)) if len(local) else one
        before, strays = strays, max(math.sqrt(max(whole**2 - one**2, 0.0)) * PER_DEVIATION, LEAST_PX)
        if abs(strays - before) < SETTLED * before:
            break
    return Straying(strays, broad / one)


def _enough(parts: list[Part]) -> list[Part]:
    """The parts of a sketch with the most strokes, as many as tell how a hand strays."""
    counts = np.cumsum([len(part.strokes) for part in parts])
    return parts[: int(np.searchsorted(counts, ENOUGH_POINTS)) + 1]


def _lines(part: Part, strays: float) -> list[Traced]:
    """The lines of a part at one scale."""
    return drawn_to_strokes(lines_through(part.strokes, part.weights, strays), part.strokes, part.weights, strays)


def _ink(dark: F32, points: F64, others: F64, reach: float) -> tuple[F64, F64]:
    """Places with ink within reach of strokes and not nearer to others, and how dark they are."""
    rows, columns = np.nonzero(dark > LEAST_DARK)
    ink: F64 = np.column_stack([columns, rows]).astype(np.float64) + 0.5
    away, nearest = tree_of(np.concatenate([points, others])).query(ink, distance_upper_bound=reach)
    own = np.isfinite(away) & (nearest < len(points))
    return ink[own], dark[rows[own], columns[own]].astype(np.float64)


def _breadths(ink: F64, tone: F64, lines: Sequence[Traced], window: float) -> tuple[F64, float]:
    """How broadly ink within a window lies about lines: its deviation across at places along them, and in all, px."""
    every = Sampled.of(lines)
    away, row = tree_of(every.points).query(ink, distance_upper_bound=window)
    near = np.isfinite(away)
    if not near.any():
        return np.zeros(0), 0.0
    row, weight = row[near], tone[near]
    off = ink[near] - every.points[row]
    across = off[:, 1] * every.ways[row, 0] - off[:, 0] * every.ways[row, 1]
    _, place = np.unique(every.line[row] * len(every.points) + row // ALONG_PX, return_inverse=True)
    total = np.bincount(place, weight)
    mean = np.bincount(place, weight * across) / total
    square = np.bincount(place, weight * across**2) / total
    return np.sqrt(np.maximum(square - mean**2, 0.0)), math.sqrt(float((weight * across**2).sum() / weight.sum()))
