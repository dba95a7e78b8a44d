"""Compiled loops over which ink every pixel is."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F32, F64, U8, U64
from sobercrow.core.compiled import kernel
from sobercrow.core.inks._mixture_kernels import is_inner

REACH = 3
"""How far from flat colour a soft edge reaches, in pixels."""
CELL_BITS = 3


@kernel
def _is_flat(pixels: U8, row: int, column: int, limit: int) -> bool:
    """Tell whether the pixels left, right, above and below differ by at most `limit`, channels added up."""
    height, width = pixels.shape[:2]
    for k in range(4):
        y, x = row + (k == 0) - (k == 1), column + (k == 2) - (k == 3)
        if y < 0 or x < 0 or y >= height or x >= width:
            continue
        step = np.int64(0)
        for channel in range(3):
            step += abs(np.int64(pixels[row, column, channel]) - np.int64(pixels[y, x, channel]))
        if step > limit:
            return False
    return True


@kernel
def first_labels(
    pixels: U8, nearest: U8, runner: U8, inks: F32, sure: F32, limit: int, first: int, last: int, labels: U8, bits: U64
) -> None:
    """Give pixels to the ink most like them, and mark those that surely are that ink's with its bit.

    `nearest` and `runner` (32768,) are the two inks most like a cell of colours; which of them a pixel is nearer to is
    seen exactly. `sure` (n,) is how near is surely near, squared.
    """
    width = labels.shape[1]
    for row in range(first, last):
        for column in range(width):
            r, g, b = (
                np.int64(pixels[row, column, 0]),
                np.int64(pixels[row, column, 1]),
                np.int64(pixels[row, column, 2]),
            )
            cell = ((r >> CELL_BITS) << 10) | ((g >> CELL_BITS) << 5) | (b >> CELL_BITS)
            ink, other = nearest[cell], runner[cell]
            d = (r - inks[ink, 0]) ** 2 + (g - inks[ink, 1]) ** 2 + (b - inks[ink, 2]) ** 2
            if other != ink:
                e = (r - inks[other, 0]) ** 2 + (g - inks[other, 1]) ** 2 + (b - inks[other, 2]) ** 2
                if e < d:
                    ink, d = other, e
            labels[row, column] = ink
            bits[row, column] = 0
            if d > sure[ink]:
                continue
            if _is_flat(pixels, row, column, limit):
                bits[row, column] = np.uint64(1) << np.uint64(ink)


@kernel
def spread_across(bits: U64, first: int, last: int, out: U64) -> None:
    """Write which inks are surely within `REACH` pixels left or right."""
    width = bits.shape[1]
    for row in range(first, last):
        for column in range(width):
            seen = np.uint64(0)
            for k in range(max(column - REACH, 0), min(column + REACH + 1, width)):
                seen |= bits[row, k]
            out[row, column] = seen


@kernel
def spread_down(bits: U64, first: int, last: int, out: U64) -> None:
    """Write which inks are within `REACH` pixels above or below, of what was spread across."""
    height, width = bits.shape
    for row in range(first, last):
        low, high = max(row - REACH, 0), min(row + REACH + 1, height)
        for column in range(width):
            seen = np.uint64(0)
            for k in range(low, high):
                seen |= bits[k, column]
            out[row, column] = seen


@kernel
def inner_sums(pixels: U8, labels: U8, sums: F64, inner: U8) -> None:
    """Mark the pixels whose eight neighbours are all their ink's, and add their r, g, b and 1 to its row of (n, 4)."""
    height, width = labels.shape
    for row in range(1, height - 1):
        for column in range(1, width - 1):
            own = labels[row, column]
            if is_inner(labels, row, column):
                inner[row, column] = 1
                for k in range(3):
                    sums[own, k] += pixels[row, column, k]
                sums[own, 3] += 1.0


@kernel
def ink_tones(own: U8, second: U8, share: U8, ink: int, first: int, last: int, out: U8) -> None:
    """Write the tones at which an ink is traced: 0 where it is pure, 255 where there is none of it."""
    for row in range(first, last):
        for column in range(own.shape[1]):
            held = np.int64(0)
            if own[row, column] == ink:
                held = np.int64(share[row, column])
            elif second[row, column] == ink:
                held = 255 - np.int64(share[row, column])
            out[row, column] = 255 - held


@kernel
def run_beneath(
    own: U8, second: U8, share: U8, upper: U8, away: F32, overlap: float, first: int, last: int, tones: U8
) -> None:
    """Darken an ink's tones where it runs on beneath the inks drawn above it (`upper`, by ink).

    `away` is how far each pixel is from the ink's own ones; it runs on `overlap` px beyond its border.
    """
    for row in range(first, last):
        for column in range(own.shape[1]):
            reached = overlap + 1.0 - away[row, column]
            if reached <= 0.0:
                continue
            a, b, s = own[row, column], second[row, column], np.int64(share[row, column])
            above = np.int64(0)
            if upper[a] == 1:
                above = s
            if b != a and upper[b] == 1:
                above += 255 - s
            held = 255 - tones[row, column] + min(reached, 1.0) * above
            tones[row, column] = np.uint8(max(255.0 - held, 0.0))


@kernel
def settle_seconds(own: U8, second: U8, share: U8) -> None:
    """Let a pixel be pure whose second ink is nowhere within two pixels of it."""
    height, width = own.shape
    for row in range(height):
        for column in range(width):
            b = second[row, column]
            if b == own[row, column]:
                share[row, column] = 255
                continue
            met = False
            for y in range(max(row - 2, 0), min(row + 3, height)):
                for x in range(max(column - 2, 0), min(column + 3, width)):
                    met = met or own[y, x] == b
            if not met:
                second[row, column] = own[row, column]
                share[row, column] = 255


@kernel
def mark_crumbs(labels: U8, least: int, crumbs: U8) -> None:
    """Mark with 1 the pixels of regions of like labels, eight neighbours joined, with fewer than `least` pixels."""
    height, width = labels.shape
    state = np.zeros((height, width), dtype=np.uint8)  # 1 seen in a small region, 2 known to be in a large one
    queue = np.empty((least, 2), dtype=np.int64)
    for first_row in range(height):
        for first_column in range(width):
            if state[first_row, first_column] != 0:
                continue
            own = labels[first_row, first_column]
            queue[0, 0], queue[0, 1] = first_row, first_column
            state[first_row, first_column] = 1
            count = 1
            large = False
            done = 0
            while done < count and not large:
                row, column = queue[done]
                done += 1
                for y in range(max(row - 1, 0), min(row + 2, height)):
                    for x in range(max(column - 1, 0), min(column + 2, width)):
                        if labels[y, x] != own or state[y, x] == 1:
                            continue
                        if state[y, x] == 2 or count == least:
                            large = True
                        else:
                            state[y, x] = 1
                            queue[count, 0], queue[count, 1] = y, x
                            count += 1
            for k in range(count):
                y, x = queue[k]
                state[y, x] = 2 if large or count >= least else 1
                crumbs[y, x] = 0 if large or count >= least else 1
