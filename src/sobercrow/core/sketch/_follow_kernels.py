"""Compiled walk along the ridges of an orientation score: place and direction together, so that lines that cross part.

All lengths are in cells of the score, all directions in radians; a direction and its opposite are one.
"""

from __future__ import annotations

import cython
from cython.cimports.libc.math import atan2, cos, exp, floor, hypot, sin
from cython.cimports.sobercrow.core.sketch._follow_kernels import SEEN, SIDEWAYS, TURNS

from sobercrow.core.arrays import F32, F64, U8

HALF = 0.9
"""Looked at on both sides, in spreads."""
MOST_TURN = 0.2618
"""And so far to both sides in direction, each step."""
PEN_ACROSS, PEN_TURN = 1.5, 0.2443
"""What lies aside, in spreads, or turns, counts less, by bells so wide."""
DRAWN_OVER, TURNED_OVER, BACK = 0.35, 0.5, 0.075
"""Of what lies best the next place takes so much: of the way across, of the turn, and of the turn back to it."""
NEAR_ENOUGH, CLOSED = 12, 2.2
"""A walk of more steps that comes as near to where it began, in cells, is closed."""
PI = 3.141592653589793


def _layer_of(way: float, layers: int) -> int:
    """The layer whose direction is nearest."""
    turn = floor(way / PI * layers + 0.5)
    turns = floor(turn / layers)
    return cython.cast(cython.Py_ssize_t, turn - turns * layers)


def _score(volume: F32, layers: int, height: int, width: int, x: float, y: float, way: float) -> float:
    """The score at a place and a direction, between cells."""
    if x < 0.0 or y < 0.0 or x > width - 1.001 or y > height - 1.001:
        return 0.0
    turn = way / PI * layers
    turn -= floor(turn / layers) * layers
    k = cython.cast(cython.Py_ssize_t, turn)
    part = turn - k
    k = k if k < layers else 0
    after = k + 1 if k + 1 < layers else 0
    column, row = cython.cast(cython.Py_ssize_t, x), cython.cast(cython.Py_ssize_t, y)
    fx, fy = x - column, y - row
    at = row * width + column
    one, other = k * height * width + at, after * height * width + at
    low = (volume[one] * (1 - fx) + volume[one + 1] * fx) * (1 - fy)
    low += (volume[one + width] * (1 - fx) + volume[one + width + 1] * fx) * fy
    high = (volume[other] * (1 - fx) + volume[other + 1] * fx) * (1 - fy)
    high += (volume[other + width] * (1 - fx) + volume[other + width + 1] * fx) * fy
    return low * (1 - part) + high * part


def is_ridge(volume: F32, x: float, y: float, way: float, spread: float) -> bool:
    """Tell whether the score is greater at a place than anywhere beside it within reach."""
    data = cython.address(volume[0, 0, 0])
    layers, height, width = volume.shape[0], volume.shape[1], volume.shape[2]
    best, where = -1.0, 0
    for k in range(SIDEWAYS):
        aside = HALF * spread * (2.0 * k / (SIDEWAYS - 1) - 1.0)
        found = _score(data, layers, height, width, x - sin(way) * aside, y + cos(way) * aside, way)
        if found > best:
            best, where = found, k
    return 0 < where < SIDEWAYS - 1


