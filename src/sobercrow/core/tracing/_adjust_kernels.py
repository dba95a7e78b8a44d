"""Compiled joint adjustment of a whole closed contour to its border.

All joints, tangents and handles move together to least normal distance from the border points: Gauss-Newton
on the tangent-distance error (Wang, Pottmann & Liu 2006, "Fitting B-spline curves to point clouds by
curvature-based squared distance minimization").

Each joint has six unknowns: x, y and, at a smooth joint, the tangent's angle and the lengths of the handle
behind and ahead; at a corner, x and y of the handle behind and of the one ahead.
"""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64, I64, U8
from sobercrow.core.compiled import kernel
from sobercrow.core.geometry._piece_kernels import foot, place_on, way_on
from sobercrow.core.tracing._ring_kernels import solve_ring

UNKNOWNS = 6
LINE_STIFFNESS = 30.0
"""Weight that holds a smooth joint's tangent in the direction of the straight piece next to it."""
ROUNDS = 6
CORNER_PULL = 0.3
"""Weight that keeps a corner near the place its sides gave it, where short sides do not say."""
SHORT_PX = 0.1
THIRDS_PULL = 0.002
"""Weight that draws handles to a third of the chord where the border does not say."""


@kernel
def handles_of(state: F64, is_corner: U8, straight: U8, controls: F64) -> None:
    """Write the four control points of every piece, (m, 8) x0 y0 x1 y1 x2 y2 x3 y3, from the joints' state."""
    m = state.shape[0]
    for i in range(m):
        j = i + 1 if i + 1 < m else 0
        x0, y0, x3, y3 = state[i, 0], state[i, 1], state[j, 0], state[j, 1]
        if straight[i] == 1:
            hx0, hy0 = (x3 - x0) / 3.0, (y3 - y0) / 3.0
            hx3, hy3 = -hx0, -hy0
        else:
            if is_corner[i] == 1:
                hx0, hy0 = state[i, 4], state[i, 5]
            else:
                hx0, hy0 = state[i, 4] * np.cos(state[i, 2]), state[i, 4] * np.sin(state[i, 2])
            if is_corner[j] == 1:
                hx3, hy3 = state[j, 2], state[j, 3]
            else:
                hx3, hy3 = -state[j, 3] * np.cos(state[j, 2]), -state[j, 3] * np.sin(state[j, 2])
        controls[i, 0], controls[i, 1], controls[i, 2], controls[i, 3] = x0, y0, x0 + hx0, y0 + hy0
        controls[i, 4], controls[i, 5], controls[i, 6], controls[i, 7] = x3 + hx3, y3 + hy3, x3, y3


@kernel
def ways_at(state: F64, i: int, j: int, ways: F64) -> None:
    """Write the directions of the tangents at two smooth joints: cosine and sine of each."""
    ways[0], ways[1] = np.cos(state[i, 2]), np.sin(state[i, 2])
    ways[2], ways[3] = np.cos(state[j, 2]), np.sin(state[j, 2])


@kernel
def derivatives(
    u: float, nx: float, ny: float, i: int, j: int, state: F64, ways: F64, is_corner: U8, straight: U8, row: F64
) -> None:
    """Write how a place on piece i moves along (nx, ny) with each unknown of its joints i and j (12).

    `ways` as of `ways_at`.
    """
    v = 1.0 - u
    b0, b1, b2, b3 = v * v * v, 3.0 * u * v * v, 3.0 * u * u * v, u * u * u
    row[:] = 0.0
    if straight[i] == 1:
        row[0], row[1] = nx * v, ny * v
        row[6], row[7] = nx * u, ny * u
        return
    row[0], row[1] = nx * (b0 + b1), ny * (b0 + b1)
    row[6], row[7] = nx * (b2 + b3), ny * (b2 + b3)
    if is_corner[i] == 1:
        row[4], row[5] = nx * b1, ny * b1
    else:
        ct, st = ways[0], ways[1]
        row[2] = b1 * state[i, 4] * (-nx * st + ny * ct)
        row[4] = b1 * (nx * ct + ny * st)
    if is_corner[j] == 1:
        row[8], row[9] = nx * b2, ny * b2
    else:
        ct, st = ways[2], ways[3]
        row[8] = -b2 * state[j, 3] * (-nx * st + ny * ct)
        row[9] = -b2 * (nx * ct + ny * st)


