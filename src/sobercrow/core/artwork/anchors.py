"""Anchor surgery: moving, adding, deleting anchors and changing their kind.

Anchors are named by shape, contour and place; edits are functions from artwork to artwork.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import replace
from typing import Final, Literal

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.choice import AnchorRef, Choice, Edited
from sobercrow.core.artwork.edits import change_shapes
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.fit import fit_cubic

HANDLE_IN: Final = 0
ANCHOR: Final = 1
HANDLE_OUT: Final = 2
Side = Literal[0, 2]
"""One of the handles of an anchor."""
NO_HANDLE_PX = 1e-6
"""A handle nearer than this to its anchor is none."""
REFIT_SPACING_PX = 0.5


def anchor_contour(artwork: Artwork, ref: AnchorRef) -> Contour:
    """Return the contour an anchor is on; raise `EditError` if there is no such anchor."""
    try:
        contour = artwork.shapes[ref.shape].contours[ref.contour]
    except IndexError as fault:
        raise EditError("That anchor is no longer there; choose again.") from fault
    if not 0 <= ref.anchor < len(contour):
        raise EditError("That anchor is no longer there; choose again.")
    return contour


def change_contours(
    artwork: Artwork, refs: Iterable[AnchorRef], change: Callable[[Contour, list[int]], Contour | None]
) -> Artwork:
    """Apply `change` to each contour with the places of its anchors among `refs`.

    A contour changed to None goes; a shape whose outer contour goes, goes whole.
    """
    places: dict[tuple[int, int], set[int]] = {}
    for ref in refs:
        places.setdefault((ref.shape, ref.contour), set()).add(ref.anchor)
    for (s, c), chosen in places.items():
        anchor_contour(artwork, AnchorRef(s, c, min(chosen)))
        anchor_contour(artwork, AnchorRef(s, c, max(chosen)))
    touched = {shape for shape, _ in places}

    def change_shape(index: int, shape: Shape) -> Shape | None:
        if index not in touched:
            return shape
        changed = [
            change(contour, sorted(places[index, k])) if (index, k) in places else contour
            for k, contour in enumerate(shape.contours)
        ]
        if changed[0] is None:
            return None
        return replace(shape, contours=tuple(c for c in changed if c is not None))

    return change_shapes(artwork, change_shape)


def whole_shapes(artwork: Artwork, refs: Collection[AnchorRef]) -> frozenset[int] | None:
    """Return the shapes that anchors belong to if they are all the anchors of them; else None."""
    counts = Counter(ref.shape for ref in refs)
    shapes = artwork.shapes
    if not counts or any(s >= len(shapes) or shapes[s].anchor_count != count for s, count in counts.items()):
        return None
    return frozenset(counts)


def move_anchors(artwork: Artwork, refs: Iterable[AnchorRef], dx_px: float, dy_px: float) -> Artwork:
    """Move anchors together with their handles."""

    def change(contour: Contour, places: list[int]) -> Contour:
        points = contour.points.copy()
        points[places] += (dx_px, dy_px)
        return replace(contour, points=points, form=None)

    return change_contours(artwork, refs, change)


def set_places(artwork: Artwork, places: Mapping[AnchorRef, F64]) -> Artwork:
    """Move anchors, each to a place of its own (2,), together with their handles."""

    def change_of(shape: int, index: int) -> Callable[[Contour, list[int]], Contour]:
        def change(contour: Contour, chosen: list[int]) -> Contour:
            points = contour.points.copy()
            for k in chosen:
                points[k] += places[AnchorRef(shape, index, k)] - points[k, ANCHOR]
            return replace(contour, points=points, form=None)

        return change

    for shape, index in sorted({(ref.shape, ref.contour) for ref in places}):
        own = [ref for ref in places if (ref.shape, ref.contour) == (shape, index)]
        artwork = change_contours(artwork, own, change_of(shape, index))
    return artwork


def move_handle(artwork: Artwork, ref: AnchorRef, side: Side, x: float, y: float) -> Artwork:
    """Move one handle to (x, y). At a smooth anchor the other turns with it, at an even one it mirrors it."""

    def change(contour: Contour, places: list[int]) -> Contour:
        points = contour.points.copy()
        place = places[0]
        anchor = points[place, ANCHOR]
        points[place, side] = (x, y)
        arm = points[place, side] - anchor
        other = 2 - side
        size, length = np.linalg.norm(arm), np.linalg.norm(points[place, other] - anchor)
        if size > NO_HANDLE_PX:
            if contour.kinds[place] == AnchorKind.EVEN:
                points[place, other] = anchor - arm
            elif contour.kinds[place] == AnchorKind.SMOOTH and length > NO_HANDLE_PX:
                points[place, other] = anchor - arm / size * length
        return replace(contour, points=points, form=None)

    return change_contours(artwork, [ref], change)


def handle_figures(arm: F64) -> tuple[float, float]:
    """Return the length in px of a handle, given from its anchor, and its angle in degrees against the clock."""
    return math.hypot(*arm.tolist()), math.degrees(math.atan2(-arm[1], arm[0]))


def handle_end(anchor: F64, length_px: float, angle_deg: float) -> tuple[float, float]:
    """Return where a handle of a length and an angle ends; see `handle_figures`."""
    angle = math.radians(angle_deg)
    return float(anchor[0]) + length_px * math.cos(angle), float(anchor[1]) - length_px * math.sin(angle)


def add_anchor(artwork: Artwork, shape: int, contour: int, curve: int, t: float) -> tuple[Artwork, AnchorRef]:
    """Add an anchor on a curve at parameter `t`; the curve keeps its form. Returns where the anchor is.

    Raises
    ------
    EditError
        If `t` is not inside (0, 1) or the curve is not there.
    """
    if not 0.0 < t < 1.0:
        raise EditError("An anchor can only be added between two others.")
    old = anchor_contour(artwork, AnchorRef(shape, contour, curve))
    if not old.closed and curve == len(old) - 1:
        raise EditError("An anchor can only be added between two others.")
    after = (curve + 1) % len(old)
    cubic = old.curves()[curve]
    points = old.points.copy()
    if _is_line(cubic):
        here = cubic[0] + t * (cubic[3] - cubic[0])
        fresh, kind = np.array([here, here, here]), AnchorKind.CORNER
    else:
        first, second = bezier.split(cubic, t)
        points[curve, HANDLE_OUT], points[after, HANDLE_IN] = first[1], second[2]
        fresh, kind = np.array([first[2], first[3], second[1]]), AnchorKind.SMOOTH
    kinds = old.kinds.copy()
    if kind == AnchorKind.SMOOTH:
        for place in (curve, after):  # a split shortens one handle only
            kinds[place] = AnchorKind.SMOOTH if kinds[place] == AnchorKind.EVEN else kinds[place]
    place = curve + 1
    new = Contour(np.insert(points, place, fresh, axis=0), np.insert(kinds, place, kind), old.closed)
    ref = AnchorRef(shape, contour, curve)
    return change_contours(artwork, [ref], lambda _c, _p: new), AnchorRef(shape, contour, place)


def delete_anchors(artwork: Artwork, refs: Iterable[AnchorRef], hold_form: bool = True) -> Edited:
    """Delete anchors. With `hold_form` the neighbours' handles are refitted to the path that was there.

    A contour left with fewer than two anchors goes; with its outer contour a shape goes whole.
    """

    def change(contour: Contour, places: list[int]) -> Contour | None:
        gone, curves = set(places), contour.curves()
        keep = [k for k in range(len(contour)) if k not in gone]
        if len(keep) < 2:
            return None
        points, kinds = contour.points.copy(), contour.kinds.copy()
        if hold_form:
            for here, there in zip(keep, keep[1:] + keep[:1], strict=True):
                gap = (there - here) % len(contour)
                if gap > 1 and (contour.closed or there > here):
                    cubic = _one_curve(contour, curves, here, gap)
                    points[here, HANDLE_OUT], points[there, HANDLE_IN] = cubic[1], cubic[2]
                    for place in (here, there):
                        kinds[place] = AnchorKind.SMOOTH if kinds[place] == AnchorKind.EVEN else kinds[place]
        return Contour(points[keep], kinds[keep], contour.closed)

    return Edited(change_contours(artwork, refs, change), Choice())


def _one_curve(contour: Contour, every: F64, first: int, count: int) -> F64:
    """One cubic in place of `count` curves, of `every` one of a contour, from anchor `first` on."""
    n = len(contour)
    curves = every[[(first + k) % n for k in range(count)]]
    if all(_is_line(c) for c in curves) and count > 1 and _collinear(curves):
        return np.array([curves[0, 0], curves[0, 0], curves[-1, 3], curves[-1, 3]])
    path = Contour(
        np.stack(
            [
                np.vstack([curves[:1, 0], curves[:, 2]]),
                np.vstack([curves[:1, 0], curves[:, 3]]),
                np.vstack([curves[:, 1], curves[-1:, 3]]),
            ],
            axis=1,
        ),
        np.zeros(count + 1, dtype=np.uint8),
        closed=False,
    )
    last = (first + count) % n
    out = curves[0, 1] - curves[0, 0] if contour.kinds[first] != AnchorKind.CORNER else None
    into = curves[-1, 3] - curves[-1, 2] if contour.kinds[last] != AnchorKind.CORNER else None
    return fit_cubic(path.sampled(REFIT_SPACING_PX), out, into)


def _is_line(cubic: F64) -> bool:
    return bool(
        np.linalg.norm(cubic[1] - cubic[0]) < NO_HANDLE_PX and np.linalg.norm(cubic[3] - cubic[2]) < NO_HANDLE_PX
    )


def _collinear(curves: F64) -> bool:
    chord = curves[-1, 3] - curves[0, 0]
    joints = curves[:-1, 3] - curves[0, 0]
    off = np.abs(chord[0] * joints[:, 1] - chord[1] * joints[:, 0])
    return bool((off <= 1e-3 * (np.linalg.norm(chord) + 1e-12)).all())


def set_kind(artwork: Artwork, refs: Iterable[AnchorRef], kind: AnchorKind) -> Artwork:
    """Make anchors corner, smooth or even. Handles are laid on one line, and made equally long, as needed.

    A smooth or even anchor without handles gets them, along the line from its one neighbour to the other.
    """

    def change(contour: Contour, places: list[int]) -> Contour:
        points, kinds = contour.points.copy(), contour.kinds.copy()
        for place in places:
            kinds[place] = kind
            if kind != AnchorKind.CORNER:
                points[place] = _aligned(contour, place, even=kind == AnchorKind.EVEN)
        return Contour(points, kinds, contour.closed)

    return change_contours(artwork, refs, change)


def _aligned(contour: Contour, place: int, even: bool) -> F64:
    handle_in, anchor, handle_out = contour.points[place]
    before, after = contour.anchors[place - 1], contour.anchors[(place + 1) % len(contour)]
    back, ahead = anchor - handle_in, handle_out - anchor
    back_size, ahead_size = np.linalg.norm(back), np.linalg.norm(ahead)
    if back_size > NO_HANDLE_PX and ahead_size > NO_HANDLE_PX:
        direction = back / back_size + ahead / ahead_size
    elif ahead_size > NO_HANDLE_PX:
        direction = ahead
    elif back_size > NO_HANDLE_PX:
        direction = back
    else:
        direction = after - before
    size = np.linalg.norm(direction)
    if size <= NO_HANDLE_PX:
        return np.array(contour.points[place])
    direction = direction / size
    if back_size <= NO_HANDLE_PX:
        back_size = np.linalg.norm(anchor - before) / 3.0
    if ahead_size <= NO_HANDLE_PX:
        ahead_size = np.linalg.norm(after - anchor) / 3.0
    if even:
        back_size = ahead_size = 0.5 * (back_size + ahead_size)
    return np.array([anchor - direction * back_size, anchor, anchor + direction * ahead_size])
