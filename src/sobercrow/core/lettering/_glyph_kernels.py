"""Compiled loops that lay the glyphs of a face on letters: a place and a turn for each, one size for all.

`points` (n, 2) lie along the letters, those of letter k from `own[k]` up to `own[k + 1]`, in its own directions from
its foot; `starts` and `ends` (m, 2) are segments along the glyphs in their em, those of glyph k from `of[k]` on.
`places` (letters, 3) are x, y and turn.
"""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import cos, exp, fabs, fmax, hypot, sin, sqrt
from cython.cimports.libc.stdlib import calloc, free
from cython.cimports.libc.string import memset
from cython.cimports.sobercrow.core._scratch import longs
from cython.cimports.sobercrow.core.geometry._nearest_kernels import to_segment
from cython.cimports.sobercrow.core.lettering._glyph_kernels import Lines, Sums

from sobercrow.core.arrays import F64, I64, cumulated

RUN = 8
"""So many segments in a row share a box: a box too far away spares a look at them."""
RIDGE = 1e-9
"""Added to the diagonal of the equations, which may not tell everything."""
LEAST_NEAR = 3
"""A letter fewer points of which are near its glyph cannot be laid."""
LONGEST_STEP, LARGEST_TURN, LARGEST_GROWTH = 0.5, 0.1, 0.2
"""How far one step leads at most: in shares of the size, in radians, and of the logarithm of the size."""
STILL_PX, STILL_SIZE, LEAST_ROUNDS = 0.005, 1e-5, 4
"""After so many rounds it is done once places and size change by less."""


def _box(lines: Lines, letter: int) -> None:
    """Write the boxes around the runs of segments of a letter."""
    box = lines.boxes + 4 * lines.first_box[letter]
    k = lines.first[letter]
    while k < lines.first[letter + 1]:
        for axis in range(2):
            box[axis] = min(lines.starts[2 * k + axis], lines.ends[2 * k + axis])
            box[2 + axis] = max(lines.starts[2 * k + axis], lines.ends[2 * k + axis])
            for n in range(k + 1, min(k + RUN, lines.first[letter + 1])):
                box[axis] = min(box[axis], min(lines.starts[2 * n + axis], lines.ends[2 * n + axis]))
                box[2 + axis] = max(box[2 + axis], max(lines.starts[2 * n + axis], lines.ends[2 * n + axis]))
        box += 4
        k += RUN


def _nearest(lines: Lines, letter: int, x: float, y: float, best: float, which: I64) -> float:
    """How far the nearest segment of a letter is, squared, and `which`; looked for below `best`, beginning with that.

    `which` is −1 if nothing is known, and stays so if nothing is nearer.
    """
    if which[0] >= 0:
        square = to_segment(x, y, lines.starts + 2 * which[0], lines.ends + 2 * which[0])
        if square < best:
            best = square
        else:
            which[0] = -1
    box = lines.boxes + 4 * lines.first_box[letter]
    k = lines.first[letter]
    while k < lines.first[letter + 1]:
        across, down = max(box[0] - x, x - box[2], 0.0), max(box[1] - y, y - box[3], 0.0)
        if across * across + down * down < best:
            for n in range(k, min(k + RUN, lines.first[letter + 1])):
                square = to_segment(x, y, lines.starts + 2 * n, lines.ends + 2 * n)
                if square < best:
                    best, which[0] = square, n
        box += 4
        k += RUN
    return best


