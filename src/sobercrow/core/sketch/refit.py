"""Lines drawn to the mean of the strokes that run with them, and rid of what is told twice."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.sketch.lifted import Traced
from sobercrow.core.strokes.strokes import Strokes, evenly_spaced, tree_of, ways_along

SPACING_PX = 1.0
LIKE_COS = math.cos(math.radians(30.0))
"""A stroke runs with a line if it is turned from it by less."""
LOOKED_AT = 24
ROUNDS = 2
LOCAL, BELL = 0.6, 1.2
"""Strokes count as much as there is of them within so many spreads along, and less across by a bell so wide."""
FULL, HAS_INK = 0.5, 0.2
"""Places with more strokes than this count no more; where there are fewer than the latter a line ends."""
NEAR, SHARE, ALIKE_COS = 1.3, 0.7, math.cos(math.radians(25.0))
"""A line is told twice if so much of it runs within so many spreads of another, in about its direction."""
LEAST_POINTS = 6


@dataclass(frozen=True, slots=True)
class Reach:
    """How strokes pull lines: from so many spreads away, smoothed over so many along."""

    window: float = 1.7
    smooth: float = 2.5


@dataclass(frozen=True, slots=True, eq=False)
class Sampled:
    """Points of lines one after the other, with their directions as unit vectors, and which line each is of."""

    points: F64
    ways: F64
    line: I64

    @classmethod
    def of(cls, lines: Sequence[Traced]) -> Sampled:
        """Take the points of lines as they are."""
        angles = np.concatenate([ways_along(one.points, 3.0, one.closed) for one in lines])
        own = np.repeat(np.arange(len(lines)), [len(one.points) for one in lines])
        points = np.concatenate([one.points for one in lines])
        return cls(points, np.column_stack([np.cos(angles), np.sin(angles)]), own)

    def nearest_like(self, points: F64, ways: F64, reach: float, least_cos: float) -> tuple[I64, F64]:
        """Return for places and directions (n,) the nearest point of a line that runs alike, −1 if there is none within
        reach, and how far it is."""
        away, found = tree_of(self.points).query(points, k=min(LOOKED_AT, len(self.points)), distance_upper_bound=reach)
        away, found = away.reshape(len(points), -1), found.reshape(len(points), -1)
        there = np.isfinite(away)
        rows = np.where(there, found, 0)
        along = np.abs(self.ways[rows, 0] * np.cos(ways)[:, None] + self.ways[rows, 1] * np.sin(ways)[:, None])
        away = np.where(there & (along > least_cos), away, np.inf)
        best = away.argmin(axis=1)
        nth = np.arange(len(points))
        near = away[nth, best]
        return np.where(np.isfinite(near), rows[nth, best], -1), near


def drawn_to_strokes(
    lines: Sequence[Traced], strokes: Strokes, weights: F64, spread: float, reach: Reach = Reach()
) -> list[Traced]:
    """Return lines moved across to the mean of the strokes that run with them; they end where there is no ink."""
    made = [Traced(evenly_spaced(one.points, SPACING_PX), one.closed) for one in lines]
    for _ in range(ROUNDS):
        made = [one for one in made if len(one.points) >= LEAST_POINTS]
        if not made or not len(strokes):
            return made
        every = Sampled.of(made)
        row, _ = every.nearest_like(strokes.points, strokes.ways, reach.window * spread, LIKE_COS)
        pulls = np.flatnonzero(row >= 0)
        row = row[pulls]
        off = strokes.points[pulls] - every.points[row]
        across = off[:, 1] * every.ways[row, 0] - off[:, 0] * every.ways[row, 1]
        weight = weights[pulls] * np.exp(-0.5 * (across / (BELL * spread)) ** 2)
        pull: F64 = np.bincount(row, weight * across, len(every.points)).astype(np.float64)
        held: F64 = np.bincount(row, weight, len(every.points)).astype(np.float64)
        ends = np.searchsorted(every.line, np.arange(len(made) + 1))
        drawn = [
            _moved(one, every.ways[a:b], pull[a:b], held[a:b], spread, reach.smooth)
            for one, a, b in zip(made, ends[:-1], ends[1:], strict=True)
        ]
        made = [one for one in drawn if one is not None]
    return made


def _moved(line: Traced, ways: F64, pull: F64, held: F64, spread: float, smooth: float) -> Traced | None:
    """A line moved across by what pulls it; each place counts once, however many strokes there are."""
    beyond = Beyond.ROUND if line.closed else Beyond.LAST
    local = LOCAL * spread / SPACING_PX
    near, pulled = smoothed(held, local, beyond), smoothed(pull, local, beyond)
    mean, sure = pulled / np.maximum(near, 1e-6), np.minimum(near, FULL)
    over = smooth * spread / SPACING_PX
    across = smoothed(mean * sure, over, beyond) / np.maximum(smoothed(sure, over, beyond), 1e-6)
    points = line.points + np.column_stack([-ways[:, 1], ways[:, 0]]) * across[:, None]
    if not line.closed:
        inked = np.flatnonzero(held > HAS_INK)
        if len(inked) < 4:
            return None
        points = points[inked[0] : inked[-1] + 1]
    return Traced(evenly_spaced(points, SPACING_PX), line.closed)


def told_once(lines: Sequence[Traced], spread: float, least: float, across: float = 1.0) -> list[Traced]:
    """Return lines without those, and ends of those, that run along longer ones; none shorter than `least` spreads.

    They do so at up to `across` times the usual distance.
    """
    long = sorted((line for line in lines if len(line.points) >= least * spread), key=lambda line: -len(line.points))
    if len(long) < 2:
        return long
    every = Sampled.of(long)
    places, others = _alike(every, across * NEAR * spread)
    starts = np.searchsorted(every.line, np.arange(len(long) + 1))
    firsts = np.searchsorted(places, starts)
    kept = np.zeros(len(long), dtype=np.bool_)
    made: list[Traced] = []
    for k, one in enumerate(long):
        near = slice(firsts[k], firsts[k + 1])
        twice = np.zeros(len(one.points), dtype=np.bool_)
        twice[places[near][kept[others[near]]] - starts[k]] = True
        if twice.mean() > SHARE:
            continue
        line = one
        if not one.closed:
            once = np.flatnonzero(~twice)
            line = Traced(one.points[once[0] : once[-1] + 1], False)
            if len(line.points) < least * spread:
                continue
        kept[k] = True
        made.append(line)
    return made


def _alike(every: Sampled, reach: float) -> tuple[I64, I64]:
    """Places on lines, ascending, and the number of an earlier line that runs alike within reach of each."""
    step = max(1, int(0.3 * reach))
    sparse = np.arange(0, len(every.points), step)
    near = tree_of(every.points[sparse]).query_ball_point(every.points, reach, return_sorted=False)
    counts = np.fromiter(map(len, near), dtype=np.int64, count=len(near))
    rows = np.repeat(np.arange(len(near)), counts)
    found = sparse[np.concatenate([np.asarray(part, dtype=np.int64) for part in near])]
    cos = np.abs((every.ways[rows] * every.ways[found]).sum(axis=1))
    fits = (every.line[found] < every.line[rows]) & (cos > ALIKE_COS)
    return rows[fits], every.line[found[fits]]


def is_told(strokes: Strokes, lines: Sequence[Traced], spread: float, window: float = 1.7) -> NDArray[np.bool_]:
    """Tell of each stroke point whether a line runs with it within so many spreads."""
    if not lines or not len(strokes):
        return np.zeros(len(strokes), dtype=np.bool_)
    row, _ = Sampled.of(lines).nearest_like(strokes.points, strokes.ways, window * spread, math.cos(math.radians(35.0)))
    return np.asarray(row >= 0)
