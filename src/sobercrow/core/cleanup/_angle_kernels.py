"""Compiled loop that tells how well edge points pile up when projected along a direction."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import M_PI, cos, fabs, hypot, sin
from cython.cimports.sobercrow.core._numeric import truncated

from sobercrow.core.arrays import F64


def projection_scores(points: F64, directions: F64, angles: F64, near_deg: float) -> F64:
    """Return for each angle (radians) the sum of squares of the piled-up points' profile, per point.

    `points` (n, 2) are about the middle; `directions` (n,) are those of their edges in degrees. A point counts for
    an angle by how near its own direction is: fully at 0°, not at all from `near_deg` on.
    """
    count = points.shape[0]
    reach = 0.0
    for k in range(count):
        reach = max(reach, hypot(points[k, 0], points[k, 1]))
    size = truncated(2.0 * reach) + 6
    profile = cython.declare(cython.double[::1], np.empty(size))
    scores = cython.declare(cython.double[::1], np.empty(angles.shape[0]))
    with cython.nogil:
        for a in range(angles.shape[0]):
            profile[:] = 0.0
            sine, cosine = sin(angles[a]), cos(angles[a])
            degrees = angles[a] * 180.0 / M_PI
            for k in range(count):
                off = fabs(directions[k] - degrees)
                if off < near_deg:
                    across = points[k, 1] * cosine - points[k, 0] * sine + size / 2.0
                    low = truncated(across)
                    share = across - low
                    weight = 1.0 - off / near_deg
                    profile[low] += weight * (1.0 - share)
                    profile[low + 1] += weight * share
            total = 0.0
            for i in range(1, size - 1):
                value = 0.25 * profile[i - 1] + 0.5 * profile[i] + 0.25 * profile[i + 1]
                total += value * value
            scores[a] = total / count
    return np.asarray(scores)
