"""The gaps between lines through which poured colour would run out.

A gap is a saddle of the distance from the lines: the shortest way across between two wider places. Of points on the
edges of the lines the Delaunay triangulation holds all of them: edges whose diametral circle is empty (Gabriel & Sokal
1969), crossed by their dual (Siersma 1999, "Voronoi diagrams and Morse theory of the distance function"). Triangles are
merged from the widest places down, and a saddle counts if the narrower of both sides is definitely wider than itself.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.model import Artwork, Pouring, Shape
from sobercrow.core.geometry.combine import area_of_rings, areas_alone

EDGE_PX, PLAIN_PX, SPACING_PX = 0.4, 0.03, 1.2
WIDER = 1.45
"""Both sides of a gap are so many times as wide as it is, at least."""
LEAST_GAP_PX, WIDEST_GAP_PX = 0.5, 150.0
MARGIN_PX = 50.0
TIP, TIP_REACH, TIP_REACH_PX = 0.68, 1.6, 4.0
"""About a place on the side of a line it inks so much of a strip as wide as itself, about its end half as much."""


@dataclass(frozen=True, slots=True)
class Gap:
    """A place where lines nearly meet: from one edge to the other, in px."""

    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def length_px(self) -> float:
        """How wide it is."""
        return math.hypot(self.x1 - self.x0, self.y1 - self.y0)

    @property
    def middle(self) -> tuple[float, float]:
        """Half-way across."""
        return 0.5 * (self.x0 + self.x1), 0.5 * (self.y0 + self.y1)


def is_open(gap: Gap, how: Pouring) -> bool:
    """Tell whether a gap was opened, here or, before the lines changed a little, close by."""
    x, y = gap.middle
    return any(math.hypot(x - a, y - b) <= 0.5 * gap.length_px for a, b in how.opened)


def toggled(how: Pouring, gap: Gap) -> Pouring:
    """Open a gap, or close it again."""
    x, y = gap.middle
    others = {one for one in how.opened if math.hypot(x - one[0], y - one[1]) > 0.5 * gap.length_px}
    return replace(how, opened=frozenset(others if is_open(gap, how) else {*others, gap.middle}))


def lines_of(artwork: Artwork) -> BaseGeometry:
    """Return what all lines ink: all that is seen but for pours. Worked out once."""

    def work(one: Artwork) -> BaseGeometry:
        shapes = line_shapes(one)
        return shapely.union_all([area_of_rings(shape.edges(EDGE_PX)) for shape in shapes])

    area: BaseGeometry = artwork.once("lines", work)
    return area


def line_shapes(artwork: Artwork) -> list[Shape]:
    """Return the shapes that are lines: all that is seen but for pours."""
    return [shape for layer in artwork.layers if layer.seen and layer.poured is None for shape in layer.shapes]


def same_lines(one: Artwork, other: Artwork) -> bool:
    """Tell whether two artworks have the very same lines."""
    if one is other:
        return True
    own, others = line_shapes(one), line_shapes(other)
    return len(own) == len(others) and all(a is b for a, b in zip(own, others, strict=True))


def find_gaps(artwork: Artwork, most_px: float) -> list[Gap]:
    """Return the gaps up to a width between the lines of an artwork, the widest first."""
    every: list[Gap] = artwork.once("gaps", lambda one: _gaps(lines_of(one), one.width_px, one.height_px))
    return [gap for gap in every if LEAST_GAP_PX <= gap.length_px <= most_px]


def _gaps(lines: BaseGeometry, width: float, height: float) -> list[Gap]:
    """The gaps of lines on a sheet and about it, as far as half a sheet beyond."""
    from scipy.spatial import Delaunay  # brought in when gaps are first looked for

    beyond = 0.5 * max(width, height) + WIDEST_GAP_PX
    sheet = shapely.box(-beyond, -beyond, width + beyond, height + beyond)
    lines = lines if shapely.contains(sheet, lines) else areas_alone(shapely.intersection(lines, sheet))
    if lines.is_empty:
        return []
    edges = shapely.segmentize(shapely.simplify(shapely.boundary(lines), PLAIN_PX), SPACING_PX)
    points = np.unique(shapely.get_coordinates(edges), axis=0)
    if len(points) < 4:  # all of it is flatter than a place lies apart from the next
        return []
    low, high = (
        np.minimum(points.min(axis=0), 0.0) - MARGIN_PX,
        np.maximum(points.max(axis=0), (width, height)) + MARGIN_PX,
    )
    frame = np.array([low, (high[0], low[1]), high, (low[0], high[1])])
    points = np.concatenate([points, frame])
    mesh = Delaunay(points)
    centres, radii = _circles(points[mesh.simplices])
    middles = points[mesh.simplices].mean(axis=1)
    shapely.prepare(lines)
    paper = ~shapely.contains_xy(lines, middles[:, 0], middles[:, 1])
    one, side = np.nonzero((mesh.neighbors > np.arange(len(mesh.simplices))[:, None]) & paper[:, None])
    other = mesh.neighbors[one, side]
    one, side, other = (part[paper[other]] for part in (one, side, other))
    a, b = mesh.simplices[one, (side + 1) % 3], mesh.simplices[one, (side + 2) % 3]
    half = 0.5 * np.hypot(*(points[a] - points[b]).T)
    edge = points[b] - points[a]
    across = np.column_stack([-edge[:, 1], edge[:, 0]])
    # the dual crosses its edge where both circles' middles lie on different sides of it
    from_one = ((centres[one] - points[a]) * across).sum(axis=1)
    from_other = ((centres[other] - points[a]) * across).sum(axis=1)
    saddle = from_one * from_other <= 0.0
    level = np.where(saddle, half, np.minimum(radii[one], radii[other]))

    def gap_at(k: int) -> Gap:
        return Gap(*points[a[k]].tolist(), *points[b[k]].tolist())

    def is_gap(k: int) -> bool:
        return 2.0 * half[k] <= WIDEST_GAP_PX and _is_at_tip(lines, gap_at(k))

    found = _saddles(radii, np.column_stack([one, other]), level, saddle, is_gap)
    return sorted((gap_at(k) for k in found), key=lambda gap: -gap.length_px)


def _is_at_tip(lines: BaseGeometry, gap: Gap) -> bool:
    """Whether a line ends at one side of a gap at least; a neck between the sides of two lines is none."""
    for x, y in ((gap.x0, gap.y0), (gap.x1, gap.y1)):
        width = line_width(lines, x, y, TIP_REACH_PX)
        reach = TIP_REACH * width + 1.0
        place = shapely.Point(x, y)
        parts = shapely.get_parts(lines.intersection(place.buffer(reach)))
        inked = min(parts, key=place.distance).area if len(parts) else 0.0
        if inked < TIP * width * 2.0 * reach:
            return True
    return False


def _circles(triangles: F64) -> tuple[F64, F64]:
    """Middles and radii of the circles around triangles (n, 3, 2)."""
    a = triangles[:, 0]
    b, c = triangles[:, 1] - a, triangles[:, 2] - a
    d = 2.0 * (b[:, 0] * c[:, 1] - b[:, 1] * c[:, 0])
    d = np.where(np.abs(d) < 1e-12, 1e-12, d)
    bb, cc = (b**2).sum(axis=1), (c**2).sum(axis=1)
    x = (c[:, 1] * bb - b[:, 1] * cc) / d
    y = (b[:, 0] * cc - c[:, 0] * bb) / d
    return np.column_stack([x, y]) + a, np.hypot(x, y)


def _saddles(
    radii: F64,
    pairs: I64,
    level: F64,
    saddle: np.ndarray[tuple[int], np.dtype[np.bool_]],
    is_gap: Callable[[int], bool],
) -> list[int]:
    """Which saddles are gaps between places that are definitely wider on both sides.

    What a gap parts is not merged, so that every other gap between the same two places is found as well.
    """
    parent = list(range(len(radii)))
    peak = radii.tolist()

    def root(k: int) -> int:
        while parent[k] != k:
            parent[k] = parent[parent[k]]
            k = parent[k]
        return k

    found = []
    order = np.argsort(-level, kind="stable")
    for k, (one, other), height, is_saddle in zip(
        order.tolist(), pairs[order].tolist(), level[order].tolist(), saddle[order].tolist(), strict=True
    ):
        p, q = root(one), root(other)
        if p == q:
            continue
        if peak[p] < peak[q]:
            p, q = q, p
        if is_saddle and peak[q] >= WIDER * height and is_gap(k):
            found.append(k)
        else:
            parent[q] = p
    return found


def line_width(lines: BaseGeometry, x: float, y: float, gap_px: float) -> float:
    """Return how wide the line is near a place on its edge: twice the largest circle in it there."""
    near = areas_alone(lines.intersection(shapely.Point(x, y).buffer(min(max(2.0 * gap_px, 8.0), 30.0))))
    if near.is_empty or near.area < 0.1:
        return 1.0
    return 2.0 * float(shapely.length(shapely.maximum_inscribed_circle(near, tolerance=0.05)))
