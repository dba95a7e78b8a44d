"""Compiled search for the contour that a hole lies in."""

from __future__ import annotations

import cython
import numpy as np

from sobercrow.core.arrays import F64, I64


def enclosing(points: F64, starts: I64, boxes: F64, probes: F64) -> I64:
    """For each probe (x, y), the first polygon that contains it, or -1; polygons come smallest first.

    Polygons lie one after the other in `points`, from `starts[k]` to `starts[k + 1]`; `boxes` are their
    left, top, right, bottom. Even-odd rule.
    """
    found = cython.declare(cython.longlong[::1], np.full(probes.shape[0], -1, dtype=np.int64))
    inside = cython.declare(cython.bint)
    with cython.nogil:
        for n in range(probes.shape[0]):
            x, y = probes[n, 0], probes[n, 1]
            for k in range(boxes.shape[0]):
                if x < boxes[k, 0] or x > boxes[k, 2] or y < boxes[k, 1] or y > boxes[k, 3]:
                    continue
                inside = False
                j = starts[k + 1] - 1
                for i in range(starts[k], starts[k + 1]):
                    if (points[i, 1] > y) != (points[j, 1] > y):
                        cut = points[j, 0] + (y - points[j, 1]) / (points[i, 1] - points[j, 1]) * (
                            points[i, 0] - points[j, 0]
                        )
                        if x < cut:
                            inside = not inside
                    j = i
                if inside:
                    found[n] = k
                    break
    return np.asarray(found)
