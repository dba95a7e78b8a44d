"""Compiled loops that find the border graph of a label map.

Borders run along the sides of pixels, from vertex to vertex; vertex (i, j) is the upper left corner of pixel (i, j).
Directions are numbered 0 east, 1 south, 2 west, 3 north. The label map comes with a frame of nothing, one pixel wide,
so pixel (i, j) is at [i + 1, j + 1].
"""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import atan2, cos, hypot, sin

from sobercrow.core.arrays import F64, I64, U8

STEP_X = [1, 0, -1, 0]
STEP_Y = [0, 1, 0, -1]
AROUND_Y = [1, 1, 0, 0]
AROUND_X = [1, 0, 0, 1]
"""The pixels south-east, south-west, north-west and north-east of a vertex, in the framed map."""

NEAR_PX, FAR_PX = 0.9, 4.5
"""Between these distances from a junction a border's points tell where it comes from."""
VERTEX_PULL = 0.1
FURTHEST_PX = 1.25
"""A junction lies no further than this from the vertex it was found at."""
THROUGH_COS = -0.9
"""Two borders that meet a junction at more than this turn run through it as one smooth line."""


def _at(framed: U8, i: int, j: int, quarter: int) -> int:
    return framed[i + AROUND_Y[quarter & 3], j + AROUND_X[quarter & 3]]


def _is_junction(framed: U8, i: int, j: int) -> bool:
    """Tell whether three or four regions meet at a vertex, and none of them passes through it corner to corner.

    A corner of the picture is one too, so that what reaches it keeps it.
    """
    height, width = framed.shape[0] - 2, framed.shape[1] - 2
    if (i == 0 or i == height) and (j == 0 or j == width):
        return framed[min(i + 1, height), min(j + 1, width)] != 0
    sides = cython.declare(cython.int)
    a, b, c, d = framed[i + 1, j + 1], framed[i + 1, j], framed[i, j], framed[i, j + 1]
    sides = (a != b) + (b != c) + (c != d) + (d != a)
    return sides == 3 or (sides == 4 and a != c and b != d)


def count_borders(framed: U8) -> tuple[int, int]:
    """Return how many pixel sides part two labels, and how many junctions there are."""
    height, width = framed.shape[0] - 2, framed.shape[1] - 2
    sides = junctions = 0
    with cython.nogil:
        for i in range(height + 1):
            for j in range(width + 1):
                here = framed[i + 1, j + 1]
                if here != framed[i, j + 1] and j < width:
                    sides += 1
                if here != framed[i + 1, j] and i < height:
                    sides += 1
                if _is_junction(framed, i, j):
                    junctions += 1
    return sides, junctions


def _turn(framed: U8, share: U8, i: int, j: int, heading: int) -> int:
    """The heading in which a border leaves a vertex that is no junction, met in another heading."""
    cython.declare(mine=cython.int, other=cython.int)
    right, left = _at(framed, i, j, heading + 1), _at(framed, i, j, heading + 2)
    ahead_right, ahead_left = _at(framed, i, j, heading), _at(framed, i, j, heading + 3)
    if right != ahead_right and ahead_right != ahead_left and ahead_left != left:  # a saddle: one diagonal is joined
        joined = cython.declare(cython.bint, right == ahead_left)
        if joined and left == ahead_right:
            mine = other = 0
            for quarter in range(4):
                row, column = i + AROUND_Y[quarter], j + AROUND_X[quarter]
                if framed[row, column] == right:
                    mine += share[row, column]
                else:
                    other += share[row, column]
            joined = mine > other or (mine == other and right > left)
        return (heading + (3 if joined else 1)) & 3
    if ahead_right != ahead_left:
        return heading
    return (heading + (1 if right != ahead_right else 3)) & 3


def _was_seen(across: U8, down: U8, i: int, j: int, heading: int, mark: bool) -> bool:
    """Tell whether the pixel side that leaves a vertex was walked; with `mark` it is from now on."""
    y, x = (i - 1 if heading == 3 else i), (j - 1 if heading == 2 else j)
    mine = cython.address(down[y, x]) if heading & 1 else cython.address(across[y, x])
    seen = mine[0]
    if mark:
        mine[0] = 1
    return seen != 0


def _walk(
    framed: U8, share: U8, across: U8, down: U8, i: int, j: int, heading: int, closed: bool, crossings: I64, count: int
) -> tuple[int, int, int]:
    """Walk from a vertex to the next junction, or round; write the sides passed; return their count and the vertex."""
    start_i, start_j, start_heading = i, j, heading
    while True:
        _was_seen(across, down, i, j, heading, True)
        crossings[count, 0] = i + AROUND_Y[heading] - 1
        crossings[count, 1] = j + AROUND_X[heading] - 1
        crossings[count, 2] = (heading + 3) & 3
        count += 1
        i, j = i + STEP_Y[heading], j + STEP_X[heading]
        if not closed and _is_junction(framed, i, j):
            return count, i, j
        heading = _turn(framed, share, i, j, heading)
        if closed and i == start_i and j == start_j and heading == start_heading:
            return count, i, j


