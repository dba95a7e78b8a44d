"""Tips: what is cut off between two sides made one corner, where they meet, if the tones of the picture agree.

The border of an acute tip or notch is rounded by the pixels, so that its fit has a short side there and ends early. The
tones beyond tell of the rest.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sobercrow.core.arrays import F64, following
from sobercrow.core.geometry.bezier import split
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.polygon import how_far_to_meet
from sobercrow.core.tracing.proposals import Proposal, agreed, all_or_singly, free, settled, with_all
from sobercrow.core.tracing.regular import is_line
from sobercrow.core.tracing.settling import Found, Settling

SHORT_PX, FURTHEST_PX, MOST_SINGLY = 2.5, 12.0, 2
"""Corners no further apart may be the two of one tip; it lies no further off than this. So many of a contour are tried
each for itself."""
LEAST_SIDE_PX, CUT_PX, CUT = 8.0, 15.0, 0.4
"""What is cut off between two straight sides so long is so short at most, in px and as a share of the shorter one."""
LEAST_SINE = 0.05
"""Of the angle between its sides."""
MUCH_FURTHER = 0.6
"""By how much more than its own parameter a side is led on at most."""
MAY_COST, MAY_COST_PX2 = 1.0, 0.005
"""How much more the picture may differ from it, as a factor and in px² of ink."""
Span = tuple[int, int]
"""The first and the last anchor of what may be one corner."""


def with_sharp_tips(found: Found, tones: Settling) -> Found:
    """Return contours with the two corners of each tip made one where the picture agrees."""
    if not tones.has_tones:
        return found

    def judge(now: Found, proposals: list[Proposal]) -> Found:
        return with_all(now, agreed(now, settled(now, proposals, tones), tones, MAY_COST, MAY_COST_PX2))

    tips = {place: _tips(contour) for place, contour in free(found)}
    return all_or_singly(found, tips, _sharpened, judge, MOST_SINGLY)


def _tips(contour: Contour) -> list[Span]:
    """The corners after which there is another close by, and what is cut off between two long sides; closest first."""
    corner, n = contour.kinds == AnchorKind.CORNER, len(contour)
    apart = np.hypot(*(following(contour.anchors) - contour.anchors).T)
    close = np.flatnonzero(corner & following(corner) & (apart <= SHORT_PX)).tolist()
    spans = {(k, (k + 1) % n): float(apart[k]) for k in close}
    side = [apart[k] >= LEAST_SIDE_PX and is_line(contour.points, k, (k + 1) % n) for k in range(n)]
    for i in range(n):
        length, j = 0.0, i
        while side[i - 1] and not side[j] and length <= CUT_PX:
            length, j = length + float(apart[j]), (j + 1) % n
        if side[i - 1] and j != i and length <= min(CUT_PX, CUT * min(apart[i - 1], apart[j])):
            spans.setdefault((i, j), length)
    return sorted(spans, key=lambda span: spans[span])


def _sharpened(contour: Contour, tips: Sequence[Span]) -> Contour | None:
    """The contour with what lies between some pairs of anchors made one corner; None if none of them can be."""
    points, kinds, n = contour.points.copy(), contour.kinds.copy(), len(contour)
    gone = np.zeros(n, dtype=np.bool_)
    for i, j in tips:
        between = [k % n for k in range(i, j + 1 if j > i else j + n + 1)]
        if gone[between].any() or n - gone.sum() - len(between) < 2:
            continue
        before, after = (i - 1) % n, (j + 1) % n
        tip = _tip(points[i], points[before], points[j], points[after])
        if tip is None or before == j:
            continue
        into = _led_on(np.array([points[before, 1], points[before, 2], points[i, 0], points[i, 1]]), tip)
        out = _led_on(np.array([points[after, 1], points[after, 0], points[j, 2], points[j, 1]]), tip)
        if into is None or out is None:
            continue
        points[before, 2], points[after, 0] = into[1], out[1]
        points[i], kinds[i] = (into[2], tip, out[2]), AnchorKind.CORNER
        gone[between[1:]] = True
    return Contour(points[~gone], kinds[~gone]) if gone.any() else None


def _tip(first: F64, before: F64, last: F64, after: F64) -> F64 | None:
    """Where the sides that end in two corners meet beyond them; None if they do not, or far away."""
    one = _way(first[1], first[0], before)
    other = _way(last[1], last[2], after)
    far = how_far_to_meet(first[1], one, last[1], other, LEAST_SINE)
    if far is None or min(far) <= 0.0 or max(far) > FURTHEST_PX:
        return None
    return np.asarray(first[1] + far[0] * one)


def _led_on(side: F64, tip: F64) -> F64 | None:
    """A cubic (4, 2) led on beyond its end, to a tip: split at a parameter above 1. None if that is too far for it."""
    speed = 3.0 * np.hypot(*(side[3] - side[2]))
    if speed == 0.0:  # a straight side
        return np.array([side[0], side[0], tip, tip])
    further = float(np.hypot(*(tip - side[3]))) / speed
    if further > MUCH_FURTHER:
        return None
    longer = split(side, 1.0 + further)[0]
    longer[2:] += tip - longer[3]
    return longer


def _way(anchor: F64, handle: F64, neighbour: F64) -> F64:
    """The direction in which a side runs on beyond the corner it ends in."""
    way = anchor - (handle if np.hypot(*(anchor - handle)) > 1e-6 else neighbour[1])
    return np.asarray(way / max(np.hypot(*way), 1e-12))
