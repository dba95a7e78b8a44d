"""Choosing shapes: those alike, small ones, those inside or beneath others, the next one under the pointer."""

from __future__ import annotations

from collections.abc import Collection
from enum import StrEnum

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.choosing import within_ring
from sobercrow.core.artwork.hit import box_table, is_inside, shapes_at
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.paint import Gradient
from sobercrow.core.geometry.polygon import along_of

SIZE_RATIO = 1.5
"""Sides up to so many times as long are about the same size."""
FORM_SAMPLES = 256
FORM_SAME = 0.06
"""Outlines brought to one size that differ by no more than this share of it, in the mean, have the same form."""
EDGE_PX = 1.0


class Alike(StrEnum):
    """In what shapes are like those chosen."""

    COLOUR = "colour"
    SIZE = "size"
    FORM = "form"
    LAYER = "layer"


def alike(artwork: Artwork, chosen: Collection[int], by: Alike) -> frozenset[int]:
    """Return the shapes that are like any of those chosen; those themselves are among them.

    About the same size are those whose boxes have sides within a half more or less; of the same form those whose
    outlines, brought to one place and size, differ little, turned or not.
    """
    shapes = artwork.shapes
    if by is Alike.LAYER:
        owners = np.repeat(np.arange(len(artwork.layers)), [len(layer.shapes) for layer in artwork.layers])
        found = set(np.flatnonzero(np.isin(owners, owners[list(chosen)])).tolist())
    elif by is Alike.COLOUR:
        wanted = {_paint(shapes[k]) for k in chosen}
        found = {k for k, shape in enumerate(shapes) if _paint(shape) in wanted}
    elif by is Alike.SIZE:
        found = _as_large(box_table(artwork), chosen)
    else:
        found = _of_form(artwork, chosen)
    return frozenset(found) - artwork.fixed


def _paint(shape: Shape) -> object:
    return shape.fill if isinstance(shape.fill, Gradient) else shape.colour


def _as_large(boxes: F64, chosen: Collection[int]) -> set[int]:
    sides = np.log(np.maximum(boxes[:, 2:] - boxes[:, :2], 1e-9))
    found: set[int] = set()
    for k in chosen:
        found.update(np.flatnonzero((np.abs(sides - sides[k]) <= np.log(SIZE_RATIO)).all(axis=1)).tolist())
    return found


def _of_form(artwork: Artwork, chosen: Collection[int]) -> set[int]:
    """By how far the outline is from its middle in every direction run through, compared at every turn (by FFT)."""
    table: F64 = artwork.once(
        "forms", lambda one: np.array([_signature(s) for s in one.shapes]).reshape(-1, FORM_SAMPLES)
    )
    waves = np.fft.rfft(table, axis=1)
    found: set[int] = set()
    for k in chosen:
        for wave in (waves[k], np.conj(waves[k])):  # as it is, and mirrored
            same = np.fft.irfft(waves * np.conj(wave), FORM_SAMPLES, axis=1).max(axis=1)
            apart = (table**2).sum(axis=1) + (table[k] ** 2).sum() - 2.0 * same
            found.update(np.flatnonzero(np.sqrt(np.maximum(apart, 0.0) / FORM_SAMPLES) <= FORM_SAME).tolist())
    return found


def _signature(shape: Shape) -> F64:
    """How far points evenly along the outer contour are from its middle, as a share of that in the mean."""
    contour = shape.contours[0]
    left, top, right, bottom = contour.bounds()
    line = contour.sampled(max(right - left, bottom - top, 1e-6) / 24.0)
    along = along_of(np.vstack([line, line[:1]]))
    at = np.linspace(0.0, along[-1], FORM_SAMPLES, endpoint=False)
    x, y = (np.interp(at, along, np.append(line[:, axis], line[0, axis])) for axis in range(2))
    away = np.hypot(x - x.mean(), y - y.mean())
    return np.asarray(away / max(float(away.mean()), 1e-9))


def smaller_than(artwork: Artwork, area_px2: float) -> frozenset[int]:
    """Return the filled shapes that cover less than an area."""
    return (
        frozenset(
            k
            for k, shape in enumerate(artwork.shapes)
            if shape.is_filled and abs(sum(contour.area() for contour in shape.contours)) < area_px2
        )
        - artwork.fixed
    )


def inside(artwork: Artwork, chosen: Collection[int]) -> frozenset[int]:
    """Return the shapes that lie wholly within the outer contour of one of those chosen, those not among them."""
    boxes = box_table(artwork)
    found: set[int] = set()
    for k in chosen:
        outer = Shape(artwork.shapes[k].contours[:1])
        near = ((boxes[:, :2] >= boxes[k, :2]) & (boxes[:, 2:] <= boxes[k, 2:])).all(axis=1)
        for other in np.flatnonzero(near).tolist():
            if other not in chosen and all(is_inside(outer, *point) for point in _points(artwork.shapes[other])):
                found.add(other)
    return frozenset(found) - artwork.fixed


def beneath(artwork: Artwork, chosen: Collection[int]) -> frozenset[int]:
    """Return the shapes below those chosen that have anything in common with their boxes."""
    boxes = box_table(artwork)
    found: set[int] = set()
    for k in chosen:
        below = boxes[:k]
        meets = (below[:, :2] < boxes[k, 2:]).all(axis=1) & (below[:, 2:] > boxes[k, :2]).all(axis=1)
        found.update(np.flatnonzero(meets).tolist())
    return frozenset(found) - artwork.fixed - frozenset(chosen)


def at_the_edge(artwork: Artwork) -> frozenset[int]:
    """Return the shapes that touch the edge of the drawing."""
    boxes = box_table(artwork)
    low = boxes[:, :2].min(axis=1, initial=np.inf) <= EDGE_PX
    high = (boxes[:, 2] >= artwork.width_px - EDGE_PX) | (boxes[:, 3] >= artwork.height_px - EDGE_PX)
    return frozenset(np.flatnonzero(low | high).tolist()) - artwork.fixed


def open_ones(artwork: Artwork) -> frozenset[int]:
    """Return the shapes that have an open contour."""
    return (
        frozenset(k for k, shape in enumerate(artwork.shapes) if not all(contour.closed for contour in shape.contours))
        - artwork.fixed
    )


def inverted(artwork: Artwork, chosen: Collection[int]) -> frozenset[int]:
    """Return all other shapes that can be chosen."""
    return frozenset(range(len(artwork.shapes))) - artwork.fixed - frozenset(chosen)


def next_under(artwork: Artwork, chosen: Collection[int], x: float, y: float, reach_px: float) -> int | None:
    """Return the shape at a point that lies below the one chosen there, or the topmost if there is none."""
    there = list(shapes_at(artwork, x, y, reach_px))
    lower = [k for n, k in enumerate(there) if n > 0 and there[n - 1] in chosen]
    return next(iter(lower or there), None)


def within(artwork: Artwork, ring: F64) -> frozenset[int]:
    """Return the shapes all of whose anchors lie within a closed line (n, 2)."""
    found = set()
    for k, shape in enumerate(artwork.shapes):
        if within_ring(ring, np.concatenate([contour.anchors for contour in shape.contours])).all():
            found.add(k)
    return frozenset(found) - artwork.fixed


def _points(shape: Shape) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for contour in shape.contours for x, y in contour.anchors]
