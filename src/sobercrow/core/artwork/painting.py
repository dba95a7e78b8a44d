"""Paint of shapes: fills, strokes, gradients, the colours of an artwork, and what the picture beneath has."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection
from dataclasses import replace

import cv2
import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.edits import change_shapes, checked_shapes
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.paint import Fill, Gradient, Spread, Stop, Stroke
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.affine import Affine

LEAST_PX = 1e-3
SPACING_PX = 0.5
RIM_PX = 1.2
"""So far from its edge a shape's pixels are mixed with what lies beside it."""
LUMA = np.array((0.2126, 0.7152, 0.0722))
"""Of linear light (IEC 61966-2-1)."""
SHADED = 10.0
"""From so much change of a channel on, from one end of a shape to the other, its pixels make a gradient."""


def _each(artwork: Artwork, choice: Choice, change: Callable[[Shape], Shape]) -> Artwork:
    chosen = checked_shapes(artwork, choice.shapes)
    if not chosen:
        raise EditError("Choose shapes first.")
    return change_shapes(artwork, lambda k, shape: change(shape) if k in chosen else shape)


def set_fill(artwork: Artwork, choice: Choice, fill: Fill) -> Artwork:
    """Fill chosen shapes with a colour or a gradient, or with nothing; raise `EditError` if none are chosen.

    A shape left without fill and stroke would be seen no more: it gets a hair line in the colour it had.
    """

    def change(shape: Shape) -> Shape:
        if fill is None and shape.stroke is None:
            return replace(shape, fill=None, stroke=Stroke(shape.colour, 1.0))
        return replace(shape, fill=fill)

    return _each(artwork, choice, change)


def set_stroke(artwork: Artwork, choice: Choice, change: Callable[[Stroke | None, Shape], Stroke | None]) -> Artwork:
    """Change the strokes of chosen shapes; what would have neither fill nor stroke is filled in its stroke's colour."""

    def changed(shape: Shape) -> Shape:
        stroke = change(shape.stroke, shape)
        fill = shape.colour if stroke is None and shape.fill is None else shape.fill
        return replace(shape, stroke=stroke, fill=fill)

    return _each(artwork, choice, changed)


def colours_of(artwork: Artwork) -> list[str]:
    """Return all colours of an artwork's fills, gradients and strokes: by how many shapes have them, most first."""
    counts: dict[str, int] = {}
    for shape in artwork.shapes:
        for colour in _colours(shape):
            counts[colour] = counts.get(colour, 0) + 1
    return sorted(counts, key=lambda colour: -counts[colour])


def _colours(shape: Shape) -> set[str]:
    found = {shape.stroke.colour} if shape.stroke is not None else set()
    if isinstance(shape.fill, Gradient):
        found |= {stop.colour for stop in shape.fill.stops}
    elif shape.fill is not None:
        found.add(shape.fill)
    return found


def recolour(artwork: Artwork, old: str, new: str) -> Artwork:
    """Put a colour in another's place everywhere; raise `EditError` if nothing has it."""
    return _mapped(artwork, range(len(artwork.shapes)), lambda colour: new if colour == old else colour)


def greys(artwork: Artwork, choice: Choice) -> Artwork:
    """Make the colours of chosen shapes, or of all, greys of the same lightness; raise `EditError` if all are."""
    return _mapped(artwork, choice.shapes or range(len(artwork.shapes)), grey_of)


def grey_of(colour: str) -> str:
    """Return the grey that is as light as a colour, by its luminance (IEC 61966-2-1)."""
    rgb = np.array([int(colour[k : k + 2], 16) for k in (1, 3, 5)]) / 255.0
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    y = float(linear @ LUMA)
    value = round(255.0 * (12.92 * y if y <= 0.0031308 else 1.055 * y ** (1 / 2.4) - 0.055))
    return f"#{value:02x}{value:02x}{value:02x}"


def _mapped(artwork: Artwork, places: Collection[int], way: Callable[[str], str]) -> Artwork:
    wanted = frozenset(places)

    def change(k: int, shape: Shape) -> Shape:
        if k not in wanted or all(way(colour) == colour for colour in _colours(shape)):
            return shape
        fill, stroke = shape.fill, shape.stroke
        if isinstance(fill, Gradient):
            fill = replace(fill, stops=tuple(Stop(stop.at, way(stop.colour)) for stop in fill.stops))
        elif fill is not None:
            fill = way(fill)
        return replace(shape, fill=fill, stroke=None if stroke is None else replace(stroke, colour=way(stroke.colour)))

    made = change_shapes(artwork, change)
    if all(a is b for a, b in zip(made.shapes, artwork.shapes, strict=True)):
        raise EditError("Nothing here has another colour to be changed.")
    return made


# gradients


def gradient_between(
    spread: Spread, start: tuple[float, float], end: tuple[float, float], stops: tuple[Stop, ...]
) -> Gradient:
    """Return a gradient laid from one place to another: along it, or from the middle to the rim.

    Raises
    ------
    EditError
        If the places are one, or there are fewer than two stops.
    """
    dx, dy = end[0] - start[0], end[1] - start[1]
    if math.hypot(dx, dy) < LEAST_PX:
        raise EditError("A gradient needs some length; pull it longer.")
    if len(stops) < 2:
        raise EditError("A gradient needs two colours or more.")
    return Gradient(spread, stops, Affine(dx, dy, -dy, dx, start[0], start[1]))


