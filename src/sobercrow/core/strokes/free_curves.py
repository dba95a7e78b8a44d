"""Curves drawn to work by, neither straight nor round: faint strokes followed through what is drawn over them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.bezier import evaluate
from sobercrow.core.geometry.polygon import along_of
from sobercrow.core.strokes.strokes import Strokes, evenly_spaced, tree_of
from sobercrow.core.strokes.working_forms import ALIKE_COS, Freehand

LEAST_PIECE_PX, LOOK_PX = 8, 8
"""Pieces of a curve have so many points; where they lead is read over so many."""
MOST_PIECES = 400
MOST_GAP_PX = 60.0
AHEAD_COS = 0.85
"""One piece leads to another if what lies between them is so nearly in the direction of both."""
LEAST_HIDDEN = 0.6
"""So much of the way between is covered by what is drawn over it."""
CONTINUES_PX = 10.0


class _End(NamedTuple):
    """An end of a piece of a curve: where it is, and where it leads to, a unit vector."""

    piece: int
    is_last: bool
    at: F64
    ahead: F64


def find_free_curves(pale: Strokes, drawn: Strokes, over: NDArray[np.bool_], least_length_px: float) -> list[Freehand]:
    """Return long curves among pale strokes, beside those of the drawing; `over` (h, w) tells where darker ink lies.

    Pieces that lead to each other beneath the ink are one curve. What runs on as a darker stroke is the drawing's own.
    """
    pieces = [run for run in pale.runs() if len(run) >= LEAST_PIECE_PX]
    pieces = sorted(pieces, key=len, reverse=True)[:MOST_PIECES]
    if not pieces:
        return []
    ends = [end for k, piece in enumerate(pieces) for end in (_end(piece, k, False), _end(piece, k, True))]
    curves = [_joined(pieces, chain) for chain in _chains(ends, over)]
    long = [curve for curve in curves if along_of(curve)[-1] >= least_length_px]
    return [Freehand(curve) for curve in long if not _continues(curve, drawn)]


def _end(piece: F64, k: int, is_last: bool) -> _End:
    line = piece if is_last else piece[::-1]
    way = line[-1] - line[-min(LOOK_PX, len(line))]
    return _End(k, is_last, line[-1], way / np.hypot(*way))


def _way_between(a: _End, b: _End) -> F64:
    """A curve from one end on to another, points (n, 2) a pixel apart."""
    third = np.hypot(*(b.at - a.at)) / 3.0
    curve = np.array([a.at, a.at + third * a.ahead, b.at + third * b.ahead, b.at])
    t = np.linspace(0.0, 1.0, max(3, round(3.0 * third)))
    return np.asarray(evaluate(curve[None], t)[0])


def _chains(ends: list[_End], over: NDArray[np.bool_]) -> list[list[_End]]:
    """Pieces that lead to each other, the nearest joined first: each chain as the ends it is left by, in order."""
    at = np.array([end.at for end in ends])
    near = sorted(tree_of(at).query_pairs(MOST_GAP_PX), key=lambda pair: float(np.hypot(*(at[pair[0]] - at[pair[1]]))))
    other: dict[int, int] = {}
    chain = list(range(len(ends) // 2))  # which chain a piece is of
    for i, j in near:
        a, b = ends[i], ends[j]
        if i in other or j in other or chain[a.piece] == chain[b.piece] or not _lead_together(a, b, over):
            continue
        other[i], other[j] = j, i
        chain = [chain[a.piece] if name == chain[b.piece] else name for name in chain]
    made, seen = [], set()
    for i, end in enumerate(ends):
        if end.piece in seen or i in other:
            continue
        walk, at_end = [], i
        while True:  # in at one end, out at the other
            seen.add(ends[at_end].piece)
            out = at_end ^ 1
            walk.append(ends[out])
            if out not in other:
                break
            at_end = other[out]
        made.append(walk)
    return made


def _lead_together(a: _End, b: _End, over: NDArray[np.bool_]) -> bool:
    between = b.at - a.at
    gap = float(np.hypot(*between))
    if gap > 0.0 and (between @ a.ahead < AHEAD_COS * gap or -between @ b.ahead < AHEAD_COS * gap):
        return False
    rows, columns = np.clip(_way_between(a, b)[:, ::-1].astype(np.int64), 0, np.array(over.shape) - 1).T
    return bool(over[rows, columns].mean() >= LEAST_HIDDEN)


def _joined(pieces: list[F64], chain: list[_End]) -> F64:
    """The points of a chain of pieces, a pixel apart."""
    parts: list[F64] = []
    for k, left in enumerate(chain):
        if k:
            entered = _end(pieces[left.piece], left.piece, not left.is_last)
            parts.append(_way_between(chain[k - 1], entered))
        parts.append(pieces[left.piece] if left.is_last else pieces[left.piece][::-1])
    return evenly_spaced(np.concatenate(parts), 1.0)


def _continues(curve: F64, drawn: Strokes) -> bool:
    """Whether a curve runs on at an end as a stroke of the drawing."""
    if not len(drawn):
        return False
    tree = tree_of(drawn.points)
    for end in (_end(curve, 0, False), _end(curve, 0, True)):
        near = np.array(tree.query_ball_point(end.at, CONTINUES_PX), dtype=np.int64)
        off = drawn.points[near] - end.at
        ahead = near[off @ end.ahead > ALIKE_COS * np.hypot(*off.T)] if len(near) else near
        along = np.abs(np.cos(drawn.ways[ahead]) * end.ahead[0] + np.sin(drawn.ways[ahead]) * end.ahead[1])
        if (along > ALIKE_COS).any():
            return True
    return False
