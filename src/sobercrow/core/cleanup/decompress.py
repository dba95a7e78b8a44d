"""Undoing JPEG: of all pictures that would give this very file, the one with the fewest steps in it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Self

import numpy as np

from sobercrow.core.arrays import F32, I64, U8
from sobercrow.core.cleanup._decompress_kernels import relax
from sobercrow.core.cleanup.flat_picture import Flattened, flattened
from sobercrow.core.picture.compression import Compression

MIDDLE = 128.0
"""Of all samples this is taken off before they are transformed (ITU-T T.81, 1992, A.3.1)."""
TO_LUMA_CHROMA = np.array(
    [[0.299, 0.587, 0.114], [-0.168735892, -0.331264108, 0.5], [0.5, -0.418687589, -0.081312411]]
)
"""sRGB values to Y, Cb, Cr (ITU-T T.871, 2011, clause 7)."""
TO_RGB = np.linalg.inv(TO_LUMA_CHROMA)
CHANNEL_WEIGHTS = np.array([1.0, 1.2, 1.2], dtype=np.float32)
"""What a step of luma and of either chroma counts."""
STEP = 3.0
"""The step of the primal variables, in tones."""
ROUNDING = 0.5
"""Coefficients may lie so far beyond their interval, since samples were rounded before."""
FIRST_ROUNDS, ROUNDS = 60, 30
SMALL_STEP = 6.0
"""A step much larger than this, in tones, counts as one edge however large it is."""
FLAT_COLOURS = 3
"""So often the picture is pulled towards its flat colours."""
PULL = 0.05


def _basis() -> F32:
    k, n = np.arange(8)[:, None], np.arange(8)[None]
    basis = np.cos(np.pi * (2 * n + 1) * k / 16.0) / 2.0
    basis[0] /= np.sqrt(2.0)
    return np.asarray(basis, dtype=np.float32)


BASIS = _basis()
BACK = np.ascontiguousarray(BASIS.T)


@dataclass(frozen=True, slots=True, eq=False)
class Intervals:
    """What the quantisation leaves open: the least and greatest value of every coefficient.

    Attributes
    ----------
    low, high : (blocks, 64) float32
        One component after the other, each row by row.
    first, across : (n,) int64
        The first block of each component, and how many it has in a row.
    every : (n, 2) int64
        How many pixels, down and across, a sample of each stands for.
    height, width : int
        The pixels of all blocks together.
    """

    low: F32
    high: F32
    first: I64
    across: I64
    every: I64
    height: int
    width: int

    @classmethod
    def of(cls, planes: list[tuple[F32, F32]], every: list[tuple[int, int]]) -> Self:
        """Join the intervals of all components, (blocks down, across, 8, 8) each, made of one size by repeating."""
        tall, wide = (8 * max(e[axis] for e in every) for axis in (0, 1))
        rows = max(-(-low.shape[0] * 8 * fy // tall) for (low, _), (fy, _) in zip(planes, every, strict=True))
        columns = max(-(-low.shape[1] * 8 * fx // wide) for (low, _), (_, fx) in zip(planes, every, strict=True))
        lows, highs, first, across = [], [], [], []
        total = 0
        for (low, high), (fy, fx) in zip(planes, every, strict=True):
            down, side = rows * tall // (8 * fy), columns * wide // (8 * fx)
            more = ((0, down - low.shape[0]), (0, side - low.shape[1]), (0, 0), (0, 0))
            for bounds, kept in ((low, lows), (high, highs)):
                kept.append(np.pad(bounds, more, mode="edge").reshape(-1, 64))
            first.append(total)
            across.append(side)
            total += down * side
        return cls(
            np.ascontiguousarray(np.concatenate(lows), dtype=np.float32),
            np.ascontiguousarray(np.concatenate(highs), dtype=np.float32),
            np.array(first, dtype=np.int64),
            np.array(across, dtype=np.int64),
            np.array(every, dtype=np.int64),
            rows * tall,
            columns * wide,
        )

    @property
    def unit(self) -> tuple[int, int]:
        """Pixels down and across that have whole blocks of every component."""
        return 8 * int(self.every[:, 0].max()), 8 * int(self.every[:, 1].max())

    def blocks(self, component: int, bounds: F32) -> F32:
        """Return values (blocks, 64) of one component as (down, across, 8, 8)."""
        fy = int(self.every[component, 0])
        down, side = self.height // (8 * fy), int(self.across[component])
        start = int(self.first[component])
        return bounds[start : start + down * side].reshape(down, side, 8, 8)

    def middle(self) -> F32:
        """Return the picture in the middle of all intervals, (n, height, width)."""
        planes = []
        for k, (fy, fx) in enumerate(self.every.tolist()):
            coefficients = 0.5 * (self.blocks(k, self.low) + self.blocks(k, self.high))
            samples = BACK @ coefficients @ BASIS
            plane = samples.transpose(0, 2, 1, 3).reshape(8 * samples.shape[0], -1)
            planes.append(np.repeat(np.repeat(plane, fy, axis=0), fx, axis=1))
        return np.ascontiguousarray(np.stack(planes), dtype=np.float32)

    def stirred(self) -> I64:
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
        middle = (quantised * component.table).astype(np.float32)
        middle[..., 0, 0] += 8.0 * MIDDLE
        half = (0.5 * component.table + ROUNDING).astype(np.float32)
        planes.append((middle - half, middle + half))
    return Intervals.of(planes, [component.every for component in compression.components])


def luma_chroma_of(pixels: U8) -> F32:
    """Return pixels (h, w) or (h, w, 3) as Y or Y, Cb, Cr, (n, h, w), of which grey is 128 in both chroma planes."""
    if pixels.ndim == 2:
        return pixels.astype(np.float32)[None]
    planes = np.tensordot(TO_LUMA_CHROMA, pixels.astype(np.float64), (1, 2))
    planes[1:] += MIDDLE
    return planes.astype(np.float32)


def rgb_of(planes: F32) -> U8:
    """Return Y or Y, Cb, Cr (n, h, w) as pixels (h, w) or (h, w, 3)."""
    if len(planes) == 1:
        return np.clip(np.rint(planes[0]), 0, 255).astype(np.uint8)
    centred = planes.astype(np.float64)
    centred[1:] -= MIDDLE
    return np.clip(np.rint(np.tensordot(centred, TO_RGB, (0, 1))), 0, 255).astype(np.uint8)


class _Search:
    """The picture on its way through the rounds; see `undone`."""

    def __init__(self, intervals: Intervals) -> None:
        self.intervals = intervals
        self.start = intervals.middle()
        self.picture = self.start.copy()
        self.units = intervals.stirred()
        self.calm = np.ones(self.picture.shape[1:], dtype=np.float32)

    def run(self, rounds: int, pull: F32 | None = None) -> None:
        """Go on for so many rounds, pulled towards another picture if one is given."""
        box, (tall, wide) = self.intervals, self.intervals.unit
        relax(
            self.picture, self.picture.copy(), np.zeros((2 * len(self.picture), *self.calm.shape), dtype=np.float32),
            self.calm, self.picture if pull is None else pull, 0.0 if pull is None else PULL,
            CHANNEL_WEIGHTS[: len(self.picture)], box.low, box.high, box.first, box.across, box.every, self.units,
            tall, wide, STEP, rounds, BASIS, BACK,
        )  # fmt: skip

    def weigh(self) -> None:
        """Let edges count once, however large (Candès, Wakin & Boyd 2008, "Enhancing sparsity by reweighted l1")."""
        steps = np.zeros(self.calm.shape, dtype=np.float32)
        for plane, weight in zip(self.picture, CHANNEL_WEIGHTS, strict=False):
            steps[:-1] += (weight * np.diff(plane, axis=0)) ** 2
            steps[:, :-1] += (weight * np.diff(plane, axis=1)) ** 2
        self.calm = np.ascontiguousarray(SMALL_STEP / (np.sqrt(steps) + SMALL_STEP), dtype=np.float32)


def undone(intervals: Intervals, height: int, width: int, flat: bool) -> U8:
    """Return the picture (height, width[, 3]) that the intervals stand for.

    It has the least vectorial total variation of all pictures whose coefficients lie within their intervals (Bredies &
    Holler 2012, "A total variation-based JPEG decompression model"). With `flat` it is drawn in few flat colours: it
    is pulled towards them and mixtures of two of them, and becomes them where it is near.
    """
    search = _Search(intervals)
    search.run(FIRST_ROUNDS)
    for _ in range(2):
        search.weigh()
        search.run(FIRST_ROUNDS)
    search.calm = np.ones_like(search.calm)
    if not flat:
        return rgb_of(search.picture[:, :height, :width])
    found: Flattened | None = None
    for _ in range(FLAT_COLOURS):
        found = flattened(search.picture, search.start, found)
        if found is None:
            break
        search.run(ROUNDS, found.mixed)
    planes = search.picture if found is None else found.snapped(search.picture)
    return rgb_of(planes[:, :height, :width])


def undo_compression(pixels: U8, compression: Compression, flat: bool) -> U8:
    """Return the picture (h, w) or (h, w, 3) that was compressed.

    `flat` says that it is drawn in flat colours.

    Raises
    ------
    PictureError
        If the file's coefficients cannot be read.
    """
    intervals = intervals_of_file(compression)
    if intervals is None:
        return pixels
    made = undone(intervals, *pixels.shape[:2], flat)
    return np.repeat(made[..., None], 3, axis=2) if made.ndim < pixels.ndim else made


