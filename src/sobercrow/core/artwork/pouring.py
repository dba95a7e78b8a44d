"""Pouring colour into what lines enclose, beneath the lines, and anew when they change."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.edits import Changed, change_shapes, choice_of
from sobercrow.core.artwork.gaps import EDGE_PX, MARGIN_PX, Gap, find_gaps, is_open, line_width, lines_of, same_lines
from sobercrow.core.artwork.model import Artwork, Item, Layer, Pouring, Shape, shapes_of
from sobercrow.core.artwork.painting import as_in_picture
from sobercrow.core.artwork.tree import free_name
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.combine import contours_around

POURED = "Poured"
"""The layer that pours lie in, beneath the lines."""
GAP_MM, OVERLAP_MM = 2.0, 0.2
"""Gaps up to so wide are closed to begin with, and pours run on so far under the lines."""
FIT_PX = 0.12
LEAST_AREA_PX2 = 4.0
THREAD_PX = 0.02
ACROSS = 1.5
"""A bridge of ink reaches so far into the lines it joins, in line widths."""
COLOURS = ("#8fb9aa", "#f2d096", "#ed8975", "#b5c7e3", "#d9b8d4", "#c9d8a6", "#e6c3a5", "#a9c9d6")
"""For areas that are coloured one by one: pale, so that the lines stay readable."""


def poured_layer(artwork: Artwork) -> Layer | None:
    """Return the layer that pours lie in; None without one."""
    return next((layer for layer in artwork.layers if layer.poured is not None), None)


def bridges_of(artwork: Artwork, how: Pouring) -> list[Gap]:
    """Return the gaps that are closed."""
    return [gap for gap in find_gaps(artwork, how.gap_px) if not is_open(gap, how)]


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
    poured = poured_layer(artwork)
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
        layers = (Layer(free_name(artwork, POURED), tuple(fresh), poured=how), *artwork.layers)
    else:
        kept = tuple(item for item in poured.items if not any(id(s) in gone for s in shapes_of([item])))
        layers = _with_pours(artwork, poured, (*kept, *fresh), how)
    whole = replace(artwork, layers=layers).keep(artwork, "lines", "gaps", "areas")  # the lines are as they were
    return Edited(whole, choice_of(whole, fresh))


def _with_pours(artwork: Artwork, poured: Layer, items: tuple[Item, ...], how: Pouring) -> tuple[Layer, ...]:
    return tuple(replace(one, items=items, poured=how) if one is poured else one for one in artwork.layers)


def _seed(shape: Shape) -> shapely.Point:
    """A place well within a pour."""
    area: BaseGeometry = shapely.Polygon()
    for contour in shape.contours:
        area = area.symmetric_difference(shapely.make_valid(shapely.Polygon(contour.sampled(1.0))))
    circle = shapely.maximum_inscribed_circle(area, tolerance=1.0)
    return shapely.Point(shapely.get_coordinates(circle)[0])


def pour_again(artwork: Artwork, how: Pouring) -> Edited:
    """Pour all that was poured anew, between the lines and bridges as they are now; what leaks now is left as it is.

    Of pours that share an area now, the uppermost is left.

    Raises
    ------
    EditError
        If nothing was poured.
    """
    poured = poured_layer(artwork)
    if poured is None or not poured.shapes:
        raise EditError("Nothing has been poured yet.")
    areas = areas_of(artwork, how)
    owners: dict[int, tuple[Shape, BaseGeometry]] = {}
    enclosed: set[Shape] = set()
    for shape in poured.shapes:
        seed = _seed(shape)
        for k, area in enumerate(areas):
            if area.contains(seed):
                owners[k] = shape, area
                enclosed.add(shape)
    if not owners:
        raise EditError("None of the pours is enclosed by lines any more; close the gaps first.")
    made = {shape: _poured(artwork, area, shape.colour, how) for shape, area in owners.values()}

    def change(_k: int, shape: Shape) -> Changed:
        return made.get(shape) if shape in enclosed else shape

    whole = change_shapes(artwork, change)
    layers = tuple(replace(one, poured=how) if one.poured is not None else one for one in whole.layers)
    whole = replace(whole, layers=layers).keep(artwork, "lines", "gaps", "areas")
    return Edited(whole, choice_of(whole, [shape for shape in made.values() if shape is not None]))


def lines_changed(before: Artwork, after: Artwork) -> bool:
    """Tell whether there are pours, and lines around them that are not as they were."""
    layer = poured_layer(after)
    has_pours = layer is not None and bool(layer.items) and poured_layer(before) is not None
    return has_pours and not same_lines(before, after)


def poured_anew(artwork: Artwork) -> Artwork:
    """Return artwork with its pours poured between the lines as they are now; where that cannot be, as they were."""
    layer = poured_layer(artwork)
    if layer is None or layer.poured is None:
        return artwork
    try:
        return pour_again(artwork, layer.poured).artwork
    except EditError:
        return artwork


def close_gaps(artwork: Artwork, gaps: Collection[Gap]) -> Edited:
    """Close gaps with ink as wide as the line there, each a shape in the layer and colour of the line nearest to it.

    Raises
    ------
    EditError
        If there are none.
    """
    if not gaps:
        raise EditError("There are no gaps of that width.")
    from scipy.spatial import cKDTree  # brought in when gaps are first closed

    lines = lines_of(artwork)
    owners = [
        (number, shape) for number, layer in enumerate(artwork.layers) if layer.poured is None for shape in layer.shapes
    ]
    tree = cKDTree(np.concatenate([shape.contours[0].sampled(2.0) for _, shape in owners]))
    starts = np.cumsum([len(shape.contours[0].sampled(2.0)) for _, shape in owners])
    fresh: dict[int, list[Shape]] = {}
    for gap in gaps:
        number, like = owners[int(np.searchsorted(starts, tree.query((gap.x0, gap.y0))[1], side="right"))]
        width = min(line_width(lines, gap.x0, gap.y0, gap.length_px), line_width(lines, gap.x1, gap.y1, gap.length_px))
        area = shapely.LineString([(gap.x0, gap.y0), (gap.x1, gap.y1)]).buffer(0.5 * width, cap_style="square")
        fresh.setdefault(number, []).append(Shape(tuple(contours_around(area, FIT_PX)), like.colour))
    layers = tuple(replace(layer, items=(*layer.items, *fresh.get(k, ()))) for k, layer in enumerate(artwork.layers))
    whole = replace(artwork, layers=layers)
    return Edited(whole, choice_of(whole, [shape for shapes in fresh.values() for shape in shapes]))
