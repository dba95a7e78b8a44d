"""Compiled loops over which ink every pixel is."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.sobercrow.core._numeric import to_tone
from cython.cimports.sobercrow.core.inks._colour_kernels import cell_of
from cython.cimports.sobercrow.core.inks._label_kernels import REACH
from cython.cimports.sobercrow.core.inks._mixture_kernels import is_inner

from sobercrow.core.arrays import F32, F64, U8, U64


def _is_flat(pixels: U8, row: int, column: int, limit: int) -> bool:
    """Tell whether the pixels left, right, above and below differ by at most `limit`, channels added up."""
    height, width = pixels.shape[0], pixels.shape[1]
    here = cython.address(pixels[row, column, 0])
    for k in range(4):
        y, x = row, column
        if k < 2:
            y += 1 - 2 * k
        else:
            x += 5 - 2 * k
        if y < 0 or x < 0 or y >= height or x >= width:
            continue
        there = cython.address(pixels[y, x, 0])
        if _sum_of_steps(here, there) > limit:
            return False
    return True


def _sum_of_steps(one: U8, other: U8) -> int:
    """By how much two colours differ, channels added up."""
    total = cython.declare(cython.int, 0)
    for k in range(3):
        total += abs(cython.cast(cython.int, one[k]) - other[k])
    return total


def _squared(r: float, g: float, b: float, ink: F32) -> float:
    x, y, z = r - ink[0], g - ink[1], b - ink[2]
    return x * x + y * y + z * z


def first_labels(
    pixels: U8, nearest: U8, runner: U8, inks: F32, sure: F32, limit: int, first: int, last: int, labels: U8, bits: U64
) -> None:
    """Give pixels to the ink most like them, and mark those that surely are that ink's with its bit.

    `nearest` and `runner` (32768,) are the two inks most like a cell of colours; which of them a pixel is nearer to is
    seen exactly. `sure` (n,) is how near is surely near, squared.
    """
    width = labels.shape[1]
    with cython.nogil:
        for row in range(first, last):
            for column in range(width):
                r, g, b = pixels[row, column, 0], pixels[row, column, 1], pixels[row, column, 2]
                cell = cell_of(cython.address(pixels[row, column, 0]))
                ink, other = nearest[cell], runner[cell]
                d = _squared(r, g, b, cython.address(inks[ink, 0]))
                if other != ink:
                    e = _squared(r, g, b, cython.address(inks[other, 0]))
                    if e < d:
                        ink, d = other, e
                labels[row, column] = ink
                bits[row, column] = 0
                if d > sure[ink]:
                    continue
                if _is_flat(pixels, row, column, limit):
                    bits[row, column] = cython.cast(cython.ulonglong, 1) << ink


def spread_across(bits: U64, first: int, last: int, out: U64) -> None:
    """Write which inks are surely within `REACH` pixels left or right."""
    width = bits.shape[1]
    seen = cython.declare(cython.ulonglong)
    with cython.nogil:
        for row in range(first, last):
            for column in range(width):
                seen = 0
                for k in range(max(column - REACH, 0), min(column + REACH + 1, width)):
                    seen |= bits[row, k]
                out[row, column] = seen


def spread_down(bits: U64, first: int, last: int, out: U64) -> None:
    """Write which inks are within `REACH` pixels above or below, of what was spread across."""
    height, width = bits.shape[0], bits.shape[1]
    seen = cython.declare(cython.ulonglong)
    with cython.nogil:
        for row in range(first, last):
            low, high = max(row - REACH, 0), min(row + REACH + 1, height)
            for column in range(width):
                seen = 0
                for k in range(low, high):
                    seen |= bits[k, column]
                out[row, column] = seen


def inner_sums(pixels: U8, labels: U8, sums: F64, inner: U8) -> None:
    """Mark the pixels whose eight neighbours are all their ink's, and add their r, g, b and 1 to its row of (n, 4)."""
    height, width = labels.shape[0], labels.shape[1]
    with cython.nogil:
        for row in range(1, height - 1):
            for column in range(1, width - 1):
                own = labels[row, column]
                if is_inner(labels, row, column):
                    inner[row, column] = 1
                    for k in range(3):
                        sums[own, k] += pixels[row, column, k]
                    sums[own, 3] += 1.0


def ink_tones(own: U8, second: U8, share: U8, ink: int, first: int, last: int, out: U8) -> None:
    """Write the tones at which an ink is traced: 0 where it is pure, 255 where there is none of it."""
    held = cython.declare(cython.int)
    with cython.nogil:
        for row in range(first, last):
            for column in range(own.shape[1]):
                held = 0
                if own[row, column] == ink:
                    held = share[row, column]
                elif second[row, column] == ink:
                    held = 255 - share[row, column]
                out[row, column] = 255 - held


def run_beneath(
    own: U8, second: U8, share: U8, upper: U8, away: F32, overlap: float, first: int, last: int, tones: U8
) -> None:
    """Darken an ink's tones where it runs on beneath the inks drawn above it (`upper`, by ink).

    `away` is how far each pixel is from the ink's own ones; it runs on `overlap` px beyond its border.
    """
    above = cython.declare(cython.int)
    with cython.nogil:
        for row in range(first, last):
            for column in range(own.shape[1]):
                reached = overlap + 1.0 - away[row, column]
                if reached <= 0.0:
                    continue
                a, b, s = own[row, column], second[row, column], share[row, column]
                above = 0
                if upper[a] == 1:
                    above = s
                if b != a and upper[b] == 1:
                    above += 255 - s
                held = 255 - tones[row, column] + min(reached, 1.0) * above
                tones[row, column] = to_tone(255.0 - held)


def settle_seconds(own: U8, second: U8, share: U8) -> None:
    """Let a pixel be pure whose second ink is nowhere within two pixels of it."""
    height, width = own.shape[0], own.shape[1]
    met = cython.declare(cython.bint)
    with cython.nogil:
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


def mark_crumbs(labels: U8, least: int, crumbs: U8) -> None:
    """Mark with 1 the pixels of regions of like labels, eight neighbours joined, with fewer than `least` pixels."""
    height, width = labels.shape[0], labels.shape[1]
    # 1 seen in a small region, 2 known to be in a large one
    state = cython.declare(cython.uchar[:, ::1], np.zeros((height, width), dtype=np.uint8))
    queue = cython.declare(cython.Py_ssize_t[:, ::1], np.empty((least, 2), dtype=np.intp))
    large = cython.declare(cython.bint)
    with cython.nogil:
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
                    row, column = queue[done, 0], queue[done, 1]
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
                    y, x = queue[k, 0], queue[k, 1]
                    state[y, x] = 2 if large or count >= least else 1
                    crumbs[y, x] = 0 if large or count >= least else 1
