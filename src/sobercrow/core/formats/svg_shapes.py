"""Outlines, transforms, lengths and colours of SVG as ours; parsed by svgelements."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from itertools import pairwise
from typing import Any
from xml.etree.ElementTree import Element

import numpy as np
import svgelements

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.stretches import with_joints
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.arcs import Arc, arc_contour
from sobercrow.core.geometry.combine import wound_all
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle

PX_PER_INCH = 96.0
"""CSS pixels (W3C, CSS Values and Units 3)."""
SAME_PX, WORKED_AT_PX = 1e-6, 400.0


def length_of(text: str) -> float:
    """A length in CSS pixels; what cannot be read is none."""
    try:
        return float(
            svgelements.Length(text).value(ppi=PX_PER_INCH, relative_length=100.0, font_size=16.0, font_height=16.0)
        )
    except (ValueError, TypeError, AttributeError):
        return 0.0


def colour_of(text: str) -> str | None:
    colour = svgelements.Color(text)
    if colour.value is None:
        return "#000000"
    return f"#{colour.red:02x}{colour.green:02x}{colour.blue:02x}" if colour.alpha != 0 else None


def transform_of(text: str | None) -> Affine:
    if not text:
        return Affine()
    matrix = svgelements.Matrix(text)
    return Affine(*(float(v) for v in (matrix.a, matrix.b, matrix.c, matrix.d, matrix.e, matrix.f)))


def contours_of(element: Element, kind: str) -> list[Contour]:
    """Return the contours of a path or a basic shape, in its own units; circles, ellipses and rectangles as such.

    Raises
    ------
    ValueError, TypeError, IndexError, ZeroDivisionError
        If its numbers make no outline.
    """

    def number(key: str) -> float:
        text = element.get(key)
        return 0.0 if text in (None, "auto") else length_of(text or "0")

    if kind in ("circle", "ellipse"):
        radii = (number("r"), number("r")) if kind == "circle" else (number("rx"), number("ry"))
        form = Ellipse(number("cx"), number("cy"), *radii)
        return [Contour(form.anchors(), np.ones(4, np.uint8), True, form)] if min(radii) > 0.0 else []
    if kind == "rect":
        width, height = number("width"), number("height")
        if min(width, height) <= 0.0:
            return []
        rx, ry = number("rx"), number("ry")
        rx, ry = (rx or ry, ry or rx)
        if abs(rx - ry) <= SAME_PX:
            box = Rectangle(
                number("x") + width / 2, number("y") + height / 2, width, height, min(rx, width / 2, height / 2)
            )
            kinds = np.full(len(box.anchors()), int(rx > 0.0), np.uint8)
            return [Contour(box.anchors(), kinds, True, box)]
        return list(_contours(svgelements.Path(svgelements.Rect(number("x"), number("y"), width, height, rx, ry))))
    if kind == "line":
        ends = [complex(number("x1"), number("y1")), complex(number("x2"), number("y2"))]
        return list(_contours(svgelements.Path(svgelements.Move(ends[0]), svgelements.Line(*ends))))
    if kind == "path":
        return list(_contours(svgelements.Path(element.get("d", ""))))
    texts = re.findall(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?", element.get("points", ""))
    places = [complex(float(x), float(y)) for x, y in zip(texts[::2], texts[1::2], strict=False)]
    if len(places) < 2:
        return []
    made = svgelements.Path(svgelements.Move(places[0]), *(svgelements.Line(a, b) for a, b in pairwise(places)))
    return list(_contours(made + svgelements.Path("z") if kind == "polygon" else made))


def _contours(path: svgelements.Path) -> Iterator[Contour]:
    """The contours of a path: lines, cubics; quadratics raised; circular arcs as such, others as cubics."""
    curves: list[F64] = []
    for part in path:
        if isinstance(part, svgelements.Move):
            yield from _contour(curves, closed=False)
            curves = []
            continue
        start, end = _point(part.start), _point(part.end)
        if isinstance(part, svgelements.Close):
            if np.hypot(*(end - start)) > SAME_PX:
                curves.append(np.array([start, start, end, end]))
            yield from _contour(curves, closed=True)
            curves = []
        elif isinstance(part, svgelements.Arc):
            curves += _arc(part, start, end)
        elif isinstance(part, svgelements.CubicBezier):
            curves.append(np.array([start, _point(part.control1), _point(part.control2), end]))
        elif isinstance(part, svgelements.QuadraticBezier):
            control = _point(part.control)
            curves.append(np.array([start, start + 2 / 3 * (control - start), end + 2 / 3 * (control - end), end]))
        elif np.hypot(*(end - start)) > SAME_PX:
            curves.append(np.array([start, start, end, end]))
    yield from _contour(curves, closed=False)


def _arc(part: Any, start: F64, end: F64) -> list[F64]:
    if np.hypot(*(end - start)) <= SAME_PX and abs(part.sweep) < 1e-6:
        return []
    if abs(part.rx - part.ry) <= 1e-6 * part.rx:
        turn = float(part.sweep)
        if abs(turn) < 1e-9 or part.rx < SAME_PX:
            return [np.array([start, start, end, end])]
        return list(arc_contour(start, end, Arc(_point(part.center), float(part.rx), turn)).curves())
    count = max(1, math.ceil(abs(part.sweep) / (0.5 * math.pi)))
    return [
        np.array([_point(c.start), _point(c.control1), _point(c.control2), _point(c.end)])
        for c in part.as_cubic_curves(count)
    ]


def _point(point: Any) -> F64:
    return np.array((float(point.x), float(point.y)))


def _contour(curves: list[F64], closed: bool) -> Iterator[Contour]:
    if not curves:
        return
    every = np.array(curves)
    if not np.isfinite(every).all():
        raise ValueError("a path has numbers that are none")
    closed = closed and (len(every) > 1 or not np.allclose(every[0, 1], every[0, 0]))
    if closed:
        points = np.stack([np.roll(every[:, 2], 1, axis=0), every[:, 0], every[:, 1]], axis=1)
    else:
        points = np.empty((len(every) + 1, 3, 2))
        points[:-1, 1], points[:-1, 2], points[1:, 0] = every[:, 0], every[:, 1], every[:, 2]
        points[-1, 1:], points[0, 0] = every[-1, 3], every[0, 0]
    made = Contour(points, np.full(len(points), int(AnchorKind.SMOOTH), dtype=np.uint8), closed)
    yield with_joints(made, range(len(made)))


def closed(contour: Contour) -> Contour:
    """A contour closed by a line, as filling does; ends that lie on each other become one."""
    if contour.closed or len(contour) < 2:
        return contour
    points, kinds = contour.points.copy(), contour.kinds.copy()
    if len(points) > 2 and np.hypot(*(points[0, 1] - points[-1, 1])) <= SAME_PX:
        points[0, 0] = points[-1, 0]
        points, kinds = points[:-1], kinds[:-1]
    return with_joints(Contour(points, kinds), [0, len(points) - 1])


def wound(contours: tuple[Contour, ...]) -> tuple[Contour, ...]:
    """Return contours filled by the rule of winding as ones to be filled by the even-odd rule."""
    if not all(contour.closed for contour in contours):
        return contours
    size = max(b - a for contour in contours for a, b in zip(contour.bounds()[:2], contour.bounds()[2:], strict=True))
    scale = WORKED_AT_PX / max(size, SAME_PX)  # slivers are told from shapes by their size
    made = wound_all([contour.scaled(scale) for contour in contours])
    return contours if made is None else tuple(c.scaled(1.0 / scale) for part in made for c in part)
