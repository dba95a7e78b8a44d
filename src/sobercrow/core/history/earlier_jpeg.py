"""What a picture that is no JPEG now remembers of having been one: its grid, its tables, its sampling."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Self

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64, U8
from sobercrow.core.history.planes import BLOCK, blocks_of, coefficients_of, downsampled, luma_chroma_of
from sobercrow.core.picture.compression import CHROMA_TABLE, LUMA_TABLE, Component, Compression, standard_table
from sobercrow.core.stopping import go_on

MOST_SIDE = 640
"""Tables are looked for in so many rows and columns at most."""
WAVER = 0.8
"""How far coefficients of decoded pixels waver about multiples of their steps, as a standard deviation."""
CHROMA_WAVER = 1.6
ENLARGED_WAVER = 1.6
TELLING = 3.5
"""Coefficients nearer to nought than so many times that are multiples of any step."""
COARSE = 3.0
"""A step tells something if it is so many times as large as they waver."""
LEAST_TOLD = 20
"""Fewer coefficients than this prove nothing."""
LEAST_EVIDENCE, LEAST_IN_ALL = 1.0, 40.0
"""The least gain in log-likelihood for each of them, and for all together, in nats."""
LEAST_CHROMA_EVIDENCE, LEAST_TWICE = 0.25, 0.5
OUTLIER = 1e-3
"""The share of coefficients that lie anywhere, since their block was clipped after all."""
QUIET = 20.0
"""A block whose coefficients add up to less has no edge in it."""
QUALITIES = range(5, 97)
HARDER = 1.6
"""A table was harder if its steps are so many times as large; others leave no trace beneath the last."""
BEST_GRIDS, MOST_RANKED = 3, 600
"""The grids looked at more closely are those whose coefficients are nought most often, among so many blocks."""


@dataclass(frozen=True, slots=True)
class _Found:
    evidence: float
    quality: int
    offset: tuple[int, int]


def find_twice(pixels: U8, last: Compression) -> Compression | None:
    """Return how a JPEG that was compressed before, harder and on the same grid, was compressed then; else None.

    Its coefficients are multiples of the former steps, but for half a step of the `last` tables.
    """
    tables = [component.table for component in last.components]
    if len(tables) != (1 if pixels.ndim == 2 else 3) or last.offset != (0, 0):
        return None
    wavers = [np.sqrt(WAVER**2 + table.astype(np.float64) ** 2 / 12.0) for table in (tables[0], tables[-1])]
    found = _find(pixels, wavers[0], np.sqrt(wavers[1] ** 2 + CHROMA_WAVER**2), LEAST_TWICE, 1)
    if found is None or found.offset != (0, 0) or found.components[0].table.sum() < HARDER * tables[0].sum():
        return None
    return found


def find_earlier_jpeg(pixels: U8, enlarged: bool = False) -> Compression | None:
    """Return how a picture (h, w) or (h, w, 3) was compressed before it was kept otherwise; None without evidence.

    Coefficients of a decoded JPEG are multiples of their quantisation steps, but for rounding (Fan & de Queiroz 2003,
    "Identification of bitmap compression history"). Where a pixel is black or white its block was clipped, and
    multiples are lost: only other blocks tell. Tables are those of ITU-T T.81, scaled. What was worked out from an
    `enlarged` picture wavers more.
    """
    return _find(pixels, np.array(ENLARGED_WAVER if enlarged else WAVER), np.array(CHROMA_WAVER))


def _find(
    pixels: U8, waver: F64, chroma_waver: F64, least: float = LEAST_EVIDENCE, grid: int = BLOCK
) -> Compression | None:
    """How a picture was compressed, if coefficients waver so much about multiples, all alike or each (8, 8).

    Grids begin in one of the first rows and columns, `grid` of each.
    """
    height, width = pixels.shape[:2]
    top, left = (max(0, (side - MOST_SIDE) // 2) // 16 * 16 for side in (height, width))
    part = pixels[top : top + MOST_SIDE, left : left + MOST_SIDE]
    planes = luma_chroma_of(part)
    edges = (part == 0) | (part == 255)
    clipped = edges if part.ndim == 2 else edges.any(axis=2)
    found = _luma(planes[0], clipped, waver, least, grid)
    if found is None:
        return None
    table = standard_table(LUMA_TABLE, found.quality)
    luma = Component(table, (1, 1))
    if len(planes) == 1:
        return Compression((luma,), found.offset)
    offset, every = _chroma_sampling(planes[1:], clipped, found, chroma_waver)
    chroma = Component(standard_table(CHROMA_TABLE, found.quality), every)
    return Compression((luma, chroma, chroma), offset)


def _luma(plane: F64, clipped: np.ndarray, waver: F64, least: float, grid: int) -> _Found | None:
    """The grid and the quality that explain the luma best."""
    usable = _usable(plane, clipped)
    grids = []
    for offset in np.ndindex(grid, grid):
        told = _telling(plane, usable, offset, MOST_RANKED)
        if told is not None:
            grids.append((float((np.abs(told) < 1.0).mean()), offset))
    grids.sort(key=lambda grid: (-grid[0], grid[1]))
    best: _Found | None = None
    for _, offset in grids[:BEST_GRIDS]:
        told = _telling(plane, usable, offset)
        assert told is not None
        large = _Large.of(told, waver)
        for quality in QUALITIES:
            evidence = large.evidence(standard_table(LUMA_TABLE, quality))
            if evidence is not None and (best is None or evidence > best.evidence):
                best = _Found(evidence, quality, (int(offset[0]), int(offset[1])))
    return best if best is not None and best.evidence >= least else None


def _usable(plane: F64, clipped: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Where blocks begin none of whose pixels was clipped, and that are not all of one tone, (h - 7, w - 7)."""
    down, across = np.zeros(plane.shape, dtype=np.bool_), np.zeros(plane.shape, dtype=np.bool_)
    down[:-1], across[:, :-1] = plane[1:] != plane[:-1], plane[:, 1:] != plane[:, :-1]
    changes = _counts(down, BLOCK - 1, BLOCK) + _counts(across, BLOCK, BLOCK - 1)
    return np.asarray((_counts(clipped, BLOCK, BLOCK) == 0) & (changes > 0))


