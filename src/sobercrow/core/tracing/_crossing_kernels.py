"""Compiled search for places where a contour crosses itself."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import hypot, sqrt
from cython.cimports.sobercrow.core._numeric import truncated
from cython.cimports.sobercrow.core.geometry._piece_kernels import place_on
from cython.cimports.sobercrow.core.tracing._crossing_kernels import BLOCK

from sobercrow.core.arrays import F64

FLAT_PX, SHORTEST_PX = 0.003, 0.15
"""Curves are looked at as chords no further off than the former, and no shorter than the latter."""


def _side(ax: float, ay: float, bx: float, by: float, x: float, y: float) -> float:
    return (bx - ax) * (y - ay) - (by - ay) * (x - ax)


def _runs_on(xs: F64, ys: F64, low: int, high: int) -> bool:
    """Whether all chords between two places run on in the direction from the one to the other: they cannot cross."""
    x, y = xs[high] - xs[low], ys[high] - ys[low]
    turned = 0
    for k in range(low, high):
        if (xs[k + 1] - xs[k]) * x + (ys[k + 1] - ys[k]) * y <= 0.0:
            turned += 1
    return turned == 0


def first_crossing(controls: F64, closed: bool, place: F64) -> bool:
    """Find where cubics, (m, 8) in order, cross themselves; write piece and parameter of either way there.

    Where chords only touch or lie on each other they do not cross.
    """
    m = controls.shape[0]
    counts = cython.declare(cython.Py_ssize_t[::1], np.empty(m, dtype=np.intp))
    n = 0
    for k in range(m):
        c = cython.address(controls[k, 0])
        length = hypot(c[2] - c[0], c[3] - c[1]) + hypot(c[4] - c[2], c[5] - c[3]) + hypot(c[6] - c[4], c[7] - c[5])
        bend = max(
            hypot(c[0] - 2 * c[2] + c[4], c[1] - 2 * c[3] + c[5]), hypot(c[2] - 2 * c[4] + c[6], c[3] - 2 * c[5] + c[7])
        )
        counts[k] = min(max(2, truncated(sqrt(0.75 * bend / FLAT_PX)) + 1), max(2, truncated(length / SHORTEST_PX)))
        n += counts[k]
    blocks = (n + BLOCK - 1) // BLOCK
    room = cython.declare(cython.double[:, ::1], np.empty((2, n + 1)))
    owners = cython.declare(cython.Py_ssize_t[:, ::1], np.empty((2, n), dtype=np.intp))
    boxes = cython.declare(cython.double[:, ::1], np.empty((blocks, 4)))
    with cython.nogil:
        xs, ys = cython.address(room[0, 0]), cython.address(room[1, 0])
        pieces, first = cython.address(owners[0, 0]), cython.address(owners[1, 0])
        at = 0
        for k in range(m):
            for s in range(counts[k]):
                xs[at + s], ys[at + s] = place_on(
                    cython.address(controls[k, 0]), cython.cast(cython.double, s) / counts[k]
                )
                pieces[at + s], first[at + s] = k, at
            at += counts[k]
        xs[n], ys[n] = controls[m - 1, 6], controls[m - 1, 7]
        for b in range(blocks):
            box = cython.address(boxes[b, 0])
            box[0] = box[2] = 1e300
            box[1] = box[3] = -1e300
            for k in range(b * BLOCK, min((b + 1) * BLOCK, n) + 1):
                box[0], box[1] = min(box[0], xs[k]), max(box[1], xs[k])
                box[2], box[3] = min(box[2], ys[k]), max(box[3], ys[k])
        for b in range(blocks):
            for d in range(b, blocks):
                if boxes[b, 0] > boxes[d, 1] or boxes[d, 0] > boxes[b, 1]:
                    continue
                if boxes[b, 2] > boxes[d, 3] or boxes[d, 2] > boxes[b, 3]:
                    continue
                if d <= b + 1 and _runs_on(xs, ys, b * BLOCK, min((d + 1) * BLOCK, n)):
                    continue
                for i in range(b * BLOCK, min((b + 1) * BLOCK, n)):
                    for j in range(max(d * BLOCK, i + 2), min((d + 1) * BLOCK, n)):
                        if closed and i == 0 and j == n - 1:
                            continue
                        here = _side(xs[i], ys[i], xs[i + 1], ys[i + 1], xs[j], ys[j])
                        there = _side(xs[i], ys[i], xs[i + 1], ys[i + 1], xs[j + 1], ys[j + 1])
                        if here * there >= 0.0:
                            continue
                        start = _side(xs[j], ys[j], xs[j + 1], ys[j + 1], xs[i], ys[i])
                        end = _side(xs[j], ys[j], xs[j + 1], ys[j + 1], xs[i + 1], ys[i + 1])
                        if start * end >= 0.0:
                            continue
                        place[0], place[1] = pieces[i], (i - first[i] + start / (start - end)) / counts[pieces[i]]
                        place[2], place[3] = pieces[j], (j - first[j] + here / (here - there)) / counts[pieces[j]]
                        return True
    return False
