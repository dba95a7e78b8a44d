"""How far artwork runs from the drawing, and the other figures of a result."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64, I64, following
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.tracing.borders import Borders

SPACING_PX = 0.5
SAME_PX = 0.02
"""Two ways of sampling an edge put it no further apart than this."""
FURTHEST_PX = 8.0
"""Border further than this from all artwork has no edge to be compared with."""


@dataclass(frozen=True, slots=True)
class Figures:
    """The figures of a result. Deviations are distances in px from the drawn border to the artwork's edge."""

    anchors: int
    shapes: int
    corners: int
    deviation_mean_px: float
    deviation_p99_px: float
    deviation_max_px: float


@dataclass(frozen=True, slots=True, eq=False)
class Deviation:
    """How far the artwork's edge is from every point of the drawn borders.

    Attributes
    ----------
    points : (n, 2) float64
        Border points x, y in px, line after line.
    away : (n,) float64
        Distance in px to the nearest edge.
    shapes : (n,) int64
        Which shape that edge belongs to.
    starts : (m + 1,) int64
        Where each border begins in `points`.
    """

    points: F64
    away: F64
    shapes: I64
    starts: I64

    def scaled(self, factor: float) -> Deviation:
        """Return it with all coordinates multiplied."""
        return self if factor == 1.0 else Deviation(self.points * factor, self.away * factor, self.shapes, self.starts)

    def figures(self, artwork: Artwork, chosen: Collection[int] = ()) -> Figures:
        """Return the figures of artwork, or of some of its shapes."""
        away = self.away[np.isin(self.shapes, list(chosen))] if chosen else self.away
        shapes = [artwork.shapes[k] for k in chosen] if chosen else artwork.shapes
        anchors = sum(shape.anchor_count for shape in shapes)
        corners = sum(shape.corner_count for shape in shapes)
        if not len(away):
            return Figures(anchors, len(shapes), corners, 0.0, 0.0, 0.0)
        mean, p99, worst = float(away.mean()), float(np.percentile(away, 99)), float(away.max())
        return Figures(anchors, len(shapes), corners, mean, p99, worst)

    def worst(self, count: int = 5, apart_px: float = 8.0) -> list[tuple[float, float, float]]:
        """Return the places where the edge strays most, the worst first: x, y and how far, in px."""
        found: list[tuple[float, float, float]] = []
        for k in np.argsort(-self.away, kind="stable"):
            x, y = (float(v) for v in self.points[k])
            if all(np.hypot(x - a, y - b) > apart_px for a, b, _ in found):
                found.append((x, y, float(self.away[k])))
                if len(found) == count:
                    break
        return found


def deviation_along(whole: Deviation, line: F64) -> Deviation:
    """Return the part of a deviation that is from a stretch of the artwork's edge, points (n, 2) near to each other.

    Those border points belong to it that have no other edge nearer.
    """
    low, high = line.min(axis=0) - FURTHEST_PX, line.max(axis=0) + FURTHEST_PX
    near = np.flatnonzero(((whole.points >= low) & (whole.points <= high)).all(axis=1))
    away, index = nearest_segments(whole.points[near], line[:-1].copy(), line[1:].copy(), FURTHEST_PX)
    own = near[(index >= 0) & (away <= whole.away[near] + SAME_PX)]
    starts = np.searchsorted(own, whole.starts).astype(np.int64)
    return Deviation(whole.points[own], whole.away[own], whole.shapes[own], starts)


def deviation(artwork: Artwork, borders: Borders) -> Deviation:
    """Return the distance in px of every drawn border point to the nearest edge of the artwork.

    Borders whose shape has been deleted from the artwork have no edge to be compared with: points further
    than any artwork edge plausibly strays are left out.
    """
    edges = [(k, edge) for k, shape in enumerate(artwork.shapes) for edge in shape.edges(SPACING_PX)]
    if not edges or not borders.lines:
        return Deviation(np.zeros((0, 2)), np.zeros(0), np.zeros(0, np.int64), np.zeros(1, np.int64))
    samples = [edge for _, edge in edges]
    starts: F64 = np.concatenate(samples)
    ends: F64 = np.concatenate([following(s) for s in samples])
    owner: I64 = np.repeat(np.array([k for k, _ in edges]), [len(s) for s in samples])
    points: F64 = np.concatenate(borders.lines)
    away, index = nearest_segments(points, starts, ends, FURTHEST_PX)
    near = index >= 0
    line = np.repeat(np.arange(len(borders.lines)), [len(line) for line in borders.lines])[near]
    points, away, index = points[near], away[near], index[near]
    first = np.searchsorted(line, np.arange(len(borders.lines) + 1)).astype(np.int64)
    return Deviation(points, away, owner[index], first)
