"""Basic shapes, transforms, lengths and colours of SVG as ours; the last three parsed by svgelements."""

from __future__ import annotations

import functools
from collections.abc import Callable
from xml.etree.ElementTree import Element

import numpy as np
import svgelements

from sobercrow.core.artwork.stretches import with_joints
from sobercrow.core.formats.path_data import SAME_PX
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle
from sobercrow.core.outside import number as number_within

PX_PER_INCH = 96.0
"""CSS pixels (W3C, CSS Values and Units 3)."""
MOST_UNITS = 1e12
"""Lengths and maps of a file are within so much before they are placed."""
KEPT = 4096
"""Of texts that come again and again so many are kept with their values."""


@functools.lru_cache(KEPT)
def length_of(text: str) -> float:
    """A length in CSS pixels; what cannot be read is none."""
    try:
        return float(
            svgelements.Length(text).value(ppi=PX_PER_INCH, relative_length=100.0, font_size=16.0, font_height=16.0)
        )
    except (ValueError, TypeError, AttributeError):
        return 0.0


@functools.lru_cache(KEPT)
def colour_of(text: str) -> str | None:
    colour = svgelements.Color(text)
    if colour.value is None:
        return "#000000"
    return f"#{colour.red:02x}{colour.green:02x}{colour.blue:02x}" if colour.alpha != 0 else None


@functools.lru_cache(KEPT)
def transform_of(text: str | None) -> Affine:
    if not text:
        return Affine()
    matrix = svgelements.Matrix(text)
    return bounded(Affine(*(float(v) for v in (matrix.a, matrix.b, matrix.c, matrix.d, matrix.e, matrix.f))))


def bounded(way: Affine) -> Affine:
    """Return a map all numbers of which are within reason; raise ValueError for others."""
    for value in (way.a, way.b, way.c, way.d, way.e, way.f):
        number_within(value, -MOST_UNITS, MOST_UNITS)
    return way


def form_of(element: Element, kind: str) -> Contour | None:
    """Return the contour of a circle, an ellipse or a rectangle in its own units; None if it has no size.

    Raises
    ------
    ValueError
        If its numbers make no outline.
    """
    number = _numbers(element)
    if kind in ("circle", "ellipse"):
        radii = (number("r"), number("r")) if kind == "circle" else (number("rx"), number("ry"))
        round_form = Ellipse(number("cx"), number("cy"), *radii)
        return Contour(round_form.anchors(), np.ones(4, np.uint8), True, round_form) if min(radii) > 0.0 else None
    width, height, radius = number("width"), number("height"), number("rx") or number("ry")
    if min(width, height) <= 0.0:
        return None
    middle = number("x") + width / 2, number("y") + height / 2
    box = Rectangle(*middle, width, height, min(radius, width / 2, height / 2))
    kinds = np.full(len(box.anchors()), int(radius > 0.0), np.uint8)
    return Contour(box.anchors(), kinds, True, box)


def is_form(element: Element, kind: str) -> bool:
    """Whether an element is drawn by a true shape of ours: rectangles with elliptic corners are not."""
    number = _numbers(element)
    radii = number("rx"), number("ry")
    return kind in ("circle", "ellipse") or (kind == "rect" and (0.0 in radii or abs(radii[0] - radii[1]) <= SAME_PX))


def data_of(element: Element, kind: str) -> str:
    """Return the path data that draws any other shape (W3C, SVG 2, chapter 10)."""
    number = _numbers(element)
    if kind == "path":
        return element.get("d", "")
    if kind == "line":
        return f"M{number('x1')} {number('y1')} {number('x2')} {number('y2')}"
    if kind == "rect":
        x, y, width, height = (number(key) for key in ("x", "y", "width", "height"))
        rx, ry = min(number("rx"), width / 2), min(number("ry"), height / 2)
        across, down = width - 2 * rx, height - 2 * ry
        return (
            f"M{x + rx} {y}h{across}a{rx} {ry} 0 0 1 {rx} {ry}v{down}a{rx} {ry} 0 0 1 {-rx} {ry}"
            f"h{-across}a{rx} {ry} 0 0 1 {-rx} {-ry}v{-down}a{rx} {ry} 0 0 1 {rx} {-ry}z"
        )
    return f"M{element.get('points', '')}{'z' if kind == 'polygon' else ''}"


def _numbers(element: Element) -> Callable[[str], float]:
    def number(key: str) -> float:
        text = element.get(key)
        return 0.0 if text in (None, "auto") else number_within(length_of(text or "0"), -MOST_UNITS, MOST_UNITS)

    return number


def closed(contour: Contour) -> Contour:
    """A contour closed by a line, as filling does; ends that lie on each other become one."""
    if contour.closed or len(contour) < 2:
        return contour
    points, kinds = contour.points.copy(), contour.kinds.copy()
    if len(points) > 2 and np.hypot(*(points[0, 1] - points[-1, 1])) <= SAME_PX:
        points[0, 0] = points[-1, 0]
        points, kinds = points[:-1], kinds[:-1]
    return with_joints(Contour(points, kinds), [0, len(points) - 1])
