"""Compiled loop that covers pixels with a round-ended stroke."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import hypot
from cython.cimports.sobercrow.core._numeric import sort, truncated
from cython.cimports.sobercrow.core.cleanup._stroke_kernels import ROWS_A_PIXEL

from sobercrow.core.arrays import F32, F64


def stroke_coverage(points: F64, half: float, cover: F32) -> None:
    """Write how much a stroke of width 2 `half` along points (n, 2) covers each pixel into `cover` (h, w).

    A pixel is covered by how far its centre lies inside the edge, over the width of one pixel; strokes thinner than a
    pixel cover by their width. One point makes a dot.
    """
    height, width = cover.shape[0], cover.shape[1]
    strength = min(1.0, 2.0 * half)
    radius = max(half, 0.5)
    last = points.shape[0] - 1
    with cython.nogil:
        for n in range(max(last, 1)):
            after = min(n + 1, last)
            ax, ay, bx, by = points[n, 0], points[n, 1], points[after, 0], points[after, 1]
            dx, dy = bx - ax, by - ay
            square = max(dx * dx + dy * dy, 1e-12)
            x0, x1 = max(0, truncated(min(ax, bx) - radius - 1)), min(width, truncated(max(ax, bx) + radius + 2))
            y0, y1 = max(0, truncated(min(ay, by) - radius - 1)), min(height, truncated(max(ay, by) + radius + 2))
            for row in range(y0, y1):
                for column in range(x0, x1):
                    px, py = column + 0.5 - ax, row + 0.5 - ay
                    t = min(max((px * dx + py * dy) / square, 0.0), 1.0)
                    away = hypot(px - t * dx, py - t * dy)
                    value = strength * min(max(radius + 0.5 - away, 0.0), 1.0)
                    if value > cover[row, column]:
                        cover[row, column] = value


def polygon_coverage(points: F64, cover: F32) -> None:
    """Write how much a polygon (n, 2), filled by the even-odd rule, covers each pixel into `cover` (h, w).

    Along each of eight lines a pixel row the covered stretches count exactly.
    """
    height, width = cover.shape[0], cover.shape[1]
    n = points.shape[0]
    inside = cython.declare(cython.double[::1], np.empty(n + 1))
    cython.declare(start=cython.double, end=cython.double, left=cython.double)
    with cython.nogil:
        for row in range(height):
            for line in range(ROWS_A_PIXEL):
                y = row + (line + 0.5) / ROWS_A_PIXEL
                count = 0
                for k in range(n):
                    after = k + 1 if k + 1 < n else 0
                    ay, by = points[k, 1], points[after, 1]
                    if (ay <= y) != (by <= y):
                        inside[count] = points[k, 0] + (y - ay) / (by - ay) * (points[after, 0] - points[k, 0])
                        count += 1
                sort(cython.address(inside[0]), count)
                for k in range(0, count - 1, 2):
                    start, end = max(inside[k], 0.0), min(inside[k + 1], width)
                    column = truncated(start)
                    while column < end and column < width:
                        left = max(start, column)
                        cover[row, column] += (min(end, column + 1.0) - left) / ROWS_A_PIXEL
                        column += 1
