"""Artwork: layers of shapes. All values, shared freely, never changed."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Self

from sobercrow.core.geometry.contour import AnchorKind, Contour

_HEX = re.compile(r"#[0-9a-f]{6}")


@dataclass(frozen=True, slots=True)
class Shape:
    """One filled shape: its outer contours and its holes, filled by the even-odd rule.

    `fill` is #rrggbb in lower case.
    """

    contours: tuple[Contour, ...]
    fill: str = "#000000"

    def __post_init__(self) -> None:
        """Raise ValueError for a shape without contours or a fill that is not #rrggbb."""
        if not self.contours:
            raise ValueError("a shape needs at least one contour")
        if not _HEX.fullmatch(self.fill):
            raise ValueError(f"a fill must be #rrggbb in lower case, not {self.fill!r}")

    @property
    def anchor_count(self) -> int:
        """Number of anchors of all contours."""
        return sum(len(c) for c in self.contours)

    def bounds(self) -> tuple[float, float, float, float]:
        """Return left, top, right, bottom in picture pixels."""
        every = [c.bounds() for c in self.contours]
        return (min(b[0] for b in every), min(b[1] for b in every), max(b[2] for b in every), max(b[3] for b in every))

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

    @property
    def shapes(self) -> tuple[Shape, ...]:
        """All shapes, lowest first."""
        return tuple(shape for layer in self.layers for shape in layer.shapes)

    @property
    def anchor_count(self) -> int:
        """Number of anchors in all."""
        return sum(shape.anchor_count for shape in self.shapes)

    @property
    def corner_count(self) -> int:
        """Number of corner anchors in all."""
        return sum(int((c.kinds == AnchorKind.CORNER).sum()) for s in self.shapes for c in s.contours)

    def scaled(self, factor: float) -> Self:
        """Return the artwork with all coordinates multiplied and the resolution with them: same true size."""
        layers = tuple(
            replace(
                layer,
                shapes=tuple(replace(s, contours=tuple(c.scaled(factor) for c in s.contours)) for s in layer.shapes),
            )
            for layer in self.layers
        )
        return replace(
            self,
            layers=layers,
            width_px=self.width_px * factor,
            height_px=self.height_px * factor,
            dpi=self.dpi * factor,
        )