def ends_of(gradient: Gradient) -> tuple[tuple[float, float], tuple[float, float]]:
    """Return from where to where a gradient is laid; see `gradient_between`."""
    way = gradient.way
    return (way.e, way.f), (way.e + way.a, way.f + way.b)


# as in the picture


def as_in_picture(artwork: Artwork, choice: Choice, pixels: U8, shaded: bool = False) -> Artwork:
    """Paint chosen shapes, or all, with the colour the pixels beneath them have: its median, away from their edges.

    `pixels` (height, width, 3) are those of the cleaned picture, of any size. With `shaded`, shapes whose pixels change
    from one side to another get the linear gradient nearest to them (least squares).

    Raises
    ------
    EditError
        If no chosen shape lies on the picture.
    """
    wanted = choice.shapes or frozenset(range(len(artwork.shapes)))
    scale = pixels.shape[1] / artwork.width_px
    fills: dict[int, Fill] = {}
    for k in sorted(wanted):
        fill = _picture_fill(artwork.shapes[k], pixels, scale, shaded)
        if fill is not None:
            fills[k] = fill
    if not fills:
        raise EditError("None of these shapes lies on the picture.")

    def change(k: int, shape: Shape) -> Shape:
        fill = fills.get(k)
        if fill is None or fill == shape.fill:
            return shape
        if shape.is_filled or shape.stroke is None:
            return replace(shape, fill=fill)
        colour = fill.stops[0].colour if isinstance(fill, Gradient) else fill
        return replace(shape, stroke=replace(shape.stroke, colour=colour))

    return change_shapes(artwork, change)


def _picture_fill(shape: Shape, pixels: U8, scale: float, shaded: bool) -> Fill:
    """The colour or gradient of the pixels a shape covers; None if it covers none."""
    left, top, right, bottom = shape.bounds()
    x0, y0 = max(0, math.floor(left * scale)), max(0, math.floor(top * scale))
    x1, y1 = min(pixels.shape[1], math.ceil(right * scale)), min(pixels.shape[0], math.ceil(bottom * scale))
    if x1 <= x0 or y1 <= y0:
        return None
    mask = np.zeros((y1 - y0, x1 - x0), np.uint8)
    edges = [np.rint((edge * scale - (x0, y0) - 0.5) * 16).astype(np.int32) for edge in shape.edges(SPACING_PX / scale)]
    cv2.fillPoly(mask, edges, 1, shift=4)
    inner = cv2.erode(
        mask, np.ones((3, 3), np.uint8), iterations=max(1, round(RIM_PX * min(scale, 1.0))), borderValue=0
    )
    own = inner if inner.sum() >= 4 else mask
    ys, xs = np.nonzero(own)
    if not len(xs):
        return None
    colours = pixels[y0 + ys, x0 + xs].astype(np.float64)
    plain = _hex(np.median(colours, axis=0))
    if not shaded or len(xs) < 50:
        return plain
    return _shade(np.asarray((np.column_stack([xs + x0, ys + y0]) + 0.5) / scale), colours) or plain


def _shade(places: F64, colours: F64) -> Gradient | None:
    """The linear gradient nearest to colours at places, if they change enough for one."""
    middle = places.mean(axis=0)
    rows = np.column_stack([places - middle, np.ones(len(places))])
    slopes = np.linalg.lstsq(rows, colours, rcond=None)[0]
    _, _, ways = np.linalg.svd(slopes[:2].T, full_matrices=False)
    way = ways[0]
    along = (places - middle) @ way
    low, high = np.percentile(along, (1, 99))
    parts = [colours[(along >= a) & (along <= b)] for a, b in _thirds(low, high)]
    if not (len(parts[0]) and len(parts[-1])):
        return None
    ends = [np.median(part, axis=0) for part in parts if len(part)]
    if np.abs(ends[-1] - ends[0]).max() < SHADED or high - low < LEAST_PX:
        return None
    start, end = middle + low * way, middle + high * way
    # medians of the outer parts lie a twelfth within the ends; led on to them
    led = (ends[-1] - ends[0]) / 10.0
    stops = (
        Stop(0.0, _hex(ends[0] - led)),
        *(Stop(0.5, _hex(ends[1])) for _ in range(len(ends) == 3)),
        Stop(1.0, _hex(ends[-1] + led)),
    )
    return gradient_between(Spread.LINEAR, (float(start[0]), float(start[1])), (float(end[0]), float(end[1])), stops)


def _thirds(low: float, high: float) -> list[tuple[float, float]]:
    """The outer sixths and the middle of a stretch."""
    size = (high - low) / 6.0
    return [(low, low + size), (low + 2.5 * size, low + 3.5 * size), (high - size, high)]


def _hex(colour: F64) -> str:
    r, g, b = (int(v) for v in np.clip(np.rint(colour), 0, 255))
    return f"#{r:02x}{g:02x}{b:02x}"
