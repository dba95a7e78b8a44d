"""Undoing JPEG: of all pictures that would give this very file, the one with the fewest steps in it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Self

import numpy as np

from sobercrow.core.arrays import F32, F64, I64, U8
from sobercrow.core.cleanup._decompress_kernels import relax
from sobercrow.core.cleanup.flat_picture import FlatColours, compressed_strokes, read_flat_colours, with_strokes
from sobercrow.core.cleanup.thin_parts import ThinPart, find_mixed_parts, find_rims, in_one_ink
from sobercrow.core.history.planes import (
    BLOCK,
    MIDDLE,
    blocks_of,
    coefficients_of,
    downsampled,
    luma_chroma_of,
    rgb_of,
    samples_of,
)
from sobercrow.core.picture.compression import Compression

CHANNEL_WEIGHTS = np.array([1.0, 1.2, 1.2], dtype=np.float32)
"""What a step of luma and of either chroma counts."""
STEP = 3.0
"""The step of the primal variables, in tones."""
ROUNDING = 0.5
"""Coefficients may lie so far beyond their interval, since samples were rounded before."""
MOST_OFF = 2.0
"""Coefficients of decoded pixels further than this from a multiple of their step were clipped or cut off."""
FIRST_ROUNDS, PULLED_ROUNDS = 30, 10
"""More give hardly another picture."""
PULLS = 2
"""So often the picture is pulled towards its flat colours,"""
PULL = 0.05
"""so strongly,"""
PROJECTIONS = 5
"""and at the end so often drawn in them and brought back to what the file allows."""
NOTHING = 1e-6
TRIAL_PROJECTIONS = 3
CHANGED = 8.0
MANY, FEW = 900.0, 300.0
"""So much a file has to contradict that a thin part has one ink, and that a rim is none."""
LEAST_EVIDENCE = 300.0
"""By so much, in tones squared for each pixel that changes, a colour brings the picture nearer to what the file allows.

Strokes that were there come to 600 and more, what compression made up to 150 at most.
"""


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


class _Search:
    """The picture on its way through the rounds; see `undone`."""

    def __init__(self, intervals: Intervals) -> None:
        self.intervals = intervals
        self.start = intervals.middle()
        self.picture = self.start.copy()
        self.units = intervals.stirred()

    def run(self, rounds: int, pull: F32 | None = None) -> None:
        """Go on for so many rounds, pulled towards another picture if one is given."""
        self._relax(self.picture, rounds, 1.0, pull)

    def projected(self, picture: F32) -> F32:
        """Return the nearest picture that the file may stand for."""
        made = np.array(picture, dtype=np.float32)
        self._relax(made, 1, NOTHING, None)
        return made

    def flat_colours(self) -> FlatColours:
        """Return the flat colours the picture was drawn in, and those of thin strokes without which the file lies."""
        coarseness = self.intervals.coarseness
        colours = read_flat_colours(self.picture, self.start, coarseness)
        if not len(colours.places):
            return colours
        candidates = with_strokes(colours, self.picture, compressed_strokes(coarseness)).strokes
        if not len(candidates):
            return colours
        drawn, contradiction = self._drawn_in(colours)
        for candidate in candidates:
            more = FlatColours(colours.places, np.concatenate([colours.strokes, candidate[None]]))
            redrawn, left = self._drawn_in(more)
            changed = int((np.abs(redrawn - drawn).max(axis=0) > CHANGED).sum())
            if contradiction - left >= LEAST_EVIDENCE * max(changed, 1):
                colours, drawn, contradiction = more, redrawn, left
        return colours

    def in_fewer_inks(self, drawn: F32, colours: FlatColours, parts: list[ThinPart], contradicted: float) -> F32:
        """Return a picture drawn in flat colours with one ink for each thin part, unless the file contradicts it.

        It does so if it is so much further from what the file allows, in tones squared for each pixel that changes.
        """
        if not parts:
            return drawn
        single = drawn.copy()
        for part in parts:
            single[:, part.rows, part.columns] = in_one_ink(single, self.start, part, colours.all)
        before, after = (((self.projected(planes) - planes) ** 2).sum(axis=0) for planes in (drawn, single))
        made = drawn.copy()
        for part in parts:
            place = part.rows, part.columns
            changed = np.abs(single[:, *place] - drawn[:, *place]).max(axis=0) > CHANGED
            more = float((after[place] - before[place])[part.inside].sum())
            if more <= contradicted * max(int(changed.sum()), 1):
                made[:, *place] = in_one_ink(made, self.start, part, colours.all)
        return made

    def _drawn_in(self, colours: FlatColours) -> tuple[F32, float]:
        """The picture drawn in flat colours, and how far it is from what the file allows, in tones squared."""
        drawn = colours.snapped(self.picture)
        for _ in range(TRIAL_PROJECTIONS):
            drawn = colours.snapped(self.projected(drawn))
        return drawn, float(((self.projected(drawn) - drawn) ** 2).sum())

    def _relax(self, picture: F32, rounds: int, longest: float, pull: F32 | None) -> None:
        box, (tall, wide) = self.intervals, self.intervals.unit
        count, height, width = picture.shape
        relax(
            picture, picture.copy(), np.zeros((2 * count, height, width), dtype=np.float32),
            longest, picture if pull is None else pull,
            0.0 if pull is None else PULL, CHANNEL_WEIGHTS[:count], box.low, box.high, box.first, box.across, box.every,
            self.units, tall, wide, STEP, rounds,
        )  # fmt: skip


def undone(intervals: Intervals, height: int, width: int, flat: bool) -> U8:
    """Return the picture (height, width[, 3]) that the intervals stand for.

    It has the least vectorial total variation of all pictures whose coefficients lie within their intervals (Bredies &
    Holler 2012, "A total variation-based JPEG decompression model"). With `flat` it is drawn in few flat colours: it
    is pulled towards them and mixtures of two of them, and becomes them where it is near.
    """
    search = _Search(intervals)
    search.run(FIRST_ROUNDS)
    if not flat:
        return rgb_of(search.picture[:, :height, :width])
    colours = search.flat_colours()
    if len(colours.all) < 2:
        return rgb_of(search.picture[:, :height, :width])
    for _ in range(PULLS):
        search.run(PULLED_ROUNDS, colours.mixed(search.picture))
    planes = colours.snapped(search.picture)
    for _ in range(PROJECTIONS):
        allowed = search.projected(planes)
        if not intervals.guessed:
            colours = colours.corrected(planes, allowed)
        planes = colours.snapped(allowed)
    colours = colours.with_white(intervals.coarseness)
    planes = colours.snapped(planes)
    planes = search.in_fewer_inks(planes, colours, find_mixed_parts(planes, search.start, colours), MANY)
    planes = search.in_fewer_inks(planes, colours, find_rims(planes, colours), FEW)
    return rgb_of(planes[:, :height, :width])


def undo_compression(pixels: U8, compression: Compression, flat: bool) -> U8:
    """Return the picture (h, w) or (h, w, 3) that was compressed.

    `flat` says that it is drawn in flat colours.

    Raises
    ------
    PictureError
        If the file's coefficients cannot be read.
    """
    height, width = pixels.shape[:2]
    intervals = intervals_of_file(compression)
    if intervals is not None:
        made = undone(intervals, height, width, flat)
    else:
        top, left = padding(compression)
        made = undone(intervals_of_pixels(pixels, compression), height + top, width + left, flat)[top:, left:]
    return np.repeat(made[..., None], 3, axis=2) if made.ndim < pixels.ndim else made
