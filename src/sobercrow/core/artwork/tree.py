"""The tree of an artwork: its layers, and groups of shapes.

Layers are named by their place, lowest first. What is chosen follows the shapes through every edit.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from dataclasses import replace
from enum import Enum
from itertools import count

from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import checked_shapes, choice_of, layer_of
from sobercrow.core.artwork.lettered import Lettered
from sobercrow.core.artwork.model import Artwork, Group, Item, Layer, Shape, shapes_of
from sobercrow.core.errors import EditError

MOST_NESTED = 32
"""Groups lie no deeper within each other."""


class Order(Enum):
    """Where shapes go within their layer."""

    TOP = "top"
    UP = "up"
    DOWN = "down"
    BOTTOM = "bottom"


# groups


def together(artwork: Artwork, places: Collection[int]) -> frozenset[int]:
    """Return shapes with all others of the outermost groups they are in."""
    found = set(places)
    for places_of_group in outermost(artwork):
        if not found.isdisjoint(places_of_group):
            found.update(places_of_group)
    return frozenset(found)


def outermost(artwork: Artwork) -> list[range]:
    """Return the places of the shapes of each outermost group."""
    found: list[range] = []
    first = 0
    for layer in artwork.layers:
        for item in layer.items:
            size = len(tuple(shapes_of([item]))) if isinstance(item, Group) else 1
            if isinstance(item, Group):
                found.append(range(first, first + size))
            first += size
    return found


def group(artwork: Artwork, choice: Choice, name: str = "", lettered: Lettered | None = None) -> Edited:
    """Make chosen shapes one group of a name, in the place of the uppermost; groups wholly chosen go into it as such.

    `lettered` is how its letters were set, if they were.

    Raises
    ------
    EditError
        If fewer than two are chosen, or groups would lie too deep within each other.
    """
    chosen = checked_shapes(artwork, choice.shapes)
    if len(chosen) < 2:
        raise EditError("Choose two shapes or more to group them.")
    left, taken = _parted(artwork, chosen)
    items = [item for _, item in taken]
    if len(items) == 1 and isinstance(items[0], Group):
        raise EditError("These are one group already.")
    if max(map(_depth, items)) >= MOST_NESTED:
        raise EditError(f"Groups can lie within each other {MOST_NESTED} deep, no deeper; ungroup some first.")
    made = _put(left, artwork, max(chosen), [Group(tuple(items), name, lettered)])
    return Edited(made, choice_of(made, shapes_of(items)))


def lettered_group(artwork: Artwork, shapes: Collection[int]) -> Group | None:
    """Return the group of letters that were set which is just these shapes; None if there is none."""
    wanted = [artwork.shapes[k] for k in sorted(shapes)]

    def found(items: Iterable[Item]) -> Iterator[Group]:
        for item in items:
            if isinstance(item, Group):
                own = item.shapes
                is_set = item.lettered is not None and len(own) == len(wanted)
                if is_set and all(a is b for a, b in zip(own, wanted, strict=True)):
                    yield item
                yield from found(item.items)

    return next((group for layer in artwork.layers for group in found(layer.items)), None) if wanted else None


def ungroup(artwork: Artwork, choice: Choice) -> Edited:
    """Take the outermost groups that chosen shapes are in apart.

    Raises
    ------
    EditError
        If none of them is in a group.
    """
    chosen = checked_shapes(artwork, choice.shapes)
    places = count()
    found = False

    def apart(items: Iterable[Item]) -> list[Item]:
        nonlocal found
        made: list[Item] = []
        for item in items:
            own = {next(places) for _ in shapes_of([item])}
            if isinstance(item, Group) and own & chosen:
                found = True
                made += item.items
            else:
                made.append(item)
        return made

    layers = tuple(replace(layer, items=tuple(apart(layer.items))) for layer in artwork.layers)
    if not found:
        raise EditError("No group is chosen; there is nothing to take apart.")
    return Edited(replace(artwork, layers=layers), choice)


def _depth(item: Item) -> int:
    return 1 + max(map(_depth, item.items), default=0) if isinstance(item, Group) else 0


# order


def reorder(artwork: Artwork, choice: Choice, order: Order) -> Edited:
    """Bring chosen shapes to the top or bottom of their layers, or past the next one above or below.

    Raises
    ------
    EditError
        If nothing is chosen.
    """
    chosen = checked_shapes(artwork, choice.shapes)
    if not chosen:
        raise EditError("Choose shapes first.")
    shapes = [artwork.shapes[k] for k in sorted(chosen)]
    wanted = {id(shape) for shape in shapes}

    def is_chosen(item: Item) -> bool:
        return any(id(shape) in wanted for shape in shapes_of([item]))

    def ordered(items: Sequence[Item]) -> tuple[Item, ...]:
        own = [item for item in items if is_chosen(item)]
        rest = [item for item in items if not is_chosen(item)]
        if order in (Order.TOP, Order.BOTTOM):
            return tuple(rest + own if order is Order.TOP else own + rest)
        made = list(items) if order is Order.DOWN else list(items)[::-1]
        for k in range(1, len(made)):
            if is_chosen(made[k]) and not is_chosen(made[k - 1]):
                made[k - 1], made[k] = made[k], made[k - 1]
        return tuple(made if order is Order.DOWN else made[::-1])

    made = replace(artwork, layers=tuple(replace(one, items=ordered(one.items)) for one in artwork.layers))
    return Edited(made, choice_of(made, shapes))


# layers


def _layer(artwork: Artwork, place: int) -> Layer:
    if not 0 <= place < len(artwork.layers):
        raise EditError("That layer is no longer there; choose again.")
    return artwork.layers[place]


def change_layer(artwork: Artwork, place: int, change: Callable[[Layer], Layer]) -> Artwork:
    """Return the artwork with one layer changed; raise `EditError` if it is not there."""
    changed = change(_layer(artwork, place))
    return replace(artwork, layers=(*artwork.layers[:place], changed, *artwork.layers[place + 1 :]))


def rename_layer(artwork: Artwork, place: int, name: str) -> Artwork:
    """Give a layer another name.

    Raises
    ------
    EditError
        If the name is empty, or another layer has it.
    """
    name = name.strip()
    if not name:
        raise EditError("A layer needs a name.")
    if any(layer.name == name for k, layer in enumerate(artwork.layers) if k != place):
        raise EditError(f"There is a layer named “{name}” already; choose another name.")
    return change_layer(artwork, place, lambda layer: replace(layer, name=name))


def show_layer(artwork: Artwork, place: int, seen: bool) -> Artwork:
    """Show a layer, or hide it: it is neither painted nor handed over then."""
    return change_layer(artwork, place, lambda layer: replace(layer, seen=seen))


def show_alone(artwork: Artwork, place: int) -> Artwork:
    """Show one layer alone; if it is alone already, show all."""
    _layer(artwork, place)
    alone = all(layer.seen == (k == place) for k, layer in enumerate(artwork.layers))
    layers = tuple(replace(layer, seen=alone or k == place) for k, layer in enumerate(artwork.layers))
    return replace(artwork, layers=layers)


def lock_layer(artwork: Artwork, place: int, locked: bool) -> Artwork:
    """Lock a layer, so that nothing in it can be chosen, or unlock it."""
    return change_layer(artwork, place, lambda layer: replace(layer, locked=locked))


def free_name(artwork: Artwork, wanted: str) -> str:
    """Return a name no layer has: the one wanted, or that with a number."""
    names = {layer.name for layer in artwork.layers}
    return next(name for n in count(1) if (name := wanted if n == 1 else f"{wanted} {n}") not in names)


def add_layer(artwork: Artwork, name: str = "Layer") -> Artwork:
    """Add an empty layer above all others."""
    return replace(artwork, layers=(*artwork.layers, Layer(free_name(artwork, name), ())))


def move_layer(artwork: Artwork, place: int, to: int, choice: Choice | None = None) -> Edited:
    """Move a layer so that it comes to a place."""
    layers = list(artwork.layers)
    chosen = [artwork.shapes[k] for k in sorted(choice.shapes)] if choice is not None else []
    moved = _layer(artwork, place)
    del layers[place]
    layers.insert(min(max(to, 0), len(layers)), moved)
    made = replace(artwork, layers=tuple(layers))
    return Edited(made, choice_of(made, chosen))


def delete_layer(artwork: Artwork, place: int) -> Edited:
    """Take a layer away with all that is in it."""
    _layer(artwork, place)
    made = replace(artwork, layers=(*artwork.layers[:place], *artwork.layers[place + 1 :]))
    return Edited(made, Choice())


def to_layer(artwork: Artwork, choice: Choice, place: int | None = None, name: str = "Layer") -> Edited:
    """Bring chosen shapes to the top of a layer, or of a new one above all.

    Raises
    ------
    EditError
        If nothing is chosen, or the layer is locked or not there.
    """
    chosen = checked_shapes(artwork, choice.shapes)
    if not chosen:
        raise EditError("Choose shapes first.")
    if place is not None and _layer(artwork, place).locked:
        raise EditError(f"The layer “{artwork.layers[place].name}” is locked; unlock it first.")
    left, taken = _parted(artwork, chosen)
    items = tuple(item for _, item in taken)
    if place is None:
        left = add_layer(left, name)
        place = len(left.layers) - 1
    made = change_layer(left, place, lambda layer: replace(layer, items=(*layer.items, *items)))
    return Edited(made, choice_of(made, shapes_of(items)))


def layers_by_colour(artwork: Artwork) -> Edited:
    """Sort all shapes into a layer for each colour, in the order in which the colours come from below."""
    colours: dict[str, list[Item]] = {}
    names: dict[str, str] = {}
    for layer in artwork.layers:
        for shape in layer.shapes:
            colours.setdefault(shape.colour, []).append(shape)
            names.setdefault(shape.colour, layer.name)
    taken: set[str] = set()
    layers = []
    for colour, shapes in colours.items():
        name = names[colour] if names[colour] not in taken else colour
        taken.add(name)
        layers.append(Layer(name, tuple(shapes)))
    return Edited(replace(artwork, layers=tuple(layers)), Choice())


def _parted(artwork: Artwork, chosen: Collection[int]) -> tuple[Artwork, list[tuple[int, Item]]]:
    """The artwork without chosen shapes, and those: each with its layer, whole groups as such."""
    places = count()
    taken: list[tuple[int, Item]] = []
    layers = []
    for number, layer in enumerate(artwork.layers):
        kept, gone = _split(layer.items, places, chosen)
        taken += [(number, item) for item in gone]
        layers.append(replace(layer, items=tuple(kept)))
    return replace(artwork, layers=tuple(layers)), taken


def _split(items: Iterable[Item], places: Iterable[int], chosen: Collection[int]) -> tuple[list[Item], list[Item]]:
    """Items that stay and items that are chosen; a group of which some are chosen is parted."""
    kept: list[Item] = []
    taken: list[Item] = []
    numbers = iter(places)
    for item in items:
        if isinstance(item, Shape):
            (taken if next(numbers) in chosen else kept).append(item)
            continue
        inner_kept, inner_taken = _split(item.items, numbers, chosen)
        if not inner_kept:
            taken.append(item)
        else:
            taken += inner_taken
            kept.append(replace(item, items=tuple(inner_kept)) if inner_taken else item)
    return kept, taken


def _put(left: Artwork, before: Artwork, above: int, items: Sequence[Item]) -> Artwork:
    """Put items where a shape was in the artwork before, above all that lies beneath it in its layer."""
    number = layer_of(before, above)
    first = sum(len(layer.shapes) for layer in before.layers[:number])
    beneath = {id(shape) for shape in before.layers[number].shapes[: above - first]}
    place = sum(all(id(s) in beneath for s in shapes_of([item])) for item in left.layers[number].items)
    return change_layer(left, number, lambda one: replace(one, items=(*one.items[:place], *items, *one.items[place:])))
