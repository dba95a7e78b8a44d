"""Ink added with a nib, or scraped away: exact union and difference of curves."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import change_shapes, in_place, with_shapes
from sobercrow.core.artwork.hit import Frame, boxes_meet
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.combine import How, combine, combine_all, contours_around, region
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.polygon import along_of, at_distances, box_around
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.parallel import on_cores
from sobercrow.core.settings import MM_PER_INCH, Meaning, setting

OUTLINE_PX, STEP_PX, HAND_PX = 0.04, 0.5, 2.5
FLATNESS = 0.25
"""A flat nib is so many times as thick as it is wide."""
ROUND_SEGMENTS = 32
PRESSURE_STEPS = 8.0
"""A hand's pressure is calmed over so many steps of the line."""
PRESSURE_STEP_SHARE = 0.1
"""A nib whose width changes is laid down at every such share of its half width."""
LEAST_HALF_PX = 0.1


@dataclass(frozen=True, slots=True)
class Nib:
    """What ink is added or scraped with."""

    width_mm: float = setting(1.0, Meaning("Width", "Of the nib.", 0.05, 30.0, "mm", 0.05, 2))
    flat: bool = field(default=False, metadata={"label": "Flat nib", "help": "A broad edge, held at an angle."})
    angle_deg: float = setting(40.0, Meaning("Angle", "At which a flat nib is held.", -90.0, 90.0, "°", 5.0, 0))


def swept(points: F64, nib: Nib, dpi: float, zoom: float, shares: F64 | None = None) -> list[Contour]:
    """Return the outlines of what a nib inks along points (n, 2), the jitter of the hand taken out.

    `shares` (n,) is how much of its width the nib has at each point, from 0 to 1, as a pen's pressure gives it.
    """
    width = nib.width_mm * dpi / MM_PER_INCH
    line = _calm(points, zoom)
    if shares is not None and len(line) > 1 and np.ptp(shares) > 0.0:
        return contours_around(_by_pressure(line, 0.5 * width * _shares_along(points, shares, line), nib), OUTLINE_PX)
    if shares is not None:
        width *= float(shares.mean())
    if nib.flat:
        area = _by_flat_nib(line, width, nib.angle_deg)
    elif len(line) > 1:
        area = shapely.LineString(line).buffer(0.5 * width, quad_segs=ROUND_SEGMENTS)
    else:
        area = shapely.Point(line[0]).buffer(0.5 * width, quad_segs=ROUND_SEGMENTS)
    return contours_around(area, OUTLINE_PX)


def _calm(points: F64, zoom: float) -> F64:
    along = along_of(points)
    keep = np.concatenate([[True], np.diff(along) > 1e-6])
    points, along = points[keep], along[keep]
    if len(points) < 3:
        return points
    step = STEP_PX / max(zoom, 1e-6)
    count = max(3, round(float(along[-1]) / step) + 1)
    at = np.linspace(0.0, along[-1], count)
    line = at_distances(points, along, at)
    calm = smoothed(line, min(HAND_PX / STEP_PX, count / 8.0), Beyond.LAST)
    calm[0], calm[-1] = line[0], line[-1]
    return calm


def _shares_along(points: F64, shares: F64, line: F64) -> F64:
    """The shares of points at the places of a line made of them, calmed likewise."""
    drawn, along = along_of(points), along_of(line)
    at = np.interp(along / max(along[-1], 1e-9), drawn / max(drawn[-1], 1e-9), shares)
    bell = min(PRESSURE_STEPS, len(at) / 8.0)
    return np.clip(smoothed(np.column_stack([along, at]), bell, Beyond.LAST)[:, 1], at.min(), at.max())


def _by_pressure(line: F64, halves: F64, nib: Nib) -> BaseGeometry:
    """What a nib inks whose width changes along a line: the hulls of it at neighbouring places."""
    along = along_of(line)
    step = max(STEP_PX, PRESSURE_STEP_SHARE * float(halves.mean()))
    at = np.linspace(0.0, along[-1], max(2, round(float(along[-1]) / step) + 1))
    places, halves = at_distances(line, along, at), np.interp(at, along, halves)
    halves = np.maximum(halves, LEAST_HALF_PX)
    if nib.flat:
        forms = [_flat_corners(2.0 * half, nib.angle_deg) + place for place, half in zip(places, halves, strict=True)]
    else:
        turn = np.linspace(0.0, 2.0 * math.pi, 4 * ROUND_SEGMENTS, endpoint=False)
        ring = np.column_stack([np.cos(turn), np.sin(turn)])
        forms = [place + half * ring for place, half in zip(places, halves, strict=True)]
    return _led(forms)


