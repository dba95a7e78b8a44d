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
