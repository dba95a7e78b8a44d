"""Contours drawn with the straight sides their border has, and curves between.

The fewest anchors within a tolerance lead one curve along a side and round its corner. A side that the border shows to
be straight is one line: found by thinning the border to a polygon (Douglas & Peucker 1973), kept where what is off it
is no bow.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import shapely

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.polygon import how_far_to_meet, line_through
from sobercrow.core.tracing.fitting import Fitter, in_order


class Reading(NamedTuple):
    """How straight sides are read from a border, in px.

    Points of a side lie within `off_px` of it; it is at least `least_px` long without `clear_px` of either end, which
    is rounded by the corner there.
    """

    off_px: float
    least_px: float
    clear_px: float


LONG = Reading(0.35, 7.0, 1.2)
SHORT, SHORTEST = Reading(0.35, 3.0, 0.8), Reading(0.25, 2.0, 0.5)
"""Sides of small letters, which corners leave little of."""
MOST_BOW_PX, MOST_BOW = 0.05, 0.004
"""A side is off its chord by a bow no larger than this, in px and as a share of its length more."""
CORNER_GAP_PX, CORNER_OFF_PX, LEAST_TURN = 6.5, 2.2, math.radians(14)
"""Sides with less between them meet in a corner, if that is no further off the border, and they turn enough."""


@dataclass(frozen=True, slots=True, eq=False)
class _Side:
    """A straight side: the first and the last border point on it, a place on it and its direction."""

    first: int
    last: int
    middle: F64
    way: F64

    def foot(self, point: F64) -> F64:
        """The place on it nearest to a point."""
        return np.asarray(self.middle + self.way * ((point - self.middle) @ self.way))

    def meets(self, other: _Side) -> F64 | None:
        """Where two sides, led on, meet; None if they hardly turn."""
        far = how_far_to_meet(self.middle, self.way, other.middle, other.way, math.sin(LEAST_TURN))
        return np.asarray(self.middle + self.way * far[0]) if far is not None else None


def with_sides(line: F64, fitter: Fitter, like: Contour, reading: Reading = LONG) -> tuple[Contour, int] | None:
    """Return the contour of a closed border (n, 2) with its straight sides as lines, and how many there are.

    It is run through as `like` is. None if there are no sides, or nothing is left between them.
    """
    line = in_order(line)
    sides = _sides(line, reading)
    if not sides:
        return None
    n = len(line)
    points: list[F64] = []
    kinds: list[int] = []
    for side, after in pairwise([*sides, sides[0]]):
        gap = line[np.arange(side.last, after.first + (n if after.first <= side.last else 0) + 1) % n]
        corner = side.meets(after) if len(sides) > 1 else None
        length = float(np.hypot(*np.diff(gap, axis=0).T).sum())
        if corner is not None and length <= CORNER_GAP_PX and _is_by(gap, corner):
            points.append(np.repeat(corner[None, None], 3, axis=1))
            kinds.append(int(AnchorKind.CORNER))
            continue
        run = gap.copy()
        run[0], run[-1] = side.foot(gap[0]), after.foot(gap[-1])
        if len(run) < 4:
            return None
        ends = np.array([(*side.way, 1.0), (*after.way, 1.0)])
        curve = fitter.open(run, ends)
        anchors = curve.points.copy()
        anchors[0, 0], anchors[-1, 2] = anchors[0, 1], anchors[-1, 1]
        points.append(anchors)
        kinds += curve.kinds.tolist()
        kinds[-len(anchors)] = kinds[-1] = int(AnchorKind.SMOOTH)
    return _run_as(like, Contour(np.concatenate(points), np.array(kinds, dtype=np.uint8))), len(sides)


def as_polygon(line: F64, off_px: float, like: Contour) -> Contour | None:
    """Return the contour of a closed border (n, 2) with nothing but corners, no further off it than said.

    None if there are fewer than three.
    """
    corners = _thinned(_opened(line)[0], off_px)
    if len(corners) < 3:
        return None
    points = np.repeat(corners[:, None], 3, axis=1)
    return _run_as(like, Contour(points, np.full(len(points), AnchorKind.CORNER, dtype=np.uint8)))


def _run_as(like: Contour, made: Contour) -> Contour:
    """A contour run through the same way round as another."""
    return made if (made.area() > 0) is (like.area() > 0) else made.reversed()


def _is_by(gap: F64, corner: F64) -> bool:
    return bool(np.hypot(*(gap - corner).T).min() <= CORNER_OFF_PX)


def _opened(line: F64) -> tuple[F64, int]:
    """A closed border from a place where there is no long side, and which that is."""
    start = int(np.argmax(np.hypot(*(line - line.mean(axis=0)).T)))
    return np.roll(line, -start, axis=0), start


def _thinned(ring: F64, off_px: float) -> F64:
    """The corners (n, 2) of its polygon."""
    whole = shapely.simplify(shapely.LineString(np.concatenate([ring, ring[:1]])), off_px)
    return np.asarray(shapely.get_coordinates(whole)[:-1])


def _sides(line: F64, reading: Reading) -> list[_Side]:
    """The straight sides of a closed border, in order."""
    n = len(line)
    ring, start = _opened(line)
    found = []
    for a, b in pairwise([*_indices(ring, _thinned(ring, reading.off_px)), n]):
        side = _straight(ring, a, b, reading)
        if side is not None:
            found.append(_Side((side.first + start) % n, (side.last + start) % n, side.middle, side.way))
    return found


def _bend(t: F64, off: F64) -> float:
    """What the square counts in the parabola nearest to what is off a line fitted to it, its middle at nought."""
    squares = t**2
    rest = squares - squares.mean() - t * ((squares * t).sum() / squares.sum())
    return float((rest @ off) / (rest @ rest))


def _indices(ring: F64, corners: F64) -> list[int]:
    """Where in a ring the corners of its polygon are."""
    at = {(x, y): k for k, (x, y) in reversed(list(enumerate(ring.tolist())))}
    return sorted({at[x, y] for x, y in corners.tolist()})


def _straight(ring: F64, a: int, b: int, reading: Reading) -> _Side | None:
    """The side from one corner of the polygon to the next, if it is long and its border no bow."""
    run = ring[np.arange(a, b + 1) % len(ring)]
    chord = run[-1] - run[0]
    length = float(np.hypot(*chord))
    if length < reading.least_px + 2.0 * reading.clear_px:
        return None
    along = (run - run[0]) @ chord / length
    inner = np.flatnonzero((along >= reading.clear_px) & (along <= length - reading.clear_px))
    if len(inner) < 5:
        return None
    first, last = int(inner[0]), int(inner[-1])
    clear = run[first : last + 1]
    middle, way = line_through(clear, chord)
    t = (clear - middle) @ way
    off = (clear - middle) @ np.array((-way[1], way[0]))
    half = 0.5 * float(np.ptp(t))
    bow = half**2 * abs(_bend(t, off))
    if bow > MOST_BOW_PX + MOST_BOW * length:
        return None
    return _Side(a + first, a + last, middle, way)
