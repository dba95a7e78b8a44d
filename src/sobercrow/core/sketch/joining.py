"""Lines brought to where they were meant to meet: ends joined, overshoots taken off, gaps closed."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.polygon import how_far_to_meet, polygon_area
from sobercrow.core.settings import Verdict
from sobercrow.core.sketch.by_hand import cut_at_joints
from sobercrow.core.sketch.ends import OVERSHOOT, STUB, Drawn, End, cut_at, ends_of
from sobercrow.core.sketch.leading import led_to_lines, without_stubs
from sobercrow.core.sketch.lifted import Traced
from sobercrow.core.sketch.said import Said, reach_of
from sobercrow.core.strokes.strokes import evenly_spaced, tree_of

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

LEAST_SPREAD_PX = 2.0
"""A calm hand leaves gaps and overshoots of some pixels too."""
GAP, SMOOTH_GAP = 3.0, 5.0
"""Ends meet over so many spreads; over so many if they run straight on."""
FACING_GAP, FACING_SHARE, FACING_DEG, FACING_COS = 9.0, 0.15, 15.0, 0.97
"""Over so many if they face each other exactly, and both are much longer than the gap."""
STRAIGHT_DEG, AHEAD_COS = 30.0, 0.85
TURN_DEG = 35.0
"""Ends that turn by more meet in a corner, if there is room for one."""
BENT_DEG, MOST_BENT_DEG = 14.0, 90.0
"""Ends meet round if both lines bend that way before, by so much together, and turn by less than the latter."""
CORNER_REACH, LEAD, OWN_LEAD = 3.5, 5.0, 8.0
"""And if its place is no further than so many spreads from both; or so many ahead of both together, or of the ends of
one line."""
LONG_OVERSHOOT = 6.0
"""Ends that lead to a corner may have run on beyond it by so many."""
LEAST_SINE = 0.25
CORNER_SLACK = 2.0
"""A corner that was said to be lies within so many spreads of where that was said."""
HAIRPIN_DEG, BESIDE = 140.0, 5.0
"""Lines that turn back are not joined if they run side by side for so many spreads."""
CLOSING = 6.0
"""A line is closed by joining its ends if it is so many spreads long."""
THIN = 0.8
"""And if what it encloses is at least so many spreads wide to each side of its middle."""
OWN_GAP, OWN_SHARE, OWN_TURN_DEG, OWN_AHEAD_COS = 9.0, 0.09, 60.0, 0.5
"""Then also over so many spreads, and so much of its length, if its ends run about towards each other."""
PER_STUB = 2.0
"""Lines so many spreads long may be no more than where strokes ran on: that they join others is so much less likely."""
PER_SPREAD, PER_DEG, PER_OVERSHOOT = 0.5, 1.0 / 60.0, 0.12
CLOSES = 1.0
"""That a line closes is likelier than that its ends meet others, by so much."""
INK_SLACK = 0.15
"""A corner may lie further from the ink than an arc by so many spreads."""
ARC_POINTS = 24


@dataclass(frozen=True, slots=True, eq=False)
class _Joint:
    """Two ends that meet, at a corner or, without one, round."""

    one: int
    other: int
    corner: F64 | None


def joined(lines: Sequence[Traced], ink: F64, spread: float, said: Sequence[Said] = ()) -> list[Drawn]:
    """Return lines joined where they were meant to meet; `ink` (n, 2) are places with ink, distances in px.

    `said` are joints as they were said to be by hand.
    """
    spread = max(spread, LEAST_SPREAD_PX)
    lines = cut_at_joints(lines, said, spread)
    ends = [end for k, line in enumerate(lines) if not line.closed for end in ends_of(k, line.points, spread)]
    joints = _joints(lines, ends, ink, spread, said)
    made = [Drawn(line.points, True) for line in lines if line.closed]
    made += [_closed(one, ink, spread, said) for one in _assembled(lines, ends, joints, spread)]
    return led_to_lines(without_stubs(made, spread), spread, said)


def _joints(
    lines: Sequence[Traced], ends: Sequence[End], ink: F64, spread: float, said: Sequence[Said]
) -> list[_Joint]:
    """The joints of ends, those that were said first, then the likeliest; each end is in one at most."""
    if len(ends) < 2:
        return []
    made, taken, apart = _said_joints(ends, said, spread)
    reach = (OWN_GAP + OVERSHOOT) * spread
    pairs = tree_of(np.array([end.place for end in ends])).query_pairs(reach, output_type="ndarray")
    tree = tree_of(ink) if len(ink) else None
    likely: list[tuple[float, int, int]] = []
    for a, b in pairs.tolist():
        cost = None if {a, b} <= apart else _cost(lines, ends[a], ends[b], spread)
        if cost is not None:
            likely.append((cost, a, b))
    for _, a, b in sorted(likely):
        if a in taken or b in taken:
            continue
        taken |= {a, b}
        made.append(_Joint(a, b, _corner(ends[a], ends[b], tree, spread)))
    return made


def _said_joints(ends: Sequence[End], said: Sequence[Said], spread: float) -> tuple[list[_Joint], set[int], set[int]]:
    """The joints that were said to be, the ends in them, and the ends said to be apart."""
    made: list[_Joint] = []
    taken: set[int] = set()
    apart: set[int] = set()
    for one in said:
        away = np.array([np.hypot(*(end.place - one.place)) for end in ends])
        near = [k for k in np.argsort(away, kind="stable").tolist() if away[k] < reach_of(one, spread)]
        if one.verdict is Verdict.APART:
            apart |= set(near)
            continue
        free = [k for k in near if k not in taken][:2]
        if len(free) == 2:
            taken |= set(free)
            corner = _said_corner(ends[free[0]], ends[free[1]], one.place, spread)
            made.append(_Joint(free[0], free[1], corner if one.verdict is Verdict.CORNER else None))
    return made, taken, apart


def _said_corner(one: End, other: End, place: F64, spread: float) -> F64:
    """Where two ends meet in a corner that was said to be: where they lead to, if that is about the place."""
    met = _meeting(one, other)
    return met if met is not None and np.hypot(*(met - place)) < CORNER_SLACK * spread else place


def _meeting(one: End, other: End) -> F64 | None:
    """Where two ends lead to both, if they do not run alike."""
    met = how_far_to_meet(one.behind, one.way, other.behind, other.way, LEAST_SINE)
    return None if met is None else np.asarray(one.behind + met[0] * one.way)


def _turn_deg(one: End, other: End) -> float:
    return math.degrees(math.acos(float(np.clip(-one.way @ other.way, -1.0, 1.0))))


def _cost(lines: Sequence[Traced], one: End, other: End, spread: float) -> float | None:
    """How unlikely two ends meet; None if they do not."""
    if one.line == other.line and not _is_round(lines[one.line].points, spread):
        return None
    a, b, away = _nearest(one, other)
    gap, over = away / spread, (a + b) / spread
    turn = _turn_deg(one, other)
    if not _reaches(lines, one, other, gap, turn, spread):
        return None
    if turn > HAIRPIN_DEG and _side_by_side(lines, (one, other), (a, b), spread):
        return None
    closes = CLOSES if one.line == other.line else 0.0
    stubs = sum(len(lines[end.line].points) < STUB * spread for end in (one, other))
    return PER_SPREAD * gap + PER_DEG * turn + PER_OVERSHOOT * over + PER_STUB * stubs - closes


def _is_round(points: F64, spread: float) -> bool:
    """Whether a line is long enough to be a ring, and encloses something."""
    return len(points) > CLOSING * spread and 2.0 * abs(polygon_area(points)) > THIN * spread * len(points)


def _reaches(lines: Sequence[Traced], one: End, other: End, gap: float, turn: float, spread: float) -> bool:
    """Whether two ends may meet over a gap, in spreads: the wider it is, the more they must lead to each other."""
    if gap <= GAP:
        return True
    between = other.place - one.place
    ahead = between / max(float(np.hypot(*between)), 1e-9)
    least = min(float(ahead @ one.way), -float(ahead @ other.way))
    if gap <= SMOOTH_GAP and turn <= STRAIGHT_DEG and least >= AHEAD_COS:
        return True
    shorter = min(len(lines[one.line].points), len(lines[other.line].points))
    if gap <= FACING_GAP and gap * spread <= FACING_SHARE * shorter and turn <= FACING_DEG and least >= FACING_COS:
        return True
    if _leads_to_corner(one, other, turn, spread):
        return True
    own = one.line == other.line and gap * spread <= OWN_SHARE * len(lines[one.line].points)
    return own and gap <= OWN_GAP and turn <= OWN_TURN_DEG and least >= OWN_AHEAD_COS


def _leads_to_corner(one: End, other: End, turn: float, spread: float) -> bool:
    """Whether both ends lead to one place ahead, where they make a corner."""
    met = _meeting(one, other) if TURN_DEG < turn < HAIRPIN_DEG else None
    if met is None:
        return False
    ahead = [float((met - end.place) @ end.way) / spread for end in (one, other)]
    most = OWN_LEAD if one.line == other.line else LEAD
    return min(ahead) > -LONG_OVERSHOOT and max(ahead) < most and float(np.clip(ahead, 0.0, None).sum()) < most


def _nearest(one: End, other: End) -> tuple[int, int, float]:
    """Where the last points of two ends come nearest, counted from their ends, and how far apart they are there, px."""
    away = np.hypot(*(one.tail[:, None] - other.tail[None]).transpose(2, 0, 1))
    a, b = np.unravel_index(int((away + 0.1 * np.add.outer(*map(np.arange, away.shape))).argmin()), away.shape)
    return int(a), int(b), float(away[a, b])


def _side_by_side(lines: Sequence[Traced], ends: tuple[End, End], beyond: tuple[int, int], spread: float) -> bool:
    """Whether two lines run close to each other for long before they meet; so many points lie beyond that."""
    runs = []
    one, other = ends
    for end, first in zip(ends, beyond, strict=True):
        points = lines[end.line].points
        runs.append((points[::-1] if end.last else points)[first : first + int(2.0 * BESIDE * spread)])
    count = min(len(runs[0]), len(runs[1]))
    if one.line == other.line or count < BESIDE * spread:
        return False
    away, _ = tree_of(runs[1]).query(runs[0][:count])
    return float((away < 3.5 * spread).mean()) > 0.9


def _corner(one: End, other: End, ink: cKDTree | None, spread: float) -> F64 | None:
    """Where two ends meet in a corner; None if they meet round."""
    turn = _turn_deg(one, other)
    if turn < TURN_DEG or (turn < MOST_BENT_DEG and _bend_on(one, other)):
        return None
    corner = _meeting(one, other)
    if corner is None:
        return None
    far = max(float(np.hypot(*(end.tail - corner).T).min()) for end in (one, other))
    if far > CORNER_REACH * spread and not _leads_to_corner(one, other, turn, spread):
        return None
    if ink is None:
        return np.asarray(corner)
    tip = np.vstack([evenly_spaced(np.array([_near(end, corner), corner]), 1.0) for end in (one, other)])
    arc = _arc(_near(one, corner), one.way, _near(other, corner), other.way)
    bare = [float(np.minimum(ink.query(points)[0], 2.0 * spread).mean()) for points in (tip, arc)]
    return np.asarray(corner) if bare[0] <= bare[1] + INK_SLACK * spread else None


def _bend_on(one: End, other: End) -> bool:
    """Whether two lines bend towards each other before they meet, so that they make one bend."""
    on = -other.way
    sense = np.sign(one.way[0] * on[1] - one.way[1] * on[0])
    bends = sense * one.bend_deg, -sense * other.bend_deg
    return bool(min(bends) > 0.0 and sum(bends) > BENT_DEG)


def _near(end: End, place: F64) -> F64:
    return np.asarray(end.tail[np.hypot(*(end.tail - place).T).argmin()])


def _arc(a: F64, way: F64, b: F64, back: F64) -> F64:
    """Points between two places on the curve that leaves the one and reaches the other in their directions."""
    size = 0.4 * float(np.hypot(*(b - a)))
    t = np.linspace(0.0, 1.0, ARC_POINTS)[1:-1, None]
    first, second = a + way * size, b + back * size
    return np.asarray((1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * first + 3 * (1 - t) * t**2 * second + t**3 * b)


def _assembled(lines: Sequence[Traced], ends: Sequence[End], joints: Sequence[_Joint], spread: float) -> list[Drawn]:
    """Lines put together through their joints."""
    joint_of = {end: joint for joint in joints for end in (joint.one, joint.other)}
    number = {(end.line, end.last): k for k, end in enumerate(ends)}
    done: set[int] = set()
    made = []
    for k, line in enumerate(lines):
        if line.closed or k in done:
            continue
        chain, closed = _chain(k, ends, joint_of, number)
        done |= {own for own, _ in chain}
        made.append(_put_together(lines, ends, joint_of, number, chain, closed, spread))
    return made


def _closed(line: Drawn, ink: F64, spread: float, said: Sequence[Said]) -> Drawn:
    """A line put together of several, closed if its ends meet as those of a single one would."""
    if line.closed or len(line.points) < CLOSING * spread:
        return line
    whole = [Traced(line.points, False)]
    ends = list(ends_of(0, line.points, spread))
    joints = _joints(whole, ends, ink, spread, said)
    if not joints:
        return line
    (one,) = _assembled(whole, ends, joints, spread)
    # its corners lie where they lay, but for those that were cut off
    away, rows = tree_of(one.points).query(line.points[list(line.corners)].reshape(-1, 2))
    kept = set(rows[away < 1e-6].tolist())
    return Drawn(one.points, one.closed, tuple(sorted({*one.corners, *kept})))


Chain = list[tuple[int, bool]]
"""Lines in their order, each with whether it is run through from its first point to its last."""


def _chain(
    start: int, ends: Sequence[End], joint_of: dict[int, _Joint], number: dict[tuple[int, bool], int]
) -> tuple[Chain, bool]:
    """The lines that hang together with one, in their order, and whether they make a ring."""

    def beyond(line: int, forward: bool) -> tuple[int, bool] | None:
        end = number[line, forward]
        joint = joint_of.get(end)
        if joint is None:
            return None
        far = ends[joint.other if joint.one == end else joint.one]
        return far.line, not far.last

    chain = [(start, True)]
    while (after := beyond(*chain[-1])) is not None:
        if after[0] == start:
            return chain, True
        chain.append(after)
    line, forward = start, True
    while (before := beyond(line, not forward)) is not None:
        line, forward = before[0], not before[1]
        chain.insert(0, (line, forward))
    return chain, False


def _put_together(
    lines: Sequence[Traced],
    ends: Sequence[End],
    joint_of: dict[int, _Joint],
    number: dict[tuple[int, bool], int],
    chain: Chain,
    closed: bool,
    spread: float,
) -> Drawn:
    """One line of several, cut off and bridged where they meet."""
    runs = [lines[k].points if forward else lines[k].points[::-1] for k, forward in chain]
    count = len(chain)
    bridges: list[F64] = [np.zeros((0, 2))] * count
    corners: list[F64 | None] = [None] * count
    for n in range(count if closed else count - 1):
        m = (n + 1) % count
        (k, forward), (j, after) = chain[n], chain[m]
        one, other = ends[number[k, forward]], ends[number[j, not after]]
        corner = joint_of[number[k, forward]].corner
        if corner is not None:
            runs[n] = cut_at(runs[n], corner, spread, LONG_OVERSHOOT)
            runs[m] = cut_at(runs[m][::-1], corner, spread, LONG_OVERSHOOT)[::-1]
            corners[n] = corner
        else:
            runs[n], runs[m] = _without_overlap(runs[n], runs[m], one, other, spread, n == m)
            bridges[n] = _arc(runs[n][-1], one.way, runs[m][0], other.way)
    points: list[F64] = []
    sharp: list[int] = []
    for n in range(count):
        points += [runs[n], bridges[n]]
        if (corner := corners[n]) is not None:
            sharp.append(sum(map(len, points)))
            points.append(corner[None])
    return Drawn(np.concatenate(points), closed, tuple(sharp))


def _without_overlap(run: F64, after: F64, one: End, other: End, spread: float, same: bool) -> tuple[F64, F64]:
    """Two runs, or the ends of one, cut back to where the one can lead over to the other."""
    overlap = float((other.place - one.place) @ one.way)
    if overlap >= 0.0:
        return run, after
    cut = round(0.6 * spread + 0.5 * abs(overlap))
    if same:
        cut = min(cut, len(run) // 3)
        kept = run[cut : len(run) - cut]
        return kept, kept
    return run[: len(run) - min(cut, len(run) // 3)], after[min(cut, len(after) // 3) :]
