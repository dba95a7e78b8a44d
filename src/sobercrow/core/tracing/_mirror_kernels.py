"""Compiled distances of a border from its mirror image."""

from __future__ import annotations

import cython
from cython.cimports.libc.math import sqrt
from cython.cimports.sobercrow.core._numeric import wrap

from sobercrow.core.arrays import F64


def mirror_differences(points: F64, seen: F64, begin: int, reach: int, off: F64, normals: F64) -> None:
    """Write how far each mirrored sample is from the border it is the image of, left of its way positive.

    `points` (n, 2) are samples of the closed border, `seen` their mirror images; the first one's image lies about on
    sample `begin`, the next one's on the one before that, and so on. The nearest place is looked for on the `reach`
    pieces on either side. `normals` are the border's there.
    """
    n = points.shape[0]
    cython.declare(nearest=cython.double, share=cython.double, away_x=cython.double, away_y=cython.double)
    with cython.nogil:
        for t in range(n):
            nearest = 1e300
            for d in range(-reach, reach):
                i = wrap(begin - t + d, n)
                j = (i + 1) % n
                x, y = points[i, 0], points[i, 1]
                way_x, way_y = points[j, 0] - x, points[j, 1] - y
                size = way_x * way_x + way_y * way_y + 1e-12
                away_x, away_y = seen[t, 0] - x, seen[t, 1] - y
                share = min(max((away_x * way_x + away_y * way_y) / size, 0.0), 1.0)
                away_x, away_y = away_x - share * way_x, away_y - share * way_y
                squared = away_x * away_x + away_y * away_y
                if squared < nearest:
                    nearest = squared
                    size = sqrt(size)
                    normals[t, 0], normals[t, 1] = -way_y / size, way_x / size
                    side = away_x * normals[t, 0] + away_y * normals[t, 1]
                    off[t] = sqrt(squared) if side >= 0.0 else -sqrt(squared)