def _sum(
    glyphs: Lines,
    letter: int,
    points: F64,
    first: int,
    last: int,
    place: F64,
    size: float,
    stray: float,
    reach: float,
    nearest: I64,
    to: Sums,
) -> None:
    """Sum what a letter's points say: how far each is off the line it is nearest to, and what that changes with."""
    row = cython.declare(cython.double[4])
    c, s = cos(place[2]), sin(place[2])
    for k in range(first, last):
        x, y = (points[2 * k] - place[0]) / size, (points[2 * k + 1] - place[1]) / size
        x, y = x * c + y * s, y * c - x * s
        _nearest(glyphs, letter, x, y, reach * reach, nearest + k)
        n = nearest[k]
        if n < 0:
            continue
        way_x, way_y = glyphs.ends[2 * n] - glyphs.starts[2 * n], glyphs.ends[2 * n + 1] - glyphs.starts[2 * n + 1]
        long = fmax(hypot(way_x, way_y), 1e-9)
        nx, ny = -way_y / long, way_x / long
        off = nx * (x - glyphs.starts[2 * n]) + ny * (y - glyphs.starts[2 * n + 1])
        weight = 1.0 + (off / stray) * (off / stray)
        weight = 1.0 / (weight * weight)
        row[0], row[1] = -(nx * c - ny * s) / size, -(nx * s + ny * c) / size
        row[2], row[3] = nx * y - ny * x, -(nx * x + ny * y)
        at = 0
        for a in range(3):
            for b in range(a, 3):
                to.own[at] += weight * row[a] * row[b]
                at += 1
            to.side[a] += weight * row[a] * row[3]
            to.right[a] -= weight * row[a] * off
        to.size += weight * row[3] * row[3]
        to.size_right -= weight * row[3] * off
        to.weight += weight
        to.count += 1


def _solve(own: F64, right: F64, found: F64) -> None:
    """Solve three equations, symmetric and positive, by Cholesky's method."""
    a = sqrt(own[0])
    b, c = own[1] / a, own[2] / a
    d = sqrt(fmax(own[3] - b * b, RIDGE))
    e = (own[4] - b * c) / d
    f = sqrt(fmax(own[5] - c * c - e * e, RIDGE))
    u = right[0] / a
    v = (right[1] - b * u) / d
    w = (right[2] - c * u - e * v) / f
    found[2] = w / f
    found[1] = (v - e * found[2]) / d
    found[0] = (u - b * found[1] - c * found[2]) / a


def _step(every: Sums, count: int, places: F64, size: float, holds_size: bool, moved: F64) -> bool:
    """One step of Gauss-Newton for all places: `moved` by how much at most, and the logarithm of the size by how much.

    The size is common to all, all else a letter's own: it is solved for first (Golub & Van Loan 2013, "Matrix
    Computations", 3.2.11, Schur complement). False if too little of a letter is near.
    """
    plain = cython.declare(cython.double[3])
    side = cython.declare(cython.double[3])
    cython.declare(right=cython.double, total=cython.double, growth=cython.double, limit=cython.double)
    total, right = RIDGE, 0.0
    for k in range(count):
        if every[k].count < LEAST_NEAR:
            return False
        every[k].own[0] += RIDGE
        every[k].own[3] += RIDGE
        every[k].own[5] += RIDGE
        _solve(every[k].own, every[k].right, plain)
        _solve(every[k].own, every[k].side, side)
        total += every[k].size
        right += every[k].size_right
        for a in range(3):
            total -= every[k].side[a] * side[a]
            right -= every[k].side[a] * plain[a]
    growth = 0.0 if holds_size else right / fmax(total, RIDGE)
    moved[0], moved[1] = 0.0, min(max(growth, -LARGEST_GROWTH), LARGEST_GROWTH)
    for k in range(count):
        _solve(every[k].own, every[k].right, plain)
        _solve(every[k].own, every[k].side, side)
        for a in range(3):
            limit = LARGEST_TURN if a == 2 else LONGEST_STEP * size
            by = min(max(plain[a] - growth * side[a], -limit), limit)
            places[k, a] += by
            if a < 2:
                moved[0] = fmax(moved[0], fabs(by))
    return True


def _boxed(starts: F64, ends: F64, first: I64, first_box: I64, boxes: F64) -> Lines:
    """Segments of all letters with the boxes around their runs."""
    lines = cython.declare(Lines)
    lines.starts, lines.ends, lines.boxes = starts, ends, boxes
    lines.first, lines.first_box = cython.address(first[0]), cython.address(first_box[0])
    for k in range(first.shape[0] - 1):
        _box(lines, k)
    return lines


