"""Compiled sweeps over sides of rings, sorted into rows: which cross or touch, how often they go round places."""

from __future__ import annotations

import cython

from sobercrow.core.arrays import F64, I64, U8


def _side(ax: float, ay: float, bx: float, by: float, x: float, y: float) -> float:
    return (bx - ax) * (y - ay) - (by - ay) * (x - ax)


def _root(parent: I64, k: int) -> int:
    """The ring that stands for all that hang together with one (Tarjan 1975, paths halved)."""
    while parent[k] != k:
        parent[k] = parent[parent[k]]
        k = parent[k]
    return k


def crossings(
    row: I64, side: I64, low: F64, high: F64, ends: F64, ring: I64, after: I64, parent: I64, crossed: U8, most: int
) -> int:
    """Find sides that cross or touch, and return how many pairs do, row by row; no more are sought after `most`.

    Entries (e,) are sides in rows, sorted by row and `low`: the left and right end of the part in that row. `ends`
    (n, 4) are x0 y0 x1 y1 of each side, `ring` the ring it is of, `after` the side that follows. Rings that touch are
    united in `parent`; those that cross, themselves or others, are marked in `crossed`.
    """
    n = row.shape[0]
    found = cython.declare(cython.longlong, 0)
    with cython.nogil:
        for e in range(n):
            i = side[e]
            f = e + 1
            while f < n and row[f] == row[e] and low[f] <= high[e] and found <= most:
                j = side[f]
                f += 1
                if j == i or after[i] == j or after[j] == i:
                    continue
                here = _side(ends[i, 0], ends[i, 1], ends[i, 2], ends[i, 3], ends[j, 0], ends[j, 1])
                there = _side(ends[i, 0], ends[i, 1], ends[i, 2], ends[i, 3], ends[j, 2], ends[j, 3])
                if (here > 0.0 and there > 0.0) or (here < 0.0 and there < 0.0):
                    continue
                here = _side(ends[j, 0], ends[j, 1], ends[j, 2], ends[j, 3], ends[i, 0], ends[i, 1])
                there = _side(ends[j, 0], ends[j, 1], ends[j, 2], ends[j, 3], ends[i, 2], ends[i, 3])
                if (here > 0.0 and there > 0.0) or (here < 0.0 and there < 0.0):
                    continue
                found += 1
                crossed[ring[i]] = crossed[ring[j]] = 1
                parent[_root(parent, ring[i])] = _root(parent, ring[j])
    return int(found)


def turns_at(
    places: F64,
    row_of: I64,
    own: I64,
    of_own: bool,
    first: I64,
    side: I64,
    high: F64,
    ends: F64,
    label: I64,
    turns: I64,
) -> None:
    """Write how often rings go round places, and how many sides a ray to the right of each meets: `turns` (q, 2).

    Each place (x, y) lies in a row, whose entries are those from `first` of it to that of the next; of the sides only
    those with the label `own`, or only all others, count (Sunday 2001, "Inclusion of a point in a polygon").
    """
    with cython.nogil:
        for q in range(places.shape[0]):
            x, y = places[q, 0], places[q, 1]
            around = cython.declare(cython.longlong, 0)
            met = cython.declare(cython.longlong, 0)
            for e in range(first[row_of[q]], first[row_of[q] + 1]):
                i = side[e]
                if high[e] < x or (label[i] == own[q]) != of_own:
                    continue
                if (ends[i, 1] <= y) == (ends[i, 3] <= y):
                    continue
                left = _side(ends[i, 0], ends[i, 1], ends[i, 2], ends[i, 3], x, y)
                if ends[i, 1] <= y and left > 0.0:
                    around += 1
                    met += 1
                elif ends[i, 1] > y and left < 0.0:
                    around -= 1
                    met += 1
            turns[q, 0], turns[q, 1] = around, met
