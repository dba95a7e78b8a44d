"""The ends of sketched lines: where they lead, and cut back to where they were meant to end."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64

WAY_FROM, WAY_TO = 0.7, 4.0
"""The direction of an end is read between so many spreads from it."""
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


def ends_of(number: int, points: F64, spread: float) -> Iterator[End]:
    for last in (False, True):
        run = points if last else points[::-1]
        count = len(run)
        part = run[max(0, count - 1 - int(WAY_TO * spread)) : max(2, count - int(WAY_FROM * spread))]
        part = part if len(part) >= 3 else run[-3:]
        way = part[-1] - part[0]
        tail = run[max(0, count - 1 - int(OVERSHOOT * spread)) :][::-1]
        yield End(number, last, run[-1], way / max(float(np.hypot(*way)), 1e-9), part.mean(axis=0), tail)


def cut_at(run: F64, place: F64, spread: float) -> F64:
    """A run of points that ends short of a place at its last end: what overshoots is taken off."""
    back = min(int(4.0 * spread) + 1, len(run) - 2)
    tail = run[len(run) - back :]
    nearest = len(run) - back + int(np.hypot(*(tail - place).T).argmin()) if back > 0 else len(run) - 1
    return run[: max(2, min(nearest, len(run) - 1) - int(0.5 * spread) + 1)]