def first_boxes(first: I64) -> I64:
    """Return where the boxes of each letter's runs of segments begin, and how many there are; `first` its segments."""
    return cumulated(-(-np.diff(first) // RUN))


def lay(
    points: F64,
    own: I64,
    starts: F64,
    ends: F64,
    of: I64,
    places: F64,
    size: float,
    strays: F64,
    stray_px: float,
    stiffness: float,
    reach: float,
    holds_size: bool,
) -> float:
    """Return the size in px per em at which glyphs lie on letters, `places` where each does; 0 if too little is near.

    As many rounds as there are `strays`: what is further off than that, in em, or than `stray_px`, weighs little.
    `stiffness` holds turns. With `holds_size` the size stays.
    """
    count = places.shape[0]
    first_box = cython.declare(cython.longlong[::1], first_boxes(np.asarray(of)))
    boxes = cython.declare(cython.double[::1], np.empty(4 * first_box[count]))
    moved = cython.declare(cython.double[2])
    every = cython.cast(cython.pointer(Sums), calloc(count, cython.sizeof(Sums)))
    nearest = longs(points.shape[0])
    with cython.nogil:
        glyphs = _boxed(
            cython.address(starts[0, 0]), cython.address(ends[0, 0]), of, first_box, cython.address(boxes[0])
        )
        for k in range(points.shape[0]):
            nearest[k] = -1
        for turn in range(strays.shape[0]):
            memset(every, 0, count * cython.sizeof(Sums))
            for k in range(count):
                place, to = cython.address(places[k, 0]), cython.address(every[k])
                stray = fmax(strays[turn], stray_px / size)
                _sum(
                    glyphs, k, cython.address(points[0, 0]), own[k], own[k + 1], place, size, stray, reach, nearest, to
                )
                to.own[5] += to.weight * stiffness
                to.right[2] -= to.weight * stiffness * place[2]
            if not _step(every, count, places, size, holds_size, moved):
                size = 0.0
                break
            size *= exp(moved[1])
            if turn >= LEAST_ROUNDS and moved[0] < STILL_PX and fabs(moved[1]) < STILL_SIZE:
                break
        free(every)
        free(nearest)
    return size


def how_far(
    points: F64, after: I64, own: I64, starts: F64, ends: F64, of: I64, places: F64, size: float, reach: float, off: F64
) -> None:
    """Write how far glyphs are `off` each letter they lie on, in em: the mean of both ways, `reach` at most.

    `after` (n) is the point that follows each along its ring.
    """
    count = places.shape[0]
    first_box = cython.declare(cython.longlong[::1], first_boxes(np.asarray(of)))
    boxes = cython.declare(cython.double[::1], np.empty(4 * first_box[count]))
    own_box = cython.declare(cython.longlong[::1], first_boxes(np.asarray(own)))
    own_boxes = cython.declare(cython.double[::1], np.empty(4 * own_box[count]))
    seen = cython.declare(cython.double[:, ::1], np.empty((points.shape[0], 2)))
    following = cython.declare(cython.double[:, ::1], np.empty((points.shape[0], 2)))
    which = cython.declare(cython.longlong, 0)
    cython.declare(forth=cython.double, back=cython.double)
    with cython.nogil:
        for k in range(count):
            c, s = cos(places[k, 2]), sin(places[k, 2])
            for n in range(own[k], own[k + 1]):
                x, y = (points[n, 0] - places[k, 0]) / size, (points[n, 1] - places[k, 1]) / size
                seen[n, 0], seen[n, 1] = x * c + y * s, y * c - x * s
        for n in range(points.shape[0]):
            following[n, 0], following[n, 1] = seen[after[n], 0], seen[after[n], 1]
        glyphs = _boxed(
            cython.address(starts[0, 0]), cython.address(ends[0, 0]), of, first_box, cython.address(boxes[0])
        )
        letters = _boxed(
            cython.address(seen[0, 0]), cython.address(following[0, 0]), own, own_box, cython.address(own_boxes[0])
        )
        for k in range(count):
            forth = back = 0.0
            which = -1
            for n in range(own[k], own[k + 1]):
                forth += sqrt(_nearest(glyphs, k, seen[n, 0], seen[n, 1], reach * reach, cython.address(which)))
            which = -1
            for n in range(of[k], of[k + 1]):
                back += sqrt(_nearest(letters, k, starts[n, 0], starts[n, 1], reach * reach, cython.address(which)))
            off[k] = 0.5 * (forth / (own[k + 1] - own[k]) + back / (of[k + 1] - of[k]))
