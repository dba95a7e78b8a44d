"""Straight lines made of what is nearly straight; level and upright ones of what is nearly so."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64, I64
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.stopping import go_on

NEARLY_ON_PX = 0.02


def straightened(contour: Contour, degrees: float, tolerance_px: float) -> Contour:
    """Return the contour with curves that turn no more than so many degrees in all made straight.

    Straight lines that follow each other in one direction become one where no anchor left out is further off than the
    tolerance. Handles next to a line that run on from it smoothly take its direction.
    """
    go_on()
    points, kinds = contour.points.copy(), contour.kinds.copy()
    limit = np.radians(degrees)
    i, j = _pieces(len(points), contour.closed)
    calm = _turning(points, i, j) <= limit
    points[i[calm], 2], points[j[calm], 0] = points[i[calm], 1], points[j[calm], 1]
    align(points, kinds, contour.closed)
    return without_needless(Contour(points, kinds, contour.closed), limit, tolerance_px)


def squared_up(contour: Contour, degrees: float) -> Contour:
    """Return the contour with straight lines within so many degrees of level or upright made exactly so.

    The ends of an open contour stay where they are.
    """
    points, kinds = contour.points.copy(), contour.kinds.copy()
    n, limit = len(points), np.radians(degrees)
    i, j = _pieces(n, contour.closed)
    for axis in (1, 0):  # level lines share y, upright ones x
        group = np.arange(n)
        d = points[j, 1] - points[i, 1]
        off = np.arctan2(np.abs(d[:, axis]), np.abs(d[:, 1 - axis]))
        level = _are_lines(points, i, j) & (off <= limit) & (np.hypot(*d.T) > 1e-9)
        for one, other in zip(i[level].tolist(), j[level].tolist(), strict=True):
            group[group == group[other]] = group[one]
        for name in np.unique(group[np.concatenate([i[level], j[level]])]):
            members = np.flatnonzero(group == name)
            fixed = members[(members == 0) | (members == n - 1)] if not contour.closed else members[:0]
            if len(members) > 1 and len(fixed) < 2:
                own = points[members, 1, axis]
                target = points[fixed[0], 1, axis] if len(fixed) else own.mean()
                points[members, :, axis] += (target - own)[:, None]
    align(points, kinds, contour.closed)
    return Contour(points, kinds, contour.closed)


def _pieces(n: int, closed: bool) -> tuple[I64, I64]:
    """The anchors every piece begins and ends at."""
    first = np.arange(n if closed else n - 1)
    return first, (first + 1) % n


def _turning(points: F64, i: I64, j: I64) -> F64:
    """How far pieces turn in all, from leg to leg of their controls, in rad; legs of no length are none."""
    legs = np.diff(np.stack([points[i, 1], points[i, 2], points[j, 0], points[j, 1]], axis=1), axis=1)
    far = np.hypot(legs[..., 0], legs[..., 1]) > 1e-9
    turns, last, has_last = np.zeros(len(i)), legs[:, 0].copy(), far[:, 0].copy()
    for k in (1, 2):
        leg = legs[:, k]
        turn = np.arctan2(
            last[:, 0] * leg[:, 1] - last[:, 1] * leg[:, 0], last[:, 0] * leg[:, 0] + last[:, 1] * leg[:, 1]
        )
        turns += np.where(far[:, k] & has_last, np.abs(turn), 0.0)
        last, has_last = np.where(far[:, k, None], leg, last), has_last | far[:, k]
    return turns


def _turn(a: F64, b: F64) -> float:
    return float(np.arctan2(a[0] * b[1] - a[1] * b[0], a[0] * b[0] + a[1] * b[1]))


def _plain_arms(points: F64) -> np.ndarray[tuple[int, int], np.dtype[np.bool_]]:
    """Which handles, in and out of each anchor, lie on it: (n, 2)."""
    return np.asarray((points[:, ::2] == points[:, 1:2]).all(axis=2))


def _are_lines(points: F64, i: I64, j: I64) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which of some pieces are lines; see `is_line`."""
    plain = _plain_arms(points)
    return np.asarray(plain[i, 1] & plain[j, 0])


def is_line(points: F64, i: int, j: int) -> bool:
    """Tell whether the piece from anchor i to anchor j of points (n, 3, 2) is a line."""
    x, y = points[..., 0], points[..., 1]  # by single numbers: asked of every piece, many times over
    leaves, arrives = x[i, 2] == x[i, 1] and y[i, 2] == y[i, 1], x[j, 0] == x[j, 1] and y[j, 0] == y[j, 1]
    return bool(leaves and arrives)


def align(points: F64, kinds: np.ndarray[tuple[int], np.dtype[np.uint8]], closed: bool) -> None:
    """Turn the handle at a smooth anchor beside a straight line into the line's direction, in place."""
    n = len(points)
    first, last = _pieces(n, closed)
    lines = _are_lines(points, first, last)
    for i, j in zip(first[lines].tolist(), last[lines].tolist(), strict=True):
        way = points[j, 1] - points[i, 1]
        size = np.hypot(*way)
        if size < 1e-9:
            continue
        if kinds[i] != AnchorKind.CORNER and (closed or i > 0):
            points[i, 0] = points[i, 1] - way / size * np.hypot(*(points[i, 1] - points[i, 0]))
        if kinds[j] != AnchorKind.CORNER and (closed or j < n - 1):
            points[j, 2] = points[j, 1] + way / size * np.hypot(*(points[j, 2] - points[j, 1]))


def in_line(points: F64, kinds: np.ndarray[tuple[int], np.dtype[np.uint8]]) -> None:
    """Bring the handles of smooth anchors (n, 3, 2) onto one line again, each as long as it was, in place."""
    arms = points[:, ::2] - points[:, 1:2]
    sizes = np.hypot(arms[..., 0], arms[..., 1])
    way = points[:, 2] - points[:, 0]
    way /= np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-9)[:, None]
    turned = (kinds != AnchorKind.CORNER) & (sizes.min(axis=1) > 1e-9)
    for side, sign in ((0, -1.0), (2, 1.0)):
        along = points[:, 1] + sign * way * sizes[:, side // 2, None]
        points[:, side] = np.where(turned[:, None], along, points[:, side])


def without_needless(contour: Contour, limit: float, tolerance_px: float) -> Contour:
    """Drop anchors between two straight lines that run on in one direction."""
    points, kinds = contour.points, contour.kinds
    plain = _plain_arms(points).tolist()
    kept = list(range(len(points)))
    place = 0 if contour.closed else 1
    while len(kept) > 3 and place < (len(kept) if contour.closed else len(kept) - 1):
        before, i, after = kept[place - 1], kept[place], kept[(place + 1) % len(kept)]
        if all((plain[before][1], *plain[i], plain[after][0])):
            a, b = points[i, 1] - points[before, 1], points[after, 1] - points[i, 1]
            whole = a + b
            off = abs(a[0] * whole[1] - a[1] * whole[0]) / max(np.hypot(*whole), 1e-9)
            if abs(_turn(a, b)) <= limit and off <= max(tolerance_px, NEARLY_ON_PX):
                del kept[place]
                place = 0 if place in (0, len(kept)) else max(place - 1, 0 if contour.closed else 1)
                continue
        place += 1
    return Contour(points[kept], kinds[kept], contour.closed)
