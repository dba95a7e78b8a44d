"""Shapes aligned, spread, repeated in rows and around a middle."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from enum import Enum, StrEnum

from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import change_shapes, checked_shapes, choice_of
from sobercrow.core.artwork.model import Artwork, Box, Group, Item, Shape, shapes_of
from sobercrow.core.artwork.placing import box_of, placed_shape
from sobercrow.core.artwork.tree import outermost
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.affine import Affine

MOST_COPIES = 2000
STAYS_PX = 1e-9


class Edge(Enum):
    """What is aligned: which axis, and the share of the box along it."""

    LEFT = (0, 0.0)
    CENTRE = (0, 0.5)
    RIGHT = (0, 1.0)
    TOP = (1, 0.0)
    MIDDLE = (1, 0.5)
    BOTTOM = (1, 1.0)


class To(StrEnum):
    """What shapes are aligned to."""

    CHOICE = "choice"
    FIRST = "first"
    PAGE = "page"


class Spread(StrEnum):
    """What is made equal where shapes are spread."""

    GAPS = "gaps"
    CENTRES = "centres"


def units(artwork: Artwork, choice: Choice) -> list[tuple[int, ...]]:
    """Return the chosen shapes by what moves as one: every outermost group, and every other shape."""
    chosen = checked_shapes(artwork, choice.shapes)
    unit_of = {k: tuple(places) for places in outermost(artwork) for k in places}
    return list(dict.fromkeys(unit_of.get(k, (k,)) for k in sorted(chosen)))


def _box(artwork: Artwork, places: Sequence[int]) -> Box:
    box = box_of(artwork, Choice(shapes=frozenset(places)))
    assert box is not None
    return box


def _shifted(artwork: Artwork, moves: dict[int, tuple[float, float]]) -> Artwork:
    far = {k: move for k, move in moves.items() if max(map(abs, move)) > STAYS_PX}
    return change_shapes(artwork, lambda k, shape: shape.moved(*far[k]) if k in far else shape)


def align_shapes(artwork: Artwork, choice: Choice, edge: Edge, to: To = To.CHOICE, first: int | None = None) -> Artwork:
    """Move chosen shapes, groups as one, so that an edge or the middle of each lies where the others have it.

    They are aligned to the box around all of them, to the one that was chosen first, or to the page.

    Raises
    ------
    EditError
        If fewer than two are chosen, or none to be aligned to the page.
    """
    own = units(artwork, choice)
    if not own or (len(own) < 2 and to is not To.PAGE):
        raise EditError("Choose two shapes or more to align them, or align one to the page.")
    axis, share = edge.value

    def place(box: Box) -> float:
        return box[axis] + share * (box[axis + 2] - box[axis])

    if to is To.PAGE:
        wanted = place((0.0, 0.0, artwork.width_px, artwork.height_px))
    elif to is To.FIRST:
        lead = next((unit for unit in own if first in unit), own[0])
        wanted = place(_box(artwork, lead))
    else:
        wanted = place(_box(artwork, sorted(choice.shapes)))
    moves = {}
    for unit in own:
        by = wanted - place(_box(artwork, unit))
        moves.update(dict.fromkeys(unit, (by, 0.0) if axis == 0 else (0.0, by)))
    return _shifted(artwork, moves)


def spread_shapes(artwork: Artwork, choice: Choice, across: bool, by: Spread = Spread.GAPS) -> Artwork:
    """Move chosen shapes, groups as one, so that the gaps between them, or the ways from centre to centre, are equal.

    The outermost two stay.

    Raises
    ------
    EditError
        If fewer than three are chosen.
    """
    own = units(artwork, choice)
    if len(own) < 3:
        raise EditError("Choose three shapes or more to spread them.")
    axis = 0 if across else 1
    boxes = {unit: _box(artwork, unit) for unit in own}

    def middle(unit: tuple[int, ...]) -> float:
        return 0.5 * (boxes[unit][axis] + boxes[unit][axis + 2])

    order = sorted(own, key=middle)
    sizes = [boxes[unit][axis + 2] - boxes[unit][axis] for unit in order]
    moves: dict[int, tuple[float, float]] = {}
    start, end = boxes[order[0]][axis], boxes[order[-1]][axis + 2]
    gap = (end - start - sum(sizes)) / (len(order) - 1)
    step = (middle(order[-1]) - middle(order[0])) / (len(order) - 1)
    at = start
    for n, unit in enumerate(order):
        wanted = at + 0.5 * sizes[n] if by is Spread.GAPS else middle(order[0]) + n * step
        at += sizes[n] + gap
        shift = wanted - middle(unit)
        moves.update(dict.fromkeys(unit, (shift, 0.0) if across else (0.0, shift)))
    return _shifted(artwork, moves)


def repeated(artwork: Artwork, choice: Choice, ways: Sequence[Affine]) -> Edited:
    """Repeat chosen shapes, mapped in each of some ways, above the originals; the copies are chosen.

    Raises
    ------
    EditError
        If nothing is chosen, or there would be too many.
    """
    chosen = checked_shapes(artwork, choice.shapes)
    if not chosen:
        raise EditError("Choose shapes first.")
    if len(chosen) * len(ways) > MOST_COPIES:
        raise EditError(f"That would be {len(chosen) * len(ways)} copies; {MOST_COPIES} at once is the most.")
    copies: list[Shape] = []

    def copied(item: Item, way: Affine) -> Item:
        if isinstance(item, Group):
            return replace(item, items=tuple(copied(one, way) for one in item.items))
        made = placed_shape(item, way)
        copies.append(made)
        return made

    wanted = {id(artwork.shapes[k]) for k in chosen}
    layers = []
    for layer in artwork.layers:
        own = [item for item in layer.items if all(id(shape) in wanted for shape in shapes_of([item]))]
        loose = [s for item in layer.items if item not in own for s in shapes_of([item]) if id(s) in wanted]
        fresh = [copied(item, way) for way in ways for item in (*own, *loose)]
        layers.append(replace(layer, items=(*layer.items, *fresh)))
    made = replace(artwork, layers=tuple(layers))
    return Edited(made, choice_of(made, copies))


def duplicate(artwork: Artwork, choice: Choice, dx_px: float, dy_px: float) -> Edited:
    """Copy chosen shapes a little aside; raise `EditError` as `repeated`."""
    return repeated(artwork, choice, [Affine.moved(dx_px, dy_px)])


def in_rows(artwork: Artwork, choice: Choice, columns: int, rows: int, gap_px: tuple[float, float]) -> Edited:
    """Repeat chosen shapes in columns and rows with gaps between, to the right and down; all of them are chosen.

    Raises
    ------
    EditError
        If nothing is chosen, or there are no columns or rows to make.
    """
    box = box_of(artwork, choice)
    if box is None or not choice.shapes:
        raise EditError("Choose shapes first.")
    if columns < 1 or rows < 1 or columns * rows < 2:
        raise EditError("Give two columns or two rows, or more.")
    across, down = box[2] - box[0] + gap_px[0], box[3] - box[1] + gap_px[1]
    ways = [Affine.moved(c * across, r * down) for r in range(rows) for c in range(columns) if r or c]
    return _with_originals(artwork, choice, lambda: repeated(artwork, choice, ways))


def around(artwork: Artwork, choice: Choice, copies: int, middle: tuple[float, float]) -> Edited:
    """Repeat chosen shapes evenly around a middle, so many in all; all of them are chosen.

    Raises
    ------
    EditError
        If nothing is chosen, or fewer than two are to be made.
    """
    if copies < 2:
        raise EditError("Give two or more to set them around a middle.")
    ways = [Affine.turned(360.0 * k / copies, middle) for k in range(1, copies)]
    return _with_originals(artwork, choice, lambda: repeated(artwork, choice, ways))


def _with_originals(artwork: Artwork, choice: Choice, work: Callable[[], Edited]) -> Edited:
    made = work()
    originals = choice_of(made.artwork, [artwork.shapes[k] for k in choice.shapes])
    return Edited(made.artwork, Choice(shapes=made.choice.shapes | originals.shapes))
