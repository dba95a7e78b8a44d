"""How much heavier letters are drawn than their typeface; and outlines made bolder with the anchors they have."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sobercrow.core.arrays import F64, following
from sobercrow.core.artwork.model import Shape
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.lettering.displacing import displaced
from sobercrow.core.lettering.samples import Samples

SPACING_PX = 0.5
FAR_PX = 1e6
SLIDES = 0.1
"""How much less it counts that a place slides along its contour."""


def heavier_px(contours: Sequence[Sequence[Contour]], shapes: Sequence[Shape]) -> float:
    """Return by how much the outlines of shapes lie outside of those of letters: the median along these, in px."""
    off: list[F64] = []
    edges = [edge for shape in shapes for edge in shape.edges(SPACING_PX)]
    for own in contours if edges else ():
        samples = Samples.of(own, SPACING_PX)
        off.append(outside(samples.points, -samples.normals, edges))
    return float(np.median(np.concatenate(off))) if off else 0.0


def outside(points: F64, out: F64, edges: Sequence[F64]) -> F64:
    """Return how far outward (n, 2) of places (n, 2) the nearest of some closed lines (m, 2) is; inward is negative."""
    line, after = np.concatenate(list(edges)), np.concatenate([following(edge) for edge in edges])
    far, which = nearest_segments(np.ascontiguousarray(points), line, after, FAR_PX)
    a, b = line[which], after[which]
    legs = b - a
    share = np.clip(((points - a) * legs).sum(axis=1) / np.maximum((legs**2).sum(axis=1), 1e-12), 0.0, 1.0)
    gap = a + share[:, None] * legs - points
    return np.asarray(np.copysign(far, (gap * out).sum(axis=1)))


def bolder(contours: Sequence[Contour], by_px: float) -> tuple[Contour, ...]:
    """Return the contours of one letter grown by so much on every side; less than nought makes them lighter."""
    if by_px == 0.0:
        return tuple(contours)
    return moved_out(contours, Samples.of(contours, SPACING_PX), by_px)


def moved_out(contours: Sequence[Contour], samples: Samples, by_px: F64 | float) -> tuple[Contour, ...]:
    """Return contours whose samples went outward by so much, each or all."""
    out = np.broadcast_to(np.asarray(by_px, dtype=np.float64), len(samples.points))
    made = []
    for k, contour in enumerate(contours):
        own = samples.own(k)
        even = np.ones(own.stop - own.start)
        normals = -samples.normals[own]
        made.append(displaced(contour, samples.piece[own], samples.t[own], normals, out[own], even, SLIDES * even))
    return tuple(made)
