"""Compiled loops that follow the iso-line of a grey field and sharpen its points.

Coordinates: x right, y down, pixel (row i, column j) covers [j, j + 1] x [i, i + 1].
Directions are numbered 0 east, 1 south, 2 west, 3 north.
"""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import hypot, sqrt
from cython.cimports.libc.stdlib import free, malloc, realloc
from cython.cimports.libc.string import memcpy
from cython.cimports.sobercrow.core.tracing._border_kernels import BLUR_REACH_PX, REACH_PX, Crossing

from sobercrow.core.arrays import F64, I64, U8

STEP_X = [1, 0, -1, 0]
STEP_Y = [0, 1, 0, -1]

PLATEAU_LEVELS = 4.0
"""Neighbours closer than this, in grey levels, belong to the same flat tone."""

OUTSIDE = 256.0
"""Tone beyond the picture: paper at every threshold."""

NOWHERE = 1e300

SIDEWAYS = 0.55
"""Least share of the normal along a crossing's axis for the crossing to be kept."""


def _level(grey: U8, row: int, column: int) -> float:
    if row < 0 or column < 0 or row >= grey.shape[0] or column >= grey.shape[1]:
        return OUTSIDE
    return grey[row, column]


def follow_borders(grey: U8, iso: float, firsts: I64) -> tuple[I64, I64]:
    """Follow every closed border between ink (grey below `iso`) and paper.

    `firsts` are the ink pixels that begin a run in their row, counted along the rows.

    Returns
    -------
    crossings : (n, 3) int64
        Row and column of the ink pixel and the direction to its paper neighbour, in order of
        travel, ink on the right hand.
    starts : (m + 1,) int64
        Where each contour begins in `crossings`; the last entry is n.
    """
    width = grey.shape[1]
    seen = cython.declare(cython.uchar[:, ::1], np.zeros((grey.shape[0], width), dtype=np.uint8))
    starts = cython.declare(cython.longlong[::1], np.empty(firsts.shape[0] + 1, dtype=np.int64))
    joined = cython.declare(cython.bint)
    room = 4096
    crossings = cython.cast(cython.pointer(Crossing), malloc(room * cython.sizeof(Crossing)))
    count = contours = 0
    with cython.nogil:
        for k in range(firsts.shape[0]):
            first_row, first_column = firsts[k] // width, firsts[k] % width
            if seen[first_row, first_column] != 0:
                continue
            starts[contours] = count
            contours += 1
            row, column, facing = first_row, first_column, 2
            while True:
                if facing == 2:
                    seen[row, column] = 1
                if count == room:
                    room *= 2
                    crossings = cython.cast(
                        cython.pointer(Crossing), realloc(crossings, room * cython.sizeof(Crossing))
                    )
                crossings[count][0], crossings[count][1], crossings[count][2] = row, column, facing
                count += 1
                travel = (facing + 1) & 3
                ahead_row, ahead_column = row + STEP_Y[travel], column + STEP_X[travel]
                across_row, across_column = row + STEP_Y[facing], column + STEP_X[facing]
                beyond_row, beyond_column = across_row + STEP_Y[travel], across_column + STEP_X[travel]
                ahead = _level(grey, ahead_row, ahead_column)
                beyond = _level(grey, beyond_row, beyond_column)
                if ahead < iso and beyond >= iso:
                    row, column = ahead_row, ahead_column
                elif beyond >= iso:
                    facing = travel
                else:
                    joined = True
                    if ahead >= iso:  # a saddle: the mean of the four says what joins
                        mean = 0.25 * (grey[row, column] + ahead + beyond + _level(grey, across_row, across_column))
                        joined = mean < iso
                    if joined:
                        row, column = beyond_row, beyond_column
                        facing = (travel + 2) & 3
                    else:
                        facing = travel
                if row == first_row and column == first_column and facing == 2:
                    break
        starts[contours] = count
    found = np.empty((count, 3), dtype=np.int64)
    if count > 0:
        view = cython.declare(cython.longlong[:, ::1], found)
        memcpy(cython.address(view[0, 0]), crossings, count * cython.sizeof(Crossing))
    free(crossings)
    return found, np.asarray(starts)[: contours + 1]


def _walk(
    grey: U8, row: int, column: int, step_y: int, step_x: int, falling: bool, level: float
) -> tuple[float, int, bool]:
    """Walk away from the border until the tone is flat or turns back.

    Returns the tone reached, the number of pixels passed after the first, and whether a plateau was
    found (else the tone is `level`, the general one of that side).
    """
    here = _level(grey, row, column)
    for k in range(REACH_PX):
        there = _level(grey, row + (k + 1) * step_y, column + (k + 1) * step_x)
        change = here - there if falling else there - here
        if change < PLATEAU_LEVELS:
            if change > -PLATEAU_LEVELS:
                return (min(here, there) if falling else max(here, there)), k, True
            return (min(level, here) if falling else max(level, here)), k, False
        here = there
    return (min(level, here) if falling else max(level, here)), REACH_PX, False


