"""The way of a blade or a pen over the sheet: what is drawn, in which order, and where each contour is begun."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry.bezier import chorded
from sobercrow.core.geometry.combine import Progress
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.polygon import nesting
from sobercrow.core.handover._route_kernels import shorten
from sobercrow.core.handover.inks import as_drawn, inks_of
from sobercrow.core.settings import px_to_mm

ROUNDS, ROUNDS_OF_STARTS = 40, 3
MOST_STARTS = 32
"""So many places of a contour are tried to begin at."""
CORNER_COS = 0.9


@dataclass(frozen=True, slots=True, eq=False)
class Line:
    """Something drawn in one go: its points (n, 2) in mm, y down, a closed one without its first point again; the place
    of its shape in the artwork; at which points it has corners."""

    points: F64
    closed: bool
    shape: int
    corners: I64

    def begun_at(self, first: int) -> Line:
        """Return a closed line begun at another of its points."""
        moved = (self.corners - first) % len(self.points)
        return replace(self, points=np.roll(self.points, -first, axis=0), corners=np.sort(moved))

    def turned(self) -> Line:
        """Return it run through the other way."""
        return replace(self, points=self.points[::-1], corners=np.sort(len(self.points) - 1 - self.corners))


@dataclass(frozen=True, slots=True)
class Pass:
    """What one pen draws: the ink's name and colour, and its lines in order."""

    name: str
    colour: str
    lines: tuple[Line, ...]


@dataclass(frozen=True, slots=True)
class Route:
    """The whole way: passes in order, and how far the tool travels between lines, before and after it was shortened."""

    passes: tuple[Pass, ...]
    travel_mm: float
    unsorted_mm: float

    @property
    def lines(self) -> list[Line]:
        """All lines in order."""
        return [line for one in self.passes for line in one.lines]


def lines_of(contour: Contour, dpi: float, flat_mm: float, shape: int) -> Line:
    """Return a contour as a line no further off it than `flat_mm`."""
    curves = contour.curves()
    if not len(curves):
        return Line(contour.anchors * px_to_mm(1.0, dpi), False, shape, np.zeros(0, dtype=np.int64))
    points, at = chorded(curves, flat_mm / px_to_mm(1.0, dpi))
    corners = np.searchsorted(at, np.flatnonzero(contour.kinds == int(AnchorKind.CORNER)))
    if not contour.closed:
        points = np.vstack([points, curves[-1, 3]])
        corners = np.zeros(0, dtype=np.int64)
    return Line(points * px_to_mm(1.0, dpi), contour.closed, shape, corners.astype(np.int64))


def route(artwork: Artwork, flat_mm: float, is_sorted: bool = True, progress: Progress | None = None) -> Route:
    """Return the way over laid artwork: each ink its own pass, nothing drawn twice, inner contours before outer ones.

    Strokes are drawn along their middle. The way between contours is shortened by turning parts of it round and moving
    parts elsewhere (Croes 1958, "A method for solving traveling-salesman problems"; Or 1976) from the nearest at each
    step on; closed contours begin where the way comes past, at a corner where they have one.
    """
    passes, travel, unsorted = [], 0.0, 0.0
    inks = inks_of(artwork)
    here = np.array((0.0, px_to_mm(artwork.height_px, artwork.dpi)))
    there = here
    for n, ink in enumerate(inks):
        if progress is not None:
            progress(n / len(inks))
        every: dict[bytes, Line] = {}
        for coat in ink.coats:
            for contour in coat.shape.contours:
                line = lines_of(as_drawn(coat.shape, contour), artwork.dpi, flat_mm, coat.place)
                every.setdefault(_key(line), line)
        lines = list(every.values())
        if not lines:
            continue
        nests = Nests.of(lines)
        inner = nests.first(lines)
        unsorted += travel_of(inner, there)
        there = _end(inner[-1])
        made = shortest(lines, nests, here) if is_sorted else inner
        travel += travel_of(made, here)
        here = _end(made[-1])
        passes.append(Pass(ink.name, ink.colour, tuple(made)))
    return Route(tuple(passes), travel, unsorted)


def _key(line: Line) -> bytes:
    """What a line is known by, wherever it begins and whichever way it runs."""
    grid = np.rint(line.points * 1000.0).astype(np.int64)
    return grid[np.lexsort(grid.T)].tobytes()


def _end(line: Line) -> F64:
    end: F64 = line.points[0 if line.closed else -1]
    return end


