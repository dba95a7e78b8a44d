"""Shapes bent by pegs: one is pulled, the others hold, and the rest follows as rigidly as it can."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import change_shapes, checked_shapes
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import AnchorKind, Contour

OFF_PX = 0.25
"""A piece further than this from where all its points would come to lie is parted in two."""
DEEPEST = 4
QUARTERS = np.array([0.25, 0.5, 0.75])
"""Where on each curve that is looked at."""
STEP_PX = 1e-3
AT_PEG_PX = 1e-9

Point = tuple[float, float]


def rigid(points: F64, pegs: Sequence[Point], to: Sequence[Point]) -> F64:
    """Return where points (n, 2) come to lie when pegs are moved, by rigid moving least squares.

    Schaefer, McPhail & Warren 2006, "Image deformation using moving least squares": each point is turned and moved as
    the pegs are in the mean, those near to it counting most; pegs go exactly where they are moved to.
    """
    v = points[:, 0] + 1j * points[:, 1]
    p, q = (np.array([x + 1j * y for x, y in places]) for places in (pegs, to))
    away = np.abs(v[:, None] - p) ** 2
    weights = 1.0 / np.maximum(away, AT_PEG_PX)
    weights = weights / weights.sum(axis=1, keepdims=True)
    middle_p, middle_q = weights @ p, weights @ q
    turn = (weights * np.conj(p - middle_p[:, None]) * (q - middle_q[:, None])).sum(axis=1)
    size = np.abs(turn)
    turn = np.where(size > AT_PEG_PX, turn / np.maximum(size, AT_PEG_PX), 1.0)
    moved = (v - middle_p) * turn + middle_q
    return np.column_stack([moved.real, moved.imag])


def bend(artwork: Artwork, choice: Choice, pegs: Sequence[Point], to: Sequence[Point]) -> Edited:
    """Bend chosen shapes by pegs that are moved; anchors stay as few as hold the bent line.

    Raises
    ------
    EditError
        If no shapes are chosen, or there are no pegs.
    """
    chosen: Collection[int] = checked_shapes(artwork, choice.shapes)
    if not chosen:
        raise EditError("Choose the shapes to be bent first.")
    if not pegs:
        raise EditError("Set a peg first: click where the shape is to be held.")

    bent = iter(_bent([c for k in sorted(chosen) for c in artwork.shapes[k].contours], pegs, to))

    def change(k: int, shape: Shape) -> Shape:
        return replace(shape, contours=tuple(next(bent) for _ in shape.contours)) if k in chosen else shape

    return Edited(change_shapes(artwork, change), choice)


def _bent(contours: Sequence[Contour], pegs: Sequence[Point], to: Sequence[Point]) -> list[Contour]:
    """Contours bent: anchors go along, their handles turn with the plane there, long pieces get anchors between."""
    pieces = [contour.curves() for contour in contours]
    counts = [len(own) for own in pieces]
    made, origin = _parted(np.concatenate(pieces), pegs, to)
    ends = np.searchsorted(origin, np.cumsum([0, *counts]))
    return [
        _put_together(contour, made[start:end], origin[start:end])
        for contour, start, end in zip(contours, ends[:-1], ends[1:], strict=True)
    ]


def _put_together(contour: Contour, curves: F64, origin: I64) -> Contour:
    """A contour of the curves its pieces have come to, each known by the number of the piece it is of."""
    if not len(curves):
        return contour
    points = np.empty((len(curves) + (not contour.closed), 3, 2))
    points[: len(curves), 1], points[: len(curves), 2] = curves[:, 0], curves[:, 1]
    kinds = np.full(len(points), AnchorKind.SMOOTH, dtype=np.uint8)
    first = np.concatenate([[True], origin[1:] != origin[:-1]])
    kinds[: len(curves)][first] = np.minimum(contour.kinds[: int(first.sum())], AnchorKind.SMOOTH)
    if contour.closed:
        points[:, 0] = np.roll(curves[:, 2], 1, axis=0)
    else:
        points[1:, 0], points[-1, 1:] = curves[:, 2], curves[-1, 3]
        points[0, 0] = points[0, 1]
        kinds[-1] = min(contour.kinds[-1], AnchorKind.SMOOTH)
    return Contour(points, kinds, contour.closed)


def _parted(pieces: F64, pegs: Sequence[Point], to: Sequence[Point]) -> tuple[F64, I64]:
    """Curves bent, each parted in two where one cubic does not hold it; and of which one each part is, in order."""
    straight = bezier.are_lines(pieces)
    third = (pieces[:, 3] - pieces[:, 0]) / 3.0
    # the handles of a line, a third of it long, let it bend
    curves = np.where(
        straight[:, None, None],
        np.stack([pieces[:, 0], pieces[:, 0] + third, pieces[:, 3] - third, pieces[:, 3]], axis=1),
        pieces,
    )
    origin, start = np.arange(len(pieces)), np.zeros(len(pieces))
    done: list[tuple[F64, I64, F64]] = []
    for depth in range(DEEPEST + 1):
        made = _with_handles(curves, pegs, to)
        wanted = rigid(bezier.evaluate(curves, QUARTERS).reshape(-1, 2), pegs, to)
        off = bezier.distances(np.repeat(made, len(QUARTERS), axis=0), wanted).reshape(-1, len(QUARTERS)).max(axis=1)
        holds = (off <= OFF_PX) | (depth == DEEPEST)
        flat = holds & straight[origin] & _are_straight(made)
        made[flat, 1], made[flat, 2] = made[flat, 0], made[flat, 3]
        done.append((made[holds], origin[holds], start[holds]))
        halves = np.stack(bezier.split(curves[~holds], 0.5), axis=1).reshape(-1, 4, 2)
        origin = np.repeat(origin[~holds], 2)
        start = np.repeat(start[~holds], 2) + np.tile([0.0, 0.5 ** (depth + 1)], len(halves) // 2)
        curves = halves
        if not len(curves):
            break
    every, own, place = (np.concatenate(parts) for parts in zip(*done, strict=True))
    order = np.lexsort((place, own))
    return every[order], own[order]


def _with_handles(curves: F64, pegs: Sequence[Point], to: Sequence[Point]) -> F64:
    """The ends of curves moved, their handles turned and stretched as the plane is there."""
    made = curves.copy()
    for anchor, handle in ((0, 1), (3, 2)):
        arm = curves[:, handle] - curves[:, anchor]
        size = np.hypot(*arm.T)[:, None]
        step = arm * (STEP_PX / np.where(size > 0.0, size, 1.0))
        here, there = rigid(curves[:, anchor], pegs, to), rigid(curves[:, anchor] + step, pegs, to)
        made[:, anchor] = here
        made[:, handle] = here + np.where(size > 0.0, (there - here) * (size / STEP_PX), 0.0)
    return made


def _are_straight(curves: F64) -> NDArray[np.bool_]:
    chord = curves[:, 3] - curves[:, 0]
    size = np.maximum(np.hypot(*chord.T), 1e-12)
    arms = curves[:, 1:3] - curves[:, :1]
    across = chord[:, None, 0] * arms[..., 1] - chord[:, None, 1] * arms[..., 0]
    return np.asarray((np.abs(across) / size[:, None] < 0.1 * OFF_PX).all(axis=1))
