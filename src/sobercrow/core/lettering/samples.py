"""Places evenly along the contours of a shape, with ink always on one side of them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Self

import numpy as np

from sobercrow.core.arrays import F64, I64
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.polygon import nesting_depths


@dataclass(frozen=True, slots=True, eq=False)
class Samples:
    """Places evenly along the contours of one shape.

    Attributes
    ----------
    points, normals : (n, 2) float64
        The latter inward, into the ink, of length 1. Places are in such an order that ink lies always on one side.
    contour, piece : (n,) int64
    t : (n,) float64
        Where on its piece a place is, 0–1.
    starts : (contours + 1,) int64
    """

    points: F64
    normals: F64
    contour: I64
    piece: I64
    t: F64
    starts: I64

    @classmethod
    def of(cls, contours: Sequence[Contour], spacing_px: float) -> Self:
        """Take places about so far apart; at least four a curve."""
        rows: list[tuple[F64, F64, I64, I64, F64]] = []
        depths = nesting_depths([contour.sampled(spacing_px) for contour in contours])
        for k, contour in enumerate(contours):
            curves = contour.curves()
            counts = np.maximum(np.ceil(bezier.lengths(curves) / spacing_px).astype(np.int64), 4)
            piece = np.repeat(np.arange(len(curves)), counts)
            t = np.concatenate([(np.arange(count) + 0.5) / count for count in counts])
            way = bezier.along_curves(curves[piece], t[:, None])
            way /= np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-12)[:, None]
            inward = math.copysign(1.0, contour.area()) * (1.0 - 2.0 * (depths[k] % 2))
            normal = inward * np.stack([-way[:, 1], way[:, 0]], axis=1)
            step = int(inward)  # ink lies on the same side of all contours, as the places are run through
            row = (bezier.on_curves(curves[piece], t[:, None]), normal, np.full(len(t), k), piece, t)
            rows.append((row[0][::step], row[1][::step], row[2][::step], row[3][::step], row[4][::step]))
        points, normals, contour_of, piece_of, t_of = (np.concatenate(part) for part in zip(*rows, strict=True))
        starts = np.searchsorted(contour_of, np.arange(len(contours) + 1))
        return cls(points, normals, contour_of, piece_of, t_of, starts)

    def ways(self) -> F64:
        """Return which way contours run at the places, (n, 2)."""
        return np.stack([self.normals[:, 1], -self.normals[:, 0]], axis=1)

    def own(self, contour: int) -> slice:
        """Return which places are those of a contour."""
        return slice(int(self.starts[contour]), int(self.starts[contour + 1]))

    def is_reversed(self, contour: int) -> bool:
        """Return whether places are in the other order than the contour's pieces."""
        pieces = self.piece[self.own(contour)]
        return bool(pieces[0] > pieces[-1])

    def next(self, k: I64, by: int = 1) -> I64:
        """Return the places so many further along their contours."""
        first = self.starts[self.contour[k]]
        count = self.starts[self.contour[k] + 1] - first
        return first + (k - first + by) % count
