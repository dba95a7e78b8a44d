"""Closed polygons."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64


def polygon_area(points: F64) -> float:
    """Return the signed area of a closed polygon (n, 2): positive where clockwise on screen (y down)."""
    x, y = points[:, 0], points[:, 1]
    return float(0.5 * (np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))))
