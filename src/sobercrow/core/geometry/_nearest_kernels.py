"""Compiled search for the segment nearest to each of many points."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import fmax, hypot, sqrt
from cython.cimports.sobercrow.core._numeric import floored

from sobercrow.core.arrays import F64, I64

MOST_CELLS = 4e6


def to_segment(x: float, y: float, a: F64, b: F64) -> float:
    """The distance of a place from a segment, squared."""
    way_x, way_y = b[0] - a[0], b[1] - a[1]
    off_x, off_y = x - a[0], y - a[1]
    square = way_x * way_x + way_y * way_y
    t = cython.declare(cython.double, 0.0)
    if square > 1e-18:
        t = min(max((off_x * way_x + off_y * way_y) / square, 0.0), 1.0)
    x, y = off_x - t * way_x, off_y - t * way_y
    return x * x + y * y


def list_by_cells(where: I64, cells: int, first: I64, listed: I64) -> None:
    """List things by the cells they lie in (n), sorted by counting: those of cell c from `first[c]` to `first[c + 1]`.

    `first` (cells + 2) is nought before.
    """
    for k in range(where.shape[0]):
        first[where[k] + 2] += 1
    for c in range(cells):
        first[c + 2] += first[c + 1]
    for k in range(where.shape[0]):
        listed[first[where[k] + 1]] = k
        first[where[k] + 1] += 1


def nearest_segments(points: F64, starts: F64, ends: F64, reach: float) -> tuple[F64, I64]:
    """Return how far each point (n, 2) is from the nearest of many segments, (m, 2) to (m, 2), and which that is.

    Infinity and −1 where none is within `reach`. Segments are kept by their middles in square cells twice as wide as
    the longest of them, and the cells around a point are looked through ring by ring (Bentley, Weide & Yao 1980,
    "Optimal expected-time algorithms for closest point problems"). Other threads run meanwhile.
    """
    n, m = points.shape[0], starts.shape[0]
    away = cython.declare(cython.double[::1], np.full(n, np.inf))
    index = cython.declare(cython.longlong[::1], np.full(n, -1, dtype=np.int64))
    if m == 0:
        return np.asarray(away), np.asarray(index)
    middles = cython.declare(cython.double[:, ::1], 0.5 * (np.asarray(starts) + np.asarray(ends)))
    low = cython.declare(cython.double[::1], np.min(middles, axis=0))
    high = cython.declare(cython.double[::1], np.max(middles, axis=0))
    cython.declare(half=cython.double, best=cython.double, square=cython.double, nearest=cython.Py_ssize_t)
    half = 0.0
    for k in range(m):
        half = fmax(half, 0.5 * hypot(ends[k, 0] - starts[k, 0], ends[k, 1] - starts[k, 1]))
    area = (high[0] - low[0] + 1.0) * (high[1] - low[1] + 1.0)
    cell = fmax(fmax(4.0 * half, sqrt(area / MOST_CELLS)), 1e-3)
    columns, rows = floored((high[0] - low[0]) / cell) + 1, floored((high[1] - low[1]) / cell) + 1
    first = cython.declare(cython.Py_ssize_t[::1], np.zeros(rows * columns + 2, dtype=np.intp))
    where = cython.declare(cython.Py_ssize_t[::1], np.empty(m, dtype=np.intp))
    listed = cython.declare(cython.Py_ssize_t[::1], np.empty(m, dtype=np.intp))
    with cython.nogil:
        for k in range(m):
            where[k] = floored((middles[k, 1] - low[1]) / cell) * columns + floored((middles[k, 0] - low[0]) / cell)
        list_by_cells(where, rows * columns, first, listed)
        furthest = floored((reach + half) / cell) + 2
        for p in range(n):
            x, y = points[p, 0], points[p, 1]
            column, row = floored((x - low[0]) / cell), floored((y - low[1]) / cell)
            best, nearest = reach * reach, -1
            for ring in range(furthest + 1):
                beyond = (ring - 1) * cell - half
                if beyond > 0.0 and beyond * beyond > best:
                    break
                for i in range(max(row - ring, 0), min(row + ring + 1, rows)):
                    step = 1 if i == row - ring or i == row + ring or ring == 0 else 2 * ring
                    j = column - ring
                    while j <= column + ring:
                        if 0 <= j < columns:
                            for at in range(first[i * columns + j], first[i * columns + j + 1]):
                                k = listed[at]
                                square = to_segment(x, y, cython.address(starts[k, 0]), cython.address(ends[k, 0]))
                                if square < best:
                                    best, nearest = square, k
                        j += step
            if nearest >= 0:
                away[p], index[p] = sqrt(best), nearest
    return np.asarray(away), np.asarray(index)
