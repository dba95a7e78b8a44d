"""Lines led to others: free ends go on to the line they were meant to reach, or back to it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.settings import Verdict
from sobercrow.core.sketch.ends import STUB, Drawn, cut_at, ends_of
from sobercrow.core.sketch.said import Said, reach_of
from sobercrow.core.sketch.strokes import tree_of

SNAP, TRIM, NEAR = 2.2, 3.5, 1.2
"""Ends go on to a line so many spreads ahead, and back to one that far behind; or to one that far beside."""
STUB_NEAR = 2.0
"""They are left out if they begin or end so many spreads from another line and lead nowhere."""


def without_stubs(lines: Sequence[Drawn], spread: float) -> list[Drawn]:
    """Lines without those that are but where strokes of others ran on."""
    kept = [one for one in lines if one.closed or len(one.points) >= STUB * spread]
    if not kept:
        return list(lines)
    tree = tree_of(np.concatenate([one.points for one in kept]))
    stubs = [one for one in lines if not one.closed and len(one.points) < STUB * spread]
    return kept + [one for one in stubs if tree.query(one.points[[0, -1]])[0].min() > STUB_NEAR * spread]


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
            place = _said_place(own[0], others) if own else _met_by(run, others, spread)
            if place is None:
                continue
            kept = np.vstack([cut_at(run, place, spread), place])
            lost = len(run) - len(kept)
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


def _met_by(run: F64, others: Sequence[F64], spread: float) -> F64 | None:
    """The place on another line that the last end of a run was meant to reach."""
    (_, end) = ends_of(0, run, spread)
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
