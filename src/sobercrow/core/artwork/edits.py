"""Edits of whole shapes: functions from artwork to artwork.

Shapes are named by their place in `Artwork.shapes`, lowest first.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace

from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.forms import kind_of


def change_shapes(artwork: Artwork, change: Callable[[int, Shape], Shape | None]) -> Artwork:
    """Return the artwork with every shape replaced by what `change` makes of it; None leaves it out."""
    layers = []
    index = 0
    for layer in artwork.layers:
        kept = []
        for shape in layer.shapes:
            changed = change(index, shape)
            if changed is not None:
                kept.append(changed)
            index += 1
        layers.append(replace(layer, shapes=tuple(kept)))
    return replace(artwork, layers=tuple(layers))


def _checked(artwork: Artwork, shapes: Iterable[int]) -> frozenset[int]:
    chosen = frozenset(shapes)
    count = len(artwork.shapes)
    if any(not 0 <= index < count for index in chosen):
        raise EditError("A chosen shape is no longer there; choose again.")
    return chosen


def delete_shapes(artwork: Artwork, shapes: Iterable[int]) -> Edited:
    """Return the artwork without some shapes; raise `EditError` for a shape that is not there."""
    chosen = _checked(artwork, shapes)
    return Edited(change_shapes(artwork, lambda index, shape: None if index in chosen else shape), Choice())


def fill_shapes(artwork: Artwork, shapes: Iterable[int], fill: str) -> Artwork:
    """Return the artwork with some shapes filled anew, `fill` being #rrggbb; raise `EditError` as above."""
    chosen = _checked(artwork, shapes)
    return change_shapes(artwork, lambda index, shape: replace(shape, fill=fill.lower()) if index in chosen else shape)


def move_shapes(artwork: Artwork, shapes: Iterable[int], dx_px: float, dy_px: float) -> Artwork:
    """Return the artwork with some shapes moved; raise `EditError` as above."""
    chosen = _checked(artwork, shapes)
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
