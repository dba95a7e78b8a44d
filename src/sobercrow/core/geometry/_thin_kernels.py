"""Compiled search for the fewest pieces that hold a curve: dynamic programming over places on it.

After Bellman 1961, "On the approximation of curves by line segments using dynamic programming", with cubic pieces
(Schneider 1990, "An algorithm for automatically fitting digitized curves") in place of lines.
"""

from __future__ import annotations

import cython
from cython.cimports.libc.math import fabs, hypot
from cython.cimports.libc.stdlib import free
from cython.cimports.sobercrow.core._scratch import bytes_of, doubles, longs
from cython.cimports.sobercrow.core.geometry._piece_kernels import fit, foot
from cython.cimports.sobercrow.core.geometry._thin_kernels import LOOK, Curve

from sobercrow.core.arrays import F64, I64, U8

ROUNDS, FOOT_STEPS = 3, 4
BEYOND_PX = 0.015
"""So much more than the tolerance a run may stray before it is thinned more carefully."""
TRIES, CAREFUL = 4, 0.93
SQUARES_PRICE = 0.05
"""What a piece costs besides its anchor: its mean squared distance over that of the tolerance, times this."""
LINE_SAVES = 0.02
LINE_SLACK = 0.0001
"""A straight piece may leave a smooth place off its direction by so much: one less the cosine."""
WIDEST_TURN_COS = -0.5
"""A piece between smooth places turns by no more than 120 degrees."""
FAR = 1.6
MOST_FAILURES = 4
"""After so many pieces in a row that stray by so many times the tolerance, longer ones are not tried."""


