"""What lies under a point or within a frame."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from sobercrow.core.arrays import F64, I64, following
from sobercrow.core.artwork.anchors import ANCHOR, HANDLE_IN, HANDLE_OUT, NO_HANDLE_PX
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.table import anchor_table, rows_of
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import Contour, work_out_bounds
from sobercrow.core.geometry.polygon import box_around

Frame = tuple[float, float, float, float]
"""Left, top, right, bottom in picture pixels."""


@dataclass(frozen=True, slots=True)
class CurvePlace:
    """A place on a curve: which one, its parameter, and how far the asked point is from it, in px."""

    shape: int
    contour: int
    curve: int
    t: float
    distance_px: float


def union_box(shapes: Iterable[Shape]) -> Frame | None:
    """Return the box around shapes, or None without any."""
    boxes = [shape.bounds() for shape in shapes]
    return box_around(boxes) if boxes else None


def boxes_meet(one: Frame, other: Frame) -> bool:
    """Tell whether two boxes have more than an edge in common."""
    return bool(one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3])


def box_holds(outer: Frame, inner: Frame) -> bool:
    """Tell whether a box lies in another, edges in common allowed."""
    return bool(outer[0] <= inner[0] and outer[1] <= inner[1] and outer[2] >= inner[2] and outer[3] >= inner[3])


def artwork_box(artwork: Artwork) -> Frame:
    """Return the box around all of an artwork, worked out once; nothing at the origin if it is empty."""
    box: Frame = artwork.once("box", lambda one: union_box(one.shapes) or (0.0, 0.0, 0.0, 0.0))
    return box


def _in_frame(x: float, y: float, frame: Frame, margin: float = 0.0) -> bool:
    return frame[0] - margin <= x <= frame[2] + margin and frame[1] - margin <= y <= frame[3] + margin


def _crossings(contour: Contour, x: float, y: float) -> int:
    points = contour.sampled(0.5)
    after = following(points)
    upward = (points[:, 1] > y) != (after[:, 1] > y)
    a, b = points[upward], after[upward]
    cut = a[:, 0] + (y - a[:, 1]) / (b[:, 1] - a[:, 1]) * (b[:, 0] - a[:, 0])
    return int((cut > x).sum())


def is_inside(shape: Shape, x: float, y: float) -> bool:
    """Tell whether a point lies in a filled shape, by the even-odd rule."""
    crossings = 0
    for contour in shape.contours:
        _, top, right, bottom = contour.bounds()
        if top <= y <= bottom and x <= right:
            crossings += _crossings(contour, x, y)
    return crossings % 2 == 1


def shape_at(artwork: Artwork, x: float, y: float, reach_px: float = 0.0) -> int | None:
    """Return the topmost shape that can be chosen and holds the point, by the even-odd rule, or is within reach."""
    return next(shapes_at(artwork, x, y, reach_px), None)


def shapes_at(artwork: Artwork, x: float, y: float, reach_px: float = 0.0) -> Iterator[int]:
    """Go through the shapes that `shape_at` could mean, from the topmost down."""
    shapes, fixed = artwork.shapes, artwork.fixed
    for index in range(len(shapes) - 1, -1, -1):
        shape = shapes[index]
        if index in fixed or not _in_frame(x, y, shape.bounds(), reach_px):
            continue
        reach = reach_px + 0.5 * (shape.stroke.width_px if shape.stroke is not None else 0.0)
        near = (contour for contour in shape.contours if _in_frame(x, y, contour.bounds(), reach))
        inside = shape.is_filled and is_inside(shape, x, y)
        if inside or (reach > 0 and any(nearest_on(contour, x, y) <= reach for contour in near)):
            yield index


def shapes_in(artwork: Artwork, frame: Frame) -> frozenset[int]:
    """Return the shapes that can be chosen and lie wholly within a frame."""
    boxes = box_table(artwork)
    left, top, right, bottom = frame
    within = (boxes[:, 0] >= left) & (boxes[:, 1] >= top) & (boxes[:, 2] <= right) & (boxes[:, 3] <= bottom)
    return frozenset(np.flatnonzero(within).tolist()) - artwork.fixed


def box_table(artwork: Artwork) -> F64:
    """Return the boxes of all shapes, (n, 4): left, top, right, bottom; worked out once."""
    boxes: F64 = artwork.once("boxes", _boxes)
    return boxes


def _boxes(artwork: Artwork) -> F64:
    work_out_bounds(contour for shape in artwork.shapes for contour in shape.contours)
    return np.array([shape.bounds() for shape in artwork.shapes], dtype=np.float64).reshape(-1, 4)


def _free(artwork: Artwork, rows: I64, owners: I64) -> I64:
    """Those of some rows whose shapes can be chosen."""
    return rows[~np.isin(owners[rows], list(artwork.fixed))] if artwork.fixed else rows


def anchors_in(artwork: Artwork, frame: Frame) -> frozenset[AnchorRef]:
    """Return the anchors within a frame."""
    table = anchor_table(artwork)
    rows = _free(artwork, table.within(frame), table.names[:, 0])
    return frozenset(AnchorRef(*name) for name in table.names[rows].tolist())


def anchor_at(artwork: Artwork, x: float, y: float, reach_px: float) -> AnchorRef | None:
    """Return the nearest anchor within reach of a point."""
    table = anchor_table(artwork)
    near = table.within((x - reach_px, y - reach_px, x + reach_px, y + reach_px))
    near = _free(artwork, near, table.names[:, 0])
    away = np.hypot(*(table.points[near, 1] - (x, y)).T)
    if not len(near) or away.min() > reach_px:
        return None
    return AnchorRef(*table.names[near[np.argmin(away)]].tolist())


def handle_at(
    artwork: Artwork, refs: frozenset[AnchorRef], x: float, y: float, reach_px: float
) -> tuple[AnchorRef, Literal[0, 2]] | None:
    """Return the nearest handle, of the given anchors only, within reach of a point."""
    table = anchor_table(artwork)
    rows = rows_of(artwork, refs)
    points = table.points[rows]
    sides: tuple[Literal[0], Literal[2]] = (HANDLE_IN, HANDLE_OUT)
    best: tuple[float, AnchorRef, Literal[0, 2]] | None = None
    for side in sides:
        arm = np.hypot(*(points[:, side] - points[:, ANCHOR]).T)
        away = np.where(arm > NO_HANDLE_PX, np.hypot(*(points[:, side] - (x, y)).T), np.inf)
        if len(rows) and away.min() <= reach_px and (best is None or away.min() < best[0]):
            best = float(away.min()), AnchorRef(*table.names[rows[np.argmin(away)]].tolist()), side
    return (best[1], best[2]) if best else None


def curve_at(artwork: Artwork, x: float, y: float, reach_px: float) -> CurvePlace | None:
    """Return the nearest place on any curve within reach of a point."""
    curves, boxes, names = _curve_table(artwork)
    near = np.flatnonzero(
        (boxes[:, 0] <= x + reach_px)
        & (boxes[:, 1] <= y + reach_px)
        & (boxes[:, 2] >= x - reach_px)
        & (boxes[:, 3] >= y - reach_px)
    )
    near = _free(artwork, near, names[:, 0])
    if not len(near):
        return None
    found, t, away = bezier.nearest(curves[near], (x, y))
    shape, contour, piece = names[near[found]].tolist()
    return CurvePlace(shape, contour, piece, t, away) if away <= reach_px else None


def _curve_table(artwork: Artwork) -> tuple[F64, F64, I64]:
    """All curves of an artwork, the boxes of their control points, and shape, contour and piece of each."""

    def work(one: Artwork) -> tuple[F64, F64, I64]:
        contours = [(s, c, q) for s, shape in enumerate(one.shapes) for c, q in enumerate(shape.contours)]
        every = [(s, c, contour.curves()) for s, c, contour in contours]
        curves: F64 = np.concatenate([curves for _, _, curves in every] or [np.zeros((0, 4, 2))])
        names = [np.column_stack([np.full((len(q), 2), (s, c)), np.arange(len(q))]) for s, c, q in every]
        boxes = np.concatenate([curves.min(axis=1), curves.max(axis=1)], axis=1)
        return curves, boxes, np.concatenate(names or [np.zeros((0, 3), dtype=np.int64)])

    table: tuple[F64, F64, I64] = artwork.once("curves", work)
    return table


def nearest_on(contour: Contour, x: float, y: float) -> float:
    """Return how far a point is from a contour, in px."""
    return bezier.nearest(contour.curves(), (x, y))[2]
