"""The pixels near curves, which is all that is drawn of them."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Self

import numpy as np

from sobercrow.core.arrays import F32, F64, I32, I64, cumulated
from sobercrow.core.parallel import in_parts
from sobercrow.core.tracing._render_kernels import covered, draw, join_neighbours, list_band, mark_band
from sobercrow.core.tracing.rings import Flags, Rings

BAND_PX = 2
"""Pixels kept on either side of a curve, beyond the reach of the blur."""


def blur_taps(blur_px: float) -> F64:
    """Return one half of the kernel of a blur, its middle first; a single one for none."""
    taps: F64 = np.exp(-0.5 * (np.arange(math.ceil(2.5 * blur_px) + 1) / max(blur_px, 1e-3)) ** 2)
    taps /= 2.0 * taps.sum() - taps[0]
    return taps


@dataclass(frozen=True, slots=True, eq=False)
class Band:
    """The pixels near some curves, and what has been drawn there.

    They are listed part by part, each row by row: parts do not touch.

    Attributes
    ----------
    top, left : int
        Where in the picture the box around them begins.
    place : (h, w) int32
        Where in the list each pixel of the box stands, −1 for none.
    rows, columns, owner : (n,) int32
        Each pixel's place in the picture, and the ring it belongs to.
    above, below : (n,) int32
        Where in the list the pixels above and below stand; themselves at the rim.
    by_row : (n,) int32
        Where in the list they stand row by row, over all parts.
    parts : (m + 1,) int64
        Where in the list each part begins, and where the last ends.
    members, member_starts : int64
        The rings of every part, and where each part's begin, (m + 1,).
    steps : (n,) float64
        By how much each is covered more than the one before it in its row.
    """

    top: int
    left: int
    place: I32
    rows: I32
    columns: I32
    owner: I32
    above: I32
    below: I32
    by_row: I32
    parts: I64
    members: I64
    member_starts: I64
    steps: F64

    @classmethod
    def of(cls, rings: Rings, shape: tuple[int, int], reach_px: int) -> Self:
        """Find the pixels of a picture (height, width) within reach of some rings, with what blurs into them."""
        reach = BAND_PX + reach_px
        top, bottom = _between(rings.controls[:, 1::2], reach, shape[0])
        left, right = _between(rings.controls[:, ::2], reach, shape[1])
        place = np.full((bottom - top, right - left), -1, dtype=np.int32)
        joined = np.arange(len(rings.starts) - 1)
        count = mark_band(rings.controls, rings.starts, rings.by_length(), place, top, left, reach, joined)
        pixels = np.zeros_like(joined)
        join_neighbours(place, joined, pixels)
        _, part_of = np.unique(joined, return_inverse=True)
        counts = np.bincount(part_of, weights=pixels).astype(np.int64)
        parts = cumulated(counts)
        by_row, rows, columns, owner, above, below = (np.empty(count, dtype=np.int32) for _ in range(6))
        list_band(place, top, left, part_of, parts[:-1].copy(), by_row, rows, columns, owner, above, below)
        members = np.argsort(part_of, kind="stable")
        starts = cumulated(np.bincount(part_of, minlength=len(counts)))
        steps = np.zeros(count)
        return cls(
            top, left, place, rows, columns, owner, above, below, by_row, parts, members, starts.astype(np.int64), steps
        )

    def draw(self, rings: Rings, which: Flags, amount: float = 1.0) -> None:
        """Add some rings to the drawing, or take them away with −1."""
        ends = rings.shares(which)
        own = {first: np.zeros_like(self.steps) for first in ends[1:-1]}  # each core adds to steps of its own
        flags = which.view(np.uint8)

        def some(first: int, last: int) -> None:
            steps = own.get(first, self.steps)
            draw(first, last, rings.controls, rings.starts, flags, amount, self.place, self.top, self.left, steps)

        in_parts(ends, some)
        for steps in own.values():
            self.steps[:] += steps

    def cover(self) -> F32:
        """Return how much of each pixel is covered by what has been drawn."""
        return self._cover().astype(np.float32)

    def _cover(self) -> F64:
        cover = np.empty(len(self.rows))
        covered(self.by_row, self.rows, self.steps, cover)
        return cover

    def steps_in_parts(self) -> F64:
        """Return what has been drawn as steps that follow each other within each part alone."""
        cover = self._cover()
        steps = cover.copy()
        goes_on = self.rows[1:] == self.rows[:-1]
        inner = self.parts[1:-1]
        goes_on[inner[(inner > 0) & (inner < len(cover))] - 1] = False
        steps[1:][goes_on] -= cover[:-1][goes_on]
        return steps


def _between(values: F64, reach: int, size: int) -> tuple[int, int]:
    """The first row or column within reach of some places, and the one after the last; one at least."""
    first = min(max(math.floor(values.min()) - reach - 1, 0), size - 1)
    last = min(max(math.floor(values.max()) + reach + 2, first + 1), size)
    return first, last
