"""Compiled search for places on lines that lie near each other."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import fabs, fmin, sqrt
from cython.cimports.sobercrow.core._numeric import floored
from cython.cimports.sobercrow.core.geometry._nearest_kernels import list_by_cells

from sobercrow.core.arrays import F64, I64

MOST_CELLS = 4e6


def _pairs(
    places: F64,
    kinds: I64,
    lines: I64,
    along: F64,
    around: F64,
    reach: float,
    roundabout: float,
    first: I64,
    listed: I64,
    cells: I64,
    columns: int,
    into: I64,
) -> int:
    """Write the pairs `into`, if that is anything, and count them; see `near_pairs`."""
    count = 0
    for at in range(places.shape[0]):
        a = listed[at]
        for step in range(5):
            # the rest of its own cell, then the one after it and those of the next row
            cell = cells[a] + (0 if step == 0 else 1 if step == 1 else columns + step - 3)
            for other in range(at + 1 if step == 0 else first[cell], first[cell + 1]):
                b = listed[other]
                x, y = places[a, 0] - places[b, 0], places[a, 1] - places[b, 1]
                square = x * x + y * y
                if square > reach * reach or kinds[a] != kinds[b]:
                    continue
                if lines[a] == lines[b]:
                    way = fabs(along[a] - along[b])
                    if fmin(way, around[lines[a]] - way) <= roundabout * sqrt(square) + 1e-9:
                        continue
                if into != cython.NULL:
                    into[2 * count], into[2 * count + 1] = min(a, b), max(a, b)
                count += 1
    return count


def near_pairs(places: F64, kinds: I64, lines: I64, along: F64, around: F64, reach: float, roundabout: float) -> I64:
    """Return which places (n, 2) of one kind lie within reach of each other, (k, 2), the lower number first.

    Each is `along` (n) one of the `lines` (n); those that are hardly further apart along it than they are across,
    `roundabout` times, are left out. `around` is how long each line is if it is closed, else endless. Places are
    sorted into square cells as wide as the reach (Bentley, Stanat & Williams 1977, "The complexity of finding fixed-
    radius near neighbors"). Other threads run meanwhile.
    """
    n = places.shape[0]
    low = cython.declare(cython.double[::1], np.min(places, axis=0))
    high = cython.declare(cython.double[::1], np.max(places, axis=0))
    size = max(reach, sqrt((high[0] - low[0] + 1.0) * (high[1] - low[1] + 1.0) / MOST_CELLS))
    columns = floored((high[0] - low[0]) / size) + 3  # one more at either side, and one row more at the end
    rows = floored((high[1] - low[1]) / size) + 2
    cells = cython.declare(cython.Py_ssize_t[::1], np.empty(n, dtype=np.intp))
    first = cython.declare(cython.Py_ssize_t[::1], np.zeros(rows * columns + 2, dtype=np.intp))
    listed = cython.declare(cython.Py_ssize_t[::1], np.empty(n, dtype=np.intp))
    with cython.nogil:
        for k in range(n):
            cells[k] = floored((places[k, 1] - low[1]) / size) * columns + floored((places[k, 0] - low[0]) / size) + 1
        list_by_cells(cells, rows * columns, first, listed)
        count = _pairs(
            places, kinds, lines, along, around, reach, roundabout, first, listed, cells, columns, cython.NULL
        )
    found = cython.declare(cython.longlong[:, ::1], np.empty((max(count, 1), 2), dtype=np.int64))
    with cython.nogil:
        _pairs(
            places, kinds, lines, along, around, reach, roundabout, first, listed, cells, columns,
            cython.address(found[0, 0]),
        )  # fmt: skip
    return np.asarray(found)[:count]
