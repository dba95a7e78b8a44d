"""Contours united and subtracted, curve for curve: what no other contour crosses stays exactly as it was.

Lines of points are laid on all curves, near enough to tell where they cross and what lies where; GEOS unites or
subtracts the areas they enclose. Its rings keep the points they were given, so every stretch of a ring is known by the
curve and the parameters it came from. The result is put together of those curves, whole or split (de Casteljau) where
they cross.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from sobercrow.core.arrays import F64, I64, U8
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._crossing_kernels import first_crossing
from sobercrow.core.geometry.arcs import Arc, arc_between, arc_of
from sobercrow.core.geometry.contour import AnchorKind, Contour, directions
from sobercrow.core.geometry.fewest import fewest_cubics

FLAT_PX = 0.002
"""A line of points lies no further off its curve."""
FEW, FLAT_OF_MANY_PX = 60, 0.012
"""Of more shapes at once the points lie a little further apart: crossings are placed within a hundredth of a px."""
LEAST_AREA_PX2 = 0.25
"""What is smaller is a sliver, and goes."""
ALIKE, REFIT_PX = 5e-4, 0.02
"""A ring put together encloses what it should but for such a share, else it is fitted within so much."""
SHORT_PX = 1e-3
"""Anchors nearer than this to the next are one."""
NO_TURN_COS = 0.9998
CORNER_COS, TURN_PX, SPACING_PX = 0.9, 1.0, 0.4
"""A ring of points has a corner where it turns by more than 26° within a px."""


class How(StrEnum):
    """What is done with areas."""

    UNITE = "unite"
    SUBTRACT = "subtract"
    INTERSECT = "intersect"
    EXCLUDE = "exclude"


@dataclass(frozen=True, slots=True, eq=False)
class _Laid:
    """Points laid on a closed contour: the piece each is on, and its parameter there."""

    contour: Contour
    points: F64
    piece: I64
    t: F64
    low: F64
    high: F64

    @classmethod
    def of(cls, contour: Contour, flat_px: float = FLAT_PX) -> _Laid:
        """Lay points as close together as the bends ask for."""
        curves = contour.curves()
        second = np.hypot(*np.moveaxis(np.diff(curves, n=2, axis=1), -1, 0)).max(axis=1)
        counts = np.clip(np.ceil(np.sqrt(0.75 * second / flat_px)), 1, 400).astype(np.int64)
        piece = np.repeat(np.arange(len(curves)), counts)
        t = (np.arange(len(piece)) - np.repeat(np.cumsum(counts) - counts, counts)) / counts[piece]
        points = bezier.on_curves(curves[piece], t[:, None])
        return cls(contour, points, piece, t, points.min(axis=0), points.max(axis=0))


def _area(laid: Sequence[_Laid]) -> BaseGeometry:
    """The area some contours enclose, by the even-odd rule."""
    area: BaseGeometry = shapely.Polygon()
    for one in laid:
        if len(one.points) >= 3:
            ring = shapely.Polygon(one.points)
            area = shapely.symmetric_difference(area, ring if ring.is_valid else shapely.make_valid(ring))
    return area


def region(contours: Sequence[Contour], spacing_px: float) -> BaseGeometry:
    """Return the area contours enclose by the even-odd rule, of points so far apart: to tell what touches what."""
    area: BaseGeometry = shapely.Polygon()
    for contour in contours:
        points = contour.sampled(spacing_px)
        if len(points) >= 3:
            area = area.symmetric_difference(shapely.Polygon(points).buffer(0))
    return area


def combine(subject: Sequence[Contour], clip: Sequence[Contour], how: How) -> list[tuple[Contour, ...]]:
    """Return what two groups of closed contours come to; see `combine_all`."""
    return combine_all([subject, clip], how)


def combine_all(groups: Sequence[Sequence[Contour]], how: How) -> list[tuple[Contour, ...]]:
    """Return what groups of closed contours come to, each filled by the even-odd rule, shape by shape.

    Every shape has its outer contour first, then its holes; both run as the area lies at the right hand of the outer
    one. What is subtracted is all but the first. Slivers are left out; contours nothing crosses are given back as such.
    """
    flat = FLAT_PX if len(groups) <= FEW else FLAT_OF_MANY_PX
    laid = [[_Laid.of(contour, flat) for contour in group] for group in groups]
    areas = [_area(group) for group in laid]
    if how is How.UNITE:
        result = shapely.union_all(areas)
    elif how is How.SUBTRACT:
        result = shapely.difference(areas[0], shapely.union_all(areas[1:]))
    else:
        meet = shapely.intersection if how is How.INTERSECT else shapely.symmetric_difference
        result = functools.reduce(meet, areas)
    lines = _Lines([one for group in laid for one in group])
    return [shape for part in shapely.get_parts(result) if (shape := lines.shape(part))]


def divide_all(groups: Sequence[Sequence[Contour]]) -> list[tuple[int, tuple[Contour, ...]]]:
    """Part groups of closed contours along all edges: each area that comes of it, with the last group it belongs to.

    Neighbours share their border coordinate for coordinate.
    """
    laid = [[_Laid.of(contour) for contour in group] for group in groups]
    areas = [_area(group) for group in laid]
    for area in areas:
        shapely.prepare(area)
    edges = shapely.unary_union([shapely.boundary(area) for area in areas])
    lines = _Lines([one for group in laid for one in group])
    found = []
    for face in shapely.get_parts(shapely.polygonize(shapely.get_parts(edges))):
        inside = shapely.point_on_surface(face)
        owners = [k for k, area in enumerate(areas) if shapely.contains(area, inside)]
        shape = lines.shape(face) if owners else ()
        if shape:
            found.append((owners[-1], shape))
    return found


def wound_all(contours: Sequence[Contour]) -> list[tuple[Contour, ...]] | None:
    """Return what closed contours enclose by the rule of winding, shape by shape; None if it is what they enclose by
    the even-odd rule (W3C, SVG 2: fill-rule nonzero and evenodd)."""
    laid = [_Laid.of(contour) for contour in contours]
    areas = [_area([one]) for one in laid]
    turns = np.array([1 if contour.area() > 0 else -1 for contour in contours])
    faces = shapely.get_parts(
        shapely.polygonize(shapely.get_parts(shapely.unary_union([shapely.boundary(a) for a in areas])))
    )
    inside = shapely.point_on_surface(faces)
    winding = sum(turn * shapely.contains(area, inside) for turn, area in zip(turns, areas, strict=True))
    wound = shapely.union_all(faces[np.asarray(winding) != 0])
    if wound.symmetric_difference(_area(laid)).area < LEAST_AREA_PX2 * 0.1:
        return None
    lines = _Lines(laid)
    return [shape for part in shapely.get_parts(wound) if (shape := lines.shape(part))]


class _Lines:
    """All laid points, by which the rings that GEOS makes of them are known again."""

    def __init__(self, laid: Sequence[_Laid]) -> None:
        counts = np.array([len(one.points) for one in laid])
        self.laid = laid
        self.owner = np.repeat(np.arange(len(laid)), counts)
        self.first = np.concatenate([[0], np.cumsum(counts)])[:-1]
        self.counts = counts
        self.anchors = np.array([len(one.contour) for one in laid])
        self.at = np.concatenate([one.piece + one.t for one in laid])
        codes = _codes(np.concatenate([one.points for one in laid]))
        # points that are several contours' are known by the first of them
        self._order = np.argsort(codes, kind="stable")
        self._sorted = codes[self._order]

    def find(self, ring: F64) -> I64:
        """Which laid point each point of a ring is; −1 for none."""
        codes = _codes(ring)
        places = np.minimum(np.searchsorted(self._sorted, codes), len(self._sorted) - 1)
        return np.where(self._sorted[places] == codes, self._order[places], -1)

    def shape(self, part: BaseGeometry) -> tuple[Contour, ...]:
        """The contours of an area without slivers; none if it is one itself."""
        if not isinstance(part, shapely.Polygon) or part.area < LEAST_AREA_PX2:
            return ()
        rings = [part.exterior, *(r for r in part.interiors if shapely.Polygon(r).area >= LEAST_AREA_PX2)]
        outer, *holes = (_sound(np.asarray(ring.coords)[:-1], self) for ring in rings)
        outer = outer if outer.area() > 0 else outer.reversed()
        return (outer, *(hole if hole.area() < 0 else hole.reversed() for hole in holes))


def _codes(points: F64) -> np.ndarray[tuple[int], np.dtype[np.complex128]]:
    """Points as numbers that can be sorted and compared; nought is one, whatever its sign."""
    return np.asarray((points[:, 0] + 0.0) + 1j * (points[:, 1] + 0.0))


def _sound(ring: F64, lines: _Lines) -> Contour:
    """The contour of a ring, curve for curve; where that cannot be told, contours lying on each other, fitted anew."""
    made = _rebuilt(ring, lines)
    area = float(shapely.Polygon(ring).area)
    if made is not None and abs(abs(made.area()) - area) <= ALIKE * area + LEAST_AREA_PX2 / 10:
        curves = np.ascontiguousarray(made.curves().reshape(-1, 8))
        if not first_crossing(curves, True, np.empty(4)):
            return made
    line = np.asarray(shapely.segmentize(shapely.LinearRing(ring), SPACING_PX).coords)[:-1]
    return _around(line, REFIT_PX)


def _rebuilt(ring: F64, lines: _Lines) -> Contour | None:
    """The contour a ring of points stands for, of the curves they were laid on."""
    count = len(ring)
    owner, start, end = _sides(ring, lines)
    back = np.roll(np.arange(count), 1)
    gap = np.abs(end[back] - start) % np.where(owner >= 0, lines.anchors[owner], 1)
    near = np.minimum(gap, np.where(owner >= 0, lines.anchors[owner], 1) - gap) < 1e-9
    goes_on = (owner >= 0) & (owner == owner[back]) & near & ((end - start) * (end - start)[back] > 0)
    breaks = np.flatnonzero(~goes_on)
    if not len(breaks):
        whole: Contour = lines.laid[int(owner[0])].contour
        return whole
    segments: list[F64] = []
    for at, after in zip(breaks.tolist(), [*breaks[1:].tolist(), int(breaks[0]) + count], strict=True):
        ends = ring[at], ring[after % count]
        if owner[at] < 0:
            segments.append(np.array([ends[0], ends[0], ends[1], ends[1]]))
        else:
            last = (after - 1) % count
            run = (float(start[at]), float(end[at])), (float(start[last]), float(end[last]))
            segments += _curves_between(lines.laid[owner[at]].contour, _Side(0, *run[0]), _Side(0, *run[1]), *ends)
    return _assembled(segments)


def _sides(ring: F64, lines: _Lines) -> tuple[I64, F64, F64]:
    """For each side of a ring the contour it was laid on, −1 if that cannot be told, and the parameters at its ends."""
    marks = lines.find(ring)
    after = np.roll(marks, -1)
    owner = np.where((marks >= 0) & (after >= 0), lines.owner[marks], -1)
    owner = np.where((owner >= 0) & (owner == lines.owner[after]), owner, -1)
    own = np.maximum(owner, 0)
    i, j, n = marks - lines.first[own], after - lines.first[own], lines.counts[own]
    ahead, back = j == (i + 1) % n, j == (i - 1) % n
    owner = np.where(ahead | back, owner, -1)
    start, end = lines.at[marks], lines.at[after]
    end = end + np.where(ahead & (j == 0), lines.anchors[own], 0) - np.where(~ahead & (i == 0), lines.anchors[own], 0)
    for k in np.flatnonzero(owner < 0).tolist():  # at a crossing
        two = [
            None if m < 0 else (int(lines.owner[m]), int(m - lines.first[lines.owner[m]])) for m in (marks[k], after[k])
        ]
        found = _side(ring, (two[0], two[1]), k, lines.laid)
        if found is not None:
            owner[k], start[k], end[k] = found.laid, found.start, found.end
    return owner, start, end


@dataclass(frozen=True, slots=True)
class _Side:
    """One side of a ring: the contour it was laid on, the parameters at both its ends, counted on over the pieces."""

    laid: int
    start: float
    end: float


Mark = tuple[int, int] | None


def _side(ring: F64, marks: tuple[Mark, Mark], k: int, laid: Sequence[_Laid]) -> _Side | None:
    """Where the side from point k on comes from, an end of which at least is a crossing; None if it cannot be told."""
    after = (k + 1) % len(ring)
    a, b = marks
    for source in [m[0] for m in (a, b) if m is not None]:
        one = laid[source]
        n = len(one.points)
        for step in (1, -1):
            if a is not None and a[0] == source:
                i = a[1]
                j = (i + step) % n
            elif b is not None and b[0] == source:
                j = b[1]
                i = (j - step) % n
            else:
                continue
            if a is not None and b is not None and a[0] == b[0] == source and b[1] != j:
                continue
            if _on_side(one.points[i], one.points[j], ring[k]) and _on_side(one.points[i], one.points[j], ring[after]):
                low, high = _parameter(one, i, step), _parameter(one, i, step, at_end=True)
                span = max(float(np.hypot(*(one.points[j] - one.points[i]))), 1e-12)
                shares = [float(np.hypot(*(p - one.points[i]))) / span for p in (ring[k], ring[after])]
                return _Side(source, *(low + share * (high - low) for share in shares))
    if a is None and b is None:  # between two crossings: the side both lie on
        low, high = np.minimum(ring[k], ring[after]) + NEAR_PX, np.maximum(ring[k], ring[after]) - NEAR_PX
        for source, one in enumerate(laid):
            if (one.low > low).any() or (one.high < high).any():
                continue
            following = np.roll(one.points, -1, axis=0)
            for i in np.flatnonzero(
                _near(one.points, following, ring[k]) & _near(one.points, following, ring[after])
            ).tolist():
                low, high = _parameter(one, i, 1), _parameter(one, i, 1, at_end=True)
                span = max(float(np.hypot(*(following[i] - one.points[i]))), 1e-12)
                shares = [float(np.hypot(*(p - one.points[i]))) / span for p in (ring[k], ring[after])]
                return _Side(source, *(low + share * (high - low) for share in shares))
    return None


NEAR_PX = 1e-6


def _on_side(a: F64, b: F64, p: F64) -> bool:
    return bool(_near(a[None], b[None], p)[0])


def _near(a: F64, b: F64, p: F64) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Whether a point lies on sides."""
    way = b - a
    size = np.maximum((way**2).sum(axis=1), 1e-24)
    share = np.clip(((p - a) * way).sum(axis=1) / size, 0.0, 1.0)
    off = a + share[:, None] * way - p
    return np.asarray(np.hypot(*off.T) < NEAR_PX)


