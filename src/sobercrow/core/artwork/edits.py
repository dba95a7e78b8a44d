"""Edits of whole shapes: functions from artwork to artwork.

Shapes are named by their place in `Artwork.shapes`, lowest first.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import replace
from itertools import count

import numpy as np

from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.model import Artwork, Group, Item, Layer, Shape, shapes_of
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.forms import kind_of

Changed = Shape | Sequence[Item] | None
"""What becomes of a shape: another, several in its place, or nothing."""


def change_shapes(artwork: Artwork, change: Callable[[int, Shape], Changed]) -> Artwork:
    """Return the artwork with every shape replaced by what `change` makes of it; groups left empty go."""
    places = count()

    def changed(items: Iterable[Item]) -> list[Item]:
        made: list[Item] = []
        for item in items:
            if isinstance(item, Group):
                inner = tuple(changed(item.items))
                same = len(inner) == len(item.items) and all(a is b for a, b in zip(inner, item.items, strict=True))
                if inner:
                    made.append(item if same else replace(item, items=inner))
                continue
            new = change(next(places), item)
            if isinstance(new, Shape):
                made.append(new)
            elif new is not None:
                made.extend(new)
        return made

    layers = tuple(replace(layer, items=tuple(changed(layer.items))) for layer in artwork.layers)
    return replace(artwork, layers=layers)


def with_shapes(artwork: Artwork, shapes: Sequence[Item], layer: int | None = None) -> Edited:
    """Add shapes on top of a layer, or of the uppermost that is seen and not locked, and choose them."""
    layers = artwork.layers or (Layer("Drawn", ()),)
    free = [k for k, one in enumerate(layers) if one.seen and not one.locked]
    if layer is None and not free:
        layers = (*layers, Layer("Drawn", ()))
        free = [len(layers) - 1]
    at = free[-1] if layer is None else layer
    changed = replace(layers[at], items=(*layers[at].items, *shapes))
    made = replace(artwork, layers=(*layers[:at], changed, *layers[at + 1 :]))
    return Edited(made, choice_of(made, shapes_of(shapes)))


def in_place(artwork: Artwork, gone: Collection[int], where: int, made: Sequence[Shape]) -> Edited:
    """Return the artwork with some shapes gone and others, which are chosen, in the place of one of them."""

    def change(index: int, shape: Shape) -> Changed:
        if index == where:
            return made
        return None if index in gone else shape

    edited = change_shapes(artwork, change)
    return Edited(edited, choice_of(edited, made))


def layer_of(artwork: Artwork, shape: int) -> int:
    """Return the place of the layer a shape is in."""
    ends = np.cumsum([len(layer.shapes) for layer in artwork.layers])
    return int(np.searchsorted(ends, shape, side="right"))


def choice_of(artwork: Artwork, shapes: Iterable[Shape]) -> Choice:
    """Return the choice of shapes wherever they are in an artwork now: the very same ones, not their like."""
    wanted = {id(shape) for shape in shapes}
    return Choice(shapes=frozenset(k for k, shape in enumerate(artwork.shapes) if id(shape) in wanted))


def checked_shapes(artwork: Artwork, shapes: Iterable[int]) -> frozenset[int]:
    """Return the places of shapes; raise `EditError` if one is not there."""
    chosen = frozenset(shapes)
    if any(not 0 <= index < len(artwork.shapes) for index in chosen):
        raise EditError("A chosen shape is no longer there; choose again.")
    return chosen


def delete_shapes(artwork: Artwork, shapes: Iterable[int]) -> Edited:
    """Return the artwork without some shapes; raise `EditError` for a shape that is not there."""
    chosen = checked_shapes(artwork, shapes)
    return Edited(change_shapes(artwork, lambda index, shape: None if index in chosen else shape), Choice())


def fill_shapes(artwork: Artwork, shapes: Iterable[int], fill: str) -> Artwork:
    """Return the artwork with some shapes coloured anew, by #rrggbb; raise `EditError` as above.

    Areas are filled, lines stroked with it.
    """
    chosen, colour = checked_shapes(artwork, shapes), fill.lower()

    def change(index: int, shape: Shape) -> Shape:
        if index not in chosen:
            return shape
        if shape.is_filled or shape.stroke is None:
            return replace(shape, fill=colour)
        return replace(shape, stroke=replace(shape.stroke, colour=colour))

    return change_shapes(artwork, change)


def move_shapes(artwork: Artwork, shapes: Iterable[int], dx_px: float, dy_px: float) -> Artwork:
    """Return the artwork with some shapes moved; raise `EditError` as above."""
    chosen = checked_shapes(artwork, shapes)
    return change_shapes(artwork, lambda index, shape: shape.moved(dx_px, dy_px) if index in chosen else shape)


def freed(before: Artwork, after: Artwork) -> str:
    """Say which true shapes an edit has made free, for their anchors changed; nothing if none."""
    if len(before.shapes) != len(after.shapes):
        return ""
    lost = [
        kind_of(old.form)
        for one, other in zip(before.shapes, after.shapes, strict=True)
        if one is not other and len(one.contours) == len(other.contours)
        for old, new in zip(one.contours, other.contours, strict=True)
        if old.form is not None and new.form is None
    ]
    if not lost:
        return ""
    what = f"The {lost[0]} is" if len(lost) == 1 else f"{len(lost)} true shapes are"
    return f"{what} free now, for the anchors changed."
