"""Compiled moments of closed borders."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import hypot

from sobercrow.core.arrays import F64


def border_moments(points: F64) -> F64:
    """Return the moments of a closed border (n, 2), a wire of even weight, about its middle.

    Length, middle x and y, then in the mean over its length xx, xy, yy, xxx, xxy, xyy, yyy: ten numbers. Each piece
    counts as its middle.
    """
    n = points.shape[0]
    sums = cython.declare(cython.double[::1], np.zeros(10))
    cython.declare(x=cython.double, y=cython.double)
    with cython.nogil:
        for turn in range(2):
            for k in range(n):
                j = k + 1 if k + 1 < n else 0
                length = hypot(points[j, 0] - points[k, 0], points[j, 1] - points[k, 1])
                x, y = 0.5 * (points[j, 0] + points[k, 0]), 0.5 * (points[j, 1] + points[k, 1])
                if turn == 0:
                    sums[0] += length
                    sums[1] += length * x
                    sums[2] += length * y
                    continue
                x, y = x - sums[1], y - sums[2]
                sums[3] += length * x * x
                sums[4] += length * x * y
                sums[5] += length * y * y
                sums[6] += length * x * x * x
                sums[7] += length * x * x * y
                sums[8] += length * x * y * y
                sums[9] += length * y * y * y
            if turn == 0:
                sums[1] /= sums[0]
                sums[2] /= sums[0]
        for k in range(3, 10):
            sums[k] /= sums[0]
    return np.asarray(sums)
