"""Shapes combined on their curves: joined, subtracted, parted along all edges, trimmed, made solid; and the backing."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import Changed, change_shapes, checked_shapes, choice_of
from sobercrow.core.artwork.hit import box_table
from sobercrow.core.artwork.joining import TOUCH_PX, area_contours, inked, united
from sobercrow.core.artwork.model import Artwork, Layer, Shape, stroked
from sobercrow.core.artwork.tree import free_name
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.combine import How, Progress, combine_all, contours_around, divide_all, region
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.settings import Meaning, mm_to_px, setting

BACKING_PX, BACKING_SPACING_PX = 0.06, 0.05


class Fence(StrEnum):
    """What the corners of a backing are like."""

    ROUND = "round"
    SHARP = "sharp"


@dataclass(frozen=True, slots=True)
class Backing:
    """How a backing is made."""

    grow_mm: float = setting(
        2.0, Meaning("Backing", "How far it reaches beyond the artwork.", 0.0, 100.0, "mm", 0.1, 2)
    )
    close_mm: float = setting(
        1.0, Meaning("Close", "Holes and bays narrower than this are closed.", 0.0, 200.0, "mm", 0.1, 2)
    )
    corners: Fence = Fence.ROUND
    as_line: bool = False
    line_mm: float = 0.25
    colour: str = "#ffffff"


# strokes


def strokes_to_shapes(artwork: Artwork, choice: Choice) -> Edited:
    """Make the strokes of chosen shapes filled shapes; of one that is filled too, the stroke lies above it.

    Raises
    ------
    EditError
        If none of them has a stroke.
    """
    chosen = checked_shapes(artwork, choice.shapes)
    if not any(artwork.shapes[k].stroke is not None for k in chosen):
        raise EditError("None of these has a stroke.")
    fresh: list[Shape] = []

    def change(k: int, shape: Shape) -> Changed:
        if k not in chosen or shape.stroke is None:
            if k in chosen:
                fresh.append(shape)
            return shape
        line = Shape(area_contours(replace(shape, fill=None)), shape.stroke.colour)
        made = [line] if shape.fill is None else [replace(shape, stroke=None), line]
        fresh.extend(made)
        return made

    made = change_shapes(artwork, change)
    return Edited(made, choice_of(made, fresh))


# combining


def _chosen(artwork: Artwork, choice: Choice, least: int, what: str) -> list[int]:
    chosen = sorted(checked_shapes(artwork, choice.shapes))
    if len(chosen) < least:
        raise EditError(what)
    return chosen


def _paint_of(shape: Shape, contours: Sequence[Contour]) -> Shape:
    """A shape of contours filled as another is, or in the colour of its stroke."""
    return Shape(tuple(contours), shape.fill if shape.fill is not None else shape.colour)


def _replaced(artwork: Artwork, gone: Collection[int], at: int, made: Sequence[Shape]) -> Edited:
    def change(k: int, shape: Shape) -> Changed:
        if k == at:
            return made
        return None if k in gone else shape

    edited = change_shapes(artwork, change)
    return Edited(edited, choice_of(edited, made))


def join_shapes(artwork: Artwork, choice: Choice, progress: Progress | None = None) -> Edited:
    """Make one shape of chosen ones, in the place and with the paint of the uppermost.

    Raises
    ------
    EditError
        If fewer than two are chosen.
    """
    chosen = _chosen(artwork, choice, 2, "Choose two shapes or more to join them.")
    parts = united([artwork.shapes[k] for k in chosen], progress)
    top = artwork.shapes[chosen[-1]]
    return _replaced(artwork, chosen, chosen[-1], [_paint_of(top, [c for part in parts for c in part])])


def subtract_shapes(artwork: Artwork, choice: Choice) -> Edited:
    """Take all other chosen shapes away from the lowest one.

    Raises
    ------
    EditError
        If fewer than two are chosen, or nothing would be left.
    """
    chosen = _chosen(artwork, choice, 2, "Choose two shapes or more: from the lowest, the others are taken away.")
    return _combined(artwork, chosen, How.SUBTRACT, chosen[0])


def intersect_shapes(artwork: Artwork, choice: Choice) -> Edited:
    """Leave of chosen shapes what all of them have in common, with the paint of the uppermost.

    Raises
    ------
    EditError
        If fewer than two are chosen, or they have nothing in common.
    """
    chosen = _chosen(artwork, choice, 2, "Choose two shapes or more to leave what they have in common.")
    return _combined(artwork, chosen, How.INTERSECT, chosen[-1])


def exclude_shapes(artwork: Artwork, choice: Choice) -> Edited:
    """Leave of chosen shapes what they do not have in common, with the paint of the uppermost.

    Raises
    ------
    EditError
        If fewer than two are chosen, or they are the same.
    """
    chosen = _chosen(artwork, choice, 2, "Choose two shapes or more to leave out what they have in common.")
    return _combined(artwork, chosen, How.EXCLUDE, chosen[-1])


def _combined(artwork: Artwork, chosen: Sequence[int], how: How, paint: int) -> Edited:
    parts = combine_all([area_contours(artwork.shapes[k]) for k in chosen], how)
    if not parts:
        raise EditError("Nothing would be left of these shapes.")
    whole = _paint_of(artwork.shapes[paint], [c for part in parts for c in part])
    return _replaced(artwork, chosen, paint, [whole])


def divide_shapes(artwork: Artwork, choice: Choice) -> Edited:
    """Part chosen shapes along all their edges; each part has the paint of the uppermost shape that it belongs to.

    Raises
    ------
    EditError
        If fewer than two are chosen.
    """
    chosen = _chosen(artwork, choice, 2, "Choose two shapes or more to part them along their edges.")
    parts = divide_all([area_contours(artwork.shapes[k]) for k in chosen])
    made = [_paint_of(artwork.shapes[chosen[owner]], contours) for owner, contours in parts]
    return _replaced(artwork, chosen, chosen[-1], made)


def trim(artwork: Artwork, choice: Choice = Choice(), progress: Progress | None = None) -> Edited:  # noqa: B008
    """Take away of all shapes, or of those chosen, what lies hidden beneath filled shapes above them.

    Raises
    ------
    EditError
        If nothing is hidden.
    """
    shapes, boxes = artwork.shapes, box_table(artwork)
    wanted = choice.shapes or frozenset(range(len(shapes)))
    wanted = wanted - artwork.fixed
    covers = np.array([shape.fill is not None for shape in shapes], dtype=np.bool_)
    covers[list(artwork.out_of_sight)] = False
    tree = shapely.STRtree(shapely.box(*boxes.T))
    changed: dict[int, list[Shape]] = {}
    for n, k in enumerate(sorted(wanted)):
        if progress is not None:
            progress(n / len(wanted))
        near = tree.query(shapely.box(*boxes[k]))
        above = sorted(near[(near > k) & covers[near]].tolist())
        left = _uncovered(shapes[k], [shapes[j] for j in above])
        if left is not None:
            changed[k] = left
    if not changed:
        raise EditError("Nothing lies hidden beneath other shapes.")
    made = change_shapes(artwork, lambda k, shape: changed.get(k, shape))
    return Edited(made, Choice())


def _uncovered(shape: Shape, above: Sequence[Shape]) -> list[Shape] | None:
    """What is left of a shape beneath others; None if they cover nothing of it."""
    if not above or not shape.is_filled:
        return None
    contours = [area_contours(one) for one in above]
    own = region(shape.contours, 0.25)
    hidden = own.intersection(shapely.union_all([region(group, 0.25) for group in contours])).area
    if hidden < TOUCH_PX * max(own.length, 1.0):
        return None
    parts = combine_all([shape.contours, *contours], How.SUBTRACT)
    return [replace(shape, contours=part) for part in parts]


# solid and backing


def solid(artwork: Artwork, choice: Choice = Choice(), progress: Progress | None = None) -> Edited:  # noqa: B008
    """Make one silhouette of chosen shapes, or of everything: without holes and inner parts, in one place.

    Raises
    ------
    EditError
        If there is nothing to make solid.
    """
    wanted = sorted((choice.shapes or frozenset(range(len(artwork.shapes)))) - artwork.fixed)
    if not wanted:
        raise EditError("There is nothing to make solid; choose shapes that are seen and not locked.")
    top = artwork.shapes[wanted[-1]]
    outer = [Shape((c,)) for k in wanted for c in _outlines(area_contours(artwork.shapes[k]))]
    parts = [part[:1] for part in united(outer, progress)]
    return _replaced(artwork, wanted, wanted[-1], [_paint_of(top, part) for part in parts])


def _outlines(contours: Sequence[Contour]) -> Iterable[Contour]:
    """The outer contours of a shape; of one contour that one, whichever way it runs."""
    if len(contours) == 1:
        return contours
    outer = [contour for contour in contours if contour.area() > 0]
    return outer or contours[:1]


def backing(artwork: Artwork, how: Backing, borders: Sequence[F64] = ()) -> Edited:
    """Lay a backing beneath everything: all that is seen joined, grown, holes and bays under a size closed.

    It is a filled shape in a layer of its own, or a line alone to be cut along. Without artwork it goes around the
    drawing itself, whose `borders`, closed lines (n, 2), are given.

    Raises
    ------
    EditError
        If there is nothing to back, or it would swallow the page ten times over.
    """
    grow, close = (mm_to_px(v, artwork.dpi) for v in (how.grow_mm, how.close_mm))
    shapes = [s for k, s in enumerate(artwork.shapes) if k not in artwork.out_of_sight]
    lines = [shape.edges(BACKING_SPACING_PX) for shape in shapes] or [list(borders)]
    if not any(map(len, lines)):
        raise EditError("There is nothing to make a backing for.")
    if max(grow, close) > 10.0 * max(artwork.width_px, artwork.height_px):
        raise EditError("This backing would swallow everything; give it a smaller size.")
    area = grown(lines, grow, close, how.corners)
    made = contours_around(area, BACKING_PX)
    parts = _by_outline(made)
    if how.as_line:
        pen = mm_to_px(how.line_mm, artwork.dpi)
        fresh = [stroked(part, "#000000", pen) for part in parts]
    else:
        fresh = [Shape(part, how.colour) for part in parts]
    name = free_name(artwork, "Cut line" if how.as_line else "Backing")
    layer = Layer(name, tuple(fresh))
    layers = (*artwork.layers, layer) if how.as_line else (layer, *artwork.layers)
    whole = replace(artwork, layers=layers)
    return Edited(whole, choice_of(whole, fresh))


def grown(shapes: Sequence[Sequence[F64]], grow_px: float, close_px: float, corners: Fence) -> BaseGeometry:
    """Return the area of shapes, given by the closed lines that bound them, joined and grown.

    Holes and bays narrower than a size are closed, by growing further and back again.
    """
    area = shapely.buffer(shapely.union_all([inked(lines) for lines in shapes]), grow_px, **_pen(corners))
    if close_px > 0.0:
        area = shapely.buffer(shapely.buffer(area, 0.5 * close_px, quad_segs=32), -0.5 * close_px, quad_segs=32)
    return area


def _pen(corners: Fence) -> dict[str, object]:
    if corners is Fence.ROUND:
        return {"quad_segs": 64}
    return {"join_style": "mitre", "mitre_limit": 4.0}


def _by_outline(contours: Sequence[Contour]) -> list[tuple[Contour, ...]]:
    """Contours, each outer one followed by its holes, as shapes."""
    parts: list[list[Contour]] = []
    for contour in contours:
        if contour.area() > 0 or not parts:
            parts.append([contour])
        else:
            parts[-1].append(contour)
    return [tuple(part) for part in parts]
