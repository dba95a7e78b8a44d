"""Compiled search for places where a contour crosses itself."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.compiled import kernel
from sobercrow.core.geometry._piece_kernels import place_on

SPACING_PX = 0.15
"""Curves are looked at as chords of about this length."""
BLOCK = 16
"""So many chords share a box; only chords in boxes that overlap are compared."""


@kernel
def _side(ax: float, ay: float, bx: float, by: float, x: float, y: float) -> float:
    return (bx - ax) * (y - ay) - (by - ay) * (x - ax)


@kernel
def _runs_on(xs: F64, ys: F64, low: int, high: int) -> bool:
    """Whether all chords between two places run on in the direction from the one to the other: they cannot cross."""
    x, y = xs[high] - xs[low], ys[high] - ys[low]
    turned = 0
    for k in range(low, high):
        if (xs[k + 1] - xs[k]) * x + (ys[k + 1] - ys[k]) * y <= 0.0:
            turned += 1
    return turned == 0


@kernel
def first_crossing(controls: F64, closed: bool, place: F64) -> bool:
    """Find where cubics, (m, 8) in order, cross themselves; write piece and parameter of either way there.

    Where chords only touch or lie on each other they do not cross.
    """
    m = controls.shape[0]
    counts = np.empty(m, dtype=np.int64)
    for k in range(m):
        c = controls[k]
        length = np.hypot(c[2] - c[0], c[3] - c[1]) + np.hypot(c[4] - c[2], c[5] - c[3])
        length += np.hypot(c[6] - c[4], c[7] - c[5])
        counts[k] = max(2, int(length / SPACING_PX))
    n = counts.sum()
    xs, ys = np.empty(n + 1), np.empty(n + 1)
    pieces, first = np.empty(n, dtype=np.int64), np.empty(n, dtype=np.int64)
    at = 0
    for k in range(m):
        for s in range(counts[k]):
            xs[at + s], ys[at + s] = place_on(controls[k], s / counts[k])
            pieces[at + s], first[at + s] = k, at
        at += counts[k]
    xs[n], ys[n] = controls[m - 1, 6], controls[m - 1, 7]
    blocks = (n + BLOCK - 1) // BLOCK
    boxes = np.empty((blocks, 4))
    for b in range(blocks):
        low, high = b * BLOCK, min((b + 1) * BLOCK, n) + 1
        boxes[b, 0], boxes[b, 1] = xs[low:high].min(), xs[low:high].max()
        boxes[b, 2], boxes[b, 3] = ys[low:high].min(), ys[low:high].max()
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
