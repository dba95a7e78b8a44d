"""What was made by hand of a trace, kept when the picture is traced anew."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace

import shapely
from shapely.geometry import box

from sobercrow.core.artwork.model import Artwork, Group, Item, Layer, Shape
from sobercrow.core.geometry.offset import region_of

SPACING_PX = 0.5
SAME_PLACE = 0.5
"""A traced shape is in another's place if they share so much of the smaller of both areas."""


@dataclass(frozen=True, slots=True)
class Handwork:
    """What was made by hand of a trace.

    Attributes
    ----------
    layers : tuple of Layer
        The layers as they lay, lowest first, with the shapes that were changed or added, and all groups.
    gone : tuple of Shape
        Traced shapes that were changed or taken away: what is found in their place is not wanted.
    followed : tuple of Shape
        Traced shapes in groups: what is found in their place stands in the group.
    """

    layers: tuple[Layer, ...]
    gone: tuple[Shape, ...] = ()
    followed: tuple[Shape, ...] = ()

    @property
    def kept(self) -> tuple[Shape, ...]:
        """The shapes that were changed or added."""
        followed = set(self.followed)
        return tuple(shape for layer in self.layers for shape in layer.shapes if shape not in followed)


def handwork_of(refined: Artwork, traced: Artwork, earlier: Handwork | None = None) -> Handwork | None:
    """Return what was made by hand in refined artwork, or None if nothing was.

    `traced` is the artwork as traced, `earlier` the handwork that had been kept in it.
    """
    before, after = set(traced.shapes), set(refined.shapes)
    layers = tuple(
        replace(layer, items=tuple(i for i in layer.items if isinstance(i, Group) or i not in before))
        for layer in refined.layers
    )
    gone = tuple(shape for shape in traced.shapes if shape not in after)
    if earlier is not None:
        gone = (*earlier.gone, *(shape for shape in gone if shape not in set(earlier.gone)))
    followed = tuple(shape for layer in layers for shape in layer.shapes if shape in before)
    is_plain = layers == tuple(replace(layer, items=()) for layer in traced.layers)
    return None if is_plain and not gone else Handwork(layers, gone, followed)


def with_handwork(traced: Artwork, handwork: Handwork | None) -> Artwork:
    """Return traced artwork with handwork in it; what was traced in its place gives way.

    Shapes and groups come last in the layer of their name, or in a new one; layers lie as they lay.
    """
    if handwork is None:
        return traced
    # what is new, such as a backing or a pour, takes nobody's place
    areas = _areas(handwork.gone)
    left = [shape for shape in traced.shapes if not _shares_place(shape, areas)]
    found = {shape: _in_place(shape, left) for shape in handwork.followed}
    taken = {shape for shapes in found.values() for shape in shapes}
    free = set(left) - taken
    layers = [replace(layer, items=tuple(s for s in layer.shapes if s in free)) for layer in traced.layers]
    names = [layer.name for layer in layers]
    for own in handwork.layers:
        items = _followed(own.items, found, set())
        if own.name not in names and items:
            layers.append(Layer(own.name, ()))
            names.append(own.name)
        if items:
            place = names.index(own.name)
            layers[place] = replace(layers[place], items=(*layers[place].items, *items))
    return replace(traced, layers=_as_they_lay(layers, handwork.layers))


def _followed(items: Iterable[Item], found: dict[Shape, list[Shape]], used: set[Shape]) -> tuple[Item, ...]:
    """Items with what was found in place of traced shapes, each once; groups left empty go."""
    made: list[Item] = []
    for item in items:
        if isinstance(item, Group):
            inner = _followed(item.items, found, used)
            made += [replace(item, items=inner)] if inner else []
        elif item in found:
            fresh = [shape for shape in found[item] if shape not in used]
            used.update(fresh)
            made += fresh
        else:
            made.append(item)
    return tuple(made)


def _as_they_lay(layers: Sequence[Layer], order: Sequence[Layer]) -> tuple[Layer, ...]:
    """Layers in an order they had, as they were then; one that was not there stays above the one it follows."""
    named = {layer.name: layer for layer in layers}
    laid = [replace(was, items=named[was.name].items) for was in order if was.name in named]
    known = {was.name for was in order}
    for k, layer in enumerate(layers):
        if layer.name not in known:
            before = layers[k - 1].name if k else None
            place = next((n + 1 for n, one in enumerate(laid) if one.name == before), len(laid) if k else 0)
            laid.insert(place, layer)
    return tuple(laid)


def _areas(shapes: Iterable[Shape]) -> list[shapely.Geometry]:
    return [region_of(shape.edges(SPACING_PX)) for shape in shapes]


def _in_place(shape: Shape, others: Collection[Shape]) -> list[Shape]:
    """Which of others lie in a shape's place."""
    areas = _areas([shape])
    return [other for other in others if _shares_place(other, areas)]


def _shares_place(shape: Shape, areas: Iterable[shapely.Geometry]) -> bool:
    frame = box(*shape.bounds())
    near = [area for area in areas if area.intersects(frame)]
    if not near:
        return False
    own = region_of(shape.edges(SPACING_PX))
    return any(own.intersection(area).area >= SAME_PLACE * min(own.area, area.area) and own.area > 0.0 for area in near)
