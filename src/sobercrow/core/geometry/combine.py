"""Contours united and subtracted, curve for curve: what no other contour crosses stays exactly as it was.

Lines of points are laid on all curves, near enough to tell where they cross and what lies where; GEOS unites or
subtracts the areas they enclose, and `laid` knows its rings again as the curves they came from.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from enum import StrEnum
from functools import partial
from itertools import pairwise

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from sobercrow.core.arrays import F64, I64, cumulated, following, preceding
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.crossings import own_crossings
from sobercrow.core.geometry.fewest import fewest_cubics
from sobercrow.core.geometry.laid import Laid, Lines
from sobercrow.core.parallel import on_cores

FLAT_PX = 0.002
"""A line of points lies no further off its curve."""
FEW, FLAT_OF_MANY_PX = 60, 0.012
"""Of more shapes at once the points lie a little further apart: crossings are placed within a hundredth of a px."""
AT_ONCE = 24
"""So many areas are united before one looks whether to stop."""
LEAST_AREA_PX2 = 0.25
"""What is smaller is a sliver, and goes."""
ALIKE, REFIT_PX = 5e-4, 0.02
"""A ring put together encloses what it should but for such a share, and what lies between curves and their lines of
points; else it is fitted within so much."""
CORNER_COS, TURN_PX, SPACING_PX = 0.9, 1.0, 0.4
"""A ring of points has a corner where it turns by more than 26° within a px."""


Progress = Callable[[float], None]


class How(StrEnum):
    """What is done with areas."""

    UNITE = "unite"
    SUBTRACT = "subtract"
    INTERSECT = "intersect"
    EXCLUDE = "exclude"


def _laid(groups: Sequence[Sequence[Contour]], flat_px: float) -> list[list[Laid]]:
    """Points laid on the contours of groups, in one go."""
    ends = cumulated([len(group) for group in groups]).tolist()
    laid = Laid.of_all([contour for group in groups for contour in group], flat_px)
    return [laid[first:last] for first, last in pairwise(ends)]


def _areas(groups: Sequence[Sequence[Laid]]) -> list[BaseGeometry]:
    """The area the contours of each group enclose, by the even-odd rule."""
    return areas_of_rings([[one.points for one in group] for group in groups])


def area_of_rings(rings: Sequence[F64]) -> BaseGeometry:
    """Return the area rings of points (n, 2) enclose by the even-odd rule; those that enclose none are left out."""
    return areas_of_rings([rings])[0]


def areas_of_rings(groups: Sequence[Sequence[F64]]) -> list[BaseGeometry]:
    """Return the same for many groups of rings, in one go."""
    groups = [[ring for ring in group if len(ring) >= 3] for group in groups]
    rings = [ring for group in groups for ring in group]
    if not rings:
        return [shapely.Polygon()] * len(groups)
    which = np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    made = shapely.polygons(shapely.linearrings(np.concatenate(rings), indices=which))
    for k in np.flatnonzero(~shapely.is_valid(made)):
        made[k] = areas_alone(shapely.make_valid(made[k]))
    parts = np.split(made, np.cumsum([len(group) for group in groups])[:-1])
    return [areas_alone(_folded(list(part), shapely.symmetric_difference)) for part in parts]


def areas_alone(made: BaseGeometry) -> BaseGeometry:
    """Return what of a geometry has an area: what touches leaves lines and points, which few operations take."""
    if made.geom_type in ("Polygon", "MultiPolygon"):
        return made
    parts = shapely.get_parts(shapely.get_parts(made))
    return shapely.MultiPolygon([part for part in parts if part.geom_type == "Polygon"])


def _folded(areas: Sequence[BaseGeometry], meet: Callable[[BaseGeometry, BaseGeometry], BaseGeometry]) -> BaseGeometry:
    """What areas come to two by two, from left to right, so that none is gone through more than log n times."""
    if not areas:
        return shapely.Polygon()
    parts = [areas[k] for k in np.argsort(shapely.bounds(areas)[:, 0], kind="stable")] if len(areas) > 2 else areas
    while len(parts) > 1:
        parts = [meet(*parts[k : k + 2]) if k + 1 < len(parts) else parts[k] for k in range(0, len(parts), 2)]
    return parts[0]


def flat_areas(groups: Sequence[Sequence[Contour]], flat_px: float) -> list[BaseGeometry]:
    """Return the area each group of contours encloses by the even-odd rule, its edges so near to the curves."""
    return _areas(_laid(groups, flat_px))


def region(contours: Sequence[Contour], spacing_px: float) -> BaseGeometry:
    """Return the area contours enclose by the even-odd rule, of points so far apart: to tell what touches what."""
    return area_of_rings([contour.sampled(spacing_px) for contour in contours])


def combine(subject: Sequence[Contour], clip: Sequence[Contour], how: How) -> list[tuple[Contour, ...]]:
    """Return what two groups of closed contours come to; see `combine_all`."""
    return combine_all([subject, clip], how)


def combine_all(
    groups: Sequence[Sequence[Contour]], how: How, progress: Progress | None = None
) -> list[tuple[Contour, ...]]:
    """Return what groups of closed contours come to, each filled by the even-odd rule, shape by shape.

    Every shape has its outer contour first, then its holes; both run as the area lies at the right hand of the outer
    one. What is subtracted is all but the first. Slivers are left out; contours nothing crosses are given back as such.
    `progress` is told the share done, 0-1, and may raise `Cancelled`.
    """
    flat = FLAT_PX if len(groups) <= FEW else FLAT_OF_MANY_PX
    laid = _laid(groups, flat)
    areas = _areas(laid)
    if how is How.UNITE:
        result = _united(areas, progress)
    elif how is How.SUBTRACT:
        result = shapely.difference(areas[0], _united(areas[1:], progress))
    else:
        meet = shapely.intersection if how is How.INTERSECT else shapely.symmetric_difference
        result = _folded(areas, meet)
    return shapes_along(result, Lines([one for group in laid for one in group], flat))


def _united(areas: Sequence[BaseGeometry], progress: Progress | None) -> BaseGeometry:
    """The union of areas: neighbours first, so that it can be stopped between."""
    parts = [areas[k] for k in _in_tiles(shapely.bounds(areas))] if len(areas) > AT_ONCE else list(areas)
    done, rounds = 0, max(1, math.ceil(math.log(max(len(parts), 2), AT_ONCE)))
    while len(parts) > AT_ONCE:
        some = [parts[k : k + AT_ONCE] for k in range(0, len(parts), AT_ONCE)]
        parts = on_cores(some, shapely.union_all, partial(_tell, progress, done, len(some), rounds + 1))
        done += 1
    return shapely.union_all(parts)


def _in_tiles(boxes: F64) -> I64:
    """The order in which boxes (n, 4) come one tile after the other, so that neighbours follow each other.

    Sorted into upright slices, and each of these from top to bottom (Leutenegger, Lopez & Edgington 1997, "STR: a
    simple and efficient algorithm for R-tree packing").
    """
    slices = math.ceil(math.sqrt(len(boxes) / AT_ONCE))
    by_left = np.array_split(np.argsort(boxes[:, 0], kind="stable"), slices)
    return np.concatenate([part[np.argsort(boxes[part, 1], kind="stable")] for part in by_left])


def _tell(progress: Progress | None, before: int, count: int, rounds: int, done: int) -> None:
    """Tell the share done once so many of `count` parts of a round are."""
    if progress is not None:
        progress(min((before + done / count) / rounds, 1.0))


def divide_all(groups: Sequence[Sequence[Contour]]) -> list[tuple[int, tuple[Contour, ...]]]:
    """Part groups of closed contours along all edges: each area that comes of it, with the last group it belongs to.

    Neighbours share their border coordinate for coordinate.
    """
    laid = _laid(groups, FLAT_PX)
    areas = _areas(laid)
    edges = shapely.unary_union([shapely.boundary(area) for area in areas])
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(edges)))
    which, owner = shapely.STRtree(areas).query(shapely.point_on_surface(faces), predicate="within")
    last = np.full(len(faces), -1)
    np.maximum.at(last, which, owner)
    found = [(int(last[n]), face) for n, face in enumerate(faces) if last[n] >= 0]
    lines = Lines([one for group in laid for one in group], FLAT_PX)
    return [(found[n][0], shape) for n, shape in _shapes_of([face for _, face in found], lines)]


def shapes_along(area: BaseGeometry, lines: Lines) -> list[tuple[Contour, ...]]:
    """Return the contours of each part of an area, the outer one first; slivers are left out."""
    return [shape for _, shape in _shapes_of(shapely.get_parts(area), lines)]


def _shapes_of(parts: Sequence[BaseGeometry], lines: Lines) -> list[tuple[int, tuple[Contour, ...]]]:
    """The contours of areas, each with its number, the outer one first; slivers are left out."""
    areas: F64 = shapely.area(parts)
    large = [n for n, part in enumerate(parts) if areas[n] >= LEAST_AREA_PX2 and isinstance(part, shapely.Polygon)]
    lines_around, which = shapely.get_rings([parts[n] for n in large], return_index=True)
    within: F64 = shapely.area(shapely.polygons(lines_around)) if len(lines_around) else np.zeros(0)
    kept = np.flatnonzero(within >= LEAST_AREA_PX2)
    rings = [shapely.get_coordinates(lines_around[k])[:-1] for k in kept.tolist()]
    lengths: F64 = shapely.length(lines_around)
    found: dict[int, list[Contour]] = {}
    contours = _sound(lines.contours(rings), rings, within[kept], lengths[kept], lines.flat_px)
    for k, contour, area in zip(kept.tolist(), contours, _areas_within(contours).tolist(), strict=True):
        n = large[int(which[k])]
        is_outer = n not in found
        found.setdefault(n, []).append(contour if (area > 0) is is_outer else contour.reversed())
    return [(n, tuple(contours)) for n, contours in found.items()]


def _sound(
    made: Sequence[Contour | None], rings: Sequence[F64], areas_px2: F64, lengths_px: F64, flat_px: float
) -> list[Contour]:
    """The contours of rings of some areas and lengths, curve for curve.

    Where one cannot be told, contours lying on each other, it is fitted anew.
    """
    known = [k for k, contour in enumerate(made) if contour is not None]
    contours = [contour for contour in made if contour is not None]
    off = np.abs(np.abs(_areas_within(contours)) - areas_px2[known])
    is_sound = off <= ALIKE * areas_px2[known] + flat_px * lengths_px[known] + LEAST_AREA_PX2 / 10
    is_sound &= own_crossings(contours)[:, 0] < 0.0
    plain = {k: _plain(one, flat_px) for k, one, sound in zip(known, contours, is_sound, strict=True) if sound}
    return [plain[k] if k in plain else _fitted(ring) for k, ring in enumerate(rings)]


def _areas_within(contours: Sequence[Contour]) -> F64:
    """What closed contours enclose, (n,), signed."""
    if not contours:
        return np.zeros(0)
    firsts = cumulated([len(contour) for contour in contours])[:-1]
    return np.add.reduceat(bezier.areas(np.concatenate([contour.curves() for contour in contours])), firsts)


def _fitted(ring: F64) -> Contour:
    """A ring of points as a contour fitted to it."""
    line = np.asarray(shapely.segmentize(shapely.LinearRing(ring), SPACING_PX).coords)[:-1]
    return _around(line, REFIT_PX)


def _plain(made: Contour, flat_px: float) -> Contour:
    """A contour without the anchors that lie on a straight way: edges that lie on each other leave many."""
    points, n = made.points, len(made)
    line = (points[:, 2] == points[:, 1]).all(axis=1)
    if not line.any():
        return made
    line &= following((points[:, 0] == points[:, 1]).all(axis=1))
    needless = line & preceding(line)
    if not needless.any() or made.form is not None:
        return made
    ends = np.flatnonzero(~needless)
    kept = np.ones(n, dtype=np.bool_)
    for first, last in zip(ends, [*ends[1:], *(ends[:1] + n)], strict=True):
        anchors = points[np.arange(first, last + 1) % n, 1]
        whole = shapely.simplify(shapely.LineString(anchors), flat_px) if len(anchors) > 2 else None
        if whole is not None:
            left = {tuple(p) for p in shapely.get_coordinates(whole).tolist()}
            kept[np.arange(first, last + 1) % n] = [tuple(p) in left for p in anchors.tolist()]
    return made if kept.all() or kept.sum() < 3 else Contour(points[kept], made.kinds[kept])


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