@kernel
def accumulate(diagonal: F64, side: F64, right: F64, i: int, j: int, row: F64, value: float, weight: float) -> None:
    """Add one residual `value` with its derivatives `row` (12: joint i, joint j) to the normal equations."""
    for a in range(UNKNOWNS):
        ra, rb = weight * row[a], weight * row[UNKNOWNS + a]
        if ra != 0.0:
            right[i, a] -= ra * value
            for b in range(UNKNOWNS):
                diagonal[i, a, b] += ra * row[b]
                side[i, a, b] += ra * row[UNKNOWNS + b]
        if rb != 0.0:
            right[j, a] -= rb * value
            for b in range(UNKNOWNS):
                diagonal[j, a, b] += rb * row[UNKNOWNS + b]


@kernel
def gather(block: F64, slope: F64, row: F64, value: float, weight: float) -> None:
    """Add one residual `value` with its derivatives `row` (12) to the equations of a piece, (12, 12) and (12)."""
    for a in range(2 * UNKNOWNS):
        share = weight * row[a]
        slope[a] -= share * value
        for b in range(2 * UNKNOWNS):
            block[a, b] += share * row[b]


@kernel
def spread(block: F64, slope: F64, diagonal: F64, side: F64, right: F64, i: int, j: int) -> None:
    """Add the equations of a piece from joint i to joint j to those of all, and empty them."""
    for a in range(UNKNOWNS):
        right[i, a] += slope[a]
        right[j, a] += slope[UNKNOWNS + a]
        for b in range(UNKNOWNS):
            diagonal[i, a, b] += block[a, b]
            side[i, a, b] += block[a, UNKNOWNS + b]
            diagonal[j, a, b] += block[UNKNOWNS + a, UNKNOWNS + b]
    block[:] = 0.0
    slope[:] = 0.0


@kernel
def _hold(diagonal: F64, side: F64, right: F64, i: int, unknown: int) -> None:
    """Keep an unknown of joint i as it is."""
    before = i - 1 if i > 0 else right.shape[0] - 1
    diagonal[i, unknown, :] = 0.0
    diagonal[i, :, unknown] = 0.0
    side[i, unknown, :] = 0.0
    side[before, :, unknown] = 0.0
    diagonal[i, unknown, unknown] = 1.0
    right[i, unknown] = 0.0


@kernel
def add_priors(
    diagonal: F64,
    side: F64,
    right: F64,
    state: F64,
    is_corner: U8,
    straight: U8,
    held: U8,
    home: F64,
    corner_pull: float,
    thirds_pull: float,
    short_pull: float,
    damping: float,
) -> float:
    """Add what is wanted of joints and handles beside nearness to the border; return what corners off home cost."""
    m = state.shape[0]
    row = np.empty(2 * UNKNOWNS)
    total = 0.0
    for i in range(m):
        j = i + 1 if i + 1 < m else 0
        dx, dy = state[j, 0] - state[i, 0], state[j, 1] - state[i, 1]
        chord = np.hypot(dx, dy) + 1e-12
        if straight[i] == 1:
            for end in range(2):
                joint = i if end == 0 else j
                if is_corner[joint] == 1:
                    continue
                ct, st = np.cos(state[joint, 2]), np.sin(state[joint, 2])
                row[:] = 0.0
                row[0], row[1], row[6], row[7] = st, -ct, -st, ct
                row[2 + UNKNOWNS * end] = -(ct * dx + st * dy)
                accumulate(diagonal, side, right, i, j, row, ct * dy - st * dx, LINE_STIFFNESS)
            continue
        pull = thirds_pull * chord + short_pull / (chord + SHORT_PX)
        for end in range(2):
            joint = i if end == 0 else j
            first = 4 if end == 0 else 2
            if is_corner[joint] == 1:
                sign = 1.0 if end == 0 else -1.0
                diagonal[joint, first, first] += pull
                diagonal[joint, first + 1, first + 1] += pull
                right[joint, first] -= pull * (state[joint, first] - sign * dx / 3.0)
                right[joint, first + 1] -= pull * (state[joint, first + 1] - sign * dy / 3.0)
            else:
                length = 4 if end == 0 else 3
                diagonal[joint, length, length] += pull
                right[joint, length] -= pull * (state[joint, length] - chord / 3.0)
    for i in range(m):
        for a in range(UNKNOWNS):
            diagonal[i, a, a] += 1e-3 + damping * diagonal[i, a, a]
        if is_corner[i] == 1:
            for a in range(2):
                diagonal[i, a, a] += corner_pull
                right[i, a] -= corner_pull * (state[i, a] - home[i, a])
                total += corner_pull * (state[i, a] - home[i, a]) ** 2
        else:
            # a smooth joint may slide along the curve without harm, but should not wander
            ct, st = np.cos(state[i, 2]), np.sin(state[i, 2])
            diagonal[i, 0, 0] += 0.3 * ct * ct
            diagonal[i, 0, 1] += 0.3 * ct * st
            diagonal[i, 1, 0] += 0.3 * ct * st
            diagonal[i, 1, 1] += 0.3 * st * st
    for i in range(m):
        if is_corner[i] == 0 and held[i] & 1:
            _hold(diagonal, side, right, i, 2)
        if held[i] & 2:
            _hold(diagonal, side, right, i, 0)
            _hold(diagonal, side, right, i, 1)
    return total


