"""Reading SVG (W3C, Scalable Vector Graphics 2): paths, basic shapes, groups, transforms, fills, strokes, gradients.

Files are read as data only: no entities, no links out of the file, no scripts. What an artwork cannot hold is told by
its name. Transforms, lengths and colours are parsed by svgelements.
"""

from __future__ import annotations

import functools
import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from itertools import islice
from pathlib import Path
from typing import NamedTuple
from xml.etree.ElementTree import Element

import numpy as np
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from sobercrow.core.artwork.model import Group, Item, Shape, shapes_of
from sobercrow.core.artwork.paint import Gradient, Stroke
from sobercrow.core.artwork.placing import placed_contour
from sobercrow.core.errors import SoberCrowError
from sobercrow.core.formats.path_data import Run, contours_of, runs_of
from sobercrow.core.formats.svg_paint import NO_PAINT, Paints, kind_of, share_within, style_of
from sobercrow.core.formats.svg_shapes import (
    PX_PER_INCH,
    bounded,
    closed,
    data_of,
    form_of,
    is_form,
    length_of,
    transform_of,
)
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.combine import Progress
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.offset import Ends, Joins
from sobercrow.core.geometry.winding import TooManyCrossings, wound
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
TOLD_EVERY = 500
"""After so many shapes one tells how far one is."""


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


def read_svg(path: Path, dpi: float, progress: Progress | None = None) -> Placed:
    """Read an SVG file as shapes at a resolution; see `parse_svg`."""
    return parse_svg(read_bytes(path, SvgError, "an SVG file"), path.name, dpi, progress)


class SvgError(SoberCrowError):
    """An SVG file cannot be read."""


