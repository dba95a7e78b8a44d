"""Contours cut open, joined, closed, turned round; holes taken out as shapes, and put in again."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import replace
from enum import StrEnum

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.anchors import add_anchor, anchor_contour
from sobercrow.core.artwork.choice import AnchorRef, Choice, Edited
from sobercrow.core.artwork.edits import Changed, change_shapes, choice_of, layer_of
from sobercrow.core.artwork.hit import is_inside
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.artwork.stretches import change_contour, with_joints
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.contour import AnchorKind, Contour, directions

SAME_PLACE_PX = 1e-3
"""Ends nearer to each other than this become one anchor."""
SMOOTH_ARM = 1.0 / 3.0


class Bridge(StrEnum):
    """How two ends are joined: by a straight line, or led on as they run."""

    STRAIGHT = "straight"
    SMOOTH = "smooth"


def cut(artwork: Artwork, shape: int, contour: int, curve: int, t: float) -> Edited:
    """Cut a contour anywhere on its line; at its ends `t` is 0 or 1. See `cut_at`."""
    whole = anchor_contour(artwork, AnchorRef(shape, contour, curve))
    if 0.0 < t < 1.0:
        artwork, ref = add_anchor(artwork, shape, contour, curve, t)
    else:
        ref = AnchorRef(shape, contour, (curve + round(t)) % len(whole))
    return cut_at(artwork, ref)


def cut_at(artwork: Artwork, ref: AnchorRef) -> Edited:
    """Cut a contour at an anchor: a closed one is open there then, an open one is two.

    Raises
    ------
    EditError
        If it is the end of an open one.
    """
    whole = anchor_contour(artwork, ref)
    k = ref.anchor
    if whole.closed:
        order = [(k + j) % len(whole) for j in range(len(whole) + 1)]
        points, kinds = whole.points[order].copy(), whole.kinds[order].copy()
        parts = [_open(points, kinds)]
    else:
        if k in (0, len(whole) - 1):
            raise EditError("This is an end already; cut somewhere between the ends.")
        parts = [
            _open(whole.points[: k + 1].copy(), whole.kinds[: k + 1].copy()),
            _open(whole.points[k:].copy(), whole.kinds[k:].copy()),
        ]
    owner = artwork.shapes[ref.shape]
    contours = (*owner.contours[: ref.contour], *parts, *owner.contours[ref.contour + 1 :])
    made = change_shapes(artwork, lambda index, old: replace(old, contours=contours) if index == ref.shape else old)
    end = AnchorRef(ref.shape, ref.contour, len(parts[0]) - 1)
    return Edited(made, Choice(anchors=frozenset({end})))


def _open(points: F64, kinds: np.ndarray[tuple[int], np.dtype[np.uint8]]) -> Contour:
    points[0, 0], points[-1, 2] = points[0, 1], points[-1, 1]
    kinds[[0, -1]] = int(AnchorKind.CORNER)
    return Contour(points, kinds, closed=False)


def join(artwork: Artwork, refs: Collection[AnchorRef], how: Bridge = Bridge.STRAIGHT) -> Edited:
    """Join two open ends: of one contour, which is closed then, or of two, which become one in the lower shape.

    Raises
    ------
    EditError
        If these are not two open ends, or they belong to different layers.
    """
    ends = sorted(refs)
    if len(ends) != 2 or not all(_is_end(artwork, ref) for ref in ends):
        raise EditError("Choose two open ends to join them: the first or last anchors of open contours.")
    one, other = ends
    first = artwork.shapes[one.shape].contours[one.contour]
    if (one.shape, one.contour) == (other.shape, other.contour):
        return _closed(artwork, one, first, how)
    if layer_of(artwork, one.shape) != layer_of(artwork, other.shape):
        raise EditError("These ends lie in different layers; bring both contours into one layer first.")
    second = artwork.shapes[other.shape].contours[other.contour]
    first = first if one.anchor else first.reversed()
    second = second if other.anchor == 0 else second.reversed()
    joined = _joined(first, second, how)
    artwork = change_contour(artwork, one.shape, one.contour, joined)
    artwork = change_contour(artwork, other.shape, other.contour, None)
    return Edited(artwork, Choice(anchors=frozenset({AnchorRef(one.shape, one.contour, len(first) - 1)})))


def _is_end(artwork: Artwork, ref: AnchorRef) -> bool:
    contour = anchor_contour(artwork, ref)
    return not contour.closed and ref.anchor in (0, len(contour) - 1)


def _joined(first: Contour, second: Contour, how: Bridge) -> Contour:
    """Two open contours as one, the first one's end joined to the second one's start."""
    a, b = first.points.copy(), second.points.copy()
    if np.hypot(*(a[-1, 1] - b[0, 1])) <= SAME_PLACE_PX:
        a[-1, 2] = b[0, 2]
        points, kinds = np.concatenate([a, b[1:]]), np.concatenate([first.kinds, second.kinds[1:]])
        return with_joints(Contour(points, kinds, closed=False), [len(a) - 1])
    if how is Bridge.SMOOTH:
        a[-1, 2], b[0, 0] = _led_on(first, second)
    made = Contour(np.concatenate([a, b]), np.concatenate([first.kinds, second.kinds]), closed=False)
    return with_joints(made, [len(a) - 1, len(a)])


def _led_on(first: Contour, second: Contour) -> tuple[F64, F64]:
    """Handles that lead from one end on to a start as both run."""
    gap = float(np.hypot(*(second.anchors[0] - first.anchors[-1])))
    into, out = directions(first)[0][-1], directions(second)[1][0]
    return first.anchors[-1] + SMOOTH_ARM * gap * into, second.anchors[0] - SMOOTH_ARM * gap * out


def _closed(artwork: Artwork, ref: AnchorRef, contour: Contour, how: Bridge) -> Edited:
    points, kinds = contour.points.copy(), contour.kinds.copy()
    if np.hypot(*(points[0, 1] - points[-1, 1])) <= SAME_PLACE_PX and len(points) > 2:
        points[0, 0] = points[-1, 0]
        made = with_joints(Contour(points[:-1], kinds[:-1]), [0])
    else:
        if how is Bridge.SMOOTH:
            points[-1, 2], points[0, 0] = _led_on(contour, contour)
        made = with_joints(Contour(points, kinds), [0, len(points) - 1])
    return Edited(
        change_contour(artwork, ref.shape, ref.contour, made),
        Choice(anchors=frozenset({AnchorRef(ref.shape, ref.contour, 0)})),
    )


def close(artwork: Artwork, choice: Choice, how: Bridge = Bridge.STRAIGHT) -> Edited:
    """Close the open contours that chosen anchors or shapes have.

    Raises
    ------
    EditError
        If none of them is open.
    """

    def changed(contour: Contour) -> Contour:
        whole = Artwork((Layer("", (Shape((contour,)),)),), 1.0, 1.0, 300.0)
        return _closed(whole, AnchorRef(0, 0, 0), contour, how).artwork.shapes[0].contours[0]

    return _each(artwork, choice, lambda c: changed(c) if not c.closed and len(c) > 1 else c, "is open")


def reverse(artwork: Artwork, choice: Choice) -> Edited:
    """Turn chosen contours round, so that they run the other way; what is filled stays."""
    edited = _each(artwork, choice, lambda contour: contour.reversed(), "is chosen")
    mirrored = frozenset(
        ref._replace(anchor=len(artwork.shapes[ref.shape].contours[ref.contour]) - 1 - ref.anchor)
        for ref in choice.anchors
    )
    return Edited(edited.artwork, Choice(choice.shapes, mirrored))


def _each(artwork: Artwork, choice: Choice, change: Callable[[Contour], Contour], what: str) -> Edited:
    """Change the contours that are chosen, by their shapes or by anchors on them."""
    named = {(ref.shape, ref.contour) for ref in choice.anchors}

    def change_shape(index: int, shape: Shape) -> Shape:
        contours = [
            change(contour) if index in choice.shapes or (index, c) in named else contour
            for c, contour in enumerate(shape.contours)
        ]
        same = all(a is b for a, b in zip(contours, shape.contours, strict=True))
        return shape if same else replace(shape, contours=tuple(contours))

    made = change_shapes(artwork, change_shape)
    if all(a is b for a, b in zip(made.shapes, artwork.shapes, strict=True)):
        raise EditError(f"No contour {what} in what is chosen.")
    return Edited(made, choice)


def take_out(artwork: Artwork, choice: Choice) -> Edited:
    """Take chosen contours out of their shapes, each as a shape of its own above it; holes become filled.

    Raises
    ------
    EditError
        If no contour is chosen beside another one in its shape.
    """
    wanted = {(ref.shape, ref.contour) for ref in choice.anchors if len(artwork.shapes[ref.shape].contours) > 1}
    if not wanted:
        raise EditError("Choose an anchor of a hole to take it out as its own shape.")
    fresh: list[Shape] = []

    def change(index: int, shape: Shape) -> Changed:
        out = [c for c in range(len(shape.contours)) if (index, c) in wanted]
        out = out[:-1] if len(out) == len(shape.contours) else out
        if not out:
            return shape
        rest = tuple(contour for c, contour in enumerate(shape.contours) if c not in out)
        taken = [shape.contours[c] for c in out]
        own = [replace(shape, contours=(c if c.area() > 0 or not c.closed else c.reversed(),)) for c in taken]
        fresh.extend(own)
        return [replace(shape, contours=rest), *own]

    made = change_shapes(artwork, change)
    return Edited(made, choice_of(made, fresh))


def put_in(artwork: Artwork, choice: Choice) -> Edited:
    """Put the contours of the upper of two chosen shapes into the lower one, as its holes.

    Raises
    ------
    EditError
        If not two filled shapes are chosen, or the upper one does not lie within the lower.
    """
    if len(choice.shapes) != 2:
        raise EditError("Choose two shapes: one, and the one above it that is to be its hole.")
    low, high = sorted(choice.shapes)
    lower, upper = artwork.shapes[low], artwork.shapes[high]
    if not (lower.is_filled and upper.is_filled):
        raise EditError("A stroke cannot be or have a hole; choose two filled shapes.")
    if not all(is_inside(lower, *(float(v) for v in point)) for c in upper.contours for point in c.anchors):
        raise EditError("The upper shape does not lie within the lower one; move it there first.")
    outer = lower.contours[0].area() > 0
    holes = tuple(c if (c.area() > 0) is not outer else c.reversed() for c in upper.contours)

    def change(index: int, shape: Shape) -> Shape | None:
        if index == high:
            return None
        return replace(shape, contours=(*shape.contours, *holes)) if index == low else shape

    return Edited(change_shapes(artwork, change), Choice(shapes=frozenset({low})))