def _reverse(crossings: I64, first: int, last: int) -> None:
    """Turn a way round: the other pixels are at its right hand then."""
    for k in range(first, last):
        facing = crossings[k, 2]
        crossings[k, 0] += STEP_Y[facing]
        crossings[k, 1] += STEP_X[facing]
        crossings[k, 2] = (facing + 2) & 3
    for k in range((last - first) // 2):
        one, other = first + k, last - 1 - k
        for field in range(3):
            crossings[one, field], crossings[other, field] = crossings[other, field], crossings[one, field]


def follow_graph(framed: U8, share: U8, sides: int, junctions: int) -> tuple[I64, I64, I64, I64, I64]:
    """Follow every border once, from junction to junction or round.

    `share` (framed alike) is how much of its own label each pixel is; it decides what joins at saddles. The two counts
    are those of `count_borders`. On every chain the greater label lies at the right hand.

    Returns
    -------
    crossings : (sides, 3) int64
        Row and column of the pixel at the right and the direction to the one at the left, in order of travel.
    starts : (m + 1,) int64
        Where each chain begins in `crossings`.
    labels : (m, 2) int64
        Labels at the right and the left.
    ends : (m, 2) int64
        Junctions it comes from and goes to; −1 for closed ones.
    nodes : (junctions, 2) int64
        Row and column of the junctions' vertices, in order.
    """
    height, width = framed.shape[0] - 2, framed.shape[1] - 2
    nodes = cython.declare(cython.longlong[:, ::1], np.empty((junctions, 2), dtype=np.int64))
    number = cython.declare(cython.int[:, ::1], np.empty((height + 1, width + 1), dtype=np.int32))
    across = cython.declare(cython.uchar[:, ::1], np.zeros((height + 1, width), np.uint8))
    down = cython.declare(cython.uchar[:, ::1], np.zeros((height, width + 1), np.uint8))
    crossings = cython.declare(cython.longlong[:, ::1], np.empty((sides, 3), dtype=np.int64))
    starts = cython.declare(cython.longlong[::1], np.zeros(sides + 1, dtype=np.int64))
    ends = cython.declare(cython.longlong[:, ::1], np.full((sides, 2), -1, dtype=np.int64))
    labels = cython.declare(cython.longlong[:, ::1], np.empty((sides, 2), dtype=np.int64))
    n = count = chains = 0
    with cython.nogil:
        for i in range(height + 1):
            for j in range(width + 1):
                if _is_junction(framed, i, j):
                    nodes[n, 0], nodes[n, 1] = i, j
                    number[i, j] = n
                    n += 1
        for k in range(junctions):
            for heading in range(4):
                i, j = nodes[k, 0], nodes[k, 1]
                right, left = _at(framed, i, j, heading), _at(framed, i, j, heading + 3)
                if right == left or _was_seen(across, down, i, j, heading, False):
                    continue
                first = count
                count, i, j = _walk(framed, share, across, down, i, j, heading, False, crossings, count)
                there = number[i, j]
                ends[chains, 0], ends[chains, 1] = k, there
                if right < left:
                    _reverse(crossings, first, count)
                    ends[chains, 0], ends[chains, 1] = there, k
                labels[chains, 0], labels[chains, 1] = max(right, left), min(right, left)
                chains += 1
                starts[chains] = count
        for i in range(height + 1):
            for j in range(width):
                above, below = framed[i, j + 1], framed[i + 1, j + 1]
                if above == below or across[i, j] != 0:
                    continue
                if below > above:
                    count, _, _ = _walk(framed, share, across, down, i, j, 0, True, crossings, count)
                else:
                    count, _, _ = _walk(framed, share, across, down, i, j + 1, 2, True, crossings, count)
                labels[chains, 0], labels[chains, 1] = max(below, above), min(below, above)
                chains += 1
                starts[chains] = count
    return (
        np.asarray(crossings)[:count],
        np.asarray(starts)[: chains + 1],
        np.asarray(labels)[:chains],
        np.asarray(ends)[:chains],
        np.asarray(nodes),
    )


def _end_line(points: F64, first: int, end: int, last: bool, x: float, y: float, line: F64) -> bool:
    """Write centre and direction (away from the junction) of the line a chain has near one of its ends.

    The chain are the points from `first` up to `end`.
    """
    count = 0
    cython.declare(mx=cython.double, my=cython.double, sxx=cython.double, sxy=cython.double, syy=cython.double)
    mx = my = sxx = sxy = syy = 0.0
    far_x, far_y = x, y
    for step in range(end - first):
        k = end - 1 - step if last else first + step
        dx, dy = points[k, 0] - x, points[k, 1] - y
        away = hypot(dx, dy)
        if away > FAR_PX and count >= 2:
            break
        if away < NEAR_PX:
            continue
        mx += dx
        my += dy
        sxx += dx * dx
        sxy += dx * dy
        syy += dy * dy
        far_x, far_y = dx, dy
        count += 1
    if count < 2:
        return False
    mx, my = mx / count, my / count
    angle = 0.5 * atan2(2.0 * (sxy - count * mx * my), sxx - syy - count * (mx * mx - my * my))
    cx, cy = cos(angle), sin(angle)
    if cx * far_x + cy * far_y < 0.0:
        cx, cy = -cx, -cy
    line[0], line[1], line[2], line[3] = x + mx, y + my, cx, cy
    return True


def place_junctions(
    points: F64, starts: I64, ends: I64, nodes: I64, height: int, width: int, places: F64, lines: F64, smooth: U8
) -> None:
    """Find where the borders that meet at each junction cross, and which of them run through it smoothly.

    Writes the junctions' places x, y (k, 2); for both ends of each chain the direction away from the junction
    (m, 2, 2), nothing where it is too short to have one; and whether it runs on smoothly in another chain (m, 2).
    """
    chains, junctions = ends.shape[0], nodes.shape[0]
    pull = cython.declare(cython.double[:, ::1], np.full((junctions, 3), VERTEX_PULL))
    right = cython.declare(cython.double[:, ::1], np.zeros((junctions, 2)))
    best = cython.declare(cython.double[::1], np.full(junctions, THROUGH_COS))
    pair = cython.declare(cython.longlong[:, ::1], np.full((junctions, 2), -1, dtype=np.int64))
    known = cython.declare(cython.uchar[:, ::1], np.zeros((chains, 2), np.uint8))
    order = cython.declare(cython.longlong[::1], np.argsort(np.asarray(ends).ravel(), kind="stable"))
    line = cython.declare(cython.double[4])
    pull[:, 1] = 0.0
    with cython.nogil:
        for chain in range(chains):
            for end in range(2):
                node = ends[chain, end]
                lines[chain, end, 0] = lines[chain, end, 1] = 0.0
                smooth[chain, end] = 0
                if node < 0:
                    continue
                x, y = cython.cast(cython.double, nodes[node, 1]), cython.cast(cython.double, nodes[node, 0])
                if not _end_line(points, starts[chain], starts[chain + 1], end == 1, x, y, line):
                    continue
                known[chain, end] = 1
                lines[chain, end, 0], lines[chain, end, 1] = line[2], line[3]
                nx, ny = -line[3], line[2]
                off = nx * (line[0] - x) + ny * (line[1] - y)
                pull[node, 0] += nx * nx
                pull[node, 1] += nx * ny
                pull[node, 2] += ny * ny
                right[node, 0] += nx * off
                right[node, 1] += ny * off
        for node in range(junctions):
            a, b, c = pull[node, 0], pull[node, 1], pull[node, 2]
            size = a * c - b * b
            dx = (c * right[node, 0] - b * right[node, 1]) / size
            dy = (a * right[node, 1] - b * right[node, 0]) / size
            shrink = min(1.0, FURTHEST_PX / (hypot(dx, dy) + 1e-12))
            i, j = nodes[node, 0], nodes[node, 1]
            places[node, 0] = j if j == 0 or j == width else j + shrink * dx  # on the picture's edge it stays there
            places[node, 1] = i if i == 0 or i == height else i + shrink * dy
        first = 0
        while first < 2 * chains:
            node = ends[order[first] // 2, order[first] % 2]
            last = first
            while last < 2 * chains and ends[order[last] // 2, order[last] % 2] == node:
                last += 1
            if node >= 0:
                for p in range(first, last):
                    for q in range(p + 1, last):
                        i, k = order[p], order[q]
                        if known[i // 2, i % 2] == 0 or known[k // 2, k % 2] == 0:
                            continue
                        one, other = cython.address(lines[i // 2, i % 2, 0]), cython.address(lines[k // 2, k % 2, 0])
                        turn = one[0] * other[0] + one[1] * other[1]
                        if turn < best[node]:
                            best[node] = turn
                            pair[node, 0], pair[node, 1] = i, k
                if pair[node, 0] >= 0:
                    i, k = pair[node, 0], pair[node, 1]
                    one, other = cython.address(lines[i // 2, i % 2, 0]), cython.address(lines[k // 2, k % 2, 0])
                    dx, dy = one[0] - other[0], one[1] - other[1]
                    size = hypot(dx, dy)
                    one[0], one[1], other[0], other[1] = dx / size, dy / size, -dx / size, -dy / size
                    smooth[i // 2, i % 2] = smooth[k // 2, k % 2] = 1
            first = last