def _counts(flags: NDArray[np.bool_], tall: int, wide: int) -> I64:
    """How many of a block's first so many rows and columns are flagged, for every place it may begin at."""
    sums = cv2.integral(flags.view(np.uint8))
    rows, columns = max(flags.shape[0] - BLOCK + 1, 0), max(flags.shape[1] - BLOCK + 1, 0)
    low, right = sums[tall : tall + rows], slice(wide, wide + columns)
    return np.asarray(low[:, right] - low[:, :columns] - sums[:rows, right] + sums[:rows, :columns])


def _telling(plane: F64, usable: NDArray[np.bool_], offset: tuple[int, ...], most: int | None = None) -> F64 | None:
    """Coefficients (n, 8, 8) of the blocks of a grid that are usable and have edges in them; of `most` blocks."""
    go_on()
    row, column = offset
    chosen = np.argwhere(usable[row::BLOCK, column::BLOCK])
    if not len(chosen):
        return None
    if most is not None and len(chosen) > most:
        chosen = chosen[np.linspace(0, len(chosen) - 1, most).astype(np.int64)]
    coefficients = coefficients_of(blocks_of(plane[row:, column:])[chosen[:, 0], chosen[:, 1]])
    busy = np.abs(coefficients).sum(axis=(1, 2)) - np.abs(coefficients[:, 0, 0]) > QUIET
    return coefficients[busy] if busy.any() else None


@dataclass(frozen=True, slots=True, eq=False)
class _Large:
    """Coefficients too large to be multiples of any step by chance, (n,): their frequencies, and how they waver."""

    values: F64
    which: I64
    waver: F64

    @classmethod
    def of(cls, coefficients: F64, waver: F64) -> Self:
        """Take them from coefficients (n, 8, 8) that waver so much, all alike or each (8, 8)."""
        wavers = np.broadcast_to(waver, (BLOCK, BLOCK)).ravel()
        listed = coefficients.reshape(-1, BLOCK**2)
        large = np.abs(listed) > TELLING * wavers
        large[:, 0] = False  # their means are much alike whatever the step
        which = np.nonzero(large)[1]
        return cls(listed[large], which, wavers[which])

    def evidence(self, table: I64) -> float | None:
        """How much likelier they are as multiples of a table's steps than as anything, in nats for each."""
        go_on()
        steps = table.astype(np.float64).ravel()[self.which]
        told = steps > COARSE * self.waver
        count = np.count_nonzero(told)
        if count < LEAST_TOLD:
            return None
        values, waver, steps = self.values[told], self.waver[told], steps[told]
        off = values - np.round(values / steps) * steps
        peak = -0.5 * (off / waver) ** 2 - np.log(waver * np.sqrt(2.0 * np.pi))
        mean = float((np.maximum(peak, np.log(OUTLIER / steps)) + np.log(steps)).mean())
        return mean if mean * count >= LEAST_IN_ALL else None


def _chroma_sampling(
    planes: F64, clipped: np.ndarray, found: _Found, waver: F64
) -> tuple[tuple[int, int], tuple[int, int]]:
    """Where the grid of chroma begins, and how many pixels one of its samples stands for."""
    table = standard_table(CHROMA_TABLE, found.quality)
    best = (LEAST_CHROMA_EVIDENCE, found.offset, (2, 2))
    for every in ((1, 1), (2, 2), (1, 2)):
        steps = [range(at, BLOCK * e, BLOCK) for at, e in zip(found.offset, every, strict=True)]
        for row in steps[0]:
            for column in steps[1]:
                evidence = 0.0
                for plane in planes:
                    small = downsampled(plane[row:, column:], every)
                    inside = downsampled(clipped[row:, column:].astype(np.float64), every) > 0.01
                    told = _telling(small, _usable(small, inside), (0, 0))
                    evidence += (_Large.of(told, waver).evidence(table) or 0.0) if told is not None else 0.0
                if evidence > best[0]:
                    best = (evidence, (row, column), every)
    return best[1], best[2]