def _led(forms: Sequence[F64]) -> BaseGeometry:
    """What a convex form inks that is led from place to place."""
    if len(forms) == 1:
        return shapely.Polygon(forms[0])
    return shapely.union_all([shapely.MultiPoint(np.vstack(both)).convex_hull for both in pairwise(forms)])


def _flat_corners(width: float, angle_deg: float) -> F64:
    c, s = math.cos(math.radians(angle_deg)), -math.sin(math.radians(angle_deg))
    along, across = 0.5 * width * np.array([c, s]), 0.5 * FLATNESS * width * np.array([-s, c])
    return np.array([along + across, along - across, -along - across, -along + across])


def _by_flat_nib(line: F64, width: float, angle_deg: float) -> BaseGeometry:
    """What a rectangle inks that is led along a line without being turned."""
    corners = _flat_corners(width, angle_deg)
    return _led([corners + place for place in line])


def add_ink(artwork: Artwork, outlines: Sequence[Contour], colour: str) -> Edited:
    """Add an inked area of a colour: with the filled shapes of it that it touches it becomes one, in the place of the
    uppermost of them.

    What touches none is a new shape, on top.
    """
    touched = [k for k in _touched(artwork, outlines) if artwork.shapes[k].colour == colour]
    if not touched:
        return with_shapes(artwork, [Shape(own, colour) for own in combine(outlines, [], How.UNITE)])
    boxes = {k: artwork.shapes[k].bounds() for k in touched}
    near: list[Sequence[Contour]] = [outlines]
    apart: list[Contour] = []
    for k in touched:
        others = [box for other, box in boxes.items() if other != k]
        met, rest = _parted(artwork.shapes[k].contours, [_box(outlines), *others])
        near.append(met)
        apart += rest
    last = artwork.shapes[touched[-1]]
    united = _joined(combine_all(near, How.UNITE), apart)
    return in_place(artwork, set(touched), touched[-1], [replace(last, contours=group) for group in united])


def scrape_ink(artwork: Artwork, outlines: Sequence[Contour]) -> Edited:
    """Take an area away from all filled shapes it touches; a shape may come apart, or go.

    Raises
    ------
    EditError
        If it touches none.
    """
    touched = _touched(artwork, outlines)
    if not touched:
        raise EditError("There is no filled shape here to scrape from.")

    def left_of(k: int) -> list[Shape]:
        shape = artwork.shapes[k]
        near, apart = _parted(shape.contours, [_box(outlines)])
        left = _joined(combine(near, outlines, How.SUBTRACT), apart)
        return [replace(shape, contours=group) for group in left]

    made = dict(zip(touched, on_cores(touched, left_of), strict=True))
    return Edited(change_shapes(artwork, lambda k, shape: made.get(k, shape)), Choice())


def _box(contours: Sequence[Contour]) -> Frame:
    return box_around([contour.bounds() for contour in contours])


def _parted(contours: Sequence[Contour], boxes: Sequence[Frame]) -> tuple[list[Contour], list[Contour]]:
    """Contours whose boxes meet some others, and the rest, which nothing done to an area within those can change."""
    near: list[Contour] = []
    apart: list[Contour] = []
    for contour in contours:
        own = contour.bounds()
        (near if any(boxes_meet(own, box) for box in boxes) else apart).append(contour)
    return near, apart


def _joined(groups: list[tuple[Contour, ...]], apart: Sequence[Contour]) -> list[tuple[Contour, ...]]:
    """Shapes, outer contour first, with what was left out given back: to the smallest that surrounds it, else the
    largest."""
    if not apart:
        return groups
    if len(groups) < 2:
        return [(*(contour for group in groups for contour in group), *apart)]
    outers = [shapely.make_valid(shapely.Polygon(group[0].sampled(STEP_PX))) for group in groups]
    sizes = shapely.area(outers).tolist()
    owner = np.full(len(apart), sizes.index(max(sizes)))
    places = shapely.points(np.array([contour.anchors[0] for contour in apart]))
    for k in sorted(range(len(groups)), key=lambda k: -sizes[k]):  # the smallest speaks last
        owner[shapely.contains(outers[k], places)] = k
    parts = [[*group] for group in groups]
    for k, contour in zip(owner.tolist(), apart, strict=True):
        parts[k].append(contour)
    return [tuple(part) for part in parts]


def _touched(artwork: Artwork, outlines: Sequence[Contour]) -> list[int]:
    """The filled shapes an area has anything in common with."""
    area, frame = region(outlines, STEP_PX), _box(outlines)
    found = []
    for k, shape in enumerate(artwork.shapes):
        if not shape.is_filled or k in artwork.fixed or not boxes_meet(shape.bounds(), frame):
            continue
        if all(c.closed for c in shape.contours):
            near, _ = _parted(shape.contours, [frame])
            if region(near, STEP_PX).intersects(area):
                found.append(k)
    return found
