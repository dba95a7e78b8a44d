"""The straight sides of contours: the directions they share, and contours with some of their sides laid elsewhere."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Relation
from sobercrow.core.geometry.polygon import how_far_to_meet
from sobercrow.core.tracing.proposals import Proposed, free, related
from sobercrow.core.tracing.regular import align, is_line
from sobercrow.core.tracing.settling import Found
from sobercrow.core.tracing.true_shapes import TrueShape

SHARED_RAD, LONG_SIDE_PX = math.radians(1.6), 12.0
"""Long sides no further apart in direction, or in a right angle to each other, share it."""
LEVEL_RAD = math.radians(0.3)
"""A shared direction that is nearer to level or upright than this is exactly so."""
LEAST_SINE = 0.1
"""Of the angle between lines that meet in a corner."""
FURTHEST_PX = 1.0
"""An anchor between two sides laid elsewhere goes no further to where they meet."""

Side = tuple[F64, F64]
"""A place on a straight side and its direction, of length 1."""


def sides_of(contour: Contour, least_px: float) -> Iterator[tuple[int, F64]]:
    """Yield the straight sides of a contour that are so long: from which anchor, and the way to the next."""
    for i in range(len(contour)):
        j = (i + 1) % len(contour)
        way = contour.points[j, 1] - contour.points[i, 1]
        if is_line(contour.points, i, j) and np.hypot(*way) >= least_px:
            yield i, way


def crowds(
    values: F64, weights: F64, within: float, period: float = math.inf
) -> Iterator[tuple[NDArray[np.intp], float]]:
    """Yield which of several values (n,) lie together, and their weighted mean; the heaviest crowd first.

    All of a crowd are within so much of one of them. Values repeat with the period. Nothing alone is a crowd.
    """

    def off(middle: float) -> F64:
        apart = values - middle
        return apart if math.isinf(period) else np.remainder(apart + period / 2.0, period) - period / 2.0

    left = np.ones(len(values), dtype=np.bool_)
    while left.any():
        near = {value: left & (np.abs(off(value)) <= within) for value in values[left].tolist()}
        middle = max(near, key=lambda value: float(weights[near[value]].sum()))
        mine = np.flatnonzero(near[middle])
        if len(mine) > 1:
            yield mine, float(middle + np.average(off(middle)[mine], weights=weights[mine]))
        left &= ~near[middle]


def with_directions(found: Found) -> Iterator[Proposed]:
    """Propose contours whose long straight sides take the directions shared by many."""
    angles, weights = [], []
    for _, contour in free(found):
        for _, way in sides_of(contour, LONG_SIDE_PX):
            angles.append(math.atan2(way[1], way[0]) % (math.pi / 2.0))
            weights.append(float(np.hypot(*way)))
    means = [mean for _, mean in crowds(np.array(angles), np.array(weights), SHARED_RAD, math.pi / 2.0)]
    shared = [mean if abs(math.remainder(mean, math.pi / 2.0)) > LEVEL_RAD else 0.0 for mean in means]
    for place, contour in free(found):
        turned: dict[int, Side] = {}
        for i, way in sides_of(contour, LONG_SIDE_PX):
            angle = math.atan2(way[1], way[0])
            off = [(math.remainder(direction - angle, math.pi / 2.0)) for direction in shared]
            nearest = min(off, key=abs, default=math.inf)
            if 1e-9 < abs(nearest) <= SHARED_RAD:
                new = angle + nearest
                turned[i] = side_at(contour, i)[0], np.array((math.cos(new), math.sin(new)))
        if turned:
            made = relaid(contour, turned)
            off_px = float(np.abs(made.anchors - contour.anchors).max())
            yield TrueShape(related(Relation.DIRECTIONS, [contour], len(turned)), off_px), {place: made}


def side_at(contour: Contour, i: int) -> Side:
    """Return the middle of the straight side from anchor i, and its direction."""
    a, b = contour.anchors[i], contour.anchors[(i + 1) % len(contour)]
    way = b - a
    return 0.5 * (a + b), way / max(np.hypot(*way), 1e-12)


def relaid(contour: Contour, sides: Mapping[int, Side]) -> Contour:
    """Return a closed contour with some of its straight sides, by the anchor they begin at, laid elsewhere.

    Anchors between two sides go where these meet; at the end of one alone they go onto it, with their handles.
    """
    points, n = contour.points.copy(), len(contour)
    before = contour.anchors
    lines = {i: side_at(contour, i) for i in range(n) if is_line(contour.points, i, (i + 1) % n)} | dict(sides)
    for i in range(n):
        into, out = lines.get((i - 1) % n), lines.get(i)
        if (i not in sides and (i - 1) % n not in sides) or (into is None and out is None):
            continue
        far = how_far_to_meet(*into, *out, LEAST_SINE) if into is not None and out is not None else None
        new = into[0] + into[1] * far[0] if into is not None and far is not None else None
        if new is None or np.hypot(*(new - before[i])) > FURTHEST_PX:
            middle, way = out if out is not None else into  # type: ignore[misc]
            new = middle + way * ((before[i] - middle) @ way)
        points[i] += new - before[i]
    kinds = contour.kinds.copy()
    align(points, kinds, True)
    return Contour(points, kinds)
