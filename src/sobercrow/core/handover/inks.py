"""Artwork taken apart by ink: every colour with its name and what is painted in it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.paint import Gradient
from sobercrow.core.geometry.contour import Contour


@dataclass(frozen=True, slots=True)
class Coat:
    """One thing painted in one ink: a shape that is filled or stroked, not both, and its place in the artwork."""

    shape: Shape
    place: int
    layer: str


@dataclass(frozen=True, slots=True)
class PaintedInk:
    """An ink: its name, its colour, and what is painted in it, lowest first. A gradient goes by its first colour."""

    name: str
    colour: str
    coats: tuple[Coat, ...]


def coats_of(artwork: Artwork) -> list[Coat]:
    """Return all that is painted and seen, lowest first: the fill of a shape, then its stroke."""
    made, k = [], 0
    for layer in artwork.layers:
        for shape in layer.shapes:
            if layer.seen and shape.fill is not None:
                made.append(Coat(replace(shape, stroke=None), k, layer.name))
            if layer.seen and shape.stroke is not None:
                made.append(Coat(replace(shape, fill=None), k, layer.name))
            k += 1
    return made


def inks_of(artwork: Artwork) -> list[PaintedInk]:
    """Return the inks of what is seen, in the order in which they come in the artwork from below.

    An ink is called as the layer is that has nothing but it; else by its colour.
    """
    coats = coats_of(artwork)
    return [
        PaintedInk(name, colour, tuple(c for c in coats if _colour(c) == colour))
        for colour, name in named_colours(artwork, coats).items()
    ]


def named_colours(artwork: Artwork, coats: Sequence[Coat]) -> dict[str, str]:
    """Return the colours of coats in order, each with the name of its ink."""
    in_layer: dict[str, set[str]] = {}
    for coat in coats:
        in_layer.setdefault(coat.layer, set()).add(_colour(coat))
    own: dict[str, str] = {}
    for layer in artwork.layers:
        colours = in_layer.get(layer.name, set())
        if len(colours) == 1:
            own.setdefault(next(iter(colours)), layer.name)
    names = {colour: own.get(colour, colour) for colour in dict.fromkeys(map(_colour, coats))}
    used = Counter(name.casefold() for name in names.values())
    return {c: name if used[name.casefold()] == 1 else f"{name} {c}" for c, name in names.items()}


def _colour(coat: Coat) -> str:
    return coat.shape.colour


def as_drawn(shape: Shape, contour: Contour) -> Contour:
    """Return a contour as it is drawn: one that is filled is closed, whether or not its ends meet."""
    if contour.closed or not shape.is_filled or len(contour) < 2:
        return contour
    return Contour(contour.points, contour.kinds)


def is_shaded(coat: Coat) -> bool:
    """Tell whether it is filled with a gradient, which no single ink gives."""
    return isinstance(coat.shape.fill, Gradient)
