"""Closed contours as rows of unknowns, to be moved all together."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64, U8, cumulated, preceding
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.parallel import core_count
from sobercrow.core.tracing._row_kernels import ease_corners, place_all, take_apart

UNKNOWNS = 6
"""Of an anchor, see `_adjust_kernels`."""
MANY_ANCHORS = 300
"""Fewer than this are not worth a second core."""

Flags = NDArray[np.bool_]


@dataclass(frozen=True, slots=True, eq=False)
class Rings:
    """Closed contours as rows of unknowns, one row an anchor (see `_adjust_kernels`); `starts` tells them apart."""

    starts: I64
    state: F64
    is_corner: U8
    straight: U8
    held: U8
    home: F64
    controls: F64

    @classmethod
    def of(cls, contours: list[Contour]) -> Self:
        """Take contours apart."""
        starts = cumulated([len(c) for c in contours])
        points: F64 = np.concatenate([c.points for c in contours])
        kinds = np.concatenate([c.kinds for c in contours])
        count = len(points)
        is_corner = (kinds == AnchorKind.CORNER).astype(np.uint8)
        straight, held = np.empty(count, dtype=np.uint8), np.empty(count, dtype=np.uint8)
        state, home, controls = np.empty((count, UNKNOWNS)), np.empty((count, 2)), np.empty((count, 8))
        take_apart(points, starts, is_corner, state, straight, held, home)
        rings = cls(starts, state, is_corner, straight, held, home, controls)
        rings.update()
        return rings

    @property
    def ring_of(self) -> I64:
        """The ring of every row."""
        return np.repeat(np.arange(len(self.starts) - 1), np.diff(self.starts))

    def shares(self, which: Flags) -> list[int]:
        """Return where to part the rings, so that each processor core has about as many anchors of those wanted."""
        count = len(self.starts) - 1
        if self.starts[-1] < MANY_ANCHORS or count == 1:
            return [0, count]
        done = np.cumsum(np.where(which, np.diff(self.starts), 0))
        cores = min(core_count(), max(count, 1)) if done[-1] >= MANY_ANCHORS else 1
        inner = np.searchsorted(done, done[-1] * np.arange(1, cores) / cores) + 1
        return sorted({0, *np.minimum(inner, count).tolist(), count})

    def near(self, top: int, left: int, height: int, width: int) -> Flags:
        """Tell which rings may cover pixels of a box, by the boxes around their control points."""
        starts = self.starts[:-1]
        xs, ys = self.controls[:, ::2], self.controls[:, 1::2]
        return np.asarray(
            (np.minimum.reduceat(xs.min(axis=1), starts) < left + width)
            & (np.maximum.reduceat(xs.max(axis=1), starts) > left)
            & (np.minimum.reduceat(ys.min(axis=1), starts) < top + height)
            & (np.maximum.reduceat(ys.max(axis=1), starts) > top)
        )

    def by_length(self) -> I64:
        """Return the rings, the longest first: an order that does not depend on how the picture is turned."""
        legs = np.diff(self.controls.reshape(-1, 4, 2), axis=1)
        lengths = np.add.reduceat(np.hypot(legs[..., 0], legs[..., 1]).sum(axis=1), self.starts[:-1])
        return np.argsort(-lengths)

    def update(self) -> None:
        """Bring all control points in line with the unknowns."""
        place_all(self.starts, self.state, self.is_corner, self.straight, self.controls)

    def eased(self, least_rad: float) -> tuple[Rings, Flags]:
        """Return them with corners made smooth that turn by less, and which rings were changed."""
        changed = np.zeros(len(self.starts) - 1, dtype=np.uint8)
        state, is_corner = self.state.copy(), self.is_corner.copy()
        ease_corners(self.starts, self.controls, state, is_corner, self.straight, least_rad, changed)
        rings = replace(self, state=state, is_corner=is_corner, controls=self.controls.copy())
        rings.update()
        return rings, changed > 0

    def contour(self, ring: int) -> Contour:
        """Return one of them as a contour again."""
        a, b = self.starts[ring], self.starts[ring + 1]
        controls, straight = self.controls[a:b], self.straight[a:b] == 1
        points = np.stack([preceding(controls[:, 4:6]), controls[:, :2], controls[:, 2:4]], axis=1)
        points[straight, 2] = points[straight, 1]
        into_straight = preceding(straight)
        points[into_straight, 0] = points[into_straight, 1]
        return Contour(points, np.where(self.is_corner[a:b] == 1, AnchorKind.CORNER, AnchorKind.SMOOTH))
