"""Compiled thinning of ink to lines a pixel wide, and the walk over them from end to end and junction to junction."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.sobercrow.core.strokes._skeleton_kernels import Place

from sobercrow.core.arrays import I64, U8

AROUND_Y = [0, 1, 0, -1, 1, 1, -1, -1]
AROUND_X = [1, 0, -1, 0, 1, -1, -1, 1]
"""The four straight neighbours before the four slanted ones."""


RING_Y = [-1, -1, 0, 1, 1, 1, 0, -1]
RING_X = [0, 1, 1, 1, 0, -1, -1, -1]
"""The neighbours of a pixel in their order, from the upper one clockwise."""


def _can_go(framed: U8, row: int, column: int, second: bool) -> bool:
    """Tell whether thinning takes a pixel away, in the first or the second half of a round."""
    above, right = framed[row - 1, column], framed[row, column + 1]
    below, left = framed[row + 1, column], framed[row, column - 1]
    above_right, below_right = framed[row - 1, column + 1], framed[row + 1, column + 1]
    below_left, above_left = framed[row + 1, column - 1], framed[row - 1, column - 1]
    parts = (1 - above) * (above_right | right) + (1 - right) * (below_right | below)
    parts += (1 - below) * (below_left | left) + (1 - left) * (above_left | above)
    if parts != 1:
        return False
    one_way = (above_left | above) + (above_right | right) + (below_right | below) + (below_left | left)
    other_way = (above | above_right) + (right | below_right) + (below | below_left) + (left | above_left)
    if not 2 <= min(one_way, other_way) <= 3:
        return False
    if second:
        return (below | below_left | (1 - above_left)) * left == 0
    return (above | above_right | (1 - below_right)) * right == 0


def thin(framed: U8) -> None:
    """Thin ink (1, framed by one pixel of paper) in place (Guo & Hall 1989, "Parallel thinning with two-subiteration
    algorithms"). Only the rim of what is left is looked at in each round."""
    height, width = framed.shape[0], framed.shape[1]
    places = cython.declare(cython.int[:, ::1], np.empty((height * width, 2), dtype=np.int32))
    taken_away = cython.declare(cython.int[:, ::1], np.empty((height * width, 2), dtype=np.int32))
    waiting = cython.declare(cython.uchar[:, ::1], np.zeros((height, width), dtype=np.uint8))
    with cython.nogil:
        rim, gone = (
            cython.cast(cython.pointer(Place), cython.address(places[0, 0])),
            cython.cast(cython.pointer(Place), cython.address(taken_away[0, 0])),
        )
        count = 0
        for row in range(1, height - 1):
            for column in range(1, width - 1):
                if framed[row, column] == 0:
                    continue
                for k in range(8):
                    if framed[row + RING_Y[k], column + RING_X[k]] == 0:
                        rim[count][0], rim[count][1] = row, column
                        waiting[row, column] = 1
                        count += 1
                        break
        idle = 0
        half = 0
        while idle < 2:
            taken = 0
            for k in range(count):
                if _can_go(framed, rim[k][0], rim[k][1], half == 1):
                    gone[taken][0], gone[taken][1] = rim[k][0], rim[k][1]
                    taken += 1
            for k in range(taken):
                framed[gone[k][0], gone[k][1]] = 0
            left = 0
            for k in range(count):
                if framed[rim[k][0], rim[k][1]] != 0:
                    rim[left][0], rim[left][1] = rim[k][0], rim[k][1]
                    left += 1
            count = left
            for k in range(taken):
                for way in range(8):
                    row, column = gone[k][0] + RING_Y[way], gone[k][1] + RING_X[way]
                    if framed[row, column] != 0 and waiting[row, column] == 0:
                        waiting[row, column] = 1
                        rim[count][0], rim[count][1] = row, column
                        count += 1
            idle = 0 if taken > 0 else idle + 1
            half = 1 - half


def joins(framed: U8, row: int, column: int, k: int) -> bool:
    """Tell whether a skeleton pixel hangs together with its k-th neighbour; a slanted step counts only if no straight
    way leads there."""
    y, x = row + AROUND_Y[k], column + AROUND_X[k]
    if framed[y, x] == 0:
        return False
    return k < 4 or (framed[row, x] == 0 and framed[y, column] == 0)


def mark_nodes(framed: U8) -> U8:
    """Mark a skeleton's pixels, framed by one of nothing: 1 within a chain, 2 an end or alone, 3 a junction."""
    kinds = cython.declare(cython.uchar[:, ::1], np.zeros((framed.shape[0], framed.shape[1]), dtype=np.uint8))
    with cython.nogil:
        for row in range(1, framed.shape[0] - 1):
            for column in range(1, framed.shape[1] - 1):
                if framed[row, column] == 0:
                    continue
                count = 0
                for k in range(8):
                    if joins(framed, row, column, k):
                        count += 1
                kinds[row, column] = 1 if count == 2 else 2 if count < 2 else 3
    return np.asarray(kinds)


def follow_skeleton(framed: U8, kinds: U8) -> tuple[I64, I64]:
    """Follow every chain of a skeleton from node to node, or round.

    Returns
    -------
    places : (n, 2) int64
        Row and column of its pixels in the framed picture, nodes at both ends among them.
    starts : (m + 1,) int64
        Where each chain begins in `places`; a closed one ends at its first pixel.
    """
    total = 0
    for row in range(framed.shape[0]):
        for column in range(framed.shape[1]):
            total += 1 if framed[row, column] != 0 else 0
    places = cython.declare(cython.longlong[:, ::1], np.empty((10 * total + 16, 2), dtype=np.int64))
    starts = cython.declare(cython.longlong[::1], np.zeros(4 * total + 2, dtype=np.int64))
    seen = cython.declare(cython.uchar[:, ::1], np.zeros((framed.shape[0], framed.shape[1]), dtype=np.uint8))
    count = chains = 0
    with cython.nogil:
        for closed in range(2):
            for first_row in range(1, framed.shape[0] - 1):
                for first_column in range(1, framed.shape[1] - 1):
                    kind = kinds[first_row, first_column]
                    if closed == 0 and kind < 2:
                        continue
                    if closed == 1 and (kind != 1 or seen[first_row, first_column] != 0):
                        continue
                    for first_way in range(8):
                        if not joins(framed, first_row, first_column, first_way):
                            continue
                        row, column = first_row + AROUND_Y[first_way], first_column + AROUND_X[first_way]
                        if kinds[row, column] == 1 and seen[row, column] != 0:
                            continue
                        if kinds[row, column] >= 2 and (
                            row < first_row or (row == first_row and column < first_column)
                        ):
                            continue  # two nodes side by side are met from the first
                        places[count, 0], places[count, 1] = first_row, first_column
                        count += 1
                        before_row, before_column = first_row, first_column
                        if closed == 1:
                            seen[first_row, first_column] = 1
                        while True:
                            places[count, 0], places[count, 1] = row, column
                            count += 1
                            if kinds[row, column] != 1 or (row == first_row and column == first_column):
                                break
                            seen[row, column] = 1
                            for way in range(8):
                                y, x = row + AROUND_Y[way], column + AROUND_X[way]
                                if joins(framed, row, column, way) and not (y == before_row and x == before_column):
                                    before_row, before_column = row, column
                                    row, column = y, x
                                    break
                        chains += 1
                        starts[chains] = count
                        if closed == 1:
                            break
    return np.asarray(places)[:count], np.asarray(starts)[: chains + 1]
