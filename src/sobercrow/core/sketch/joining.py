"""Lines brought to where they were meant to meet: ends joined, overshoots taken off, gaps closed."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.polygon import how_far_to_meet
from sobercrow.core.sketch.lifted import Traced
from sobercrow.core.sketch.strokes import evenly_spaced, tree_of

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

LEAST_SPREAD_PX = 2.0
"""A calm hand leaves gaps and overshoots of some pixels too."""
WAY_FROM, WAY_TO = 0.7, 4.0
"""The direction of an end is read between so many spreads from it."""
GAP, SMOOTH_GAP = 3.0, 5.0
"""Ends meet over so many spreads; over so many if they run straight on."""
STRAIGHT_DEG, AHEAD_COS = 30.0, 0.85
TURN_DEG = 35.0
"""Ends that turn by more meet in a corner, if there is room for one."""
CORNER_REACH = 3.5
"""And if its place is no further than so many spreads from both."""
LEAST_SINE = 0.25
HAIRPIN_DEG, BESIDE = 140.0, 5.0
"""Lines that turn back are not joined if they run side by side for so many spreads."""
CLOSING = 6.0
"""A line is closed by joining its ends if it is so many spreads long."""
OWN_GAP, OWN_SHARE, OWN_TURN_DEG, OWN_AHEAD_COS = 9.0, 0.09, 60.0, 0.5
"""Then also over so many spreads, and so much of its length, if its ends run about towards each other."""
OVERSHOOT = 4.0
"""A line may run on beyond where it was meant to end by so many spreads."""
SNAP, TRIM, NEAR = 2.2, 3.5, 1.2
"""Ends go on to a line so many spreads ahead, and back to one that far behind; or to one that far beside."""
STUB, PER_STUB = 4.0, 2.0
"""Lines so many spreads long may be no more than where strokes ran on: that they join others is so much less likely."""
STUB_NEAR = 2.0
"""They are left out if they begin or end so many spreads from another line and lead nowhere."""
PER_SPREAD, PER_DEG, PER_OVERSHOOT = 0.5, 1.0 / 60.0, 0.12
CLOSES = 1.0
"""That a line closes is likelier than that its ends meet others, by so much."""
INK_SLACK = 0.15
"""A corner may lie further from the ink than an arc by so many spreads."""
ARC_POINTS = 24


@dataclass(frozen=True, slots=True, eq=False)
class Drawn:
    """A line as it was meant: points (n, 2), whether it is closed, and at which of its points it turns sharply."""

    points: F64
    closed: bool
    corners: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True, eq=False)
class _End:
    """One end of a line: where it ends, the way it leads on, and a place behind from which that was read."""

    line: int
    last: bool
    place: F64
    way: F64
    behind: F64
    tail: F64
    """The last points before it, the last one first, about a px apart."""


@dataclass(frozen=True, slots=True, eq=False)
class _Joint:
    """Two ends that meet, at a corner or, without one, round."""

    one: int
    other: int
    corner: F64 | None


def joined(lines: Sequence[Traced], ink: F64, spread: float) -> list[Drawn]:
    """Return lines joined where they were meant to meet; `ink` (n, 2) are places with ink, distances in px."""
    spread = max(spread, LEAST_SPREAD_PX)
    ends = [end for k, line in enumerate(lines) if not line.closed for end in _ends(k, line.points, spread)]
    joints = _joints(lines, ends, ink, spread)
    made = [Drawn(line.points, True) for line in lines if line.closed]
    made += _assembled(lines, ends, joints, spread)
    return _led_to_lines(_without_stubs(made, spread), spread)


def _ends(number: int, points: F64, spread: float) -> Iterator[_End]:
    for last in (False, True):
        run = points if last else points[::-1]
        count = len(run)
        part = run[max(0, count - 1 - int(WAY_TO * spread)) : max(2, count - int(WAY_FROM * spread))]
        part = part if len(part) >= 3 else run[-3:]
        way = part[-1] - part[0]
        tail = run[max(0, count - 1 - int(OVERSHOOT * spread)) :][::-1]
        yield _End(number, last, run[-1], way / max(float(np.hypot(*way)), 1e-9), part.mean(axis=0), tail)


def _joints(lines: Sequence[Traced], ends: Sequence[_End], ink: F64, spread: float) -> list[_Joint]:
    """The joints of ends, the likeliest first, each end in one at most."""
    if len(ends) < 2:
        return []
    reach = (OWN_GAP + OVERSHOOT) * spread
    pairs = tree_of(np.array([end.place for end in ends])).query_pairs(reach, output_type="ndarray")
    tree = tree_of(ink) if len(ink) else None
    likely: list[tuple[float, int, int]] = []
    for a, b in pairs.tolist():
        cost = _cost(lines, ends[a], ends[b], spread)
        if cost is not None:
            likely.append((cost, a, b))
    taken: set[int] = set()
    made = []
    for _, a, b in sorted(likely):
        if a in taken or b in taken:
            continue
        taken |= {a, b}
        made.append(_Joint(a, b, _corner(ends[a], ends[b], tree, spread)))
    return made


def _turn_deg(one: _End, other: _End) -> float:
    return math.degrees(math.acos(float(np.clip(-one.way @ other.way, -1.0, 1.0))))


def _cost(lines: Sequence[Traced], one: _End, other: _End, spread: float) -> float | None:
    """How unlikely two ends meet; None if they do not."""
    if one.line == other.line and len(lines[one.line].points) < CLOSING * spread:
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


def _reaches(lines: Sequence[Traced], one: _End, other: _End, gap: float, turn: float, spread: float) -> bool:
    """Whether two ends may meet over a gap, in spreads: the wider it is, the more they must lead to each other."""
    if gap <= GAP:
        return True
    between = other.place - one.place
    ahead = between / max(float(np.hypot(*between)), 1e-9)
    least = min(float(ahead @ one.way), -float(ahead @ other.way))
    if gap <= SMOOTH_GAP and turn <= STRAIGHT_DEG and least >= AHEAD_COS:
        return True
    own = one.line == other.line and gap * spread <= OWN_SHARE * len(lines[one.line].points)
    return own and gap <= OWN_GAP and turn <= OWN_TURN_DEG and least >= OWN_AHEAD_COS


def _nearest(one: _End, other: _End) -> tuple[int, int, float]:
    """Where the last points of two ends come nearest, counted from their ends, and how far apart they are there, px."""
    away = np.hypot(*(one.tail[:, None] - other.tail[None]).transpose(2, 0, 1))
    a, b = np.unravel_index(int((away + 0.1 * np.add.outer(*map(np.arange, away.shape))).argmin()), away.shape)
    return int(a), int(b), float(away[a, b])


def _side_by_side(lines: Sequence[Traced], ends: tuple[_End, _End], beyond: tuple[int, int], spread: float) -> bool:
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


def _corner(one: _End, other: _End, ink: cKDTree | None, spread: float) -> F64 | None:
    """Where two ends meet in a corner; None if they meet round."""
    if _turn_deg(one, other) < TURN_DEG:
        return None
    met = how_far_to_meet(one.behind, one.way, other.behind, other.way, LEAST_SINE)
    if met is None:
        return None
    corner = one.behind + met[0] * one.way
    if max(float(np.hypot(*(end.tail - corner).T).min()) for end in (one, other)) > CORNER_REACH * spread:
        return None
    if ink is None:
        return np.asarray(corner)
    tip = np.vstack([evenly_spaced(np.array([_near(end, corner), corner]), 1.0) for end in (one, other)])
    arc = _arc(_near(one, corner), one.way, _near(other, corner), other.way)
    far = [float(np.minimum(ink.query(points)[0], 2.0 * spread).mean()) for points in (tip, arc)]
    return np.asarray(corner) if far[0] <= far[1] + INK_SLACK * spread else None


def _near(end: _End, place: F64) -> F64:
    return np.asarray(end.tail[np.hypot(*(end.tail - place).T).argmin()])


def _arc(a: F64, way: F64, b: F64, back: F64) -> F64:
    """Points between two places on the curve that leaves the one and reaches the other in their directions."""
    size = 0.4 * float(np.hypot(*(b - a)))
    t = np.linspace(0.0, 1.0, ARC_POINTS)[1:-1, None]
    first, second = a + way * size, b + back * size
    return np.asarray((1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * first + 3 * (1 - t) * t**2 * second + t**3 * b)


def _assembled(lines: Sequence[Traced], ends: Sequence[_End], joints: Sequence[_Joint], spread: float) -> list[Drawn]:
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


Chain = list[tuple[int, bool]]
"""Lines in their order, each with whether it is run through from its first point to its last."""


def _chain(
    start: int, ends: Sequence[_End], joint_of: dict[int, _Joint], number: dict[tuple[int, bool], int]
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
    ends: Sequence[_End],
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
            runs[n] = _cut_at(runs[n], corner, spread)
            runs[m] = _cut_at(runs[m][::-1], corner, spread)[::-1]
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


def _cut_at(run: F64, place: F64, spread: float) -> F64:
    """A run of points that ends short of a place at its last end: what overshoots is taken off."""
    back = min(int(4.0 * spread) + 1, len(run) - 2)
    tail = run[len(run) - back :]
    nearest = len(run) - back + int(np.hypot(*(tail - place).T).argmin()) if back > 0 else len(run) - 1
    return run[: max(2, min(nearest, len(run) - 1) - int(0.5 * spread) + 1)]


def _without_overlap(run: F64, after: F64, one: _End, other: _End, spread: float, same: bool) -> tuple[F64, F64]:
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


def _without_stubs(lines: Sequence[Drawn], spread: float) -> list[Drawn]:
    """Lines without those that are but where strokes of others ran on."""
    kept = [one for one in lines if one.closed or len(one.points) >= STUB * spread]
    if not kept:
        return list(lines)
    tree = tree_of(np.concatenate([one.points for one in kept]))
    stubs = [one for one in lines if not one.closed and len(one.points) < STUB * spread]
    return kept + [one for one in stubs if tree.query(one.points[[0, -1]])[0].min() > STUB_NEAR * spread]


def _led_to_lines(lines: Sequence[Drawn], spread: float) -> list[Drawn]:
    """Lines whose free ends stop at, or go on to, another line close by."""
    made = list(lines)
    for k in range(len(lines)):
        for last in (False, True):
            if made[k].closed:
                continue
            run = made[k].points if last else made[k].points[::-1]
            place = _met_by(run, [other.points for n, other in enumerate(lines) if n != k], spread)
            if place is None:
                continue
            kept = np.vstack([_cut_at(run, place, spread), place])
            lost = len(run) - len(kept)
            if last:
                made[k] = Drawn(kept, False, tuple(c for c in made[k].corners if c < len(kept) - 1))
            else:
                corners = tuple(c - lost for c in made[k].corners if c - lost > 0)
                made[k] = Drawn(kept[::-1], False, corners)
    return made


def _met_by(run: F64, others: Sequence[F64], spread: float) -> F64 | None:
    """The place on another line that the last end of a run was meant to reach."""
    (_, end) = _ends(0, run, spread)
    side = np.array([-end.way[1], end.way[0]])
    reached = float((end.place - end.behind) @ end.way)
    best: tuple[float, F64] | None = None
    for points in others:
        off = points - end.behind
        along, across = off @ end.way, off @ side
        near = np.hypot(*(points - end.place).T)
        crosses = np.flatnonzero(
            (across[:-1] * across[1:] <= 0.0)
            & (along[:-1] > reached - TRIM * spread)
            & (along[:-1] < reached + SNAP * spread)
            & (near[:-1] < (TRIM + 0.1) * spread)
        )
        for n in crosses.tolist():
            cost = abs(float(along[n]) - reached)
            if best is None or cost < best[0]:
                share = abs(across[n]) / max(abs(across[n]) + abs(across[n + 1]), 1e-9)
                best = cost, points[n] + share * (points[n + 1] - points[n])
    if best is not None:
        return best[1]
    if not others:
        return None
    places = np.concatenate(list(others))
    away = np.hypot(*(places - end.place).T)
    return places[away.argmin()] if away.min() < NEAR * spread else None
