"""Compiled search for a short way from contour to contour.

A way lists stops: contour `k` begun at its first end is 2 k, begun at its other end 2 k + 1. `ends` (2 n + 1, 2) has
where the stops are, the last row being where the tool rests. A contour may not come before those that lie in it.
"""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import hypot
from cython.cimports.sobercrow.core.handover._route_kernels import Around

from sobercrow.core.arrays import F64, I64, U8

LEAST_GAIN = 1e-9
LONGEST_RUN = 12
"""So many contours in a row are moved together at most."""


def _apart(ends: F64, one: int, other: int) -> float:
    """How far it is from the end of one stop to the beginning of another; −1 for the resting place."""
    last = ends.shape[0] - 1
    a = last if one < 0 else one ^ 1
    b = last if other < 0 else other
    return hypot(ends[a, 0] - ends[b, 0], ends[a, 1] - ends[b, 1])


def _ends_before(around: Around, position: I64, node: int, low: int, high: int, limit: int) -> bool:
    """Whether a contour around one, itself not between two positions, comes at or before a limit."""
    for k in range(around.starts[node], around.starts[node + 1]):
        place = position[around.outer[k]]
        if place <= limit and not low <= place <= high:
            return True
    return False


def _has_outer_within(around: Around, position: I64, node: int, low: int, high: int) -> bool:
    """Whether a contour around one lies between two positions."""
    for k in range(around.starts[node], around.starts[node + 1]):
        if low <= position[around.outer[k]] <= high:
            return True
    return False


def _turn(way: I64, position: I64, low: int, high: int) -> None:
    """Run through a part of the way the other way round."""
    while low < high:
        kept = way[low] ^ 1
        way[low], way[high] = way[high] ^ 1, kept
        position[way[low] >> 1], position[way[high] >> 1] = low, high
        low += 1
        high -= 1
    if low == high:
        way[low] ^= 1


def _freshen(way: I64, fresh: U8, low: int, high: int) -> None:
    """Mark the contours at both ends of a run, and those before and after it: their links are new."""
    for k in range(max(low - 1, 0), min(low + 1, way.shape[0] - 1) + 1):
        fresh[way[k] >> 1] = 2
    for k in range(max(high - 1, 0), min(high + 1, way.shape[0] - 1) + 1):
        fresh[way[k] >> 1] = 2


def _reverse_somewhere(ends: F64, around: Around, way: I64, position: I64, fresh: U8) -> bool:
    """Turn parts of the way round wherever that makes it shorter (Croes 1958); tell whether it did."""
    n, changed = way.shape[0], False
    for low in range(n):
        before = way[low - 1] if low > 0 else -1
        if not fresh[way[low] >> 1] and (before < 0 or not fresh[before >> 1]):
            continue
        into = _apart(ends, before, way[low])
        for high in range(low, n):
            # from here on no part may be turned: a contour would come before what lies in it
            if high > low and _has_outer_within(around, position, way[low] >> 1, low, high):
                break
            new_in = _apart(ends, before, way[high] ^ 1)
            if new_in >= into and high + 1 >= n:
                continue
            gain = into - new_in
            if high + 1 < n:
                gain += _apart(ends, way[high], way[high + 1]) - _apart(ends, way[low] ^ 1, way[high + 1])
            if gain <= LEAST_GAIN:
                continue
            allowed = 1
            for k in range(low, high):
                if _has_outer_within(around, position, way[k] >> 1, low, high):
                    allowed = 0
                    break
            if allowed:
                _turn(way, position, low, high)
                changed = True
                _freshen(way, fresh, low, high)
                into = _apart(ends, before, way[low])
    return changed


