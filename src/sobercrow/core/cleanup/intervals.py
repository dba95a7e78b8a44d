"""What the quantisation of a JPEG leaves open, and the nearest picture that keeps within it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Self

import numpy as np

from sobercrow.core.arrays import F32, F64, I64, U8
from sobercrow.core.cleanup._decompress_kernels import project, relax
from sobercrow.core.history.planes import (
    BLOCK,
    MIDDLE,
    blocks_of,
    coefficients_of,
    downsampled,
    luma_chroma_of,
    samples_of,
)
from sobercrow.core.picture.compression import Compression
from sobercrow.core.stopping import go_on

CHANNEL_WEIGHTS = np.array([1.0, 1.2, 1.2], dtype=np.float32)
"""What a step of luma and of either chroma counts."""
STEP = 3.0
"""The step of the primal variables, in tones."""
ROUNDING = 0.5
"""Coefficients may lie so far beyond their interval, since samples were rounded before."""
MOST_OFF = 2.0
"""Coefficients of decoded pixels further than this from a multiple of their step were clipped or cut off."""
AT_ONCE = 5
"""So many rounds are done at once."""
Progress = Callable[[float], object]
PULL = 0.05
"""So strongly a picture is pulled towards another one."""


@dataclass(frozen=True, slots=True, eq=False)
class Intervals:
    """What the quantisation leaves open: the least and greatest value of every coefficient.

    Attributes
    ----------
    low, high : (blocks, 64) float32
        One component after the other, each row by row; the frequencies across come first. They are those of samples
        from which nothing is taken off.
    first, across : (n,) int64
        The first block of each component, and how many it has in a row.
    every : (n, 2) int64
        How many pixels, down and across, a sample of each stands for.
    height, width : int
        The pixels of all blocks together.
    units : (m, 2) int64
        Rows and columns of the units that are not flat and alike with all their neighbours; see `unit`.
    guessed : bool
        The tables are not known, and where intervals end says little.
    """

    low: F32
    high: F32
    first: I64
    across: I64
    every: I64
    height: int
    width: int
    units: I64
    guessed: bool = False

    @classmethod
    def of(cls, planes: list[tuple[F64, F64]], every: list[tuple[int, int]]) -> Self:
        """Join the intervals of all components, (blocks down, across, 8, 8) each, made of one size by repeating."""
        tall, wide = (8 * max(e[axis] for e in every) for axis in (0, 1))
        rows = max(-(-low.shape[0] * 8 * fy // tall) for (low, _), (fy, _) in zip(planes, every, strict=True))
        columns = max(-(-low.shape[1] * 8 * fx // wide) for (low, _), (_, fx) in zip(planes, every, strict=True))
        lows: list[F64] = []
        highs: list[F64] = []
        first, across, total = [], [], 0
        for (low, high), (fy, fx) in zip(planes, every, strict=True):
            down, side = rows * tall // (8 * fy), columns * wide // (8 * fx)
            more = ((0, down - low.shape[0]), (0, side - low.shape[1]), (0, 0), (0, 0))
            for bounds, kept in ((low, lows), (high, highs)):
                listed = np.pad(bounds, more, mode="edge").swapaxes(2, 3).reshape(-1, 64)
                listed[:, 0] += BLOCK * MIDDLE
                kept.append(listed)
            first.append(total)
            across.append(side)
            total += down * side
        made = cls(
            np.ascontiguousarray(np.concatenate(lows), dtype=np.float32),
            np.ascontiguousarray(np.concatenate(highs), dtype=np.float32),
            np.array(first, dtype=np.int64),
            np.array(across, dtype=np.int64),
            np.array(every, dtype=np.int64),
            rows * tall,
            columns * wide,
            np.empty((0, 2), dtype=np.int64),
        )
        return replace(made, units=made._stirred())

    @property
    def unit(self) -> tuple[int, int]:
        """Pixels down and across that have whole blocks of every component."""
        return 8 * int(self.every[:, 0].max()), 8 * int(self.every[:, 1].max())

    def blocks(self, component: int, bounds: F32) -> F32:
        """Return values (blocks, 64) of one component as (down, across, 8, 8), the frequencies down first."""
        fy = int(self.every[component, 0])
        down, side = self.height // (8 * fy), int(self.across[component])
        start = int(self.first[component])
        return bounds[start : start + down * side].reshape(down, side, 8, 8).swapaxes(2, 3)

    def middle(self) -> F32:
        """Return the picture in the middle of all intervals, (n, height, width)."""
        planes = []
        for k, (fy, fx) in enumerate(self.every.tolist()):
            coefficients = 0.5 * (self.blocks(k, self.low) + self.blocks(k, self.high))
            coefficients[..., 0, 0] -= BLOCK * MIDDLE
            samples = samples_of(coefficients)
            plane = samples.transpose(0, 2, 1, 3).reshape(8 * samples.shape[0], -1)
            planes.append(np.repeat(np.repeat(plane, fy, axis=0), fx, axis=1))
        return np.ascontiguousarray(np.stack(planes), dtype=np.float32)

    @property
    def coarseness(self) -> float:
        """The step of coarse chroma, or luma if there is none: the mean of the lowest three frequencies."""
        last = int(self.first[-1])
        return float((self.high[last, [1, 8, 9]] - self.low[last, [1, 8, 9]]).mean())

    @property
    def flat_doubt(self) -> F64:
        """By how much the samples of a flat block may be off, in tones, (n,): half a step of its mean."""
        return np.asarray((self.high[self.first, 0] - self.low[self.first, 0]) / (2.0 * BLOCK), dtype=np.float64)

    def calm(self, picture: F32, rounds: int, progress: Progress, pull: F32 | None = None) -> None:
        """Lead a picture (n, height, width) on, in its place, by rounds of least total variation within the intervals.

        With `pull` it is drawn there. `progress` is told the share done now and then, and may raise to stop it.
        """
        led, duals = picture.copy(), np.zeros((2 * len(picture), *picture.shape[1:]), dtype=np.float32)
        for done in range(0, rounds, AT_ONCE):
            progress(done / rounds)
            self._relax(picture, led, duals, min(AT_ONCE, rounds - done), 1.0, pull)

    def _relax(self, picture: F32, led: F32, duals: F32, rounds: int, longest: float, pull: F32 | None) -> None:
        """Go on with a picture, where it leads and its duals, which are no longer than said."""
        go_on()
        (tall, wide), count = self.unit, len(picture)
        relax(
            picture, led, duals, longest, picture if pull is None else pull,
            0.0 if pull is None else PULL, CHANNEL_WEIGHTS[:count], self.low, self.high, self.first, self.across,
            self.every, self.units, tall, wide, STEP, rounds,
        )  # fmt: skip

    def nearest(self, picture: F32, units: I64 | None = None) -> F32:
        """Return the picture nearest to one (n, height, width) that the intervals stand for, or that in some units."""
        go_on()
        made = np.array(picture, dtype=np.float32, order="C")
        project(
            made, self.low, self.high, self.first, self.across, self.every, self.units if units is None else units,
            *self.unit,
        )  # fmt: skip
        return made

    def _stirred(self) -> I64:
        """Return the units, (m, 2) rows and columns, that are not flat and alike with all their neighbours."""
        tall, wide = self.unit
        rows, columns = self.height // tall, self.width // wide
        busy = np.zeros((rows, columns), dtype=bool)
        levels = []
        for k, (fy, fx) in enumerate(self.every.tolist()):
            middle = 0.5 * (self.blocks(k, self.low) + self.blocks(k, self.high)).reshape(
                rows, tall // (8 * fy), columns, wide // (8 * fx), 64
            )
            busy |= (np.abs(middle[..., 1:]) > 1.0).any(axis=(1, 3, 4))
            level = middle[..., 0]
            busy |= np.ptp(level, axis=(1, 3)) > 1.0
            levels.append(level[:, 0, :, 0])
        around = np.pad(np.stack(levels), ((0, 0), (1, 1), (1, 1)), mode="edge")
        stirred = np.zeros_like(busy)
        loud = np.pad(busy, 1)
        for y in range(3):
            for x in range(3):
                stirred |= loud[y : y + rows, x : x + columns]
                other = around[:, y : y + rows, x : x + columns]
                stirred |= (np.abs(other - around[:, 1:-1, 1:-1]) > 1.0).any(axis=0)
        return np.ascontiguousarray(np.argwhere(stirred), dtype=np.int64)


def intervals_of_file(compression: Compression) -> Intervals | None:
    """Return what the coefficients of a JPEG file leave open; None if there is no file."""
    coefficients = compression.coefficients()
    if coefficients is None:
        return None
    planes = []
    for component, quantised in zip(compression.components, coefficients, strict=True):
        middle = quantised * component.table.astype(np.float64)
        half = 0.5 * component.table + ROUNDING
        planes.append((middle - half, middle + half))
    return Intervals.of(planes, [component.every for component in compression.components])


def intervals_of_pixels(pixels: U8, compression: Compression) -> Intervals:
    """Return what the quantisation left open of a picture (h, w) or (h, w, 3) that was decoded and kept otherwise.

    Where coefficients are no multiples of their steps, since pixels were clipped or lie at the picture's edge, their
    intervals reach as far as the doubt does. Blocks begin at the grid, `Compression.offset`: see `padding`.
    """
    top, left = padding(compression)
    sides = ((top, 0), (left, 0))
    planes = []
    for plane, component in zip(luma_chroma_of(pixels), compression.components, strict=True):
        small = downsampled(np.pad(plane, sides, mode="edge"), component.every)
        rest = ((0, -small.shape[0] % BLOCK), (0, -small.shape[1] % BLOCK))
        seen = coefficients_of(blocks_of(np.pad(small, rest, mode="edge")))
        middle = seen if compression.guessed else np.round(seen / component.table) * component.table
        half = 0.5 * component.table + ROUNDING
        other = np.where(np.abs(seen - middle) > MOST_OFF * max(component.every), seen, middle)
        planes.append((np.minimum(middle, other) - half, np.maximum(middle, other) + half))
    made = Intervals.of(planes, [component.every for component in compression.components])
    return replace(made, guessed=compression.guessed)


def padding(compression: Compression) -> tuple[int, int]:
    """Return how many rows and columns lie before a picture up to where a block of every component begins."""
    sides = [BLOCK * max(component.every[axis] for component in compression.components) for axis in (0, 1)]
    return -compression.offset[0] % sides[0], -compression.offset[1] % sides[1]
