"""Compiled colour differences and counts of colours.

Colours are counted in cells of 8 × 8 × 8 sRGB values, 32 along each side.
"""

from __future__ import annotations

import cython
from cython.cimports.libc.math import M_PI, atan2, cos, exp, fabs, hypot, sin, sqrt
from cython.cimports.sobercrow.core._numeric import modulo
from cython.cimports.sobercrow.core.inks._colour_kernels import KEPT

from sobercrow.core.arrays import F64, I64, U8

TWENTY_FIVE_7 = 25.0**7


def difference(l1: float, a1: float, b1: float, l2: float, a2: float, b2: float) -> float:
    """Return the CIEDE2000 difference of two colours (Sharma, Wu & Dalal 2005, weights 1)."""
    mean_7 = (0.5 * (hypot(a1, b1) + hypot(a2, b2))) ** 7
    stretch = 1.5 - 0.5 * sqrt(mean_7 / (mean_7 + TWENTY_FIVE_7))
    a1, a2 = a1 * stretch, a2 * stretch
    c1, c2 = hypot(a1, b1), hypot(a2, b2)
    h1 = modulo(atan2(b1, a1), 2 * M_PI) if c1 > 0 else 0.0
    h2 = modulo(atan2(b2, a2), 2 * M_PI) if c2 > 0 else 0.0
    turn = 0.0
    h_mean = h1 + h2
    if c1 * c2 > 0:
        turn = h2 - h1
        if turn > M_PI:
            turn -= 2 * M_PI
        elif turn < -M_PI:
            turn += 2 * M_PI
        if fabs(h1 - h2) <= M_PI:
            h_mean = 0.5 * (h1 + h2)
        elif h1 + h2 < 2 * M_PI:
            h_mean = 0.5 * (h1 + h2) + M_PI
        else:
            h_mean = 0.5 * (h1 + h2) - M_PI
    lightness, chroma = l2 - l1, c2 - c1
    hue = 2 * sqrt(c1 * c2) * sin(0.5 * turn)
    c_mean = 0.5 * (c1 + c2)
    around = (0.5 * (l1 + l2) - 50.0) ** 2
    s_lightness = 1 + 0.015 * around / sqrt(20 + around)
    s_chroma = 1 + 0.045 * c_mean
    t = (
        1
        - 0.17 * cos(h_mean - M_PI / 6)
        + 0.24 * cos(2 * h_mean)
        + 0.32 * cos(3 * h_mean + M_PI / 30)
        - 0.20 * cos(4 * h_mean - 63 * M_PI / 180)
    )
    s_hue = 1 + 0.015 * c_mean * t
    mean_7 = c_mean**7
    bend = exp(-(((h_mean * 180 / M_PI - 275) / 25) ** 2))
    rotation = -sin(M_PI / 3 * bend) * 2 * sqrt(mean_7 / (mean_7 + TWENTY_FIVE_7))
    x, y, z = lightness / s_lightness, chroma / s_chroma, hue / s_hue
    return sqrt(max(x * x + y * y + z * z + rotation * y * z, 0.0))


def differences(first: F64, second: F64, out: F64) -> None:
    """Write the CIEDE2000 difference of every colour of (n, 3) to every one of (m, 3) into (n, m)."""
    with cython.nogil:
        for i in range(first.shape[0]):
            for j in range(second.shape[0]):
                out[i, j] = difference(first[i, 0], first[i, 1], first[i, 2], second[j, 0], second[j, 1], second[j, 2])


def cell_of(colour: U8) -> int:
    """The cell that a colour r, g, b is counted in."""
    return ((colour[0] >> 3) << 10) | ((colour[1] >> 3) << 5) | (colour[2] >> 3)


def mark_cells(pixels: U8, first: int, last: int, used: U8) -> None:
    """Mark the cells whose colours occur in rows `first` ≤ row < `last`."""
    with cython.nogil:
        for row in range(first, last):
            for column in range(pixels.shape[1]):
                used[cell_of(cython.address(pixels[row, column, 0]))] = 1


