"""From a rough sketch to the one line that several strokes of it mean."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.fewest import fewest_cubics
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.sketch.joining import Drawn, joined
from sobercrow.core.sketch.lifted import SHARP, Lens, Traced, lines_through
from sobercrow.core.sketch.refit import Reach, drawn_to_strokes, is_told, told_once
from sobercrow.core.sketch.shading import find_shading, points_of
from sobercrow.core.sketch.strays import proposed_strays
from sobercrow.core.sketch.strokes import Strokes, darkness, evenly_spaced, single_strokes, stroke_width, ways_along
from sobercrow.core.sketch.working_lines import find_working_lines, usual_darkness

FAINTEST, DARKEST = 0.3, 1.5
"""A stroke counts by its darkness, but no less and no more than this times the usual."""
SHORT_REACH = Reach(1.2, 0.8)
BESIDE = 1.9
"""A line found at the second look is one if less than half of it is within so many spreads of another."""
TOLERANCE = 0.35
"""Curves may run so many spreads from the line that was found."""
LEAST_TOLERANCE_PX = 0.3


@dataclass(frozen=True, slots=True)
class Wishes:
    """What is asked for: how far strokes of one line stray, px; None has it found."""

    strays_px: float | None = None


@dataclass(frozen=True, slots=True, eq=False)
class MeantLine:
    """A line as it was meant, as a contour, and how wide the pencil's single strokes are, px."""

    contour: Contour


@dataclass(frozen=True, slots=True, eq=False)
class OneLine:
    """What a sketch was read as."""

    lines: tuple[MeantLine, ...]
    strays_px: float
    width_px: float


def one_line(grey: U8, wishes: Wishes = Wishes()) -> OneLine:
    """Return the lines a sketch (h, w) means, each drawn once."""
    width = stroke_width(grey)
    dark = darkness(grey, width)
    strokes = single_strokes(dark, width)
    working, _ = find_working_lines(strokes, float(np.hypot(*grey.shape)), width)
    drawn = strokes.only(~working)
    shaded = points_of(drawn, find_shading(drawn, usual_darkness(drawn), width))
    shading, drawn = drawn.only(shaded), drawn.only(~shaded)
    weights = weights_of(drawn)
    strays = wishes.strays_px or proposed_strays(dark, drawn, weights, width)
    lines = joined(_found(drawn, weights, strays), drawn.points, strays)
    tolerance = max(TOLERANCE * strays, LEAST_TOLERANCE_PX)
    return OneLine(tuple(MeantLine(contour_of(line, strays, tolerance)) for line in lines), strays, width)


def weights_of(strokes: Strokes) -> F64:
    """Return how much each stroke point counts: by its darkness, within limits."""
    if not len(strokes):
        return np.zeros(0)
    return np.clip(strokes.dark / max(usual_darkness(strokes), 1e-6), FAINTEST, DARKEST)


def _found(strokes: Strokes, weights: F64, spread: float) -> list[Traced]:
    """The lines strokes run along: at the scale of the hand first, then shorter ones in what those leave."""
    lines = drawn_to_strokes(lines_through(strokes, weights, spread), strokes, weights, spread)
    lines = told_once(lines, spread, Lens().long)
    left = ~is_told(strokes, lines, spread)
    if left.sum() > 10:
        rest, own = strokes.only(left), weights[left]
        more = drawn_to_strokes(lines_through(rest, own, spread, SHARP), rest, own, spread, SHORT_REACH)
        lines += _beside(told_once(more, spread, 5.0), lines, spread)
    return lines


def _beside(more: Sequence[Traced], lines: Sequence[Traced], spread: float) -> list[Traced]:
    """Those lines that do not run close to others."""
    from scipy.spatial import cKDTree  # SciPy comes in when it is first needed

    if not lines:
        return list(more)
    tree = cKDTree(np.concatenate([line.points for line in lines]))
    return [one for one in more if (tree.query(one.points)[0] < BESIDE * spread).mean() <= 0.5]


def contour_of(line: Drawn, spread: float, tolerance: float) -> Contour:
    """Return a line as a contour with few anchors within a tolerance; it is smooth but for its corners."""
    points = line.points
    count = len(points)
    if line.closed and not line.corners:
        ring = evenly_spaced(np.concatenate([points, points[:1]]), 1.0)[:-1]
        ring = smoothed(ring, min(0.5 * spread, len(ring) / 8.0), Beyond.ROUND)
        angle = ways_along(ring, max(0.8 * spread, 1.0), closed=True)
        way = np.array([np.cos(angle[0]), np.sin(angle[0])])
        anchors = fewest_cubics(np.concatenate([ring, ring[:1]]), tolerance, way, way)
        anchors = _closed(anchors)
        return Contour(anchors, np.full(len(anchors), AnchorKind.SMOOTH, dtype=np.uint8))
    cuts = list(line.corners)
    if line.closed:
        points = np.roll(points, -cuts[0], axis=0)
        points = np.concatenate([points, points[:1]])
        cuts = [c - cuts[0] for c in cuts] + [count]
    else:
        cuts = [0, *cuts, count - 1]
    runs = [points[a : b + 1] for a, b in zip(cuts, cuts[1:], strict=False) if b > a]
    parts = [_run(run, spread, tolerance) for run in runs]
    every = [parts[0]]
    for part in parts[1:]:
        every[-1][-1, 2] = part[0, 2]
        every.append(part[1:])
    sizes = np.cumsum([len(part) for part in parts]) - np.arange(1, len(parts) + 1)
    anchors = np.concatenate(every)
    kinds = np.full(len(anchors), AnchorKind.SMOOTH, dtype=np.uint8)
    kinds[[0, *sizes.tolist()]] = AnchorKind.CORNER
    if line.closed:
        anchors, kinds = _closed(anchors), kinds[:-1]
    return Contour(anchors, kinds, line.closed)


def _run(run: F64, spread: float, tolerance: float) -> F64:
    even = evenly_spaced(run, 1.0)
    if len(even) < 4:
        line = even[[0, -1]]
        return np.repeat(line[:, None], 3, axis=1)
    soft = smoothed(even, min(0.5 * spread, len(even) / 8.0), Beyond.LAST)
    soft[0], soft[-1] = even[0], even[-1]
    return fewest_cubics(soft, tolerance)


def _closed(anchors: F64) -> F64:
    """Anchors of a ring, of those of a line that ends where it begins."""
    made = anchors[:-1].copy()
    made[0, 0] = anchors[-1, 0]
    return made
