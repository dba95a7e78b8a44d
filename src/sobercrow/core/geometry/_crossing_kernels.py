"""Compiled search for places where a contour crosses itself."""

from __future__ import annotations

import cython
from cython.cimports.libc.math import hypot, sqrt
from cython.cimports.libc.stdlib import free
from cython.cimports.sobercrow.core._numeric import truncated
from cython.cimports.sobercrow.core._scratch import doubles, longs
from cython.cimports.sobercrow.core.geometry._crossing_kernels import BLOCK, Box, Cubic
from cython.cimports.sobercrow.core.geometry._piece_kernels import place_on

from sobercrow.core.arrays import F64, I64, U8

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


def crosses(controls: F64, m: int, closed: bool, place: F64) -> bool:
    """Find where m cubics in order cross themselves; see `first_crossing`."""
    counts = longs(m)
    n = 0
    for k in range(m):
        c = cython.address(controls[k][0])
        length = hypot(c[2] - c[0], c[3] - c[1]) + hypot(c[4] - c[2], c[5] - c[3]) + hypot(c[6] - c[4], c[7] - c[5])
        bend = max(
            hypot(c[0] - 2 * c[2] + c[4], c[1] - 2 * c[3] + c[5]), hypot(c[2] - 2 * c[4] + c[6], c[3] - 2 * c[5] + c[7])
        )
        counts[k] = min(max(2, truncated(sqrt(0.75 * bend / FLAT_PX)) + 1), max(2, truncated(length / SHORTEST_PX)))
        n += counts[k]
    xs, ys, pieces, first = doubles(n + 1), doubles(n + 1), longs(n), longs(n)
    at = 0
    for k in range(m):
        for s in range(counts[k]):
            xs[at + s], ys[at + s] = place_on(cython.address(controls[k][0]), cython.cast(cython.double, s) / counts[k])
            pieces[at + s], first[at + s] = k, at
        at += counts[k]
    xs[n], ys[n] = controls[m - 1][6], controls[m - 1][7]
    found = _first_crossing(xs, ys, n, closed, place)
    if found:
        i, j = truncated(place[0]), truncated(place[2])
        place[0], place[1] = pieces[i], (i - first[i] + place[1]) / counts[pieces[i]]
        place[2], place[3] = pieces[j], (j - first[j] + place[3]) / counts[pieces[j]]
    free(counts)
    free(xs)
    free(ys)
    free(pieces)
    free(first)
    return found


def _first_crossing(xs: F64, ys: F64, n: int, closed: bool, place: F64) -> bool:
    """Find the first two of n chords that cross; write the number of either, and how far along it they do."""
    blocks = (n + BLOCK - 1) // BLOCK
    boxes = cython.cast(cython.pointer(Box), doubles(4 * blocks))
    for b in range(blocks):
        box = cython.address(boxes[b][0])
        box[0] = box[2] = 1e300
        box[1] = box[3] = -1e300
        for k in range(b * BLOCK, min((b + 1) * BLOCK, n) + 1):
            box[0], box[1] = min(box[0], xs[k]), max(box[1], xs[k])
            box[2], box[3] = min(box[2], ys[k]), max(box[3], ys[k])
    found = False
    for b in range(blocks):
        for d in range(b, blocks):
            if found or boxes[b][0] > boxes[d][1] or boxes[d][0] > boxes[b][1]:
                continue
            if boxes[b][2] > boxes[d][3] or boxes[d][2] > boxes[b][3]:
                continue
            if d <= b + 1 and _runs_on(xs, ys, b * BLOCK, min((d + 1) * BLOCK, n)):
                continue
            found = _crossing_between(xs, ys, n, b * BLOCK, d * BLOCK, closed, place)
    free(boxes)
    return found


def _crossing_between(xs: F64, ys: F64, n: int, low: int, high: int, closed: bool, place: F64) -> bool:
    """The same for the chords of two blocks, which begin at `low` and `high`."""
    for i in range(low, min(low + BLOCK, n)):
        for j in range(max(high, i + 2), min(high + BLOCK, n)):
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
            place[0], place[1] = i, start / (start - end)
            place[2], place[3] = j, here / (here - there)
            return True
    return False


def first_crossing(controls: F64, closed: bool, place: F64) -> bool:
    """Find where cubics, (m, 8) in order, cross themselves; write piece and parameter of either way there.

    Where chords only touch or lie on each other they do not cross.
    """
    with cython.nogil:
        cubics = cython.cast(cython.pointer(cython.const[Cubic]), cython.address(controls[0, 0]))
        return crosses(cubics, controls.shape[0], closed, cython.address(place[0]))


def first_crossings(controls: F64, starts: I64, closed: U8, first: int, last: int, places: F64) -> None:
    """The same for contours `first` to `last`, whose cubics begin at `starts`: writes (4) each, −1 where none is.

    Other threads run meanwhile.
    """
    with cython.nogil:
        cubics = cython.cast(cython.pointer(cython.const[Cubic]), cython.address(controls[0, 0]))
        for k in range(first, last):
            if not crosses(cubics + starts[k], starts[k + 1] - starts[k], closed[k], cython.address(places[k, 0])):
                places[k, 0] = -1.0
