"""Plain SVG (W3C, Scalable Vector Graphics 2): true size in millimetres, one path a shape."""

from __future__ import annotations

import math
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from lxml import etree

from sobercrow.core.artwork.model import Artwork, Group, Item, Shape
from sobercrow.core.artwork.paint import Gradient, Spread
from sobercrow.core.errors import ExportError
from sobercrow.core.formats.files import write_whole
from sobercrow.core.geometry.arcs import arcs_of
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Rectangle
from sobercrow.core.geometry.offset import Ends, Joins
from sobercrow.core.settings import px_to_mm

DECIMALS = 3
WIDEST_ARC = math.radians(120.0)
"""Wider arcs are written in parts: near a half, where the middle is hangs on the last decimal of the ends."""
ENDS = {Ends.ROUND: "round", Ends.FLAT: "butt", Ends.SQUARE: "square"}
JOINS = {Joins.ROUND: "round", Joins.MITRE: "miter", Joins.BEVEL: "bevel"}
_NAMESPACE = "http://www.w3.org/2000/svg"


def number(value: float) -> str:
    """Return a number with at most 3 decimals and no idle zeros."""
    text = f"{value:.{DECIMALS}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def path_data(contour: Contour) -> str:
    """Return the SVG path of a contour: M, L, C, A, Z with absolute coordinates; circular arcs are written as such."""

    def at(x: float, y: float) -> str:
        return f"{number(x)} {number(y)}"

    parts = [f"M{at(*contour.anchors[0])}"]
    curves = contour.curves()
    done = 0
    for count, arc in arcs_of(curves, WIDEST_ARC):
        done += count
        start, first, second, end = curves[done - 1].tolist()
        if arc is not None:
            radius = number(arc.radius)
            parts.append(f"A{radius} {radius} 0 0 {int(arc.turn > 0)} {at(*end)}")
        elif start == first and second == end:
            parts.append(f"L{at(*end)}")
        else:
            parts.append(f"C{at(*first)} {at(*second)} {at(*end)}")
    if contour.closed:
        if parts[-1].startswith("L"):
            parts.pop()  # Z draws the last straight side
        parts.append("Z")
    return "".join(parts)


def shape_data(shape: Shape) -> str:
    """Return the SVG path of a shape with its holes."""
    return "".join(path_data(c) for c in shape.contours)


def _element(shape: Shape) -> tuple[str, dict[str, str]]:
    """Return the SVG element of a shape and where it lies: a true shape is written as what it is."""
    form = shape.contours[0].form if len(shape.contours) == 1 else None
    if form is None:
        rule = {"fill-rule": "evenodd"} if shape.is_filled else {}
        return "path", {**rule, "d": shape_data(shape)}
    middle = f"{number(form.x)} {number(form.y)}"
    turned = {"transform": f"rotate({number(form.angle_deg)} {middle})"} if number(form.angle_deg) != "0" else {}
    if isinstance(form, Rectangle):
        corner = {"x": form.x - 0.5 * form.width, "y": form.y - 0.5 * form.height}
        sizes = {**corner, "width": form.width, "height": form.height, **({"rx": form.radius} if form.radius else {})}
        return "rect", {**{key: number(value) for key, value in sizes.items()}, **turned}
    place = {"cx": number(form.x), "cy": number(form.y)}
    if form.is_circle:
        return "circle", {**place, "r": number(form.rx)}
    return "ellipse", {**place, "rx": number(form.rx), "ry": number(form.ry), **turned}


def _bar(shape: Shape) -> dict[str, str] | None:
    """Return a filled bar as a line as wide as it, or None if the shape is none."""
    form = shape.contours[0].form if len(shape.contours) == 1 else None
    if (
        not isinstance(form, Rectangle)
        or not form.is_bar
        or not isinstance(shape.fill, str)
        or shape.stroke is not None
    ):
        return None
    (x1, y1), (x2, y2) = form.middle_line()
    pen = {"fill": "none", "stroke": shape.fill, "stroke-width": number(min(form.width, form.height))}
    return {**pen, "x1": number(x1), "y1": number(y1), "x2": number(x2), "y2": number(y2)}


class _Writer:
    """Writes the tree; gradients are defined once each, before what they fill."""

    def __init__(self, artwork: Artwork) -> None:
        width_mm, height_mm = (number(px_to_mm(v, artwork.dpi)) for v in (artwork.width_px, artwork.height_px))
        self.root = etree.Element(
            f"{{{_NAMESPACE}}}svg",
            nsmap={None: _NAMESPACE},
            attrib={
                "width": f"{width_mm}mm",
                "height": f"{height_mm}mm",
                "viewBox": f"0 0 {number(artwork.width_px)} {number(artwork.height_px)}",
            },
        )
        self._gradients: dict[Gradient, str] = {}
        self._defined: Any = None
        for layer in artwork.layers:
            if layer.seen:
                self._items(self._add(self.root, "g", {"id": layer.name.replace(" ", "-")}), layer.items)

    @staticmethod
    def _add(parent: Any, name: str, attributes: dict[str, str]) -> Any:
        return etree.SubElement(parent, f"{{{_NAMESPACE}}}{name}", attrib=attributes)

    def _items(self, parent: Any, items: Iterable[Item]) -> None:
        for item in items:
            if isinstance(item, Group):
                self._items(self._add(parent, "g", {}), item.items)
                continue
            bar = _bar(item)
            if bar is not None:
                self._add(parent, "line", bar)
            else:
                name, place = _element(item)
                self._add(parent, name, {**self._paint(item), **place})

    def _paint(self, shape: Shape) -> dict[str, str]:
        """Return what a shape is drawn with."""
        fill = shape.fill
        filled = {"fill": f"url(#{self._named(fill)})" if isinstance(fill, Gradient) else fill or "none"}
        if shape.stroke is None:
            return filled
        return {
            **filled,
            "stroke": shape.stroke.colour,
            "stroke-width": number(shape.stroke.width_px),
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
            self._add(made, "stop", {"offset": number(stop.at), "stop-color": stop.colour})
        return name


def svg_bytes(artwork: Artwork) -> bytes:
    """Return artwork as an SVG file: size in mm, view box in picture pixels, a group per layer that is seen."""
    return bytes(etree.tostring(_Writer(artwork).root, xml_declaration=True, encoding="UTF-8", pretty_print=True))


def write_svg(artwork: Artwork, path: Path) -> None:
    """Write artwork as SVG, whole or not at all; raise `ExportError` if it cannot be written."""
    if not artwork.shapes:
        raise ExportError("There is no artwork to save; raise the threshold or lower the speck size.")
    write_whole(path, svg_bytes(artwork), ExportError)
