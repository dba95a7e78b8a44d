"""Compiled loop that covers pixels with a round-ended stroke."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F32, F64
from sobercrow.core.compiled import kernel


@kernel
def stroke_coverage(points: F64, half: float, cover: F32) -> None:
    """Write how much a stroke of width 2 `half` along points (n, 2) covers each pixel into `cover` (h, w).

    A pixel is covered by how far its centre lies inside the edge, over the width of one pixel; strokes thinner than a
    pixel cover by their width. One point makes a dot.
    """
    height, width = cover.shape
    strength = min(1.0, 2.0 * half)
    radius = max(half, 0.5)
    for n in range(max(points.shape[0] - 1, 1)):
        ax, ay = points[n]
        bx, by = points[min(n + 1, points.shape[0] - 1)]
        dx, dy = bx - ax, by - ay
        square = max(dx * dx + dy * dy, 1e-12)
        x0, x1 = max(0, int(min(ax, bx) - radius - 1)), min(width, int(max(ax, bx) + radius + 2))
        y0, y1 = max(0, int(min(ay, by) - radius - 1)), min(height, int(max(ay, by) + radius + 2))
        for row in range(y0, y1):
            for column in range(x0, x1):
                px, py = column + 0.5 - ax, row + 0.5 - ay
                t = min(max((px * dx + py * dy) / square, 0.0), 1.0)
                away = np.hypot(px - t * dx, py - t * dy)
                value = strength * min(max(radius + 0.5 - away, 0.0), 1.0)
                if value > cover[row, column]:
                    cover[row, column] = value


ROWS_A_PIXEL = 8


@kernel
def polygon_coverage(points: F64, cover: F32) -> None:
    """Write how much a polygon (n, 2), filled by the even-odd rule, covers each pixel into `cover` (h, w).

    Along each of eight lines a pixel row the covered stretches count exactly.
    """
    height, width = cover.shape
    n = points.shape[0]
    crossings = np.empty(n)
    for row in range(height):
        for line in range(ROWS_A_PIXEL):
            y = row + (line + 0.5) / ROWS_A_PIXEL
            count = 0
            for k in range(n):
                ax, ay = points[k]
                bx, by = points[(k + 1) % n]
                if (ay <= y) != (by <= y):
                    crossings[count] = ax + (y - ay) / (by - ay) * (bx - ax)
                    count += 1
            inside = np.sort(crossings[:count])
            for k in range(0, count - 1, 2):
                start, end = max(inside[k], 0.0), min(inside[k + 1], float(width))
                column = int(start)
                while column < end and column < width:
                    cover[row, column] += (min(end, column + 1.0) - max(start, float(column))) / ROWS_A_PIXEL
                    column += 1
