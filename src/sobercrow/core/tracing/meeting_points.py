"""Meeting points: where straight sides of several contours lead to about one place, their corners are that place.

Pixels and compression round every corner for itself, so that triangles which meet in a point come out with lumps and
rims between them. Lines through their long sides tell where they meet (least squares on the distances from lines).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from sobercrow.core.arrays import F64, following, preceding
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.polygon import how_far_to_meet, line_through
from sobercrow.core.tracing.proposals import ANCHOR_PX2, Place, Proposal, bettered, free, settled, with_all
from sobercrow.core.tracing.regular import align
from sobercrow.core.tracing.settling import Found, Settling

LEAST_SIDE_PX, MOST_BOW_PX, REACH_PX = 6.0, 0.7, 5.0
"""Sides at least so long, whose handles are no further off their chord, lead on as far as this."""
BESIDE_PX, ASKED = 0.9, 9
"""Of a side that is seen, its ink is so far off on one side of it alone, at most of so many places."""
OFF_PX, LEAST_SINE = 0.7, 0.2
"""They meet if their lines pass so near to one place, and if some of them cross at no flatter angle."""
CLEAR_PX, LEAST_POINTS = 2.0, 6
"""Where it runs is read from its border, off its ends."""
LEAST_SIDES = 3
MOST_TRIED = 2
"""Besides where sides meet, so many corners are tried as the place."""
ROOM_PX, LEAST_ROOM_PX = 0.6, 1.0
"""Anchors no further off than the furthest end of a side, and so much more, go to the place; at least those so near."""
SAME_PX = 0.25
"""Corners that lie so near to their middle go there in any case."""
MAY_COST_PX2 = 0.08
"""What one place may cost, in px² of ink a contour."""


@dataclass(frozen=True, slots=True)
class _End:
    """The end of a straight side: where it is, the way the side leads on beyond it, and of which contour."""

    at: F64
    way: F64
    place: Place


def with_meeting_points(found: Found, lines: Sequence[Sequence[F64]], tones: Settling) -> Found:
    """Return contours whose corners meet exactly where the picture agrees that they do.

    `lines` are the borders they were fitted to, ink by ink.
    """
    if not tones.has_tones:
        return found
    meets = list(_points(_ends(found, lines, tones)))
    everything = found
    for point, room in meets:
        everything = with_all(everything, [_all_gathered(everything, point, room, tones)])
    changed = {(ink, k): contour for (ink, k), contour in free(everything) if contour is not found[ink][k]}
    if len(meets) > 1:  # a side may run to where it should only once both of its ends are there
        found = bettered(found, [Proposal(changed)], tones, ANCHOR_PX2, MAY_COST_PX2)
    for point, room in meets:
        found = _met(found, point, room, tones)
    return found


def _met(found: Found, point: F64, room: float, tones: Settling) -> Found:
    """Contours that meet about a place, in it or in a corner that is near, if the picture agrees."""
    for where in (point, *_corners(found, point, room)):
        together = bettered(found, [_all_gathered(found, where, room, tones)], tones, ANCHOR_PX2, MAY_COST_PX2)
        if together is not found:
            return together
    gathered = _all_gathered(found, point, room, tones)
    if not gathered.contours:
        return found
    moved = settled(found, [gathered], tones)
    together = bettered(found, [_in_one_point(one, point) for one in moved], tones, ANCHOR_PX2, MAY_COST_PX2)
    if together is not found:
        return together
    alone = Proposal({(ink, k): found[ink][k] for ink, k in gathered.contours})
    corners = np.array([_nearest(contour, point)[1] for contour in alone.contours.values()])
    apart = float(np.hypot(*(corners - corners.mean(axis=0)).T).max())
    return with_all(found, [_in_one_point(alone, point)]) if apart <= SAME_PX else found


def _nearest(contour: Contour, point: F64) -> tuple[int, F64]:
    """Which anchor of a contour is nearest to a place, and where it is."""
    k = int(np.hypot(*(contour.anchors - point).T).argmin())
    return k, contour.anchors[k]


def _corners(found: Found, point: F64, room: float) -> list[F64]:
    """Where corners of the inks that lie uppermost are near a place."""
    near = []
    for (ink, _), contour in free(found):
        corner = _nearest(contour, point)[1]
        if np.hypot(*(corner - point)) <= room:
            near.append((ink, corner))
    return [corner for _, corner in sorted(near, key=lambda one: -one[0])[:MOST_TRIED]]


def _all_gathered(found: Found, point: F64, room: float, tones: Settling) -> Proposal:
    contours = {}
    for place, contour in free(found):
        gathered = _gathered(contour, point, room, partial(_is_seen, tones, place[0]))
        if gathered is not None:
            contours[place] = gathered
    return Proposal(contours)


def _in_one_point(proposal: Proposal, point: F64) -> Proposal:
    """Contours whose corners nearest to a place were moved each for itself, with all of these in their middle."""
    nearest = {place: _nearest(contour, point)[0] for place, contour in proposal.contours.items()}
    middle = np.mean([proposal.contours[place].anchors[k] for place, k in nearest.items()], axis=0)
    made = {}
    for place, contour in proposal.contours.items():
        points = contour.points.copy()
        points[nearest[place]] += middle - contour.anchors[nearest[place]]
        made[place] = Contour(points, contour.kinds)
    return Proposal(made)


def _ends(found: Found, lines: Sequence[Sequence[F64]], tones: Settling) -> list[_End]:
    """The ends of all long sides that are seen, not covered by what lies above them."""
    ends = []
    for place, contour in free(found):
        after = following(contour.points)
        for a, first, b, last in zip(contour.anchors, contour.points[:, 2], after[:, 1], after[:, 0], strict=True):
            if not (_is_straight(a, first, last, b) and _is_seen(tones, place[0], a, b)):
                continue
            side = _read(lines[place[0]][place[1]], a, b)
            if side is not None:
                middle, way = side
                ends += [_End(middle + ((c - middle) @ way) * way, sign * way, place) for c, sign in ((a, -1), (b, 1))]
    return ends


def _read(line: F64, a: F64, b: F64) -> tuple[F64, F64] | None:
    """A place on the side of a border from about a to about b, and its direction, by what is not near its ends."""
    length = float(np.hypot(*(b - a)))
    way = (b - a) / length
    along, off = (line - a) @ way, (line - a) @ np.array([-way[1], way[0]])
    clear = line[(along > CLEAR_PX) & (along < length - CLEAR_PX) & (np.abs(off) <= MOST_BOW_PX)]
    if len(clear) < LEAST_POINTS:
        return None
    return line_through(clear, way)


def _is_seen(tones: Settling, number: int, a: F64, b: F64) -> bool:
    """Tell whether nothing covers an ink's side from a to b: the ink is there close by on one side of it alone."""
    own, ink = tones.separation.own, tones.separation.drawn[number]
    across = BESIDE_PX * np.array([a[1] - b[1], b[0] - a[0]]) / max(np.hypot(*(b - a)), 1e-9)
    along = a + np.linspace(0.2, 0.8, ASKED)[:, None] * (b - a)
    most = np.array(own.shape)[::-1] - 1
    one, other = (np.clip((along + side).astype(np.int64), 0, most) for side in (across, -across))
    seen = (own[one[:, 1], one[:, 0]] == ink) != (own[other[:, 1], other[:, 0]] == ink)
    return bool(2 * seen.sum() > ASKED)


