"""Small shapes that lie wholly beneath others: what the pixels of an edge left of a third ink, seen nowhere."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property

import shapely
from shapely.geometry.base import BaseGeometry

from sobercrow.core.artwork.model import Layer, Shape
from sobercrow.core.geometry.combine import region

MOST_PX2 = 60.0
"""A larger shape that is hidden was drawn there."""
SPACING_PX, SLACK_PX = 0.25, 0.05
"""Outlines are looked at in points so far apart, and may stick out so far."""


def without_hidden(layers: Sequence[Layer]) -> list[Layer]:
    """Return layers of shapes, the lowest first, without small shapes that those above hide."""
    made: list[Layer] = []
    above: list[_Seen] = []
    for layer in reversed(layers):
        hidden = [k for k, shape in enumerate(layer.shapes) if _is_small(shape) and _is_hidden(shape, above)]
        kept = tuple(item for k, item in enumerate(layer.items) if k not in hidden)
        made.append(replace(layer, items=kept) if hidden else layer)
        above += [_Seen(shape) for shape in layer.shapes]
    return made[::-1]


class _Seen:
    """A shape that may hide others; its area is worked out once it is asked for."""

    def __init__(self, shape: Shape) -> None:
        self._contours = shape.contours
        self._left, self._top, self._right, self._bottom = shape.contours[0].bounds()

    @cached_property
    def area(self) -> BaseGeometry:
        return region(self._contours, SPACING_PX)

    def is_about(self, left: float, top: float, right: float, bottom: float) -> bool:
        """Tell whether its box and another overlap."""
        return self._left < right and left < self._right and self._top < bottom and top < self._bottom


def _is_small(shape: Shape) -> bool:
    return abs(shape.contours[0].area()) <= MOST_PX2


def _is_hidden(shape: Shape, above: Sequence[_Seen]) -> bool:
    near = [other.area for other in above if other.is_about(*shape.contours[0].bounds())]
    # most are seen, and this at a first glance
    if not near or not shapely.dwithin(near, shapely.Point(shape.contours[0].anchors[0]), SLACK_PX).any():
        return False
    hiding = shapely.union_all(near).buffer(SLACK_PX)
    return bool(hiding.covers(region(shape.contours, SPACING_PX)))