def parse_svg(data: bytes, name: str, dpi: float, progress: Progress | None = None) -> Placed:
    """Read SVG as shapes at a resolution, in px from the left upper corner of its page.

    `progress` is told the share done, 0-1, and may raise `Cancelled`.

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
    if kind_of(root) != "svg":
        raise SvgError(f"“{name}” is no SVG file; choose one.")
    with reading(SvgError, f"“{name}” has something in it that cannot be read; save it as plain SVG."):
        placed = _Reader(root, name, dpi, progress or (lambda _share: None)).read()
        for side in (placed.width_px, placed.height_px):
            number(side, LEAST_SIDE_PX, MOST_SPAN_PX)
        drawn = [contour.points for shape in shapes_of(placed.items) for contour in shape.contours]
        coordinates(np.concatenate(drawn) if drawn else ())
        return placed


class _Found(NamedTuple):
    """What is drawn: its element and kind, where it is placed, and its style with what is inherited."""

    element: Element
    kind: str
    way: Affine
    style: dict[str, str]


class _Branch(NamedTuple):
    """A group of what is drawn."""

    name: str
    items: list[_Found | _Branch]


def _items(tree: Iterable[_Found | _Branch], shapes: Iterator[Shape | None]) -> Iterator[Item]:
    """The tree with shapes in the place of what they were found as; groups of one are none."""
    for one in tree:
        if isinstance(one, _Found):
            shape = next(shapes)
            if shape is not None:
                yield shape
        else:
            inner = tuple(_items(one.items, shapes))
            if inner:
                yield inner[0] if len(inner) == 1 else Group(inner, one.name)


@dataclass
class _Reader:
    """Goes through the tree with what is inherited."""

    root: Element
    name: str
    dpi: float
    progress: Progress
    left_out: Counter[str] = field(default_factory=Counter)
    _drawn: list[_Found] = field(default_factory=list)

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
        ids = {one.get("id"): one for one in self.root.iter() if one.get("id")}
        self._paints = Paints(ids, self.left_out)
        tree = list(self._found(self.root, way, style_of(self.root), 0))
        shapes = iter(self._shapes())
        items = tuple(_items(tree, shapes))
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

    def _found(self, parent: Element, way: Affine, style: dict[str, str], depth: int) -> Iterator[_Found | _Branch]:
        """What is drawn, lowest first, groups as branches; all of it is kept in `_drawn` as well."""
        if depth > MOST_NESTED:
            raise SvgError(
                f"“{self.name}” has groups {MOST_NESTED} deep within each other and more; ungroup some first."
            )
        inherited = {key: value for key, value in style.items() if key in INHERITED}
        for element in parent:
            kind = kind_of(element)
            if not kind or kind in QUIET:
                continue
            own = {**inherited, **style_of(element)}
            if own.get("display") == "none":
                continue
            own[SEEN] = str(share_within(style.get(SEEN, "1")) * share_within(own.get("opacity", "1")))
            for effect, told in EFFECTS.items():
                if own.get(effect, "none") != "none":
                    self.left_out[told] += 1
            transform = element.get("transform")
            here = way if transform is None else bounded(transform_of(transform).then(way))
            if kind in ("g", "svg", "a"):
                yield _Branch(element.get("id", ""), list(self._found(element, here, own, depth + 1)))
            elif kind not in SHAPES:
                self.left_out[NAMES.get(kind, kind)] += 1
            elif own.get("visibility") not in ("hidden", "collapse"):
                self._drawn.append(_Found(element, kind, here, own))
                yield self._drawn[-1]

    def _shapes(self) -> Iterator[Shape | None]:
        """The shapes of all that is drawn, in order; what each outline asks for is done for all of them in one go."""
        outlines = self._outlines()
        filled = [found.style.get("fill", "black").strip() not in NO_PAINT for found in self._drawn]
        stroked = [found.style.get("stroke", "none").strip() not in NO_PAINT for found in self._drawn]
        for k, contours in enumerate(outlines):  # what is filled is closed
            if filled[k] and not stroked[k]:
                outlines[k] = tuple(map(closed, contours))
        rows = [
            k
            for k, contours in enumerate(outlines)
            if len(contours) > 1
            and filled[k]
            and self._drawn[k].style.get("fill-rule", "nonzero") != "evenodd"
            and all(contour.closed for contour in contours)
        ]
        try:
            made = wound([outlines[k] for k in rows], self._within(0.3, 0.7))
        except TooManyCrossings as fault:
            raise SvgError(f"“{self.name}” cannot be placed: {fault}") from fault
        for k, own in zip(rows, made, strict=True):
            outlines[k] = own
        for k, (found, contours) in enumerate(zip(self._drawn, outlines, strict=True)):
            if k % TOLD_EVERY == 0:
                self.progress(0.7 + 0.3 * k / len(self._drawn))
            yield self._shape(found, contours) if contours else None

    def _outlines(self) -> list[tuple[Contour, ...]]:
        """The contours of all that is drawn, in their places."""
        runs: list[Run] = []
        ways: list[Affine] = []
        counts: list[int] = []
        made: list[tuple[Contour, ...]] = []
        for k, found in enumerate(self._drawn):
            if k % TOLD_EVERY == 0:
                self.progress(0.3 * k / len(self._drawn))
            form, count = None, len(runs)
            if found.kind != "path" and is_form(found.element, found.kind):
                form = form_of(found.element, found.kind)
            else:
                runs += runs_of(data_of(found.element, found.kind))
            made.append(() if form is None else (placed_contour(form, found.way),))
            counts.append(len(runs) - count)
            ways += [found.way] * counts[-1]
        drawn = iter(contours_of(runs, ways))
        return [own or tuple(islice(drawn, count)) for own, count in zip(made, counts, strict=True)]

    def _within(self, low: float, high: float) -> Callable[[float], None]:
        return lambda share: self.progress(low + (high - low) * share)

    def _shape(self, found: _Found, contours: tuple[Contour, ...]) -> Shape | None:
        style, box = found.style, functools.partial(_box_of, found)
        seen = share_within(style.get(SEEN, "1"))
        shares = [seen * share_within(style.get(key, "1")) for key in ("fill-opacity", "stroke-opacity")]
        fill = self._paints.paint(style.get("fill", "black"), style, box, shares[0])
        line = self._paints.paint(style.get("stroke", "none"), style, box, shares[1])
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
        if isinstance(fill, Gradient):
            fill = fill.mapped(found.way)
        return Shape(contours, fill, None if stroke is None else stroke.scaled(abs(found.way.area_ratio) ** 0.5))


def _box_of(found: _Found) -> tuple[float, float, float, float]:
    """What an outline reaches over with its handles, in its own units: left, top, right, bottom."""
    if is_form(found.element, found.kind):
        form = form_of(found.element, found.kind)
        contours = [] if form is None else [form]
    else:
        runs = runs_of(data_of(found.element, found.kind))
        contours = contours_of(runs, [Affine()] * len(runs))
    box = np.concatenate([contour.points.reshape(-1, 2) for contour in contours])
    return (*box.min(axis=0).tolist(), *box.max(axis=0).tolist())
