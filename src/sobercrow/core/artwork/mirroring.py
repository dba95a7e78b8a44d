"""Mirroring in an axis: turned over, as a copy, joined to its original without a seam, half from half.

Contours are cut where they meet the axis, and each stretch on the side that is kept is led back by its mirror image. As
every such ring runs through the same places of the axis, their even-odd area is the half and its image, and no edge
is left along the axis.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.anchors import anchor_contour
from sobercrow.core.artwork.choice import AnchorRef, Choice, Edited
from sobercrow.core.artwork.edits import Changed, change_shapes, checked_shapes, choice_of
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.placing import box_of, placed_contour, placed_shape
from sobercrow.core.artwork.stretches import with_joints
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.combine import How, combine_all
from sobercrow.core.geometry.contour import AnchorKind, Contour

ON_AXIS_PX = 1e-6
CUT = 1e-6
"""A cut nearer to the end of a piece than this is at its end."""
LEAST_LENGTH_PX = 1e-3


class Side(StrEnum):
    """Which side of an axis is kept: seen with the axis upright, left or right of it."""

    LEFT = "left"
    RIGHT = "right"


@dataclass(frozen=True, slots=True)
class Axis:
    """A line to mirror in: a point on it, and its turn clockwise from level in degrees."""

    x: float
    y: float
    angle_deg: float = 90.0

    @property
    def way(self) -> Affine:
        """What mirrors in it."""
        return Affine.mirrored(self.angle_deg, (self.x, self.y))

    @property
    def frame(self) -> tuple[Affine, Affine]:
        """What leads to where the axis is the upright through the origin, its left side on the left, and back."""
        turn = 90.0 - self.angle_deg
        there = Affine.moved(-self.x, -self.y).then(Affine.turned(turn, (0.0, 0.0)))
        return there, Affine.turned(-turn, (0.0, 0.0)).then(Affine.moved(self.x, self.y))


def axis_between(start: tuple[float, float], end: tuple[float, float]) -> Axis:
    """Return the axis through two points; raise `EditError` if they are one."""
    dx, dy = end[0] - start[0], end[1] - start[1]
    if float(np.hypot(dx, dy)) < LEAST_LENGTH_PX:
        raise EditError("An axis needs two places; draw it longer.")
    angle = float(np.degrees(np.arctan2(dy, dx))) % 180.0
    return Axis(*start, 0.0 if abs(angle - 180.0) < 1e-9 else angle)


def axis_of(artwork: Artwork, choice: Choice, upright: bool = True) -> Axis:
    """Return the upright or level axis through the middle of what is chosen, or through two chosen anchors.

    Raises
    ------
    EditError
        If nothing is chosen.
    """
    if len(choice.anchors) == 2:
        one, other = (_place(artwork, ref) for ref in sorted(choice.anchors))
        return axis_between(one, other)
    box = box_of(artwork, choice)
    if box is None:
        raise EditError("Choose what is to be mirrored, or two anchors of the axis.")
    return Axis(0.5 * (box[0] + box[2]), 0.5 * (box[1] + box[3]), 90.0 if upright else 0.0)


def _place(artwork: Artwork, ref: AnchorRef) -> tuple[float, float]:
    x, y = anchor_contour(artwork, ref).anchors[ref.anchor].tolist()
    return x, y


def turn_over(artwork: Artwork, choice: Choice, axis: Axis) -> Artwork:
    """Mirror chosen shapes; raise `EditError` if none are chosen."""
    chosen = _chosen(artwork, choice)
    return change_shapes(artwork, lambda k, shape: placed_shape(shape, axis.way) if k in chosen else shape)


def copy_over(artwork: Artwork, choice: Choice, axis: Axis, join: bool = False) -> Edited:
    """Lay a mirrored copy of chosen shapes beside them; joined, shapes that meet the axis are one with their copies.

    Raises
    ------
    EditError
        If no shapes are chosen.
    """

    def change(shape: Shape) -> list[Shape]:
        there, back = axis.frame
        own = placed_shape(shape, there)
        left, _, right, _ = own.bounds()
        image = placed_shape(shape, axis.way)
        if not join or left > ON_AXIS_PX or right < -ON_AXIS_PX:
            return [shape, image]
        if shape.is_filled and left < -ON_AXIS_PX and right > ON_AXIS_PX:
            parts = combine_all([own.contours, placed_shape(own, _FLIP).contours], How.UNITE)
            return [replace(shape, contours=tuple(placed_contour(c, back) for c in part)) for part in parts]
        side = Side.LEFT if right <= ON_AXIS_PX else Side.RIGHT
        return _halved(shape, axis, side) or [shape, image]

    return _each(artwork, _chosen(artwork, choice), change)


def half_from_half(artwork: Artwork, choice: Choice, axis: Axis, keep: Side) -> Edited:
    """Leave of chosen shapes, or of all, what lies on one side of an axis, and its mirror image for the other side.

    Raises
    ------
    EditError
        If nothing lies on that side.
    """
    chosen = _chosen(artwork, choice) if choice.shapes else frozenset(range(len(artwork.shapes))) - artwork.fixed
    made = _each(artwork, chosen, lambda shape: _halved(shape, axis, keep))
    if not made.choice.shapes:
        raise EditError(f"Nothing of it lies {keep.value} of the axis; keep the other side.")
    return made


def _chosen(artwork: Artwork, choice: Choice) -> frozenset[int]:
    chosen = checked_shapes(artwork, choice.shapes)
    if not chosen:
        raise EditError("Choose the shapes to be mirrored first.")
    return chosen


def _each(artwork: Artwork, chosen: frozenset[int], change: Callable[[Shape], Sequence[Shape]]) -> Edited:
    fresh: list[Shape] = []

    def changed(k: int, shape: Shape) -> Changed:
        if k not in chosen:
            return shape
        made = change(shape)
        fresh.extend(made)
        return made

    made = change_shapes(artwork, changed)
    return Edited(made, choice_of(made, fresh))


_FLIP = Affine.scaled(-1.0, 1.0, (0.0, 0.0))


def _halved(shape: Shape, axis: Axis, keep: Side) -> list[Shape]:
    """The half of a shape and its image: one shape where they meet at the axis, else two; none if it has no half."""
    there, back = axis.frame
    if keep is Side.RIGHT:
        there, back = there.then(_FLIP), _FLIP.then(back)
    meets, rings = False, []
    apart: list[Contour] = []
    for contour in shape.contours:
        own = placed_contour(contour, there)
        runs = _runs(own)
        if runs is None:
            apart.append(own)
        else:
            meets = True
            rings += [ring for run in runs for ring in _led_back(run)]
    images = [placed_contour(contour, _FLIP) for contour in apart]
    if meets:
        whole = sorted([*rings, *apart, *images], key=lambda contour: -abs(contour.area()))
        return [replace(shape, contours=tuple(placed_contour(c, back) for c in whole))] if whole else []
    if not apart or apart[0].bounds()[2] > ON_AXIS_PX:
        return []
    return [replace(shape, contours=tuple(placed_contour(c, back) for c in half)) for half in (apart, images)]


def _runs(contour: Contour) -> list[tuple[F64, bool, bool]] | None:
    """The stretches of a contour left of the upright through the origin, curves (n, 4, 2) each, and whether they begin
    and end on it; None if it does not meet it."""
    pieces = [part for curve in contour.curves() for part in _cut(curve)]
    sides = [_side_of(piece) for piece in pieces]
    touches = not contour.closed and min(abs(pieces[0][0, 0]), abs(pieces[-1][3, 0])) <= ON_AXIS_PX
    if all(side < 0 for side in sides) and not touches:
        return None
    if all(side >= 0 for side in sides):
        return []
    count = len(pieces)
    if contour.closed:  # begin where a stretch on the left begins
        start = next(k for k in range(count) if sides[k] < 0 <= sides[k - 1]) if min(sides) < 0 else 0
        pieces, sides = pieces[start:] + pieces[:start], sides[start:] + sides[:start]
    runs: list[tuple[F64, bool, bool]] = []
    k = 0
    while k < count:
        if sides[k] >= 0:
            k += 1
            continue
        last = k
        while last + 1 < count and sides[last + 1] < 0:
            last += 1
        run = np.array(pieces[k : last + 1])
        starts = contour.closed or k > 0 or abs(run[0, 0, 0]) <= ON_AXIS_PX
        ends = contour.closed or last + 1 < count or abs(run[-1, 3, 0]) <= ON_AXIS_PX
        for on, piece, at, handle in ((starts, 0, 0, 1), (ends, -1, 3, 2)):
            if on:
                if np.array_equal(run[piece, at], run[piece, handle]):
                    run[piece, handle, 0] = 0.0
                run[piece, at, 0] = 0.0
        runs.append((run, bool(starts), bool(ends)))
        k = last + 1
    return runs


def _cut(curve: F64) -> list[F64]:
    """A curve in parts, cut where it passes x = 0."""
    x = curve[:, 0]
    roots = np.roots([x[3] - 3 * x[2] + 3 * x[1] - x[0], 3 * (x[2] - 2 * x[1] + x[0]), 3 * (x[1] - x[0]), x[0]])
    places = sorted({float(r.real) for r in np.atleast_1d(roots) if abs(r.imag) < 1e-9 and CUT < r.real < 1.0 - CUT})
    is_line = np.array_equal(curve[0], curve[1]) and np.array_equal(curve[2], curve[3])
    parts, left, done = [], curve, 0.0
    for t in places:
        first, left = bezier.split(left, (t - done) / (1.0 - done))
        parts.append(first)
        done = t
    parts.append(left)
    return [np.array([p[0], p[0], p[3], p[3]]) if is_line else p for p in parts]


def _side_of(piece: F64) -> int:
    """On which side a piece lies, by its middle: −1 left, 1 right, 0 on the axis."""
    x = float(bezier.evaluate(piece, np.array([0.5]))[0, 0])
    return 0 if abs(x) <= ON_AXIS_PX else (-1 if x < 0.0 else 1)


def _led_back(run: tuple[F64, bool, bool]) -> list[Contour]:
    """A stretch and its mirror image as one contour, closed if both its ends lie on the axis; two if none does."""
    curves, starts_on, ends_on = run
    image = curves[::-1, ::-1] * (-1.0, 1.0)
    if starts_on and ends_on:
        return [_of_curves(np.concatenate([curves, image]), closed=True)]
    if ends_on:
        return [_of_curves(np.concatenate([curves, image]), closed=False)]
    if starts_on:
        return [_of_curves(np.concatenate([image, curves]), closed=False)]
    return [_of_curves(curves, closed=False), _of_curves(image, closed=False)]


def _of_curves(curves: F64, closed: bool) -> Contour:
    """A contour of curves end to end; its kinds as it runs."""
    count = len(curves) + (0 if closed else 1)
    points = np.empty((count, 3, 2))
    points[: len(curves), 1], points[: len(curves), 2] = curves[:, 0], curves[:, 1]
    if closed:
        points[:, 0] = np.roll(curves[:, 2], 1, axis=0)
    else:
        points[-1, 1:] = curves[-1, 3]
        points[0, 0], points[1:, 0] = curves[0, 0], curves[:, 2]
    made = Contour(points, np.full(count, int(AnchorKind.SMOOTH), dtype=np.uint8), closed)
    return with_joints(made, range(count))
