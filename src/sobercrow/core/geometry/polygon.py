"""Lines of points, and closed polygons."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64


def polygon_area(points: F64) -> float:
    """Return the signed area of a closed polygon (n, 2): positive where clockwise on screen (y down)."""
    if not len(points):
        return 0.0
    x, y = points[:, 0], points[:, 1]
    return float(0.5 * (np.dot(x[:-1], y[1:]) - np.dot(y[:-1], x[1:]) + x[-1] * y[0] - y[-1] * x[0]))


def along_of(points: F64) -> F64:
    """Return how far along a line (n, 2) its points lie, from 0."""
    return np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
