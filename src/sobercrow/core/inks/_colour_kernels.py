"""Compiled colour differences and counts of colours.

Colours are counted in cells of 8 × 8 × 8 sRGB values, 32 along each side.
"""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.compiled import kernel

TWENTY_FIVE_7 = 25.0**7


@kernel
def difference(l1: float, a1: float, b1: float, l2: float, a2: float, b2: float) -> float:
    """Return the CIEDE2000 difference of two colours (Sharma, Wu & Dalal 2005, weights 1)."""
    mean_7 = (0.5 * (np.hypot(a1, b1) + np.hypot(a2, b2))) ** 7
    stretch = 1.5 - 0.5 * np.sqrt(mean_7 / (mean_7 + TWENTY_FIVE_7))
    a1, a2 = a1 * stretch, a2 * stretch
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1 = np.arctan2(b1, a1) % (2 * np.pi) if c1 > 0 else 0.0
    h2 = np.arctan2(b2, a2) % (2 * np.pi) if c2 > 0 else 0.0
    turn = 0.0
    h_mean = h1 + h2
    if c1 * c2 > 0:
        turn = h2 - h1
        if turn > np.pi:
            turn -= 2 * np.pi
        elif turn < -np.pi:
            turn += 2 * np.pi
        if abs(h1 - h2) <= np.pi:
            h_mean = 0.5 * (h1 + h2)
        elif h1 + h2 < 2 * np.pi:
            h_mean = 0.5 * (h1 + h2) + np.pi
        else:
            h_mean = 0.5 * (h1 + h2) - np.pi
    lightness, chroma = l2 - l1, c2 - c1
    hue = 2 * np.sqrt(c1 * c2) * np.sin(0.5 * turn)
    c_mean = 0.5 * (c1 + c2)
    around = (0.5 * (l1 + l2) - 50.0) ** 2
    s_lightness = 1 + 0.015 * around / np.sqrt(20 + around)
    s_chroma = 1 + 0.045 * c_mean
    t = (
        1
        - 0.17 * np.cos(h_mean - np.pi / 6)
        + 0.24 * np.cos(2 * h_mean)
        + 0.32 * np.cos(3 * h_mean + np.pi / 30)
        - 0.20 * np.cos(4 * h_mean - 63 * np.pi / 180)
    )
    s_hue = 1 + 0.015 * c_mean * t
    mean_7 = c_mean**7
    bend = np.exp(-(((h_mean * 180 / np.pi - 275) / 25) ** 2))
    rotation = -np.sin(np.pi / 3 * bend) * 2 * np.sqrt(mean_7 / (mean_7 + TWENTY_FIVE_7))
    x, y, z = lightness / s_lightness, chroma / s_chroma, hue / s_hue
    return float(np.sqrt(max(x * x + y * y + z * z + rotation * y * z, 0.0)))


@kernel
def differences(first: F64, second: F64, out: F64) -> None:
    """Write the CIEDE2000 difference of every colour of (n, 3) to every one of (m, 3) into (n, m)."""
    for i in range(first.shape[0]):
        for j in range(second.shape[0]):
            out[i, j] = difference(first[i, 0], first[i, 1], first[i, 2], second[j, 0], second[j, 1], second[j, 2])


@kernel
def mark_cells(pixels: U8, first: int, last: int, used: U8) -> None:
    """Mark the cells whose colours occur in rows `first` ≤ row < `last`."""
    for row in range(first, last):
        for column in range(pixels.shape[1]):
            r, g, b = pixels[row, column, 0], pixels[row, column, 1], pixels[row, column, 2]
            used[((np.int64(r) >> 3) << 10) | ((np.int64(g) >> 3) << 5) | (np.int64(b) >> 3)] = 1


@kernel
def two_nearest(cells: F64, inks: F64, used: U8, nearest: U8, runner: U8) -> None:
    """Write which two inks are most like each cell that is used, by CIEDE2000; all colours L*a*b*.

    Only the four nearest by plain distance are compared: no others can win by more than the eye would mind.
    """
    count = inks.shape[0]
    kept = min(count, 4)
    order = np.zeros(kept, dtype=np.int64)
    squares = np.empty(kept)
    for n in range(cells.shape[0]):
        if used[n] == 0:
            continue
        squares[:] = 1e30
        for k in range(count):
            square = (cells[n, 0] - inks[k, 0]) ** 2 + (cells[n, 1] - inks[k, 1]) ** 2 + (cells[n, 2] - inks[k, 2]) ** 2
            place = kept
            while place > 0 and square < squares[place - 1]:
                place -= 1
            if place < kept:
                for m in range(kept - 1, place, -1):
                    squares[m], order[m] = squares[m - 1], order[m - 1]
                squares[place], order[place] = square, k
        nearest[n] = runner[n] = order[0]
        best = second = 1e30
        for m in range(kept):
            k = order[m]
            away = difference(cells[n, 0], cells[n, 1], cells[n, 2], inks[k, 0], inks[k, 1], inks[k, 2])
            if away < best:
                second, runner[n] = best, nearest[n]
                best, nearest[n] = away, k
            elif away < second:
                second, runner[n] = away, k


@kernel
def steps_between(pixels: U8, every: int, counts: F64) -> None:
    """Count steps between neighbours along every n-th row by their size in the channel of the largest, (256,)."""
    height, width = pixels.shape[:2]
    for row in range(every // 2, height, every):
        for column in range(width - 1):
            step = np.int64(0)
            for k in range(3):
                step = max(step, abs(np.int64(pixels[row, column, k]) - np.int64(pixels[row, column + 1, k])))
            counts[step] += 1


@kernel
def count_flat(pixels: U8, limit: int, first: int, last: int, sums: F64) -> None:
    """Add pixels in rows `first` ≤ row < `last` in flat colour to their cells: r, g, b and 1 into (32768, 4).

    A pixel is flat if no channel differs by more than `limit` from the pixels left, right, above and below.
    """
    height, width = pixels.shape[:2]
    for row in range(max(first, 1), min(last, height - 1)):
        for column in range(1, width - 1):
            flat = True
            for k in range(3):
                here = np.int64(pixels[row, column, k])
                if (
                    abs(here - np.int64(pixels[row, column + 1, k])) > limit
                    or abs(here - np.int64(pixels[row, column - 1, k])) > limit
                    or abs(here - np.int64(pixels[row + 1, column, k])) > limit
                    or abs(here - np.int64(pixels[row - 1, column, k])) > limit
                ):
                    flat = False
                    break
            if flat:
                r, g, b = pixels[row, column, 0], pixels[row, column, 1], pixels[row, column, 2]
                cell = ((np.int64(r) >> 3) << 10) | ((np.int64(g) >> 3) << 5) | (np.int64(b) >> 3)
                sums[cell, 0] += r
                sums[cell, 1] += g
                sums[cell, 2] += b
                sums[cell, 3] += 1.0
