"""How far artwork runs from the drawing, and the other figures of a result."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.tracing.borders import Borders

SPACING_PX = 0.5


@dataclass(frozen=True, slots=True)
class Figures:
    """The figures of a result. Deviations are distances in px from the drawn border to the artwork's edge."""

    anchors: int
    shapes: int
    corners: int
    deviation_mean_px: float
    deviation_p99_px: float
    deviation_max_px: float


def measure(artwork: Artwork, borders: Borders) -> Figures:
    """Return the figures of artwork against the drawn borders it should follow."""
    away = deviations(artwork, borders)
    if len(away):
        mean, p99, worst = float(away.mean()), float(np.percentile(away, 99)), float(away.max())
    else:
        mean = p99 = worst = 0.0
    return Figures(artwork.anchor_count, len(artwork.shapes), artwork.corner_count, mean, p99, worst)


def deviations(artwork: Artwork, borders: Borders) -> F64:
    """Return the distance in px of every drawn border point to the nearest edge of the artwork, (n,).

    Borders whose shape has been deleted from the artwork have no edge to be compared with: points further
    than any artwork edge plausibly strays (8 px) are left out.
    """
    contours = [c for shape in artwork.shapes for c in shape.contours]
    if not contours or not borders.lines:
        return np.zeros(0)
    samples = [c.sampled(SPACING_PX) for c in contours]
    starts: F64 = np.concatenate(samples)
    ends: F64 = np.concatenate([np.roll(s, -1, axis=0) for s in samples])
    befores: F64 = np.concatenate([np.roll(s, 1, axis=0) for s in samples])
    points: F64 = np.concatenate(borders.lines)
    away, index = cKDTree(starts, balanced_tree=False, compact_nodes=False).query(points, distance_upper_bound=8.0)
    near = np.isfinite(away)
    points, index = points[near], index[near]
    return np.minimum(
        _to_segments(points, starts[index], ends[index]), _to_segments(points, starts[index], befores[index])
    )


def _to_segments(points: F64, a: F64, b: F64) -> F64:
    along = b - a
    square = np.maximum((along**2).sum(axis=1), 1e-18)
    t = np.clip(((points - a) * along).sum(axis=1) / square, 0.0, 1.0)
    return np.asarray(np.linalg.norm(a + t[:, None] * along - points, axis=1))
