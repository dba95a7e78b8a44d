"""Shapes made thicker or thinner, and what a pen inks."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import StrEnum

import numpy as np
import shapely
from shapely.geometry import LinearRing, LineString, MultiPolygon, Point, Polygon

from sobercrow.core.arrays import F64, following
from sobercrow.core.geometry.contour import Contour


class Ends(StrEnum):
    """How a stroke ends."""

    ROUND = "round"
    FLAT = "flat"
    SQUARE = "square"


class Joins(StrEnum):
    """What a stroke's corners are like."""

    ROUND = "round"
    MITRE = "mitre"
    BEVEL = "bevel"


FLAT_PX = 0.2
"""Spacing of the points that stand for a curve while it is moved."""
DISC_SEGMENTS = 8
"""Into how many chords a quarter of a round pen is parted."""
MITRE_LIMIT = 4.0
"""A corner is extended to a tip no longer than this many times the distance, else cut off."""


def offset_outlines(shapes: Iterable[tuple[Contour, ...]], distance_px: float) -> list[F64]:
    """Return the closed outlines of shapes (outer contour first, then holes) grown by a distance, or shrunk.

    Corners stay corners. Shapes may vanish, part or join. Each outline is (n, 2), outer ones clockwise on screen, holes
    the other way, with points at corners and at most about `FLAT_PX` apart along curves.
    """
    regions = [region_of([contour.sampled(FLAT_PX) for contour in contours]) for contours in shapes]
    return _rings(shapely.union_all(regions).buffer(distance_px, join_style="mitre", mitre_limit=MITRE_LIMIT))


def swept_outlines(line: F64, widths: F64, closed: bool) -> list[F64]:
    """Return the closed outlines of what a round pen inks along a line (n, 2) whose width changes on the way, (n,).

    As in `offset_outlines`, the outer one first.
    """
    discs = shapely.buffer(shapely.points(line), 0.5 * np.maximum(widths, 0.1), quad_segs=DISC_SEGMENTS)
    ahead = following(discs) if closed else discs[1:]
    hulls = shapely.convex_hull(shapely.union(discs[: len(ahead)], ahead))
    return _rings(shapely.union_all([*hulls, *discs[:1]]))


def _rings(region: shapely.Geometry) -> list[F64]:
    """The outlines of a region, outer ones clockwise on screen, holes the other way."""
    parts = region.geoms if isinstance(region, MultiPolygon) else [region]
    rings: list[F64] = []
    for part in parts:
        if part.is_empty or not isinstance(part, Polygon):
            continue
        for ring, clockwise in ((part.exterior, True), *((hole, False) for hole in part.interiors)):
            line = np.asarray(ring.coords, dtype=np.float64)[:-1]
            # with y down, what is clockwise on screen is counter-clockwise to Shapely
            rings.append(np.ascontiguousarray(line if ring.is_ccw == clockwise else line[::-1]))
    return rings


def region_of(outlines: Sequence[F64]) -> shapely.Geometry:
    """Return what closed lines (n, 2) enclose, the outer one first, then holes; nothing if it has too few points."""
    outer, *holes = outlines
    if len(outer) < 3:
        return Polygon()
    return shapely.make_valid(Polygon(outer, [hole for hole in holes if len(hole) > 2]))


def _stroked(line: F64, closed: bool, width_px: float, ends: Ends, joins: Joins) -> shapely.Geometry:
    path = np.concatenate([line, line[:1]]) if closed else line
    drawn = LinearRing(path) if closed and len(line) > 2 else LineString(path) if len(path) > 1 else Point(path[0])
    return drawn.buffer(0.5 * width_px, cap_style=ends.value, join_style=joins.value, mitre_limit=MITRE_LIMIT)


def stroke_outlines(
    line: F64, closed: bool, width_px: float, ends: Ends = Ends.ROUND, joins: Joins = Joins.ROUND
) -> list[F64]:
    """Return the closed lines around what a pen so wide inks along a line (n, 2)."""
    return _rings(_stroked(line, closed, width_px, ends, joins))


def inked_outlines(
    lines: Sequence[tuple[F64, bool]], width_px: float, ends: Ends = Ends.ROUND, joins: Joins = Joins.ROUND
) -> list[F64]:
    """Return the closed lines around an area, which lines enclose by the even-odd rule, stroked along all of them.

    Each line has its points, (n, 2), and says whether it is closed.
    """
    area: shapely.Geometry = Polygon()
    for line, _ in lines:
        if len(line) > 2:
            area = area.symmetric_difference(shapely.make_valid(Polygon(line)))
    return _rings(shapely.union_all([area, *(_stroked(line, closed, width_px, ends, joins) for line, closed in lines)]))


def evenly(line: F64, spacing_px: float) -> F64:
    """Return a closed line (n, 2) with points added where they are further apart than a spacing."""
    after = following(line)
    counts = np.maximum(1, np.ceil(np.linalg.norm(after - line, axis=1) / spacing_px).astype(np.int64))
    which = np.repeat(np.arange(len(line)), counts)
    share = (np.arange(len(which)) - np.repeat(np.cumsum(counts) - counts, counts)) / counts[which]
    return np.asarray(line[which] + share[:, None] * (after - line)[which])
