"""Shapes refined by hand, kept when the picture is traced anew."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import shapely
from shapely.geometry import box

from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.geometry.offset import region_of

SPACING_PX = 0.5
SAME_PLACE = 0.5
"""A traced shape gives way if it shares this much of the smaller of both areas with one changed or taken away."""


@dataclass(frozen=True, slots=True)
class Handwork:
    """What was made by hand of a trace.

    Attributes
    ----------
    kept : tuple of (str, Shape)
        Shapes that were changed or added, with the names of their layers.
    gone : tuple of Shape
        Traced shapes that were changed or taken away: what is found in their place is not wanted.
    layers : tuple of (str, bool, bool)
        The layers as they lay, lowest first: name, whether seen, whether locked. Groups of traced shapes are not kept.
    """

    kept: tuple[tuple[str, Shape], ...]
    gone: tuple[Shape, ...]
    layers: tuple[tuple[str, bool, bool], ...] = ()


def handwork_of(refined: Artwork, traced: Artwork, earlier: Handwork | None = None) -> Handwork | None:
    """Return what was made by hand in refined artwork, or None if nothing was.

    `traced` is the artwork as traced, `earlier` the handwork that had been kept in it.
    """
    before, after = set(traced.shapes), set(refined.shapes)
    kept = tuple((layer.name, shape) for layer in refined.layers for shape in layer.shapes if shape not in before)
    gone = tuple(shape for shape in traced.shapes if shape not in after)
    if earlier is not None:
        gone = (*earlier.gone, *(shape for shape in gone if shape not in set(earlier.gone)))
    layers = tuple((layer.name, layer.seen, layer.locked) for layer in refined.layers)
    plain = tuple((layer.name, layer.seen, layer.locked) for layer in traced.layers)
    return Handwork(kept, gone, layers) if kept or gone or layers != plain else None


def with_handwork(traced: Artwork, handwork: Handwork | None) -> Artwork:
    """Return traced artwork with handwork in it; what was traced in its place gives way.

    Shapes come last in the layer of their name, or in a new one; layers lie as they lay.
    """
    if handwork is None:
        return traced
    # what is new, such as a backing or a pour, takes nobody's place
    areas = [region_of(shape.edges(SPACING_PX)) for shape in handwork.gone]
    layers = [
        replace(layer, items=tuple(s for s in layer.shapes if not _gives_way(s, areas))) for layer in traced.layers
    ]
    names = [layer.name for layer in layers]
    for name, shape in handwork.kept:
        if name not in names:
            layers.append(Layer(name, ()))
            names.append(name)
        place = names.index(name)
        layers[place] = replace(layers[place], items=(*layers[place].items, shape))
    return replace(traced, layers=_as_they_lay(layers, handwork.layers))


def _as_they_lay(layers: Sequence[Layer], order: Sequence[tuple[str, bool, bool]]) -> tuple[Layer, ...]:
    """Layers in an order they had, seen and locked as then; one that was not there stays above the one it follows."""
    named = {layer.name: layer for layer in layers}
    laid = [replace(named[name], seen=seen, locked=locked) for name, seen, locked in order if name in named]
    known = {name for name, _, _ in order}
    for k, layer in enumerate(layers):
        if layer.name not in known:
            before = layers[k - 1].name if k else None
            place = next((n + 1 for n, one in enumerate(laid) if one.name == before), len(laid) if k else 0)
            laid.insert(place, layer)
    return tuple(laid)


def _gives_way(shape: Shape, areas: Iterable[shapely.Geometry]) -> bool:
    frame = box(*shape.bounds())
    near = [area for area in areas if area.intersects(frame)]
    if not near:
        return False
    own = region_of(shape.edges(SPACING_PX))
    return any(own.intersection(area).area >= SAME_PLACE * min(own.area, area.area) and own.area > 0.0 for area in near)
