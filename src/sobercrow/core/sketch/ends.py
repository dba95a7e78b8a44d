"""The ends of sketched lines: where they lead, and cut back to where they were meant to end."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64

WAY_FROM, WAY_TO = 0.7, 4.0
"""The direction of an end is read between so many spreads from it."""
BEND_FROM, BEND_TO, BEND_LEAST = 1.0, 8.0, 3.0
"""How a line bends before its end is read between so many spreads from it, over as many as the last at least."""
OVERSHOOT = 4.0
"""A line may run on beyond where it was meant to end by so many spreads."""
STUB = 4.0
"""Lines so many spreads long may be no more than where strokes ran on."""


@dataclass(frozen=True, slots=True, eq=False)
class Drawn:
    """A line as it was meant: points (n, 2), whether it is closed, and at which of its points it turns sharply."""

    points: F64
    closed: bool
    corners: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True, eq=False)
class End:
    """One end of a line: where it ends, the way it leads on, and a place behind from which that was read."""

    line: int
    last: bool
    place: F64
    way: F64
    behind: F64
    tail: F64
    """The last points before it, the last one first, about a px apart."""
    bend_deg: float
    """By how much the line turns before it, clockwise on screen; nought if it is too short to tell."""


def ends_of(number: int, points: F64, spread: float) -> Iterator[End]:
    for last in (False, True):
        run = points if last else points[::-1]
        count = len(run)
        part = run[max(0, count - 1 - int(WAY_TO * spread)) : max(2, count - int(WAY_FROM * spread))]
        part = part if len(part) >= 3 else run[-3:]
        way = part[-1] - part[0]
        tail = run[max(0, count - 1 - int(OVERSHOOT * spread)) :][::-1]
        way /= max(float(np.hypot(*way)), 1e-9)
        yield End(number, last, run[-1], way, part.mean(axis=0), tail, _bend(run, spread))


def _bend(run: F64, spread: float) -> float:
    """By how many degrees a run turns before its last end, clockwise on screen."""
    part = run[max(0, len(run) - 1 - int(BEND_TO * spread)) : max(2, len(run) - int(BEND_FROM * spread))]
    third = len(part) // 3
    if len(part) < BEND_LEAST * spread or third < 1:
        return 0.0
    first, last = part[third] - part[0], part[-1] - part[-1 - third]
    return math.degrees(math.atan2(first[0] * last[1] - first[1] * last[0], float(first @ last)))


def cut_at(run: F64, place: F64, spread: float, most: float = OVERSHOOT) -> F64:
    """A run of points that ends short of a place at its last end: what overshoots is taken off, so many spreads."""
    back = min(int(most * spread) + 1, len(run) - 2)
    tail = run[len(run) - back :]
    nearest = len(run) - back + int(np.hypot(*(tail - place).T).argmin()) if back > 0 else len(run) - 1
    return run[: max(2, min(nearest, len(run) - 1) - int(0.5 * spread) + 1)]
