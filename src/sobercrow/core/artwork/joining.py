"""Shapes that touch joined on their curves: those chosen, or all of one colour."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.edits import Changed, change_shapes, choice_of
from sobercrow.core.artwork.hit import box_table
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.combine import How, Progress, combine_all, contours_around, flat_areas
from sobercrow.core.geometry.contour import Contour

STROKE_PX, STROKE_SPACING_PX, TOUCH_PX = 0.02, 0.2, 0.05
"""Strokes are fitted within so much where they are made shapes; edges this near to each other touch."""


def area_contours(shape: Shape) -> tuple[Contour, ...]:
    """Return the contours of what a shape inks: its own, or those around its stroke, fitted."""
    if shape.stroke is None:
        return shape.contours
    return tuple(contours_around(inked(shape.edges(STROKE_SPACING_PX)), STROKE_PX))


def inked(lines: Sequence[F64]) -> BaseGeometry:
    """Return what lies between closed lines of points (n, 2), by the even-odd rule."""
    area: BaseGeometry = shapely.Polygon()
    for line in lines:
        if len(line) > 2:
            area = area.symmetric_difference(shapely.make_valid(shapely.Polygon(line)))
    return area


def united(shapes: Sequence[Shape], progress: Progress | None = None) -> list[tuple[Contour, ...]]:
    """Return what shapes cover together, part by part; those that touch none of the others as they are."""
    contours = [area_contours(shape) for shape in shapes]
    groups = _touching(contours)
    made: list[tuple[Contour, ...]] = []
    for n, group in enumerate(groups):
        if progress is not None:
            progress(n / len(groups))
        if len(group) == 1 and _is_one(contours[group[0]]):
            made.append(contours[group[0]])
        else:
            made += combine_all([contours[k] for k in group], How.UNITE, progress)
    return made


def _is_one(contours: Sequence[Contour]) -> bool:
    """Whether contours are one outline with holes, or one alone."""
    return sum(contour.area() > 0 for contour in contours) <= 1


def _touching(contours: Sequence[Sequence[Contour]]) -> list[list[int]]:
    """Shapes sorted into groups of which each touches another in it."""
    areas = flat_areas(contours, TOUCH_PX)
    one, other = shapely.STRtree(areas).query(areas, predicate="dwithin", distance=2.0 * TOUCH_PX)
    return _components(len(contours), one, other)


def _components(count: int, one: I64, other: I64) -> list[list[int]]:
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    links = coo_matrix((np.ones(len(one)), (one, other)), shape=(count, count))
    _, labels = connected_components(links, directed=False)
    order = np.argsort(labels, kind="stable")
    return [part.tolist() for part in np.split(order, np.flatnonzero(np.diff(labels[order])) + 1)]


def join_by_colour(artwork: Artwork, layers: Collection[int] | None = None, progress: Progress | None = None) -> Edited:
    """Join the shapes of one paint that touch each other, in each of some layers or all.

    A joined shape lies where the uppermost of its parts lay; what shapes of another paint between them covered is not
    in it, so that everything looks as before.

    Raises
    ------
    EditError
        If no two shapes of one colour touch.
    """
    first = 0
    gone: set[int] = set()
    fresh: dict[int, list[Shape]] = {}
    for number, layer in enumerate(artwork.layers):
        if (layers is None or number in layers) and not layer.locked:
            last = first + len(layer.shapes)
            for group, parts in _joined(layer.shapes, box_table(artwork)[first:last], progress):
                gone.update(first + k for k in group)
                fresh[first + max(group)] = parts
                if progress is not None:
                    progress((first + max(group)) / len(artwork.shapes))
        first += len(layer.shapes)
    if not fresh:
        raise EditError("No two shapes of one colour touch each other; there is nothing to join.")

    def change(k: int, shape: Shape) -> Changed:
        return fresh.get(k, None if k in gone else shape)

    made = change_shapes(artwork, change)
    return Edited(made, choice_of(made, [shape for shapes in fresh.values() for shape in shapes]))


def _joined(shapes: Sequence[Shape], boxes: F64, progress: Progress | None) -> Iterator[tuple[list[int], list[Shape]]]:
    """Yield groups of shapes of one paint that touch each other, and what each is joined to."""
    paints: dict[object, list[int]] = {}
    for k, shape in enumerate(shapes):
        if shape.is_filled:
            paints.setdefault((shape.fill, shape.stroke), []).append(k)
    for paint, places in paints.items():
        others = np.array([k for other, own in paints.items() if other != paint for k in own], dtype=np.int64)
        contours = [area_contours(shapes[k]) for k in places]
        for group in _touching(contours):
            if len(group) < 2:
                continue
            top = max(places[k] for k in group)
            seen = []
            for k in group:
                between = others[(others > places[k]) & (others < top)]
                above = between[_meet(boxes[between], boxes[places[k]])]
                seen.append(_seen_from(contours[k], [area_contours(shapes[n]) for n in above.tolist()]))
            parts = combine_all([part for part in seen if part], How.UNITE, progress)
            yield [places[k] for k in group], [replace(shapes[top], contours=part) for part in parts]


def _meet(boxes: F64, box: F64) -> NDArray[np.bool_]:
    """Whether boxes (n, 4) and one have more than an edge in common."""
    return np.asarray(((boxes[:, :2] < box[2:]) & (box[:2] < boxes[:, 2:])).all(axis=1))


def _seen_from(contours: Sequence[Contour], above: Sequence[Sequence[Contour]]) -> list[Contour]:
    """What is seen of contours beneath others."""
    if not above:
        return list(contours)
    return [contour for part in combine_all([contours, *above], How.SUBTRACT) for contour in part]
