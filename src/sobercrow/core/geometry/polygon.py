"""Lines of points, and closed polygons."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from sobercrow.core.arrays import F64, I64


def polygon_area(points: F64) -> float:
    """Return the signed area of a closed polygon (n, 2): positive where clockwise on screen (y down)."""
    if not len(points):
        return 0.0
    x, y = points[:, 0], points[:, 1]
    return float(0.5 * (np.dot(x[:-1], y[1:]) - np.dot(y[:-1], x[1:]) + x[-1] * y[0] - y[-1] * x[0]))


def along_of(points: F64) -> F64:
    """Return how far along a line (n, 2) its points lie, from 0."""
    return np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])


def at_distances(line: F64, along: F64, at: F64) -> F64:
    """Return the places on a line (n, 2), its points so far along, at some distances (m,): (m, 2)."""
    return np.column_stack([np.interp(at, along, line[:, axis]) for axis in (0, 1)])


def box_around(boxes: Sequence[tuple[float, float, float, float]]) -> tuple[float, float, float, float]:
    """Return the box around one or more boxes, each left, top, right, bottom."""
    return min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes)


def boxes_of(points: F64, firsts: I64) -> F64:
    """Return left, top, right, bottom of lines whose points (n, 2) begin at `firsts` (lines + 1), (lines, 4)."""
    low = np.minimum.reduceat(points, firsts[:-1])
    return np.concatenate([low, np.maximum.reduceat(points, firsts[:-1])], axis=1)


def how_far_to_meet(p: F64, u: F64, q: F64, w: F64, least: float = 1e-9) -> tuple[float, float] | None:
    """Return how far along unit directions u from p and w from q two lines meet.

    None if the sine of the angle between them is less than `least`.
    """
    across = float(u[0] * w[1] - u[1] * w[0])
    if abs(across) < least:
        return None
    x, y = (q - p).tolist()
    return float((x * w[1] - y * w[0]) / across), float((x * u[1] - y * u[0]) / across)


def line_through(points: F64, towards: F64) -> tuple[F64, F64]:
    """Return a place on the line nearest to points (n, 2), their mean, and its unit direction, about `towards`.

    The sum of squared distances is least (total least squares, Golub & Van Loan 1980).
    """
    middle = points.mean(axis=0)
    (xx, xy), (_, yy) = (points - middle).T @ (points - middle)
    angle = 0.5 * math.atan2(2.0 * xy, xx - yy)
    way = np.array((math.cos(angle), math.sin(angle)))
    return np.asarray(middle), np.asarray(way if way @ towards > 0 else -way)


def nesting(lines: Sequence[F64]) -> tuple[I64, I64]:
    """Return which closed lines (n, 2) lie in which others: the inner one and the outer one of every such pair.

    Lines that cross each other lie in none; lines of fewer than three points enclose nothing.
    """
    import shapely  # not wanted where a picture is traced

    areas = np.array([abs(polygon_area(line)) if len(line) > 2 else 0.0 for line in lines])
    rings = np.flatnonzero(areas > 0.0)
    if not len(rings):
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
    tree = shapely.STRtree([shapely.Polygon(lines[k]) for k in rings.tolist()])
    paths = [shapely.LineString(np.vstack([line, line[:1]])) for line in lines]
    inner, found = tree.query(paths, predicate="covered_by")
    outer = rings[found]
    larger = areas[outer] > areas[inner]
    return np.asarray(inner[larger], dtype=np.int64), np.asarray(outer[larger], dtype=np.int64)


def nesting_depths(lines: Sequence[F64]) -> I64:
    """Return how many others each closed line (n, 2) lies in."""
    return np.bincount(nesting(lines)[0], minlength=len(lines)).astype(np.int64)
