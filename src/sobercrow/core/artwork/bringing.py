"""Other artwork brought in: files placed, shapes copied out and pasted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import change_shapes, checked_shapes, choice_of, with_shapes
from sobercrow.core.artwork.hit import union_box
from sobercrow.core.artwork.model import Artwork, Group, Item, Layer, shapes_of
from sobercrow.core.artwork.placing import placed_shape
from sobercrow.core.artwork.tree import free_name
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.affine import Affine

ASIDE_PX = 12.0


def copied(artwork: Artwork, choice: Choice) -> Artwork:
    """Return an artwork of chosen shapes alone, as large as they are, in one layer.

    Raises
    ------
    EditError
        If none are chosen.
    """
    chosen = checked_shapes(artwork, choice.shapes)
    if not chosen:
        raise EditError("Choose shapes to copy first.")
    only = change_shapes(artwork, lambda k, shape: shape if k in chosen else None)
    items = tuple(item for layer in only.layers for item in layer.items)
    box = union_box(shapes_of(items))
    assert box is not None
    moved = tuple(mapped(item, Affine.moved(-box[0], -box[1])) for item in items)
    return Artwork((Layer("Copied", moved),), max(box[2] - box[0], 1.0), max(box[3] - box[1], 1.0), artwork.dpi)


def mapped(item: Item, way: Affine) -> Item:
    """Return a shape or a group mapped."""
    if isinstance(item, Group):
        return replace(item, items=tuple(mapped(one, way) for one in item.items))
    return placed_shape(item, way)


def put_in_layer(artwork: Artwork, items: Sequence[Item], name: str, told: str = "") -> Edited:
    """Put shapes and groups into a new layer above all others, in the middle of the drawing, and choose them.

    Raises
    ------
    EditError
        If there are none.
    """
    box = union_box(shapes_of(items))
    if box is None:
        raise EditError(f"“{name}” has no shapes that artwork can hold. {told}".rstrip())
    middle = 0.5 * (artwork.width_px - box[0] - box[2]), 0.5 * (artwork.height_px - box[1] - box[3])
    made = tuple(mapped(item, Affine.moved(*middle)) for item in items)
    whole = replace(artwork, layers=(*artwork.layers, Layer(free_name(artwork, name), made)))
    return Edited(whole, choice_of(whole, shapes_of(made)), told)


def pasted(artwork: Artwork, items: Sequence[Item], at: tuple[float, float] | None = None) -> Edited:
    """Paste shapes and groups on top, their middle at a place, or a little aside of the middle of the drawing.

    Raises
    ------
    EditError
        If there are none.
    """
    box = union_box(shapes_of(items))
    if box is None:
        raise EditError("There are no shapes on the clipboard.")
    x, y = at or (0.5 * artwork.width_px + ASIDE_PX, 0.5 * artwork.height_px + ASIDE_PX)
    way = Affine.moved(x - 0.5 * (box[0] + box[2]), y - 0.5 * (box[1] + box[3]))
    return with_shapes(artwork, [mapped(item, way) for item in items])
