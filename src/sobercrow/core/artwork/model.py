"""Artwork: layers of shapes. All values, shared freely, never changed."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any, Self

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.offset import stroke_outlines

_HEX = re.compile(r"#[0-9a-f]{6}")


@dataclass(frozen=True, slots=True)
class Shape:
    """One shape: outer contours and holes, filled by the even-odd rule; or a stroke along its contours.

    `fill` is #rrggbb in lower case. `stroke_px` is the width of a stroke with round ends and joins, or None.
    """

    contours: tuple[Contour, ...]
    fill: str = "#000000"
    stroke_px: float | None = None
    _box: tuple[float, float, float, float] | None = field(default=None, init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        """Raise ValueError for a shape without contours or a fill that is not #rrggbb."""
        if not self.contours:
            raise ValueError("a shape needs at least one contour")
        if self.stroke_px is not None and not 0.0 < self.stroke_px < float("inf"):
            raise ValueError(f"a stroke must be wider than nothing, not {self.stroke_px!r}")
        if not _HEX.fullmatch(self.fill):
            raise ValueError(f"a fill must be #rrggbb in lower case, not {self.fill!r}")

    @property
    def anchor_count(self) -> int:
        """Number of anchors of all contours."""
        return sum(len(c) for c in self.contours)

    @property
    def corner_count(self) -> int:
        """Number of corner anchors of all contours."""
        return sum(int((c.kinds == AnchorKind.CORNER).sum()) for c in self.contours)

    def bounds(self) -> tuple[float, float, float, float]:
        """Return left, top, right, bottom in picture pixels; worked out once."""
        if self._box is None:
            every, half = [c.bounds() for c in self.contours], 0.5 * (self.stroke_px or 0.0)
            left, top = min(b[0] for b in every) - half, min(b[1] for b in every) - half
            box = left, top, max(b[2] for b in every) + half, max(b[3] for b in every) + half
            object.__setattr__(self, "_box", box)
            return box
        return self._box

    def edges(self, spacing_px: float) -> list[F64]:
        """Return the closed lines (n, 2) that bound what is inked, their points about so far apart or nearer."""
        if self.stroke_px is None:
            return [contour.sampled(spacing_px) for contour in self.contours]
        return [
            ring
            for contour in self.contours
            for ring in stroke_outlines(contour.sampled(spacing_px), contour.closed, self.stroke_px)
        ]

    def scaled(self, factor: float) -> Shape:
        """Return the shape with all coordinates multiplied, and a stroke's width."""
        stroke = None if self.stroke_px is None else self.stroke_px * factor
        return replace(self, contours=tuple(c.scaled(factor) for c in self.contours), stroke_px=stroke)

    def moved(self, dx: float, dy: float) -> Shape:
        """Return the shape shifted."""
        return replace(self, contours=tuple(c.moved(dx, dy) for c in self.contours))


@dataclass(frozen=True, slots=True)
class Layer:
    """Shapes drawn together, later ones above earlier ones."""

    name: str
    shapes: tuple[Shape, ...]


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
            replace(layer, shapes=tuple(shape.scaled(factor) for shape in layer.shapes)) for layer in self.layers
        )
        return replace(
            self,
            layers=layers,
            width_px=self.width_px * factor,
            height_px=self.height_px * factor,
            dpi=self.dpi * factor,
        )
