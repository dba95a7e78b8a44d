"""Artwork: a tree of layers, groups and shapes. All values, shared freely, never changed."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from typing import Any, Self

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.lettered import Lettered
from sobercrow.core.artwork.paint import Fill, Gradient, Stroke, checked_colour
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.offset import inked_outlines, stroke_outlines

Box = tuple[float, float, float, float]
"""Left, top, right, bottom."""


@dataclass(frozen=True, slots=True)
class Shape:
    """One shape: contours, filled by the even-odd rule, stroked, or both."""

    contours: tuple[Contour, ...]
    fill: Fill = "#000000"
    stroke: Stroke | None = None
    _box: Box | None = field(default=None, init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        """Raise ValueError for a shape without contours or a fill that is not #rrggbb."""
        if not self.contours:
            raise ValueError("a shape needs at least one contour")
        if isinstance(self.fill, str):
            checked_colour(self.fill)

    @property
    def is_filled(self) -> bool:
        """Whether it is an area, stroked or not, rather than a line alone."""
        return self.fill is not None or self.stroke is None

    @property
    def stroke_px(self) -> float | None:
        """The width of a shape that is a stroke and not filled, else None."""
        return self.stroke.width_px if self.stroke is not None and self.fill is None else None

    @property
    def colour(self) -> str:
        """The colour it is known by: its fill's, of a gradient the first; else its stroke's."""
        if isinstance(self.fill, Gradient):
            return self.fill.stops[0].colour
        if self.fill is not None:
            return self.fill
        return self.stroke.colour if self.stroke is not None else "#000000"

    @property
    def anchor_count(self) -> int:
        """Number of anchors of all contours."""
        return sum(len(c) for c in self.contours)

    @property
    def corner_count(self) -> int:
        """Number of corner anchors of all contours."""
        return sum(int((c.kinds == AnchorKind.CORNER).sum()) for c in self.contours)

    def bounds(self) -> Box:
        """Return left, top, right, bottom of what is inked, in picture pixels; worked out once."""
        if self._box is None:
            every, pen = [c.bounds() for c in self.contours], self.stroke
            half = 0.5 * pen.width_px if pen is not None else 0.0
            left, top = min(b[0] for b in every) - half, min(b[1] for b in every) - half
            box = left, top, max(b[2] for b in every) + half, max(b[3] for b in every) + half
            if pen is not None and not pen.is_round:
                points = [point for edge in self.edges(max(0.1, half)) for point in edge.tolist()]
                xs, ys = [x for x, _ in points], [y for _, y in points]
                box = (min(xs), min(ys), max(xs), max(ys)) if points else box
            object.__setattr__(self, "_box", box)
            return box
        return self._box

    def edges(self, spacing_px: float) -> list[F64]:
        """Return the closed lines (n, 2) that bound what is inked, their points about so far apart or nearer."""
        lines = [(contour.sampled(spacing_px), contour.closed) for contour in self.contours]
        if self.stroke is None:
            return [line for line, _ in lines]
        if self.fill is None:
            return [ring for line, closed in lines for ring in stroke_outlines(line, closed, *self.stroke.pen)]
        return inked_outlines(lines, *self.stroke.pen)

    def scaled(self, factor: float) -> Shape:
        """Return the shape with all coordinates multiplied, and a stroke's width."""
        stroke = None if self.stroke is None else self.stroke.scaled(factor)
        fill = (
            self.fill.mapped(Affine.scaled(factor, factor, (0.0, 0.0)))
            if isinstance(self.fill, Gradient)
            else self.fill
        )
        return replace(self, contours=tuple(c.scaled(factor) for c in self.contours), fill=fill, stroke=stroke)

    def moved(self, dx: float, dy: float) -> Shape:
        """Return the shape shifted."""
        fill = self.fill.mapped(Affine.moved(dx, dy)) if isinstance(self.fill, Gradient) else self.fill
        return replace(self, contours=tuple(c.moved(dx, dy) for c in self.contours), fill=fill)


def stroked(contours: tuple[Contour, ...], colour: str, width_px: float) -> Shape:
    """Return a shape that is a line of one width with round ends and joins, not filled."""
    return Shape(contours, None, Stroke(colour, width_px))


@dataclass(frozen=True, slots=True)
class Group:
    """Shapes and groups of shapes that are chosen together, lowest first; of lettering that was set, how."""

    items: tuple[Item, ...]
    name: str = ""
    lettered: Lettered | None = None

    @property
    def shapes(self) -> tuple[Shape, ...]:
        """All shapes in it, lowest first."""
        return tuple(shapes_of(self.items))


