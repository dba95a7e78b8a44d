"""Compiled loop that tells how well edge points pile up when projected along a direction."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.compiled import kernel


@kernel
def projection_scores(points: F64, directions: F64, angles: F64, near_deg: float) -> F64:
    """Return for each angle (radians) the sum of squares of the piled-up points' profile, per point.

    `points` (n, 2) are about the middle; `directions` (n,) are those of their edges in degrees. A point counts for
    an angle by how near its own direction is: fully at 0°, not at all from `near_deg` on.
    """
    reach = 0.0
    for k in range(points.shape[0]):
        reach = max(reach, np.hypot(points[k, 0], points[k, 1]))
    size = int(2 * reach) + 6
    profile = np.empty(size)
    scores = np.empty(angles.size)
    for a in range(angles.size):
        profile[:] = 0.0
        sine, cosine = np.sin(angles[a]), np.cos(angles[a])
        degrees = np.degrees(angles[a])
        for k in range(points.shape[0]):
            off = abs(directions[k] - degrees)
            if off < near_deg:
                across = points[k, 1] * cosine - points[k, 0] * sine + size / 2
                low = int(across)
                share = across - low
                weight = 1.0 - off / near_deg
                profile[low] += weight * (1.0 - share)
                profile[low + 1] += weight * share
        total = 0.0
        for i in range(1, size - 1):
            value = 0.25 * profile[i - 1] + 0.5 * profile[i] + 0.25 * profile[i + 1]
            total += value * value
        scores[a] = total / points.shape[0]
    return scores
