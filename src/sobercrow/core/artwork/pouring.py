"""Pouring colour into what lines enclose; the gaps through which it would run out, found and bridged.

A gap is a saddle of the distance from the lines: the shortest way across between two wider places. Of points on the
edges of the lines the Delaunay triangulation holds all of them: edges whose diametral circle is empty (Gabriel & Sokal
1969), crossed by their dual (Siersma 1999, "Voronoi diagrams and Morse theory of the distance function"). Triangles are
merged from the widest places down, and a saddle counts if the narrower of both sides is definitely wider than itself.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from scipy.spatial import Delaunay, cKDTree
from shapely.geometry.base import BaseGeometry

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.edits import choice_of
from sobercrow.core.artwork.model import Artwork, Layer, Shape, shapes_of
from sobercrow.core.artwork.painting import as_in_picture
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.combine import contours_around

POURED = "Poured"
"""The layer that pours lie in, beneath the lines."""
EDGE_PX, PLAIN_PX, SPACING_PX = 0.4, 0.03, 1.2
WIDER = 1.45
"""Both sides of a gap are so many times as wide as it is, at least."""
FIT_PX = 0.12
LEAST_AREA_PX2, LEAST_GAP_PX = 4.0, 0.5
THREAD_PX = 0.02
MARGIN_PX = 50.0
WIDEST_GAP_PX = 150.0
TIP, TIP_REACH, TIP_REACH_PX = 0.68, 1.6, 4.0
"""About a place on the side of a line it inks so much of a strip as wide as itself, about its end half as much."""
ACROSS = 1.5
"""A bridge of ink reaches so far into the lines it joins, in line widths."""
COLOURS = ("#8fb9aa", "#f2d096", "#ed8975", "#b5c7e3", "#d9b8d4", "#c9d8a6", "#e6c3a5", "#a9c9d6")
"""For areas that are coloured one by one: pale, so that the lines stay readable."""


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


@dataclass(frozen=True, slots=True)
class Pouring:
    """How it is poured: gaps up to a width are closed, but for those opened by their middles; how far it runs on under
    the lines."""

    gap_px: float
    overlap_px: float
    opened: frozenset[tuple[float, float]] = frozenset()


def lines_of(artwork: Artwork) -> BaseGeometry:
    """Return what all lines ink: all that is seen but for pours. Worked out once."""

    def work(one: Artwork) -> BaseGeometry:
        shapes = [s for layer in one.layers if layer.seen and layer.name != POURED for s in layer.shapes]
        areas = []
        for shape in shapes:
            area: BaseGeometry = shapely.Polygon()
            for edge in shape.edges(EDGE_PX):
                if len(edge) > 2:
                    area = area.symmetric_difference(shapely.make_valid(shapely.Polygon(edge)))
            areas.append(area)
        return shapely.union_all(areas)

    area: BaseGeometry = artwork.once("lines", work)
    return area


# gaps


def find_gaps(artwork: Artwork, most_px: float) -> list[Gap]:
    """Return the gaps up to a width between the lines of an artwork, the widest first."""
    every: list[Gap] = artwork.once("gaps", lambda one: _gaps(lines_of(one), one.width_px, one.height_px))
    return [gap for gap in every if LEAST_GAP_PX <= gap.length_px <= most_px]


def _gaps(lines: BaseGeometry, width: float, height: float) -> list[Gap]:
    if lines.is_empty:
        return []
    edges = shapely.segmentize(shapely.simplify(shapely.boundary(lines), PLAIN_PX), SPACING_PX)
    points = np.unique(shapely.get_coordinates(edges), axis=0)
    low, high = (
        np.minimum(points.min(axis=0), 0.0) - MARGIN_PX,
        np.maximum(points.max(axis=0), (width, height)) + MARGIN_PX,
    )
    frame = np.array([low, (high[0], low[1]), high, (low[0], high[1])])
    points = np.concatenate([points, frame])
    if len(points) < 8:
        return []
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
        width = _line_width(lines, x, y, TIP_REACH_PX)
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


# areas


def bridges_of(artwork: Artwork, how: Pouring) -> list[Gap]:
    """Return the gaps that are closed."""
    return [gap for gap in find_gaps(artwork, how.gap_px) if gap.middle not in how.opened]


def areas_of(artwork: Artwork, how: Pouring) -> list[BaseGeometry]:
    """Return the areas that lines and bridges enclose; what is open to the edge of the drawing is none."""
    key = (how.gap_px, how.opened)

    def work() -> list[BaseGeometry]:
        bridges = bridges_of(artwork, how)
        threads = [shapely.LineString([_beyond(g, -1), _beyond(g, 1)]).buffer(THREAD_PX, quad_segs=1) for g in bridges]
        lines = lines_of(artwork)
        left, top, right, bottom = shapely.bounds(
            shapely.union_all([lines, shapely.box(0, 0, artwork.width_px, artwork.height_px)])
        )
        frame = shapely.box(left - MARGIN_PX, top - MARGIN_PX, right + MARGIN_PX, bottom + MARGIN_PX)
        parts = shapely.get_parts(frame.difference(shapely.union_all([lines, *threads])))
        return [part for part in parts if part.area >= LEAST_AREA_PX2 and not part.intersects(frame.boundary)]

    kept = artwork.once("areas", lambda _one: {})
    if key not in kept:
        kept.clear()
        kept[key] = work()
    found: list[BaseGeometry] = kept[key]
    return found


def _beyond(gap: Gap, end: int) -> tuple[float, float]:
    """A little beyond an end of a gap, within the line there."""
    (x, y), size = gap.middle, max(gap.length_px, 1e-9)
    reach = end * (0.5 * size + EDGE_PX) / size
    return x + reach * (gap.x1 - gap.x0), y + reach * (gap.y1 - gap.y0)


def area_at(artwork: Artwork, how: Pouring, x: float, y: float) -> BaseGeometry | None:
    """Return the enclosed area at a place, or None on a line or where it is open to the edge."""
    point = shapely.Point(x, y)
    return next((area for area in areas_of(artwork, how) if area.contains(point)), None)


def run_under(artwork: Artwork, area: BaseGeometry, overlap_px: float) -> BaseGeometry:
    """Return an area run on under the lines around it, never out on their other side."""
    if overlap_px <= 0.0:
        return area
    return area.buffer(overlap_px).intersection(shapely.union(lines_of(artwork), area.buffer(THREAD_PX)))


def _poured(artwork: Artwork, area: BaseGeometry, colour: str, how: Pouring) -> Shape | None:
    whole = run_under(artwork, area, how.overlap_px)
    parts = [part for part in shapely.get_parts(whole) if isinstance(part, shapely.Polygon)]
    largest = max(parts, key=lambda part: part.area, default=None)
    contours = contours_around(largest, FIT_PX) if largest is not None else []
    return Shape(tuple(contours), colour) if contours else None


def pour(artwork: Artwork, x: float, y: float, colour: str, how: Pouring) -> Edited:
    """Pour a colour into the area at a place: a shape beneath the lines; poured there before, it is coloured anew.

    Raises
    ------
    EditError
        If there is a line, or the area is open to the edge of the drawing.
    """
    if lines_of(artwork).contains(shapely.Point(x, y)):
        raise EditError("This is a line; pour beside it, into an area that lines enclose.")
    area = area_at(artwork, how, x, y)
    if area is None:
        raise EditError("This area is open: colour would run out. Let wider gaps be closed, or bridge them.")
    return _laid_under(artwork, [(area, colour)], how)


def pour_all(
    artwork: Artwork, how: Pouring, colours: Sequence[str] = COLOURS, progress: Callable[[float], None] | None = None
) -> Edited:
    """Pour all enclosed areas at once, a colour each in turn.

    Raises
    ------
    EditError
        If lines enclose nothing.
    """
    areas = areas_of(artwork, how)
    if not areas:
        raise EditError("Lines enclose no area here; let wider gaps be closed.")
    return _laid_under(artwork, [(area, colours[k % len(colours)]) for k, area in enumerate(areas)], how, progress)


def pour_from_picture(
    artwork: Artwork, how: Pouring, pixels: np.ndarray[tuple[int, int, int], np.dtype[np.uint8]]
) -> Edited:
    """Pour all enclosed areas, each in the colour the picture has there; raise `EditError` as `pour_all`."""
    made = pour_all(artwork, how)
    return Edited(as_in_picture(made.artwork, made.choice, pixels), made.choice)


def _laid_under(
    artwork: Artwork,
    areas: Sequence[tuple[BaseGeometry, str]],
    how: Pouring,
    progress: Callable[[float], None] | None = None,
) -> Edited:
    fresh: list[Shape] = []
    gone: set[int] = set()
    poured = next((layer for layer in artwork.layers if layer.name == POURED), None)
    before = list(poured.shapes) if poured is not None else []
    seeds = [_seed(shape) for shape in before]
    for n, (area, colour) in enumerate(areas):
        if progress is not None:
            progress(n / len(areas))
        made = _poured(artwork, area, colour, how)
        if made is not None:
            fresh.append(made)
            gone.update(id(shape) for shape, seed in zip(before, seeds, strict=True) if area.contains(seed))
    if poured is None:
        layers = (Layer(POURED, tuple(fresh)), *artwork.layers)
    else:
        kept = tuple(item for item in poured.items if not any(id(s) in gone for s in shapes_of([item])))
        layers = tuple(replace(one, items=(*kept, *fresh)) if one is poured else one for one in artwork.layers)
    whole = replace(artwork, layers=layers).keep(artwork, "lines", "gaps", "areas")  # the lines are as they were
    return Edited(whole, choice_of(whole, fresh))


def _seed(shape: Shape) -> shapely.Point:
    """A place well within a pour."""
    area: BaseGeometry = shapely.Polygon()
    for contour in shape.contours:
        area = area.symmetric_difference(shapely.make_valid(shapely.Polygon(contour.sampled(1.0))))
    circle = shapely.maximum_inscribed_circle(area, tolerance=1.0)
    return shapely.Point(shapely.get_coordinates(circle)[0])


def pour_again(artwork: Artwork, how: Pouring) -> Edited:
    """Pour all that was poured anew, between the lines and bridges as they are now; what leaks now is left as it is.

    Raises
    ------
    EditError
        If nothing was poured.
    """
    poured = next((layer for layer in artwork.layers if layer.name == POURED), None)
    if poured is None or not poured.shapes:
        raise EditError("Nothing has been poured yet.")
    found: dict[int, tuple[BaseGeometry, str]] = {}
    areas = areas_of(artwork, how)
    for shape in poured.shapes:
        seed = _seed(shape)
        for k, area in enumerate(areas):
            if area.contains(seed):
                found[k] = (area, shape.colour)
    if not found:
        raise EditError("None of the pours is enclosed by lines any more; close the gaps first.")
    return _laid_under(artwork, list(found.values()), how)


def close_gaps(artwork: Artwork, gaps: Collection[Gap]) -> Edited:
    """Close gaps with ink as wide as the line there, each a shape in the layer and colour of the line nearest to it.

    Raises
    ------
    EditError
        If there are none.
    """
    if not gaps:
        raise EditError("There are no gaps of that width.")
    lines = lines_of(artwork)
    owners = [
        (number, shape) for number, layer in enumerate(artwork.layers) if layer.name != POURED for shape in layer.shapes
    ]
    tree = cKDTree(np.concatenate([shape.contours[0].sampled(2.0) for _, shape in owners]))
    starts = np.cumsum([len(shape.contours[0].sampled(2.0)) for _, shape in owners])
    fresh: dict[int, list[Shape]] = {}
    for gap in gaps:
        number, like = owners[int(np.searchsorted(starts, tree.query((gap.x0, gap.y0))[1], side="right"))]
        width = min(
            _line_width(lines, gap.x0, gap.y0, gap.length_px), _line_width(lines, gap.x1, gap.y1, gap.length_px)
        )
        area = shapely.LineString([(gap.x0, gap.y0), (gap.x1, gap.y1)]).buffer(0.5 * width, cap_style="square")
        fresh.setdefault(number, []).append(Shape(tuple(contours_around(area, FIT_PX)), like.colour))
    layers = tuple(replace(layer, items=(*layer.items, *fresh.get(k, ()))) for k, layer in enumerate(artwork.layers))
    whole = replace(artwork, layers=layers)
    return Edited(whole, choice_of(whole, [shape for shapes in fresh.values() for shape in shapes]))


def _line_width(lines: BaseGeometry, x: float, y: float, gap_px: float) -> float:
    """How wide the line is near a place on its edge: twice the largest circle in it there."""
    near = lines.intersection(shapely.Point(x, y).buffer(min(max(2.0 * gap_px, 8.0), 30.0)))
    if near.is_empty or near.area < 0.1:
        return 1.0
    return 2.0 * float(shapely.length(shapely.maximum_inscribed_circle(near, tolerance=0.05)))