Item = Shape | Group


@dataclass(frozen=True, slots=True)
class Pouring:
    """How colour is poured: gaps up to a width are closed, but for those opened by their middles; how far it runs on
    under the lines."""

    gap_px: float
    overlap_px: float
    opened: frozenset[tuple[float, float]] = frozenset()

    def scaled(self, factor: float) -> Pouring:
        """Return the same in an artwork scaled."""
        opened = frozenset((x * factor, y * factor) for x, y in self.opened)
        return Pouring(self.gap_px * factor, self.overlap_px * factor, opened)


@dataclass(frozen=True, slots=True)
class Layer:
    """Shapes and groups drawn together, later ones above earlier ones; one not seen is not handed over.

    A layer of pours knows how they were poured.
    """

    name: str
    items: tuple[Item, ...]
    seen: bool = True
    locked: bool = False
    poured: Pouring | None = None

    @property
    def shapes(self) -> tuple[Shape, ...]:
        """All shapes in it, lowest first."""
        return tuple(shapes_of(self.items))


def shapes_of(items: Iterable[Item]) -> Iterator[Shape]:
    """Go through all shapes of shapes and groups, lowest first."""
    for item in items:
        if isinstance(item, Group):
            yield from shapes_of(item.items)
        else:
            yield item


@dataclass(frozen=True, slots=True)
class Artwork:
    """Layers in picture pixels, with the size and resolution of the cleaned picture they were traced from."""

    layers: tuple[Layer, ...]
    width_px: float
    height_px: float
    dpi: float
    _worked_out: dict[str, Any] = field(default_factory=dict, init=False, repr=False, compare=False)

    def once(self, name: str, work: Callable[[Self], Any]) -> Any:
        """Return what `work` makes of the artwork, worked out once and kept under a name."""
        if name not in self._worked_out:
            self._worked_out[name] = work(self)
        return self._worked_out[name]

    def keep(self, other: Self, *names: str) -> Self:
        """Keep what was worked out of another artwork under some names, which holds of this one too; returns itself."""
        self._worked_out.update({name: other._worked_out[name] for name in names if name in other._worked_out})
        return self

    def latest(self, name: str, key: object, work: Callable[[], Any]) -> Any:
        """Return what `work` makes for a key; that of the last key, compared by identity, is kept under a name."""
        kept = self._worked_out.get(name)
        if kept is None or kept[0] is not key:
            kept = self._worked_out[name] = (key, work())
        return kept[1]

    @property
    def shapes(self) -> tuple[Shape, ...]:
        """All shapes, lowest first."""
        made: tuple[Shape, ...] = self.once(
            "shapes", lambda artwork: tuple(shape for layer in artwork.layers for shape in layer.shapes)
        )
        return made

    @property
    def out_of_sight(self) -> frozenset[int]:
        """The places of shapes in layers that are not seen."""
        return self._where("out of sight", lambda layer: not layer.seen)

    @property
    def fixed(self) -> frozenset[int]:
        """The places of shapes that cannot be chosen: in layers that are locked or not seen."""
        return self._where("fixed", lambda layer: layer.locked or not layer.seen)

    def _where(self, name: str, holds: Callable[[Layer], bool]) -> frozenset[int]:
        def work(artwork: Self) -> frozenset[int]:
            found: set[int] = set()
            first = 0
            for layer in artwork.layers:
                count = len(layer.shapes)
                found.update(range(first, first + count) if holds(layer) else ())
                first += count
            return frozenset(found)

        places: frozenset[int] = self.once(name, work)
        return places

    @property
    def anchor_count(self) -> int:
        """Number of anchors in all."""
        count: int = self.once("anchors", lambda artwork: sum(shape.anchor_count for shape in artwork.shapes))
        return count

    @property
    def corner_count(self) -> int:
        """Number of corner anchors in all."""
        return sum(shape.corner_count for shape in self.shapes)

    def scaled(self, factor: float) -> Self:
        """Return the artwork with all coordinates multiplied and the resolution with them: same true size."""
        layers = tuple(
            replace(layer, items=_scaled(layer.items, factor), poured=layer.poured and layer.poured.scaled(factor))
            for layer in self.layers
        )
        return replace(
            self,
            layers=layers,
            width_px=self.width_px * factor,
            height_px=self.height_px * factor,
            dpi=self.dpi * factor,
        )


def _scaled(items: tuple[Item, ...], factor: float) -> tuple[Item, ...]:
    return tuple(
        replace(item, items=_scaled(item.items, factor)) if isinstance(item, Group) else item.scaled(factor)
        for item in items
    )
