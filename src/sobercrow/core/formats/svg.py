"""Plain SVG (W3C, Scalable Vector Graphics 2): true size in mm; no fonts, no scripts, no private attributes."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from pathlib import Path
from typing import Any

from lxml import etree

from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.combining import strokes_to_shapes
from sobercrow.core.artwork.hit import boxes_meet
from sobercrow.core.artwork.model import Artwork, Group, Item, Layer, Shape, shapes_of
from sobercrow.core.artwork.paint import Gradient, Spread
from sobercrow.core.errors import ExportError
from sobercrow.core.formats.files import write_whole
from sobercrow.core.formats.numbers import DECIMALS, number, numbers
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.arcs import arcs_of
from sobercrow.core.geometry.combine import Progress
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Rectangle
from sobercrow.core.geometry.offset import Ends, Joins
from sobercrow.core.geometry.polygon import nesting_depths
from sobercrow.core.settings import mm_to_px, px_to_mm

STAY_MM = 4e-4
"""Rounding moves no coordinate by more: places then stay within a thousandth of a mm, bulges of arcs too."""
WIDEST_ARC = math.radians(120.0)
"""Wider arcs are written in parts: near a half, where the middle is hangs on the last decimal of the ends."""
ENDS = {Ends.ROUND: "round", Ends.FLAT: "butt", Ends.SQUARE: "square"}
JOINS = {Joins.ROUND: "round", Joins.MITRE: "miter", Joins.BEVEL: "bevel"}
_NAMESPACE = "http://www.w3.org/2000/svg"


class Paths(StrEnum):
    """What becomes one path."""

    SHAPE = "shape"
    LAYER = "layer"
    COLOUR = "colour"


@dataclass(frozen=True, slots=True)
class SvgSettings:
    """How artwork is written as SVG; as it comes, one element a shape, true shapes as such."""

    paths: Paths = field(
        default=Paths.SHAPE,
        metadata={"label": "One path", "help": "For every shape; for each colour of a layer; for each colour."},
    )
    groups: bool = field(
        default=True, metadata={"label": "Layers as groups", "help": "With their names, so that they can be switched."}
    )
    strokes_as_shapes: bool = field(
        default=False, metadata={"label": "Strokes as shapes", "help": "Outlines in place of lines with a width."}
    )


def decimals_of(dpi: float) -> int:
    """Return how many decimals coordinates in px need."""
    return max(DECIMALS, math.ceil(-math.log10(2.0 * mm_to_px(STAY_MM, dpi))))


def path_data(contour: Contour, decimals: int = DECIMALS) -> str:
    """Return the SVG path of a contour: M, L, C, A, Z with absolute coordinates; circular arcs are written as such."""
    curves = contour.curves()
    lines = bezier.are_lines(curves).tolist()
    texts = numbers(curves[:, 1:].ravel().tolist(), decimals)
    parts = ["M" + " ".join(numbers(contour.anchors[0].tolist(), decimals))]
    done = 0
    for count, arc in arcs_of(curves, WIDEST_ARC):
        done += count
        own = texts[6 * done - 6 : 6 * done]
        if arc is not None:
            radius = number(arc.radius, decimals)
            parts.append(f"A{radius} {radius} 0 0 {int(arc.turn > 0)} {' '.join(own[4:])}")
        elif lines[done - 1]:
            parts.append(f"L{' '.join(own[4:])}")
        else:
            parts.append(f"C{' '.join(own)}")
    if contour.closed:
        if parts[-1].startswith("L"):
            parts.pop()  # Z draws the last straight side
        parts.append("Z")
    return "".join(parts)


def _bar(shape: Shape) -> Rectangle | None:
    """Return the rectangle of a filled bar, which is written as a line as wide as it; None if the shape is none."""
    form = shape.contours[0].form if len(shape.contours) == 1 else None
    is_bar = isinstance(form, Rectangle) and form.is_bar
    return form if is_bar and isinstance(shape.fill, str) and shape.stroke is None else None  # type: ignore[return-value]


class _Writer:
    """Writes the tree; gradients are defined once each, before what they fill."""

    def __init__(self, artwork: Artwork, settings: SvgSettings) -> None:
        self._decimals = decimals_of(artwork.dpi)
        width_mm, height_mm = (number(px_to_mm(v, artwork.dpi)) for v in (artwork.width_px, artwork.height_px))
        self.root = etree.Element(
            f"{{{_NAMESPACE}}}svg",
            nsmap={None: _NAMESPACE},
            attrib={
                "width": f"{width_mm}mm",
                "height": f"{height_mm}mm",
                "viewBox": f"0 0 {self._number(artwork.width_px)} {self._number(artwork.height_px)}",
            },
        )
        self._gradients: dict[Gradient, str] = {}
        self._defined: Any = None
        self._names: set[str] = set()
        seen = [layer for layer in artwork.layers if layer.seen]
        if settings.paths is Paths.COLOUR:
            self._paths(self.root, [shape for layer in seen for shape in layer.shapes])
            return
        for layer in seen:
            parent = self._group(layer) if settings.groups else self.root
            if settings.paths is Paths.LAYER:
                self._paths(parent, list(layer.shapes))
            else:
                self._items(parent, layer.items if settings.groups else tuple(shapes_of(layer.items)))

    def _number(self, value: float) -> str:
        return number(value, self._decimals)

    @staticmethod
    def _add(parent: Any, name: str, attributes: dict[str, str]) -> Any:
        return etree.SubElement(parent, f"{{{_NAMESPACE}}}{name}", attrib=attributes)

    def _group(self, layer: Layer) -> Any:
        """The group of a layer: its name as `id`, and as `title` where an id cannot say it."""
        name = plain = re.sub(r"[^\w.-]+", "-", layer.name).strip("-.") or "layer"
        name = plain = name if name[0].isalpha() or name[0] == "_" else f"layer-{name}"
        count = 1
        while name in self._names:
            count += 1
            name = f"{plain}-{count}"
        self._names.add(name)
        group = self._add(self.root, "g", {"id": name})
        if name != layer.name and layer.name.replace(" ", "-") != name:
            self._add(group, "title", {}).text = "".join(c for c in layer.name if c.isprintable())
        return group

    def _items(self, parent: Any, items: Iterable[Item]) -> None:
        for item in items:
            if isinstance(item, Group):
                self._items(self._add(parent, "g", {}), item.items)
            else:
                self._shape(parent, item)

    def _shape(self, parent: Any, shape: Shape) -> None:
        """Write a shape as one element; a true shape as what it is."""
        bar = _bar(shape)
        if bar is not None:
            ends = dict(zip(("x1", "y1", "x2", "y2"), map(self._number, bar.middle_line().ravel()), strict=True))
            width = self._number(min(bar.width, bar.height))
            self._add(parent, "line", {"fill": "none", "stroke": shape.colour, "stroke-width": width, **ends})
            return
        name, place = self._element(shape)
        self._add(parent, name, {**self._paint(shape), **place})

    def _element(self, shape: Shape) -> tuple[str, dict[str, str]]:
        """Return the element of a shape and where it lies."""
        form, number = shape.contours[0].form if len(shape.contours) == 1 else None, self._number
        if form is None:
            rule = {"fill-rule": "evenodd"} if shape.is_filled else {}
            return "path", {**rule, "d": self._data(shape.contours)}
        middle = f"{number(form.x)} {number(form.y)}"
        angle = f"{form.angle_deg:.6f}".rstrip("0").rstrip(".")
        turned = {"transform": f"rotate({angle} {middle})"} if angle not in ("0", "-0") else {}
        if isinstance(form, Rectangle):
            corner = {"x": form.x - 0.5 * form.width, "y": form.y - 0.5 * form.height}
            sizes = {**corner, "width": form.width, "height": form.height}
            sizes = {**sizes, **({"rx": form.radius} if form.radius else {})}
            return "rect", {**{key: number(value) for key, value in sizes.items()}, **turned}
        place = {"cx": number(form.x), "cy": number(form.y)}
        if form.is_circle:
            return "circle", {**place, "r": number(form.rx)}
        return "ellipse", {**place, "rx": number(form.rx), "ry": number(form.ry), **turned}

    def _data(self, contours: Iterable[Contour]) -> str:
        return "".join(path_data(c, self._decimals) for c in contours)

    def _paths(self, parent: Any, shapes: Sequence[Shape]) -> None:
        """Write shapes of one paint as one path, as far as nothing painted between lies over them."""
        runs: list[list[Shape]] = []
        for shape in shapes:
            for run in reversed(runs):
                if run[0].fill == shape.fill and run[0].stroke == shape.stroke:
                    run.append(shape)
                    break
                if any(boxes_meet(shape.bounds(), other.bounds()) for other in run):
                    runs.append([shape])
                    break
            else:
                runs.append([shape])
        for run in runs:
            if len(run) == 1:
                self._shape(parent, run[0])
            else:
                contours = [c for shape in run for c in _wound(shape)]
                self._add(parent, "path", {**self._paint(run[0]), "d": self._data(contours)})

    def _paint(self, shape: Shape) -> dict[str, str]:
        """Return what a shape is drawn with."""
        fill = shape.fill
        filled = {"fill": f"url(#{self._named(fill)})" if isinstance(fill, Gradient) else fill or "none"}
        if shape.stroke is None:
            return filled
        return {
            **filled,
            "stroke": shape.stroke.colour,
            "stroke-width": self._number(shape.stroke.width_px),
            "stroke-linecap": ENDS[shape.stroke.ends],
            "stroke-linejoin": JOINS[shape.stroke.joins],
        }

    def _named(self, gradient: Gradient) -> str:
        if gradient in self._gradients:
            return self._gradients[gradient]
        if self._defined is None:
            self._defined = etree.Element(f"{{{_NAMESPACE}}}defs")
            self.root.insert(0, self._defined)
        name = self._gradients[gradient] = f"gradient-{len(self._gradients) + 1}"
        way = gradient.way
        numbers = " ".join(f"{v:.6f}".rstrip("0").rstrip(".") for v in (way.a, way.b, way.c, way.d, way.e, way.f))
        ends = {"x1": "0", "y1": "0", "x2": "1", "y2": "0"}
        if gradient.spread is Spread.RADIAL:
            ends = {"cx": "0", "cy": "0", "r": "1"}
        made = self._add(
            self._defined,
            f"{gradient.spread.value}Gradient",
            {"id": name, "gradientUnits": "userSpaceOnUse", "gradientTransform": f"matrix({numbers})", **ends},
        )
        for stop in gradient.stops:
            self._add(made, "stop", {"offset": number(stop.at, 5), "stop-color": stop.colour})
        return name


def _wound(shape: Shape) -> list[Contour]:
    """The contours of a shape, outer ones clockwise, holes the other way: by the rule of winding nothing of several
    shapes that lie over each other is left out, as it would be by the even-odd rule."""
    if not shape.is_filled:
        return list(shape.contours)
    depths = nesting_depths([contour.sampled(1.0) for contour in shape.contours])
    return [
        c if (c.area() > 0.0) is (depth % 2 == 0) else c.reversed()
        for c, depth in zip(shape.contours, depths, strict=True)
    ]


def svg_bytes(artwork: Artwork, settings: SvgSettings = SvgSettings(), progress: Progress | None = None) -> bytes:
    """Return artwork as an SVG file: size in mm, view box in picture pixels, a group per layer that is seen."""
    stroked = frozenset(k for k, shape in enumerate(artwork.shapes) if shape.stroke is not None)
    if settings.strokes_as_shapes and stroked:
        artwork = strokes_to_shapes(artwork, Choice(shapes=stroked)).artwork
    if progress is not None:
        progress(0.5)
    root = _Writer(artwork, settings).root
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True))


def write_svg(artwork: Artwork, path: Path) -> None:
    """Write artwork as SVG, whole or not at all; raise `ExportError` if it cannot be written."""
    if not artwork.shapes:
        raise ExportError("There is no artwork to save; raise the threshold or lower the speck size.")
    write_whole(path, svg_bytes(artwork), ExportError)