def travel_of(lines: Sequence[Line], start: F64) -> float:
    """Return how far a tool travels between lines in their order, from where it rests, in mm."""
    starts = np.array([line.points[0] for line in lines])
    ends = np.array([start, *(_end(line) for line in lines[:-1])])
    return float(np.hypot(*(starts - ends).T).sum())


@dataclass(frozen=True, slots=True, eq=False)
class Nests:
    """What lies in what: the lines around line k are `outer[starts[k]]` up to `outer[starts[k + 1]]`."""

    starts: I64
    outer: I64

    @classmethod
    def of(cls, lines: Sequence[Line]) -> Nests:
        """Find it among lines."""
        inner, outer = nesting([line.points for line in lines])
        closed = np.array([line.closed for line in lines])[outer]
        inner, outer = inner[closed], outer[closed]
        order = np.argsort(inner, kind="stable")
        starts = np.searchsorted(inner[order], np.arange(len(lines) + 1))
        return cls(starts.astype(np.int64), np.append(outer[order], 0))

    def around(self, line: int) -> list[int]:
        """Return the lines around one."""
        found: list[int] = self.outer[self.starts[line] : self.starts[line + 1]].tolist()
        return found

    def first(self, lines: Sequence[Line]) -> list[Line]:
        """Return lines in their order, but what lies in others before those."""
        inside: list[list[int]] = [[] for _ in lines]
        for k in range(len(lines)):
            for outer in self.around(k):
                inside[outer].append(k)
        made: dict[int, Line] = {}
        for k in range(len(lines)):
            for inner in sorted(inside[k], key=lambda one: -len(self.around(one))):
                made.setdefault(inner, lines[inner])
            made.setdefault(k, lines[k])
        return list(made.values())


def shortest(lines: Sequence[Line], nests: Nests, start: F64) -> list[Line]:
    """Return lines in an order with a short way between them, begun and turned to suit it."""
    made = [line.begun_at(int(line.corners[0])) if line.closed and len(line.corners) else line for line in lines]
    way = _nearest_first(made, nests, start)
    for turn in range(ROUNDS_OF_STARTS):
        way = _shortened(made, nests, way, start)
        if turn < ROUNDS_OF_STARTS - 1:
            made = _begun_near(made, way, start)
    return [made[stop >> 1].turned() if stop & 1 and not made[stop >> 1].closed else made[stop >> 1] for stop in way]


def _ends_of(lines: Sequence[Line], start: F64) -> F64:
    return np.array([end for line in lines for end in (line.points[0], _end(line))] + [start])


def _nearest_first(lines: Sequence[Line], nests: Nests, start: F64) -> list[int]:
    """The nearest of all that may come next, step by step."""
    ends = _ends_of(lines, start)[:-1]
    waiting = np.bincount(nests.outer[:-1], minlength=len(lines))
    free = np.repeat(waiting == 0, 2)
    here, way = start, []
    for _ in lines:
        away = np.where(free, np.hypot(*(ends - here).T), np.inf)
        stop = int(away.argmin())
        way.append(stop)
        here = ends[stop ^ 1]
        free[[stop, stop ^ 1]] = False
        for outer in nests.around(stop >> 1):
            waiting[outer] -= 1
            if waiting[outer] == 0:
                free[[2 * outer, 2 * outer + 1]] = True
    return way


def _shortened(lines: Sequence[Line], nests: Nests, way: list[int], start: F64) -> list[int]:
    stops = np.array(way, dtype=np.int64)
    position = np.empty(len(lines), dtype=np.int64)
    position[stops >> 1] = np.arange(len(stops))
    shorten(np.ascontiguousarray(_ends_of(lines, start)), nests.starts, nests.outer, stops, position, ROUNDS)
    made: list[int] = stops.tolist()
    return made


def _begun_near(lines: Sequence[Line], way: list[int], start: F64) -> list[Line]:
    """Closed lines begun where the way comes past: at a corner if there are any."""
    made = list(lines)
    ends = _ends_of(lines, start)
    here = start
    for n, stop in enumerate(way):
        line = made[stop >> 1]
        if line.closed:
            ahead = ends[way[n + 1]] if n + 1 < len(way) else None
            firsts = line.corners
            if not len(firsts):
                firsts = np.unique(np.linspace(0, len(line.points) - 1, MOST_STARTS).astype(np.int64))
            places = line.points[firsts]
            cost = np.hypot(*(places - here).T) + (0.0 if ahead is None else np.hypot(*(places - ahead).T))
            made[stop >> 1] = line = line.begun_at(int(firsts[cost.argmin()]))
            here = line.points[0]
        else:
            here = ends[stop ^ 1]
    return made
