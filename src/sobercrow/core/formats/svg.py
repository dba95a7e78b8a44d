"""Plain SVG (W3C, Scalable Vector Graphics 2): true size in millimetres, one path a shape."""

from __future__ import annotations

import math
from pathlib import Path

from lxml import etree

from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import ExportError
from sobercrow.core.formats.files import write_whole
from sobercrow.core.geometry.arcs import arcs_of
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Rectangle
from sobercrow.core.settings import px_to_mm

DECIMALS = 3
WIDEST_ARC = math.radians(120.0)
"""Wider arcs are written in parts: near a half, where the middle is hangs on the last decimal of the ends."""
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
        rule = {"fill-rule": "evenodd"} if shape.stroke_px is None else {}
        return "path", {**rule, "d": shape_data(shape)}
    middle = f"{number(form.x)} {number(form.y)}"
    turned = {"transform": f"rotate({number(form.angle_deg)} {middle})"} if number(form.angle_deg) != "0" else {}
    if isinstance(form, Rectangle) and form.is_bar:
        (x1, y1), (x2, y2) = form.middle_line()
        pen = {"fill": "none", "stroke": shape.fill, "stroke-width": number(min(form.width, form.height))}
        return "line", {**pen, "x1": number(x1), "y1": number(y1), "x2": number(x2), "y2": number(y2)}
    if isinstance(form, Rectangle):
        corner = {"x": form.x - 0.5 * form.width, "y": form.y - 0.5 * form.height}
        sizes = {**corner, "width": form.width, "height": form.height, **({"rx": form.radius} if form.radius else {})}
        return "rect", {**{key: number(value) for key, value in sizes.items()}, **turned}
    place = {"cx": number(form.x), "cy": number(form.y)}
    if form.is_circle:
        return "circle", {**place, "r": number(form.rx)}
    return "ellipse", {**place, "rx": number(form.rx), "ry": number(form.ry), **turned}


def _ink(shape: Shape) -> dict[str, str]:
    """Return what a shape is drawn with: filled, or along its contours with a round pen."""
    if shape.stroke_px is None:
        return {"fill": shape.fill}
    return {
        "fill": "none",
        "stroke": shape.fill,
        "stroke-width": number(shape.stroke_px),
        "stroke-linecap": "round",
        "stroke-linejoin": "round",
    }


def svg_bytes(artwork: Artwork) -> bytes:
    """Return artwork as an SVG file: size in mm, view box in picture pixels, a group per layer."""
    width_mm, height_mm = (number(px_to_mm(v, artwork.dpi)) for v in (artwork.width_px, artwork.height_px))
    root = etree.Element(
        f"{{{_NAMESPACE}}}svg",
        nsmap={None: _NAMESPACE},
        attrib={
            "width": f"{width_mm}mm",
            "height": f"{height_mm}mm",
            "viewBox": f"0 0 {number(artwork.width_px)} {number(artwork.height_px)}",
        },
    )
    for layer in artwork.layers:
        group = etree.SubElement(root, f"{{{_NAMESPACE}}}g", id=layer.name.replace(" ", "-"))
        for shape in layer.shapes:
            name, places = _element(shape)
            etree.SubElement(group, f"{{{_NAMESPACE}}}{name}", attrib={**_ink(shape), **places})
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True))


def write_svg(artwork: Artwork, path: Path) -> None:
    """Write artwork as SVG, whole or not at all; raise `ExportError` if it cannot be written."""
    if not artwork.shapes:
        raise ExportError("There is no artwork to save; raise the threshold or lower the speck size.")
    write_whole(path, svg_bytes(artwork), ExportError)