def _points(ends: list[_End]) -> Iterator[tuple[F64, float]]:
    """Yield places where ends of several sides meet, and how far around; where most do comes first."""
    if len(ends) < LEAST_SIDES:
        return
    at, ways = np.array([end.at for end in ends]), np.array([end.way for end in ends])
    meets: list[tuple[int, F64, float]] = []
    for k, end in enumerate(ends):
        near = np.flatnonzero(np.hypot(*(at - end.at).T) <= 2.0 * REACH_PX)
        for other in near[near > k].tolist():
            far = how_far_to_meet(end.at, end.way, at[other], ways[other], LEAST_SINE)
            if far is not None and max(map(abs, far)) <= REACH_PX:
                found = _agreed(end.at + far[0] * end.way, at, ways, ends)
                meets += [found] if found is not None else []
    meets.sort(key=lambda meet: -meet[0])
    taken: list[F64] = []
    for _, point, room in meets:
        if all(np.hypot(*(point - other)) > REACH_PX for other in taken):
            taken.append(point)
            yield point, room


def _agreed(point: F64, at: F64, ways: F64, ends: list[_End]) -> tuple[int, F64, float] | None:
    """How many sides lead to about a place, where exactly, and how far their ends are from it; None if too few do."""
    across = np.column_stack([-ways[:, 1], ways[:, 0]])
    mine = (np.hypot(*(at - point).T) <= REACH_PX) & (np.abs(((at - point) * across).sum(axis=1)) <= OFF_PX)
    if mine.sum() < LEAST_SIDES or len({ends[k].place for k in np.flatnonzero(mine).tolist()}) < 2:
        return None
    normals = across[mine]
    best = np.linalg.lstsq(normals, (normals * at[mine]).sum(axis=1), rcond=None)[0]
    away = float(np.hypot(*(at[mine] - best).T).max())
    return int(mine.sum()), np.asarray(best), max(away + ROOM_PX, LEAST_ROOM_PX)


def _gathered(contour: Contour, point: F64, room: float, is_seen: Callable[[F64, F64], bool]) -> Contour | None:
    """The contour with every run of anchors in a place made one corner there; None if there is no such run.

    A run between whose sides another ink covers is left: there the contour goes on beneath that.
    """
    near = np.hypot(*(contour.anchors - point).T) <= room
    if (~near).sum() < 2:
        return None
    points, kinds, n = contour.points.copy(), contour.kinds.copy(), len(contour)
    corners: list[int] = []
    kept = np.ones(n, dtype=np.bool_)
    for i in np.flatnonzero(near & ~preceding(near)).tolist():
        run = [i]
        while near[(run[-1] + 1) % n]:
            run.append((run[-1] + 1) % n)
        before, after = points[(i - 1) % n, 1], points[(run[-1] + 1) % n, 1]
        if not (is_seen(before, point) and is_seen(point, after)):
            continue
        into, out = points[i, 0] - points[i, 1], points[run[-1], 2] - points[run[-1], 1]
        points[i], kinds[i] = (point + into, point, point + out), AnchorKind.CORNER
        kept[run[1:]] = False
        corners.append(i)
    if not corners:
        return None
    at = np.cumsum(kept) - 1
    points, kinds = points[kept], kinds[kept]
    for j in at[corners].tolist():
        for i, k in (((j - 1) % len(points), j), (j, (j + 1) % len(points))):
            if _is_straight(points[i, 1], points[i, 2], points[k, 0], points[k, 1]):
                points[i, 2], points[k, 0] = points[i, 1], points[k, 1]
    align(points, kinds, True)
    return Contour(points, kinds)


def _is_straight(a: F64, first: F64, last: F64, b: F64) -> bool:
    """Tell whether a stretch is so long, and its handles so near to its chord, that it is a side."""
    length = float(np.hypot(*(b - a)))
    across = np.array([a[1] - b[1], b[0] - a[0]]) / max(length, 1e-9)
    off = max(abs(float((first - a) @ across)), abs(float((last - a) @ across)))
    return length >= LEAST_SIDE_PX and off <= MOST_BOW_PX
