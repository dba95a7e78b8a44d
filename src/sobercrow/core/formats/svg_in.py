"""Reading SVG (W3C, Scalable Vector Graphics 2): paths, basic shapes, groups, transforms, fills, strokes, gradients.

Files are read as data only: no entities, no links out of the file, no scripts. What an artwork cannot hold is told by
its name. Path data, transforms and lengths are parsed by svgelements.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from xml.etree.ElementTree import Element

import numpy as np
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from sobercrow.core.artwork.model import Group, Item, Shape, shapes_of
from sobercrow.core.artwork.paint import Fill, Gradient, Spread, Stop, Stroke
from sobercrow.core.artwork.placing import placed_shape
from sobercrow.core.errors import SoberCrowError
from sobercrow.core.formats.svg_shapes import (
    PX_PER_INCH,
    closed,
    colour_of,
    contours_of,
    length_of,
    transform_of,
    wound,
)
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.offset import Ends, Joins
from sobercrow.core.outside import LEAST_SIDE_PX, MOST_SPAN_PX, coordinates, number, reading
from sobercrow.core.picture.decode import read_bytes

SEEN = "how much it is seen"
SIZE = re.compile(r"\s*[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?\s*(px|pt|pc|mm|cm|in|q|Q|em|ex|rem)?\s*")
MOST_NESTED, MOST_BYTES = 200, 64 << 20
INHERITED = (
    SEEN,
    "fill-opacity",
    "stroke-opacity",
    "fill",
    "stroke",
    "stroke-width",
    "stroke-linecap",
    "stroke-linejoin",
    "color",
    "visibility",
    "fill-rule",
)
ENDS = {"butt": Ends.FLAT, "round": Ends.ROUND, "square": Ends.SQUARE}
JOINS = {
    "miter": Joins.MITRE,
    "miter-clip": Joins.MITRE,
    "arcs": Joins.MITRE,
    "round": Joins.ROUND,
    "bevel": Joins.BEVEL,
}
SHAPES = ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon")
QUIET = (
    "title",
    "desc",
    "metadata",
    "defs",
    "style",
    "linearGradient",
    "radialGradient",
    "symbol",
    "namedview",
    "script",
    "pattern",
    "clipPath",
    "mask",
    "filter",
    "marker",
)
NAMES = {"text": "text", "image": "picture", "use": "linked copy", "foreignObject": "foreign part", "switch": "switch"}
EFFECTS = {"clip-path": "clipping", "mask": "mask", "filter": "filter"}
LEAST_PX = 1e-9


@dataclass(frozen=True, slots=True)
class Placed:
    """What was read: shapes and groups, lowest first, in px; the size of the page; what was left out."""

    items: tuple[Item, ...]
    width_px: float
    height_px: float
    left_out: tuple[str, ...] = ()

    def told(self) -> str:
        """Say what was left out, in one sentence, or nothing."""
        return f"Left out, for artwork cannot hold it: {', '.join(self.left_out)}." if self.left_out else ""


def read_svg(path: Path, dpi: float) -> Placed:
    """Read an SVG file as shapes at a resolution; see `parse_svg`."""
    return parse_svg(read_bytes(path, SvgError, "an SVG file"), path.name, dpi)


class SvgError(SoberCrowError):
    """An SVG file cannot be read."""


def parse_svg(data: bytes, name: str, dpi: float) -> Placed:
    """Read SVG as shapes at a resolution, in px from the left upper corner of its page.

    Raises
    ------
    SvgError
        With one sentence if it is no SVG, too large, has entities, or nests too deep.
    """
    if len(data) > MOST_BYTES:
        raise SvgError(f"“{name}” is too large; simplify it first.")
    with reading(SvgError, f"“{name}” is damaged or no SVG file; save it as SVG again."):
        try:
            root = fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
        except DefusedXmlException as fault:
            raise SvgError(
                f"“{name}” has entities or links of its own, which are not read; save it as plain SVG."
            ) from fault
    if _local(root) != "svg":
        raise SvgError(f"“{name}” is no SVG file; choose one.")
    with reading(SvgError, f"“{name}” has something in it that cannot be read; save it as plain SVG."):
        placed = _Reader(root, name, dpi).read()
        for side in (placed.width_px, placed.height_px):
            number(side, LEAST_SIDE_PX, MOST_SPAN_PX)
        for shape in shapes_of(placed.items):
            for contour in shape.contours:
                coordinates(contour.points)
        return placed


def _local(element: Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


@dataclass
class _Reader:
    """Goes through the tree with what is inherited."""

    root: Element
    name: str
    dpi: float
    left_out: Counter[str] = field(default_factory=Counter)

    def read(self) -> Placed:
        view = [float(v) for v in re.findall(r"[-+.\deE]+", self.root.get("viewBox", ""))]
        view = view if len(view) == 4 and min(view[2:]) > 0 else []
        sizes = [self._size(self.root.get(key), size) for key, size in (("width", view[2:3]), ("height", view[3:4]))]
        scale = self.dpi / PX_PER_INCH
        way = Affine.scaled(scale, scale, (0.0, 0.0))
        if view:
            ratio = min(sizes[0] / view[2], sizes[1] / view[3])
            shift = (
                (sizes[0] - ratio * view[2]) / 2 - ratio * view[0],
                (sizes[1] - ratio * view[3]) / 2 - ratio * view[1],
            )
            way = Affine.scaled(ratio, ratio, (0.0, 0.0)).then(Affine.moved(*shift)).then(way)
        self._ids = {one.get("id"): one for one in self.root.iter() if one.get("id")}
        items = tuple(self._items(self.root, way, _style(self.root), 0))
        told = tuple(
            f"{count} {name}{'s' if count > 1 and not name.endswith('ing') else ''}"
            for name, count in sorted(self.left_out.items())
        )
        return Placed(items, sizes[0] * scale, sizes[1] * scale, told)

    def _size(self, text: str | None, view: list[float]) -> float:
        """A side of the page in CSS pixels."""
        if text is None or text.strip().endswith("%"):
            return view[0] if view else 100.0
        if not SIZE.fullmatch(text):
            raise SvgError(f"“{self.name}” is of an unknown unit, “{text.strip()}”; give its size in mm or px.")
        size = length_of(text)
        return size if size > 0 else 100.0

    def _items(self, parent: Element, way: Affine, style: dict[str, str], depth: int) -> Iterator[Item]:
        if depth > MOST_NESTED:
            raise SvgError(
                f"“{self.name}” has groups {MOST_NESTED} deep within each other and more; ungroup some first."
            )
        for element in parent:
            kind = _local(element)
            if not kind or kind in QUIET:
                continue
            own = {**{key: value for key, value in style.items() if key in INHERITED}, **_style(element)}
            if own.get("display") == "none":
                continue
            own[SEEN] = str(_number(style.get(SEEN, "1")) * _number(own.get("opacity", "1")))
            for effect, told in EFFECTS.items():
                if own.get(effect, "none") != "none":
                    self.left_out[told] += 1
            here = transform_of(element.get("transform")).then(way)
            if kind in ("g", "svg", "a"):
                inner = tuple(self._items(element, here, own, depth + 1))
                if len(inner) == 1:
                    yield inner[0]
                elif inner:
                    yield Group(inner, element.get("id", ""))
            elif kind in SHAPES:
                shape = self._shape(element, kind, here, own)
                if shape is not None:
                    yield shape
            else:
                self.left_out[NAMES.get(kind, kind)] += 1

    def _shape(self, element: Element, kind: str, way: Affine, style: dict[str, str]) -> Shape | None:
        if style.get("visibility") in ("hidden", "collapse"):
            return None
        try:
            contours = tuple(contours_of(element, kind))
        except (ValueError, TypeError, IndexError, ZeroDivisionError) as fault:
            raise SvgError(f"“{self.name}” has a {kind} that cannot be read; save it as plain SVG.") from fault
        if not contours:
            return None
        box = np.concatenate([contour.points.reshape(-1, 2) for contour in contours])
        frame = (*box.min(axis=0).tolist(), *box.max(axis=0).tolist())
        seen = _number(style.get(SEEN, "1"))
        fill = self._paint(style.get("fill", "black"), style, frame, seen * _number(style.get("fill-opacity", "1")))
        line = self._paint(style.get("stroke", "none"), style, frame, seen * _number(style.get("stroke-opacity", "1")))
        width = length_of(style.get("stroke-width", "1"))
        stroke = None
        if line is not None and width > LEAST_PX:
            colour = line.stops[0].colour if isinstance(line, Gradient) else line
            ends, joins = style.get("stroke-linecap", "butt"), style.get("stroke-linejoin", "miter")
            stroke = Stroke(colour, width, ENDS.get(ends, Ends.FLAT), JOINS.get(joins, Joins.MITRE))
            if isinstance(line, Gradient):
                self.left_out["gradient of a stroke"] += 1
            if style.get("stroke-dasharray", "none") != "none":
                self.left_out["dashing"] += 1
        if fill is None and stroke is None:
            return None
        if fill is not None:  # what is filled is closed
            contours = tuple(closed(contour) if stroke is None else contour for contour in contours)
        if fill is not None and style.get("fill-rule", "nonzero") != "evenodd" and len(contours) > 1:
            contours = wound(contours)
        return placed_shape(Shape(contours, fill, stroke), way)

    def _paint(
        self, text: str, style: dict[str, str], frame: tuple[float, float, float, float], seen: float = 1.0
    ) -> Fill:
        """A fill; one that is seen through is mixed with white, for artwork has no see-through colours."""
        made = self._opaque(text, style, frame)
        if made is None or seen >= 1.0:
            return made
        self.left_out["see-through colour"] += 1
        if seen <= 0.0:
            return None
        if isinstance(made, Gradient):
            return replace(made, stops=tuple(replace(stop, colour=_paler(stop.colour, seen)) for stop in made.stops))
        return _paler(made, seen)

    def _opaque(self, text: str, style: dict[str, str], frame: tuple[float, float, float, float]) -> Fill:
        text = text.strip()
        if text in ("none", "transparent", ""):
            return None
        if text.startswith("url("):
            link, _, fallback = text[4:].partition(")")
            gradient = self._gradient(link.strip(" \"'#"), frame, style)
            if gradient is not None:
                return gradient
            self.left_out["pattern"] += 1
            return self._opaque(fallback, style, frame) if fallback.strip() else None
        return colour_of(style.get("color", "black") if text == "currentColor" else text)

    def _gradient(self, name: str, frame: tuple[float, float, float, float], style: dict[str, str]) -> Fill:
        """A gradient by its id; a plain colour if it has but one stop, None if it is no gradient."""
        chain: list[Element] = []
        element = self._ids.get(name)
        while (
            element is not None and len(chain) < MOST_NESTED and _local(element) in ("linearGradient", "radialGradient")
        ):
            chain.append(element)
            link = next((v for k, v in element.attrib.items() if k.rpartition("}")[2] == "href"), "")
            element = self._ids.get(link[1:]) if link.startswith("#") else None
        if not chain:
            return None
        stops = next((found for one in chain if (found := [s for s in one if _local(s) == "stop"])), [])
        made = sorted(_stops(stops, style), key=lambda stop: stop.at)
        if not made:
            return None
        if len(made) == 1:
            return made[0].colour

        def given(key: str, usual: str) -> str:
            return next((one.get(key, "") for one in chain if one.get(key) is not None), usual)

        own = transform_of(given("gradientTransform", ""))
        is_box = given("gradientUnits", "objectBoundingBox") != "userSpaceOnUse"
        if is_box:
            left, top, right, bottom = frame
            own = own.then(Affine(right - left, 0.0, 0.0, bottom - top, left, top))
        if _local(chain[0]) == "radialGradient":
            x, y, r = (_share(given(key, "50%")) for key in ("cx", "cy", "r"))
            laid = Affine(r, 0.0, 0.0, r, x, y)
            if any(
                one.get(key) is not None and abs(_share(one.get(key, "")) - at) > 1e-6
                for one in chain
                for key, at in (("fx", x), ("fy", y))
            ):
                self.left_out["gradient's focus"] += 1
            spread = Spread.RADIAL
        else:
            x1, y1, x2, y2 = (
                _share(given(key, usual)) for key, usual in (("x1", "0%"), ("y1", "0%"), ("x2", "100%"), ("y2", "0%"))
            )
            laid = Affine(x2 - x1, y2 - y1, -(y2 - y1), x2 - x1, x1, y1)
            spread = Spread.LINEAR
        way = laid.then(own)
        return Gradient(spread, tuple(made), way) if abs(way.area_ratio) > 1e-12 else made[-1].colour


def _number(text: str) -> float:
    """A share from 0 to 1."""
    try:
        return min(max(_share(text), 0.0), 1.0)
    except ValueError:
        return 1.0


def _paler(colour: str, share: float) -> str:
    """A colour over white, seen by a share."""
    parts = [round(255 + share * (int(colour[k : k + 2], 16) - 255)) for k in (1, 3, 5)]
    return "#" + "".join(f"{part:02x}" for part in parts)


def _style(element: Element) -> dict[str, str]:
    """Presentation attributes and the style attribute of an element, which goes before them."""
    found = {key.rpartition("}")[2]: value for key, value in element.attrib.items()}
    for part in found.pop("style", "").split(";"):
        key, colon, value = part.partition(":")
        if colon:
            found[key.strip()] = value.replace("!important", "").strip()
    return {key: value for key, value in found.items() if value.strip() != "inherit"}


def _share(text: str) -> float:
    text = text.strip()
    return float(text[:-1]) / 100.0 if text.endswith("%") else length_of(text)


def _stops(elements: Iterable[Element], style: dict[str, str]) -> Iterator[Stop]:
    for element in elements:
        own = _style(element)
        text = own.get("stop-color", "black")
        colour = colour_of(style.get("color", "black") if text == "currentColor" else text) or "#ffffff"
        yield Stop(min(max(_share(own.get("offset", "0")), 0.0), 1.0), colour)