def two_nearest(cells: F64, inks: F64, used: U8, nearest: U8, runner: U8) -> None:
    """Write which two inks are most like each cell that is used, by CIEDE2000; all colours L*a*b*.

    Only the four nearest by plain distance are compared: no others can win by more than the eye would mind.
    """
    count = inks.shape[0]
    kept = min(count, KEPT)
    order = cython.declare(cython.Py_ssize_t[KEPT])
    squares = cython.declare(cython.double[KEPT])
    cython.declare(best=cython.double, second=cython.double)
    with cython.nogil:
        for n in range(cells.shape[0]):
            if used[n] == 0:
                continue
            for m in range(kept):
                squares[m] = 1e30
            for k in range(count):
                x, y, z = cells[n, 0] - inks[k, 0], cells[n, 1] - inks[k, 1], cells[n, 2] - inks[k, 2]
                square = x * x + y * y + z * z
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


def most_apart(one: U8, other: U8) -> int:
    """By how much two colours differ in the channel of the largest difference."""
    most = cython.declare(cython.int, 0)
    for k in range(3):
        most = max(most, abs(cython.cast(cython.int, one[k]) - other[k]))
    return most


def steps_between(pixels: U8, every: int, counts: F64) -> None:
    """Count steps between neighbours along every n-th row by their size in the channel of the largest, (256,)."""
    with cython.nogil:
        row = every // 2
        while row < pixels.shape[0]:
            for column in range(pixels.shape[1] - 1):
                counts[
                    most_apart(cython.address(pixels[row, column, 0]), cython.address(pixels[row, column + 1, 0]))
                ] += 1
            row += every


def count_flat(pixels: U8, limit: int, first: int, last: int, sums: F64) -> None:
    """Add pixels in rows `first` ≤ row < `last` in flat colour to their cells: r, g, b and 1 into (32768, 4).

    A pixel is flat if no channel differs by more than `limit` from the pixels left, right, above and below.
    """
    height, width = pixels.shape[0], pixels.shape[1]
    across, down = 3, 3 * width
    with cython.nogil:
        for row in range(max(first, 1), min(last, height - 1)):
            for column in range(1, width - 1):
                here = cython.address(pixels[row, column, 0])
                if (
                    most_apart(here, here + across) > limit
                    or most_apart(here, here - across) > limit
                    or most_apart(here, here + down) > limit
                    or most_apart(here, here - down) > limit
                ):
                    continue
                cell = cell_of(here)
                sums[cell, 0] += here[0]
                sums[cell, 1] += here[1]
                sums[cell, 2] += here[2]
                sums[cell, 3] += 1.0


def nearest_centres(points: F64, centres: F64, own: I64) -> None:
    """Write which of the centres (m, 3) each point (n, 3) is nearest to."""
    cython.declare(best=cython.double)
    with cython.nogil:
        for i in range(points.shape[0]):
            best = 1e300
            for k in range(centres.shape[0]):
                x, y, z = points[i, 0] - centres[k, 0], points[i, 1] - centres[k, 1], points[i, 2] - centres[k, 2]
                square = x * x + y * y + z * z
                if square < best:
                    best, own[i] = square, k


def crowd_weights(points: F64, weights: F64, reach: float, crowds: F64) -> None:
    """Write what all points (n, 3) within `reach` of each weigh together, itself among them."""
    cython.declare(total=cython.double)
    with cython.nogil:
        for i in range(points.shape[0]):
            total = 0.0
            for k in range(points.shape[0]):
                x, y, z = points[i, 0] - points[k, 0], points[i, 1] - points[k, 1], points[i, 2] - points[k, 2]
                if x * x + y * y + z * z <= reach * reach:
                    total += weights[k]
            crowds[i] = total
