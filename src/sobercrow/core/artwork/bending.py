"""Shapes bent by pegs: one is pulled, the others hold, and the rest follows as rigidly as it can."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import change_shapes, checked_shapes
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import AnchorKind, Contour

OFF_PX = 0.25
"""A piece further than this from where all its points would come to lie is parted in two."""
DEEPEST = 4
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

    def change(k: int, shape: Shape) -> Shape:
        if k not in chosen:
            return shape
        return replace(shape, contours=tuple(_bent(contour, pegs, to) for contour in shape.contours))

    return Edited(change_shapes(artwork, change), choice)


def _bent(contour: Contour, pegs: Sequence[Point], to: Sequence[Point]) -> Contour:
    """A contour bent: anchors go along, their handles turn with the plane there, long pieces get anchors between."""
    pieces = contour.curves()
    kinds = contour.kinds
    made: list[F64] = []
    ways: list[int] = []
    for k, piece in enumerate(pieces):
        parts = _parted(piece, pegs, to, 0)
        made += parts
        ways += [int(kinds[k]), *[int(AnchorKind.SMOOTH)] * (len(parts) - 1)]
    curves = np.array(made)
    count = len(curves) + (0 if contour.closed else 1)
    points = np.empty((count, 3, 2))
    points[: len(curves), 1], points[: len(curves), 2] = curves[:, 0], curves[:, 1]
    if contour.closed:
        points[:, 0] = np.roll(curves[:, 2], 1, axis=0)
    else:
        points[1:, 0], points[-1, 1:] = curves[:, 2], curves[-1, 3]
        points[0, 0] = points[0, 1]
        ways.append(int(kinds[-1]))
    softened = [min(way, int(AnchorKind.SMOOTH)) for way in ways]
    return Contour(points, np.array(softened, dtype=np.uint8), contour.closed)


def _parted(piece: F64, pegs: Sequence[Point], to: Sequence[Point], depth: int) -> list[F64]:
    """A piece bent, parted where one cubic does not hold it."""
    straight = np.array_equal(piece[0], piece[1]) and np.array_equal(piece[2], piece[3])
    if straight:  # its handles, a third of it long, let it bend
        piece = np.array(
            [piece[0], piece[0] + (piece[3] - piece[0]) / 3, piece[3] - (piece[3] - piece[0]) / 3, piece[3]]
        )
    made = _with_handles(piece, pegs, to)
    wanted = rigid(bezier.evaluate(piece, np.array([0.25, 0.5, 0.75])), pegs, to)
    off = max(bezier.nearest(made[None], (float(x), float(y)))[2] for x, y in wanted)
    if off <= OFF_PX or depth == DEEPEST:
        if straight and _is_straight(made):
            made = np.array([made[0], made[0], made[3], made[3]])
        return [made]
    return [half for part in bezier.split(piece, 0.5) for half in _parted(part, pegs, to, depth + 1)]


def _with_handles(piece: F64, pegs: Sequence[Point], to: Sequence[Point]) -> F64:
    """The ends of a piece moved, its handles turned and stretched as the plane is there."""
    made = piece.copy()
    for anchor, handle in ((0, 1), (3, 2)):
        arm = piece[handle] - piece[anchor]
        size = float(np.hypot(*arm))
        step = arm * (STEP_PX / size) if size > 0.0 else arm
        here, there = rigid(np.array([piece[anchor], piece[anchor] + step]), pegs, to)
        made[anchor] = here
        made[handle] = here + (there - here) * (size / STEP_PX if size > 0.0 else 0.0)
    return made


def _is_straight(curve: F64) -> bool:
    chord = curve[3] - curve[0]
    size = max(float(np.hypot(*chord)), 1e-12)
    return all(abs(chord[0] * arm[1] - chord[1] * arm[0]) / size < 0.1 * OFF_PX for arm in curve[1:3] - curve[0])
