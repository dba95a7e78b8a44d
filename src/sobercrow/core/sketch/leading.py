"""Lines led to others: free ends go on to the line they were meant to reach, or back to it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.settings import Verdict
from sobercrow.core.sketch.ends import STUB, Drawn, cut_at, ends_of
from sobercrow.core.sketch.said import Said, reach_of
from sobercrow.core.strokes.strokes import tree_of

SNAP, TRIM, NEAR = 3.3, 5.0, 1.2
"""Ends go on to a line so many spreads ahead, and back to one that far behind; or to one that far beside."""
TAIL_BESIDE, TAIL_COS, TAIL_LEAST = 2.7, 0.85, 4.0
"""The last of a line that runs along another, within so many spreads of it and for so many, is that other told anew."""
OWN_AWAY = 12.0
"""A line may end on itself, so many spreads from its end."""
STUB_NEAR, SCRAP = 2.0, 10.0
"""Stubs are left out if they begin or end so many spreads from another line; lines shorter than the latter if they are
as near all over."""


def without_stubs(lines: Sequence[Drawn], spread: float) -> list[Drawn]:
    """Lines without those that are but where strokes of others ran on."""
    kept = [one for one in lines if one.closed or len(one.points) >= STUB * spread]
    if not kept:
        return list(lines)
    tree = tree_of(np.concatenate([one.points for one in kept]))
    stubs = [one for one in lines if not one.closed and len(one.points) < STUB * spread]
    kept += [one for one in stubs if tree.query(one.points[[0, -1]])[0].min() > STUB_NEAR * spread]
    return [one for one in kept if not _lies_beside(one, kept, spread)]


def _lies_beside(line: Drawn, lines: Sequence[Drawn], spread: float) -> bool:
    """Whether a short line lies along a longer one all over."""
    if line.closed or len(line.points) > SCRAP * spread:
        return False
    longer = [other.points for other in lines if len(other.points) > len(line.points)]
    return bool(longer) and bool(tree_of(np.concatenate(longer)).query(line.points)[0].max() < STUB_NEAR * spread)


def led_to_lines(lines: Sequence[Drawn], spread: float, said: Sequence[Said]) -> list[Drawn]:
    """Lines whose free ends stop at, or go on to, another line close by, or as far as was said."""
    made = list(lines)
    for k in range(len(lines)):
        for last in (False, True):
            if made[k].closed:
                continue
            run = made[k].points if last else made[k].points[::-1]
            others = [other.points for n, other in enumerate(lines) if n != k]
            own = [one for one in said if np.hypot(*(run[-1] - one.place)) < reach_of(one, spread)]
            if own:
                place = _said_place(own[0], others)
            else:
                whole = len(run)
                run = _without_tail(run, others, spread)
                place = _met_by(run, [*others, run[: max(len(run) - round(OWN_AWAY * spread), 0)]], spread)
                if place is None and len(run) < whole:
                    place = run[-1]
            if place is None:
                continue
            kept = np.vstack([cut_at(run, place, spread, TRIM), place])
            lost = len(made[k].points) - len(kept)
            if last:
                made[k] = Drawn(kept, False, tuple(c for c in made[k].corners if c < len(kept) - 1))
            else:
                corners = tuple(c - lost for c in made[k].corners if c - lost > 0)
                made[k] = Drawn(kept[::-1], False, corners)
    return made


def _said_place(one: Said, others: Sequence[F64]) -> F64 | None:
    """The place on another line that an end was said to meet; None if it was said to be apart."""
    if one.verdict is Verdict.APART or not others:
        return None
    places = np.concatenate(list(others))
    return np.asarray(places[np.hypot(*(places - one.place).T).argmin()])


def _without_tail(run: F64, others: Sequence[F64], spread: float) -> F64:
    """A run without its last stretch if that runs along another line, and is but that other told anew."""
    if not others:
        return run
    step = max(round(0.5 * spread), 1)
    places = np.concatenate(list(others))
    ways = np.concatenate([directions_along(points, step) for points in others])
    away, row = tree_of(places).query(run)
    alike = np.abs((directions_along(run, step) * ways[row]).sum(axis=1)) > TAIL_COS
    apart = np.flatnonzero((away > TAIL_BESIDE * spread) | ~alike)
    kept = int(apart[-1]) + 1 if len(apart) else 0
    return run[:kept] if kept >= STUB * spread and len(run) - kept >= TAIL_LEAST * spread else run


def directions_along(points: F64, step: int) -> F64:
    """Return the directions (n, 2) of a line at its points, read over so many points to each side."""
    rows = np.arange(len(points))
    way = points[np.minimum(rows + step, len(points) - 1)] - points[np.maximum(rows - step, 0)]
    return np.asarray(way / np.maximum(np.hypot(*way.T), 1e-9)[:, None])


def _met_by(run: F64, others: Sequence[F64], spread: float) -> F64 | None:
    """The place on another line that the last end of a run was meant to reach."""
    (_, end) = ends_of(0, run, spread)
    side = np.array([-end.way[1], end.way[0]])
    reached = float((end.place - end.behind) @ end.way)
    best: tuple[float, F64] | None = None
    for points in (points for points in others if len(points) > 1):
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