def _piece(
    curve: Curve, a: int, b: int, free_out: bool, free_in: bool, tolerance: float, handles: F64
) -> tuple[float, float, int]:
    """Fit one piece from sample a to sample b; its mean squared distance, the largest, and whether it is straight."""
    xs, ys, us = (
        cython.declare(cython.double[LOOK]),
        cython.declare(cython.double[LOOK]),
        cython.declare(cython.double[LOOK]),
    )
    ends = cython.declare(cython.double[8])
    points, ways, along = curve.points, curve.ways, curve.along
    for k in range(2):
        ends[k], ends[2 + k] = points[2 * a + k], ways[4 * a + 2 + k]
        ends[4 + k], ends[6 + k] = points[2 * b + k], ways[4 * b + k]
    dx, dy = ends[4] - ends[0], ends[5] - ends[1]
    chord = hypot(dx, dy) + 1e-12
    inner = b - a - 1
    count = inner if inner < LOOK else LOOK
    line_worst = line_squares = 0.0
    for k in range(count):
        at = a + 1 + (k if inner <= LOOK else (2 * k + 1) * inner // (2 * LOOK))
        xs[k], ys[k] = points[2 * at], points[2 * at + 1]
        us[k] = (along[at] - along[a]) / (along[b] - along[a])
        off = fabs((xs[k] - ends[0]) * dy - (ys[k] - ends[1]) * dx) / chord
        line_worst = off if off > line_worst else line_worst
        line_squares += off * off
    leaves = 1.0 - (ends[2] * dx + ends[3] * dy) / chord
    arrives = 1.0 - (ends[6] * dx + ends[7] * dy) / chord
    if line_worst <= tolerance and (free_out or leaves < LINE_SLACK) and (free_in or arrives < LINE_SLACK):
        handles[0], handles[1], handles[2], handles[3] = ends[0], ends[1], ends[4], ends[5]
        return line_squares / (count if count > 0 else 1), line_worst, 1
    if count == 0:
        third = chord / 3.0
        handles[0], handles[1] = ends[0] + third * ends[2], ends[1] + third * ends[3]
        handles[2], handles[3] = ends[4] - third * ends[6], ends[5] - third * ends[7]
        return 0.0, 0.0, 0
    squares, worst = fit(xs, ys, us, count, ends, free_out and count > 3, free_in and count > 3, handles, ROUNDS)
    return squares / count, worst, 0


def _fewest(
    curve: Curve,
    nodes: I64,
    prices: F64,
    n: int,
    free_out: bool,
    free_in: bool,
    tolerance: float,
    chosen: I64,
    straight: U8,
) -> int:
    best, came, as_line = doubles(n), longs(n), bytes_of(n)
    handles = cython.declare(cython.double[4])
    cython.declare(first_free=cython.bint, last_free=cython.bint)
    for j in range(1, n):
        best[j] = 1e18
    ways = curve.ways
    for i in range(n - 1):
        failures = 0
        for j in range(i + 1, n):
            if best[i] + prices[j] - LINE_SAVES >= best[j]:
                continue  # reached as cheaply already
            a, b = nodes[i], nodes[j]
            first_free, last_free = free_out and i == 0, free_in and j == n - 1
            turn = ways[4 * a + 2] * ways[4 * b] + ways[4 * a + 3] * ways[4 * b + 1]
            if not first_free and not last_free and turn < WIDEST_TURN_COS and j > i + 1:
                failures += 1
                if failures >= MOST_FAILURES:
                    break
                continue
            mean, worst, line = _piece(curve, a, b, first_free, last_free, tolerance, handles)
            if worst > tolerance and j > i + 1:
                if worst > FAR * tolerance:
                    failures += 1
                    if failures >= MOST_FAILURES:
                        break
                continue
            failures = 0
            cost = prices[j] + SQUARES_PRICE * mean / (tolerance * tolerance) - (LINE_SAVES if line else 0.0)
            if best[i] + cost < best[j]:
                best[j] = best[i] + cost
                came[j], as_line[j] = i, line
    count = 0
    k = n - 1
    while k > 0:
        count += 1
        k = came[k]
    k = n - 1
    for at in range(count, -1, -1):
        chosen[at] = k
        if at > 0:
            straight[at - 1] = as_line[k]
            k = came[k]
    free(best)
    free(came)
    free(as_line)
    return count


def _worst(curve: Curve, a: int, b: int, handles: F64, straight: bool) -> float:
    """How far the samples between two are from the piece that stands for them, at most."""
    points, along = curve.points, curve.along
    x0, y0, x3, y3 = points[2 * a], points[2 * a + 1], points[2 * b], points[2 * b + 1]
    worst = 0.0
    chord = hypot(x3 - x0, y3 - y0) + 1e-12
    for k in range(a + 1, b):
        x, y = points[2 * k], points[2 * k + 1]
        if straight:
            away = fabs((x - x0) * (y3 - y0) - (y - y0) * (x3 - x0)) / chord
        else:
            u = (along[k] - along[a]) / (along[b] - along[a])
            away = 0.0
            for _ in range(FOOT_STEPS):
                u, away = foot(x, y, u, x0, y0, handles[0], handles[1], handles[2], handles[3], x3, y3)
            away = fabs(away)
        worst = away if away > worst else worst
    return worst


def _thin_run(
    curve: Curve,
    nodes: I64,
    prices: F64,
    n: int,
    free_out: bool,
    free_in: bool,
    tolerance: float,
    chosen: I64,
    handles: F64,
) -> int:
    """Choose the pieces of one run, more carefully if it strays; returns how many."""
    straight = bytes_of(n)
    wanted = tolerance
    count = 0
    for _ in range(TRIES):
        count = _fewest(curve, nodes, prices, n, free_out, free_in, tolerance, chosen, straight)
        worst = 0.0
        for k in range(count):
            held = cython.address(handles[4 * k])
            a, b = nodes[chosen[k]], nodes[chosen[k + 1]]
            line = _piece(curve, a, b, free_out and k == 0, free_in and k == count - 1, tolerance, held)[2]
            away = _worst(curve, a, b, held, line == 1)
            worst = away if away > worst else worst
        if worst <= wanted + BEYOND_PX:
            break
        tolerance *= CAREFUL
    free(straight)
    return count


def thin_runs(
    points: F64,
    ways: F64,
    along: F64,
    nodes: I64,
    prices: F64,
    starts: I64,
    first: int,
    last: int,
    free_ends: U8,
    tolerance: float,
    chosen: I64,
    handles: F64,
    counts: I64,
) -> None:
    """Choose for runs `first` to `last` the fewest places whose pieces stray no further than a tolerance.

    `points` (n, 2) are samples of all runs, one after the other, `ways` (n, 4) the unit directions into and out of
    each, `along` (n,) how far along they are; `nodes` (m,) are the samples that may be chosen and `prices` what each
    costs, usually 1, those of run k from `starts[k]` to `starts[k + 1]`, its ends among them, which always are. Where
    `free_ends` (k, 2) says so the curve may leave or arrive in another direction, as at corners. Writes where the
    chosen nodes are, counted in each run, and the handles (4) of the piece after each, both from the run's start on;
    those of a straight one lie on its ends; and `counts` of the pieces. Other threads run meanwhile.
    """
    curve = cython.declare(Curve)
    with cython.nogil:
        curve.points, curve.ways = cython.address(points[0, 0]), cython.address(ways[0, 0])
        curve.along = cython.address(along[0])
        for k in range(first, last):
            at = starts[k]
            counts[k] = _thin_run(
                cython.address(curve),
                cython.address(nodes[at]),
                cython.address(prices[at]),
                starts[k + 1] - at,
                free_ends[k, 0],
                free_ends[k, 1],
                tolerance,
                cython.address(chosen[at]),
                cython.address(handles[at, 0]),
            )