@kernel
def take_step(diagonal: F64, side: F64, right: F64, state: F64, is_corner: U8, furthest: float) -> None:
    """Take the step that solves the equations, shortened as a whole: no joint moves further than `furthest` px."""
    m = state.shape[0]
    step = np.empty((m, UNKNOWNS))
    solve_ring(diagonal, side, right, step)
    share = 1.0
    for i in range(m):
        for a in range(UNKNOWNS):
            bound = furthest
            if is_corner[i] == 0 and a == 2:
                bound = 0.3
            elif is_corner[i] == 0 and a > 2:
                bound = 0.5 * state[i, a]
            if abs(step[i, a]) * share > bound:
                share = bound / abs(step[i, a])
    state += share * step


@kernel
def adjust_once(
    xs: F64,
    ys: F64,
    us: F64,
    weights: F64,
    owner: I64,
    state: F64,
    is_corner: U8,
    straight: U8,
    held: U8,
    controls: F64,
    home: F64,
    damping: float,
) -> float:
    """One damped Gauss-Newton step of all joints; return the weighted sum of squared distances before it.

    The step is shortened as a whole, so that no joint moves far at once.

    `owner` says to which piece each point belongs, `us` its parameter there (moved to its foot), `held` which joints
    keep their tangent's angle (1), their place (2) or both (3), `home` where the corners were first placed.
    """
    m = state.shape[0]
    handles_of(state, is_corner, straight, controls)
    diagonal = np.zeros((m, UNKNOWNS, UNKNOWNS))
    side = np.zeros((m, UNKNOWNS, UNKNOWNS))
    right = np.zeros((m, UNKNOWNS))
    row = np.empty(2 * UNKNOWNS)
    block, slope = np.zeros((2 * UNKNOWNS, 2 * UNKNOWNS)), np.zeros(2 * UNKNOWNS)
    ways = np.empty(4)
    total = 0.0
    i = -1
    for k in range(xs.size):
        j = owner[k] + 1 if owner[k] + 1 < m else 0
        if owner[k] != i:
            if i >= 0:
                spread(block, slope, diagonal, side, right, i, i + 1 if i + 1 < m else 0)
            i = owner[k]
            ways_at(state, i, j, ways)
        c = controls[i]
        u, _ = foot(xs[k], ys[k], us[k], c[0], c[1], c[2], c[3], c[4], c[5], c[6], c[7])
        us[k] = u
        tx, ty = way_on(c, u)
        speed = np.hypot(tx, ty) + 1e-12
        nx, ny = -ty / speed, tx / speed
        x, y = place_on(c, u)
        ex, ey = x - xs[k], y - ys[k]
        distance = nx * ex + ny * ey
        derivatives(u, nx, ny, i, j, state, ways, is_corner, straight, row)
        # the Huber weight keeps a few bad points from bending a piece
        far = abs(distance)
        weight = weights[k] * (1.0 if far < 0.3 else 0.3 / far)
        gather(block, slope, row, distance, weight)
        total += weight * distance * distance
    if i >= 0:
        spread(block, slope, diagonal, side, right, i, i + 1 if i + 1 < m else 0)
    total += add_priors(
        diagonal, side, right, state, is_corner, straight, held, home, CORNER_PULL, THIRDS_PULL, 0.0, damping
    )
    take_step(diagonal, side, right, state, is_corner, 1.5)
    return total


@kernel
def settle(
    xs: F64,
    ys: F64,
    us: F64,
    weights: F64,
    owner: I64,
    state: F64,
    is_corner: U8,
    straight: U8,
    held: U8,
    controls: F64,
    home: F64,
) -> None:
    """Adjust all joints until it no longer pays; a step that made things worse is taken back and shortened."""
    best, best_us = state.copy(), us.copy()
    before = state.copy()
    lowest = 1e300
    damping = 0.02
    for _ in range(ROUNDS):
        before[:] = state
        cost = adjust_once(xs, ys, us, weights, owner, state, is_corner, straight, held, controls, home, damping)
        if cost < lowest:
            gain = lowest - cost
            lowest = cost
            best[:], best_us[:] = before, us
            damping = max(damping * 0.4, 1e-4)
            if gain < 1e-3 * cost:
                break
        else:
            state[:], us[:] = best, best_us
            damping *= 8.0
    state[:], us[:] = best, best_us
