"""Nearly straight runs between two corners made one side, where the picture does not tell them apart.

Fitting bends a side within its tolerance, and moving curves to where tones have them bends it again. Of two drawings
that the picture cannot tell apart the one with fewer numbers is the one that was drawn (minimum description length,
Rissanen 1978).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.geometry.bezier import evaluate
from sobercrow.core.geometry.contour import AnchorKind, Contour, directions
from sobercrow.core.inks.separation import SeveralInks
from sobercrow.core.tracing.proposals import ANCHOR_PX2, Proposal, all_or_singly, bettered, free, settled
from sobercrow.core.tracing.regular import is_line
from sobercrow.core.tracing.settling import Found, Settling

LEAST_LENGTH_PX, MOST_BOW_PX, MOST_BOW = 4.0, 0.8, 0.06
"""A run so long may be a side if it is off its chord by no more than this, in px and as a share of its length."""
LEAST_TURN = math.radians(12)
"""Corners that turn by less may lie on a side."""
BEND_PX2 = 0.03
"""What a side is worth for bending nowhere, in px² of ink, besides its fewer anchors."""
MOST_SINGLY = 3
"""So many runs of a contour are tried each for itself where all at once do not do."""
ALONG = np.linspace(0.0, 1.0, 9)
Run = tuple[int, int]
"""The anchors a run begins and ends at."""


def with_straight_runs(found: Found, tones: Settling, *, moved: bool) -> Found:
    """Return contours whose nearly straight runs between corners are sides, where the picture agrees.

    With `moved` they may be moved to where the picture has them; else their corners stay where they are.
    """
    if not isinstance(tones.separation, SeveralInks):
        return found  # one ink was fitted to borders its tones tell closely

    def judge(now: Found, proposals: list[Proposal]) -> Found:
        ready = settled(now, proposals, tones) if moved else proposals
        return bettered(now, ready, tones, ANCHOR_PX2, BEND_PX2)

    runs = {place: _runs(contour) for place, contour in free(found)}
    return all_or_singly(found, runs, _straightened, judge, MOST_SINGLY)


def _runs(contour: Contour) -> list[Run]:
    """Runs between corners that bend, but hardly; those that have most to lose come first.

    Corners that hardly turn are passed over where all that lies between the others is nearly straight.
    """
    corner = contour.kinds == AnchorKind.CORNER
    turning = np.flatnonzero(corner & _turns(contour)).tolist()
    found: list[tuple[int, float, Run]] = []
    for i, j in _neighbours(turning):
        whole = _run(contour, i, j)
        within = [k for k in _places(contour, i, j) if corner[k]]
        parts = [whole] if whole is not None else [_run(contour, a, b) for a, b in pairwise([*within, j])]
        found += [run for run in parts if run is not None]
    return [run for _, _, run in sorted(found, key=lambda one: one[:2], reverse=True)]


def _neighbours(corners: list[int]) -> list[Run]:
    return list(zip(corners, [*corners[1:], corners[0]], strict=True)) if len(corners) > 1 else []


def _places(contour: Contour, i: int, j: int) -> list[int]:
    """The anchors from i on that come before j."""
    n = len(contour)
    return [k % n for k in range(i, j if j > i else j + n)]


def _turns(contour: Contour) -> NDArray[np.bool_]:
    """At which anchors the contour turns by a corner's angle."""
    into, out = directions(contour)
    cross, along = into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], (into * out).sum(axis=1)
    return np.asarray(np.abs(np.arctan2(cross, along)) >= LEAST_TURN)


def _run(contour: Contour, i: int, j: int) -> tuple[int, float, Run] | None:
    """How many curves lead from one corner to another, and how far; None if they are straight, or hardly so."""
    between = _places(contour, i, j)
    chord = contour.anchors[j] - contour.anchors[i]
    length = float(np.hypot(*chord))
    if length < LEAST_LENGTH_PX or (len(between) == 1 and is_line(contour.points, i, j)):
        return None
    points = evaluate(contour.curves()[between], ALONG) - contour.anchors[i]
    off = float(np.abs(points @ np.array([-chord[1], chord[0]])).max()) / length
    return (len(between), length, (i, j)) if off <= min(MOST_BOW_PX, MOST_BOW * length) else None


def _straightened(contour: Contour, runs: Sequence[Run]) -> Contour:
    """The contour with runs between corners as lines."""
    points = contour.points.copy()
    kept = np.ones(len(points), dtype=np.bool_)
    for i, j in runs:
        kept[_places(contour, i, j)[1:]] = False
        points[i, 2], points[j, 0] = points[i, 1], points[j, 1]
    return Contour(points[kept], contour.kinds[kept])