def _best_gap(ends: F64, way: I64, low: int, high: int, saved: float) -> tuple[int, int]:
    """After which position a run of stops would lie better, −2 for none, and whether it is turned round there."""
    n, best, where, turned = way.shape[0], LEAST_GAIN, -2, 0
    for k in range(-1, n):
        if low - 1 <= k <= high:
            continue
        one = way[k] if k >= 0 else -1
        gap = _apart(ends, one, way[k + 1]) if k + 1 < n else 0.0
        for flip in range(2):
            added = _apart(ends, one, way[high] ^ 1 if flip else way[low]) - gap
            if k + 1 < n:
                added += _apart(ends, way[low] ^ 1 if flip else way[high], way[k + 1])
            if saved - added > best:
                best, where, turned = saved - added, k, flip
    return where, turned


def _may_move(around: Around, way: I64, position: I64, low: int, high: int, where: int, turned: bool) -> bool:
    """Whether a run may lie after a position: no contour then comes before what lies in it."""
    if where > high:
        for k in range(low, high + 1):
            if _ends_before(around, position, way[k] >> 1, low, high, where):
                return False
    else:
        for k in range(where + 1, low):
            if _has_outer_within(around, position, way[k] >> 1, low, high):
                return False
    if turned:
        for k in range(low, high):
            if _has_outer_within(around, position, way[k] >> 1, low, high):
                return False
    return True


def _move(way: I64, position: I64, low: int, high: int, where: int, turned: bool) -> None:
    """Let a run lie after a position: past its neighbours by turns."""
    length = high - low + 1
    if where > high:
        _turn(way, position, low, where)
        _turn(way, position, low, where - length)
        if not turned:
            _turn(way, position, where - length + 1, where)
    else:
        _turn(way, position, where + 1, high)
        _turn(way, position, where + 1 + length, high)
        if not turned:
            _turn(way, position, where + 1, where + length)


def _move_somewhere(ends: F64, around: Around, way: I64, position: I64, fresh: U8) -> bool:
    """Move runs of contours to where the way becomes shorter, turned round or not (Or 1976); tell whether it did."""
    n, changed = way.shape[0], False
    for length in range(1, min(LONGEST_RUN, n - 1) + 1):
        if length > 3 and length & 3:
            continue
        for low in range(n - length + 1):
            high = low + length - 1
            before = way[low - 1] if low > 0 else -1
            if not fresh[way[low] >> 1] and not fresh[way[high] >> 1] and (before < 0 or not fresh[before >> 1]):
                continue
            saved = _apart(ends, before, way[low])
            if high + 1 < n:
                saved += _apart(ends, way[high], way[high + 1]) - _apart(ends, before, way[high + 1])
            if saved <= LEAST_GAIN:
                continue
            where, turned = _best_gap(ends, way, low, high, saved)
            if where > -2 and _may_move(around, way, position, low, high, where, turned):
                _move(way, position, low, high, where, turned)
                changed = True
                if where > high:
                    _freshen(way, fresh, low, low)
                    _freshen(way, fresh, where - length + 1, where)
                else:
                    _freshen(way, fresh, where + 1, where + length)
                    _freshen(way, fresh, high, high)
    return changed


def shorten(ends: F64, inner_first: I64, outer: I64, way: I64, position: I64, rounds: int) -> None:
    """Shorten a way in place until nothing helps any more, or for so many rounds; `position` follows it.

    The contours around contour k are `outer[inner_first[k]]` up to `outer[inner_first[k + 1]]`. After the first round
    only links beside those that were changed are looked at again (Bentley 1992, "Fast algorithms for geometric
    traveling salesman problems").
    """
    around = cython.declare(Around)
    around.starts, around.outer = cython.address(inner_first[0]), cython.address(outer[0])
    fresh = cython.declare(cython.uchar[::1], np.full(way.shape[0], 2, dtype=np.uint8))
    with cython.nogil:
        for _ in range(rounds):
            for k in range(fresh.shape[0]):
                fresh[k] = fresh[k] >> 1
            turned = _reverse_somewhere(ends, around, way, position, fresh)
            moved = _move_somewhere(ends, around, way, position, fresh)
            if not turned and not moved:
                break