def _parameter(one: _Laid, i: int, step: int, at_end: bool = False) -> float:
    """Piece and parameter in one number at laid point i, or at the one after it in a direction, counted on."""
    n, count = len(one.points), len(one.contour)
    here = float(one.piece[i] + one.t[i])
    if not at_end:
        return here
    j = (i + step) % n
    there = float(one.piece[j] + one.t[j])
    if step > 0 and j == 0:
        there += count
    if step < 0 and i == 0:
        there -= count
    return there


def _curves_between(contour: Contour, first: _Side, last: _Side, start: F64, end: F64) -> list[F64]:
    """The curves of a contour from one parameter to another, which may lie behind it; they begin and end as said."""
    count, curves = len(contour), contour.curves()
    back = first.end < first.start
    low, high = first.start, last.end
    if back:
        low, high = last.end, first.start
    while high <= low + 1e-12:
        high += count
    if high - low > count + 1e-9:
        high -= count
    made: list[F64] = []
    arcs: list[Arc | None] = []
    at = low
    while at < high - 1e-9:
        k = math.floor(at + 1e-12)
        a, b = max(at - k, 0.0), min(high - k, 1.0)
        curve = curves[k % count]
        is_line = np.array_equal(curve[0], curve[1]) and np.array_equal(curve[2], curve[3])
        part = bezier.split(curve, b)[0] if b < 1.0 else curve
        part = bezier.split(part, a / b)[1] if a > 0.0 else part
        made.append(np.array([part[0], part[0], part[3], part[3]]) if is_line else part.copy())
        arcs.append(arc_of(curve) if b - a < 1.0 and not is_line else None)
        at = k + b
    if back:
        made = [curve[::-1].copy() for curve in reversed(made)]
        arcs = [arc._replace(turn=-arc.turn) if arc is not None else None for arc in reversed(arcs)]
    for curve, place, handle, anchor in ((made[0], start, 1, 0), (made[-1], end, 2, 3)):
        curve[handle] += place - curve[anchor]
        curve[anchor] = place
    for k in {0, len(made) - 1}:  # what is cut of an arc is one
        arc = arcs[k]
        if arc is not None:
            made[k] = arc_between(made[k][0], made[k][3], arc)
    return made