def _partial_area_shift(
    grey: U8, row: int, column: int, facing: int, neutral: float, ink_level: float, paper_level: float
) -> float:
    """How far the partial-area edge lies from the interpolated crossing of `neutral`, towards the paper."""
    dy, dx = STEP_Y[facing], STEP_X[facing]
    ink, inward, ink_flat = _walk(grey, row, column, -dy, -dx, True, ink_level)
    paper, outward, paper_flat = _walk(grey, row + dy, column + dx, dy, dx, False, paper_level)
    spread = paper - ink
    if spread < 8.0:
        return 0.0
    middle = min(max((paper - neutral) / spread, 1e-3), 1.0 - 1e-3)
    covered = 0.0
    previous = 0.0
    crossing = NOWHERE
    for k in range(-inward, outward + 2):
        value = _level(grey, row + k * dy, column + k * dx)
        cover = min(max((paper - value) / spread, 0.0), 1.0)
        share = 1.0
        if k == -inward and not ink_flat:
            share = 0.5
        if k == outward + 1 and not paper_flat:
            share = 0.5
        covered += cover * share
        if k > -inward and previous >= middle > cover:
            crossing = k - 1 + (previous - middle) / (previous - cover)
        previous = cover
    if crossing == NOWHERE:
        return 0.0
    origin = -inward - (0.5 if ink_flat else 0.0)
    return min(max(origin + covered - crossing, -1.0), 1.0)


def locate_points(
    grey: U8, crossings: I64, iso: float, neutral: float, ink_level: float, paper_level: float, points: F64
) -> int:
    """Write the sub-pixel border points of one contour into `points`; return how many were kept.

    Each crossing lies between two pixel centres. Its place by linear interpolation (Lorensen & Cline
    1987, in 2-D) is shifted to where the partial-area effect puts the edge (Trujillo-Pino et al. 2013,
    "Accurate subpixel edge location based on partial area effect"): the sum of the covered shares along
    the profile, which neither the pixel grid nor a symmetric blur displaces. Crossings whose profile runs
    along the edge rather than across it carry no sharp position and are left out. With `iso` = `neutral` the
    border lies on the drawn edge; another `iso` moves it as far as it moves the interpolated line.
    """
    height, width = grey.shape[0], grey.shape[1]
    kept = 0
    with cython.nogil:
        for n in range(crossings.shape[0]):
            row, column, facing = crossings[n, 0], crossings[n, 1], crossings[n, 2]
            dy, dx = STEP_Y[facing], STEP_X[facing]
            gy, gx = 0.0, 0.0
            for side in range(2):
                r, c = row + side * dy, column + side * dx
                for k in range(-1, 2):
                    weight = 2.0 if k == 0 else 1.0
                    gx += weight * (_level(grey, r + k, c + 1) - _level(grey, r + k, c - 1))
                    gy += weight * (_level(grey, r + 1, c + k) - _level(grey, r - 1, c + k))
            size = hypot(gx, gy)
            along = gx * dx + gy * dy
            if size > 0.0 and along < SIDEWAYS * size and crossings.shape[0] > 16:
                continue
            ink = cython.cast(cython.double, grey[row, column])
            paper = _level(grey, row + dy, column + dx)
            if 0 <= row + dy < height and 0 <= column + dx < width:
                place = (iso - ink) / (paper - ink)
                place += _partial_area_shift(grey, row, column, facing, neutral, ink_level, paper_level)
            else:
                place = 0.5  # what reaches the picture's edge ends there
            points[kept, 0] = min(max(column + 0.5 + place * dx, 0.0), width)
            points[kept, 1] = min(max(row + 0.5 + place * dy, 0.0), height)
            kept += 1
    return kept


def edge_blurs(grey: U8, crossings: I64, every: int, spread: float, blurs: F64) -> int:
    """Write the width of the edge at every n-th crossing, as a standard deviation in px; return how many.

    It is the second moment of the profile's slope, pixel and lens together. Only clean crossings count:
    nearly square to the pixel grid, from full ink to full paper.
    """
    height, width = grey.shape[0], grey.shape[1]
    count = 0
    with cython.nogil:
        for k in range((crossings.shape[0] + every - 1) // every):
            n = k * every
            if count == blurs.shape[0]:
                break
            row, column, facing = crossings[n, 0], crossings[n, 1], crossings[n, 2]
            dy, dx = STEP_Y[facing], STEP_X[facing]
            low_row, high_row = row - BLUR_REACH_PX * abs(dy), row + (BLUR_REACH_PX + 1) * abs(dy)
            low_column, high_column = column - BLUR_REACH_PX * abs(dx), column + (BLUR_REACH_PX + 1) * abs(dx)
            if low_row < 1 or low_column < 1 or high_row >= height - 1 or high_column >= width - 1:
                continue
            sideways = abs(
                _level(grey, row + dx, column + dy)
                + _level(grey, row + dy + dx, column + dx + dy)
                - _level(grey, row - dx, column - dy)
                - _level(grey, row + dy - dx, column + dx - dy)
            )
            if sideways > 0.5 * spread:
                continue
            mass = first = second = 0.0
            steady = True
            for k in range(-BLUR_REACH_PX, BLUR_REACH_PX + 1):
                rise = _level(grey, row + (k + 1) * dy, column + (k + 1) * dx) - _level(
                    grey, row + k * dy, column + k * dx
                )
                if rise < -0.05 * spread:
                    steady = False
                    break
                rise = max(rise, 0.0)
                mass += rise
                first += rise * k
                second += rise * k * k
            if not steady or mass < 0.8 * spread:
                continue
            blurs[count] = sqrt(max(second / mass - (first / mass) ** 2, 0.0))
            count += 1
    return count