def _walk(
    volume: F32,
    used: U8,
    x: float,
    y: float,
    way: float,
    spread: float,
    least: float,
    line: F64,
    first: int,
    closed: U8,
) -> int:
    """Walk one way from a place; returns how many points were written to `line` from `first` on."""
    scores = cython.declare(cython.double[SEEN])
    data = cython.address(volume[0, 0, 0])
    layers, height, width = volume.shape[0], volume.shape[1], volume.shape[2]
    begin_x, begin_y, begin_way = x, y, way
    apart = 2.0 * HALF * spread / (SIDEWAYS - 1)
    count = 0
    closed[0] = False
    while first + count < line.shape[0]:
        x, y = x + cos(way), y + sin(way)
        best, where = -1.0, 0
        for k in range(SIDEWAYS):
            aside = (k - (SIDEWAYS - 1) / 2) * apart
            for j in range(TURNS):
                turn = MOST_TURN * (2.0 * j / (TURNS - 1) - 1.0)
                found = _score(data, layers, height, width, x - sin(way) * aside, y + cos(way) * aside, way + turn)
                far, bent = aside / (PEN_ACROSS * spread), turn / PEN_TURN
                found *= exp(-0.5 * (far * far + bent * bent))
                scores[k * TURNS + j] = found
                if found > best:
                    best, where = found, k * TURNS + j
        if best < least:
            break
        k, j = where // TURNS, where % TURNS
        aside = (k - (SIDEWAYS - 1) / 2) * apart
        turn = MOST_TURN * (2.0 * j / (TURNS - 1) - 1.0)
        if 0 < k < SIDEWAYS - 1:
            left, right = scores[where - TURNS], scores[where + TURNS]
            bend = left - 2.0 * best + right
            if bend < -1e-9:
                aside += 0.5 * (left - right) / bend * apart
        x, y = x - sin(way) * aside * DRAWN_OVER, y + cos(way) * aside * DRAWN_OVER
        way += TURNED_OVER * turn + BACK * atan2(aside, 2.0 * spread)
        if x < 0.0 or y < 0.0 or x > width - 1.001 or y > height - 1.001:
            break
        layer = _layer_of(way, layers)
        line[first + count, 0], line[first + count, 1], line[first + count, 2] = x, y, way
        count += 1
        if count > NEAR_ENOUGH and hypot(x - begin_x, y - begin_y) < CLOSED and cos(way - begin_way) > 0.8:
            closed[0] = True
            break
        if used[layer, cython.cast(cython.Py_ssize_t, y + 0.5), cython.cast(cython.Py_ssize_t, x + 0.5)]:
            break
        if count > NEAR_ENOUGH:  # nobody walks in circles
            back = first + count - NEAR_ENOUGH
            layer = _layer_of(line[back, 2], layers)
            row = cython.cast(cython.Py_ssize_t, line[back, 1] + 0.5)
            used[layer, row, cython.cast(cython.Py_ssize_t, line[back, 0] + 0.5)] = 1
    return count


def follow(
    volume: F32, used: U8, x: float, y: float, way: float, spread: float, least: float, line: F64, first: int
) -> tuple[int, bool]:
    """Walk along a ridge from a place as far as the score is `least` and nobody was there before.

    Writes place and direction of each step, about a cell long, to `line` (n, 3) from row `first` on; returns how many,
    and whether the walk came back to where it began.
    """
    closed = cython.declare(cython.bint)
    closed = False
    count = _walk(volume, used, x, y, way, spread, least, line, first, cython.address(closed))
    return count, closed


def mark(used: U8, line: F64, reach: float, turn: int) -> None:
    """Mark places within reach of a line (n, 3), and directions within so many layers, as walked along."""
    layers, height, width = used.shape[0], used.shape[1], used.shape[2]
    whole = cython.cast(cython.Py_ssize_t, reach + 1.0)
    with cython.nogil:
        for n in range(line.shape[0]):
            x, y = line[n, 0], line[n, 1]
            layer = _layer_of(line[n, 2], layers)
            column, row = cython.cast(cython.Py_ssize_t, x + 0.5), cython.cast(cython.Py_ssize_t, y + 0.5)
            for down in range(row - whole, row + whole + 1):
                for across in range(column - whole, column + whole + 1):
                    if down < 0 or across < 0 or down >= height or across >= width:
                        continue
                    if (down - y) * (down - y) + (across - x) * (across - x) > reach * reach + 0.5:
                        continue
                    for k in range(-turn, turn + 1):
                        near = (layer + k + 2 * layers) % layers
                        used[near, down, across] = 1