def _assembled(segments: list[F64]) -> Contour | None:
    """One closed contour of curves end to end; very short ones are left out."""
    kept = [s for s in segments if np.hypot(*np.diff(s, axis=0).T).sum() > SHORT_PX]
    if len(kept) < 2:
        return None
    curves = np.array(kept)
    before = np.roll(curves, 1, axis=0)
    points = np.stack([before[:, 2], curves[:, 0], curves[:, 1]], axis=1)
    for side, handles in ((0, before[:, 3] - before[:, 2]), (2, curves[:, 1] - curves[:, 0])):
        none = np.hypot(*handles.T) < 1e-9
        points[none, side] = points[none, 1]
    made = Contour(points, np.zeros(len(points), dtype=np.uint8))
    into, out = directions(made)
    smooth = (into * out).sum(axis=1) > NO_TURN_COS
    kinds: U8 = np.where(smooth, int(AnchorKind.SMOOTH), int(AnchorKind.CORNER)).astype(np.uint8)
    return Contour(points, kinds)


def contours_around(area: BaseGeometry, tolerance_px: float) -> list[Contour]:
    """Return an area of GEOS as contours of the fewest cubics within a tolerance, outer ones and holes."""
    made = []
    for part in shapely.get_parts(area):
        if isinstance(part, shapely.Polygon) and part.area >= LEAST_AREA_PX2:
            rings = [part.exterior, *(r for r in part.interiors if shapely.Polygon(r).area >= LEAST_AREA_PX2)]
            for k, ring in enumerate(rings):
                line = np.asarray(shapely.segmentize(ring, SPACING_PX).coords)[:-1]
                contour = _around(line, tolerance_px)
                made.append(contour if (contour.area() > 0) is (k == 0) else contour.reversed())
    return made


