"""The pixels near curves, which is all that is drawn of them."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Self

import numpy as np

from sobercrow.core.arrays import F32, F64, I32
from sobercrow.core.parallel import in_parts
from sobercrow.core.tracing._render_kernels import covered, draw, list_band, mark_band, soften
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
    """The pixels near some curves, row by row, and what has been drawn there.

    Attributes
    ----------
    place : (h, w) int32
        Where in the list each pixel of the picture stands, −1 for none.
    rows, columns, owner : (n,) int32
        Each pixel's place in the picture, and the ring it belongs to.
    above, below : (n,) int32
        Where in the list the pixels above and below stand; themselves at the rim.
    steps : (n,) float64
        By how much each is covered more than the one before it in its row.
    """

    place: I32
    rows: I32
    columns: I32
    owner: I32
    above: I32
    below: I32
    steps: F64

    @classmethod
    def of(cls, rings: Rings, shape: tuple[int, int], reach_px: int) -> Self:
        """Find the pixels of a picture (height, width) within reach of some rings, with what blurs into them."""
        place = np.full(shape, -1, dtype=np.int32)
        count = mark_band(rings.controls, rings.starts, rings.by_length(), place, BAND_PX + reach_px)
        rows, columns, owner, above, below = (np.empty(count, dtype=np.int32) for _ in range(5))
        list_band(place, rows, columns, owner, above, below)
        return cls(place, rows, columns, owner, above, below, np.zeros(count))

    def draw(self, rings: Rings, which: Flags, amount: float = 1.0) -> None:
        """Add some rings to the drawing, or take them away with −1."""
        ends = rings.shares(which)
        own = {first: np.zeros_like(self.steps) for first in ends[1:-1]}  # each core adds to steps of its own

        def some(first: int, last: int) -> None:
            steps = own.get(first, self.steps)
            draw(first, last, rings.controls, rings.starts, which.view(np.uint8), amount, self.place, steps)

        in_parts(ends, some)
        for steps in own.values():
            self.steps[:] += steps

    def cover(self) -> F32:
        """Return how much of each pixel is covered by what has been drawn."""
        cover = np.empty(len(self.rows), dtype=np.float32)
        covered(self.rows, self.steps, cover)
        return cover

    def softened(self, values: F32, taps: F64) -> F32:
        """Blur values of the band; its rim goes on beyond it."""
        if len(taps) == 1:
            return values
        out = np.empty_like(values)
        soften(self.rows, self.columns, self.above, self.below, taps, values, out)
        return out