def _around(ring: F64, tolerance_px: float) -> Contour:
    """One ring of points as a contour, its corners kept."""
    count = len(ring)
    reach = max(1, min(round(TURN_PX / SPACING_PX), count // 4))
    into, out = ring - np.roll(ring, reach, axis=0), np.roll(ring, -reach, axis=0) - ring
    cos = (into * out).sum(axis=1) / np.maximum(np.hypot(*into.T) * np.hypot(*out.T), 1e-12)
    sharp = np.flatnonzero(cos < CORNER_COS)
    corners = [int(k) for k in sharp if cos[k] <= cos[(k + np.arange(-reach, reach + 1)) % count].min() + 1e-12]
    corners = [k for n, k in enumerate(corners) if n == 0 or k - corners[n - 1] > reach]
    # with fewer than two corners there are smooth anchors to begin at
    starts = corners if len(corners) > 1 else sorted({*(corners or [0]), ((corners or [0])[0] + count // 2) % count})
    points: list[F64] = []
    kinds: list[int] = []
    for first, last in pairwise([*starts, starts[0] + count]):
        run = ring[np.arange(first, last + 1) % count]
        ways = [None if k % count in corners else out[k % count] + into[k % count] for k in (first, last)]
        anchors = fewest_cubics(run, tolerance_px, *ways)
        if points:
            anchors[0, 0] = points[-1][-1, 0]
            points[-1] = points[-1][:-1]
        points.append(anchors)
        kinds += [int(AnchorKind.CORNER) if first in corners else int(AnchorKind.SMOOTH)]
        kinds += [int(AnchorKind.SMOOTH)] * (len(anchors) - 2)
    whole: F64 = np.concatenate(points)
    whole[0, 0] = whole[-1, 0]
    return Contour(whole[:-1], np.array(kinds, dtype=np.uint8))
