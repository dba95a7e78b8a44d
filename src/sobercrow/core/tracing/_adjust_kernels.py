"""Compiled joint adjustment of a whole closed contour to its border.

All joints, tangents and handles move together to least normal distance from the border points: Gauss-Newton
on the tangent-distance error (Wang, Pottmann & Liu 2006, "Fitting B-spline curves to point clouds by
curvature-based squared distance minimization").

Each joint has six unknowns: x, y and, at a smooth joint, the tangent's angle and the lengths of the handle
behind and ahead; at a corner, x and y of the handle behind and of the one ahead.
"""

from __future__ import annotations

import cython
from cython.cimports.libc.math import cos, fabs, hypot, sin
from cython.cimports.libc.stdlib import free
from cython.cimports.libc.string import memcpy, memset
from cython.cimports.sobercrow.core._scratch import doubles
from cython.cimports.sobercrow.core.geometry._piece_kernels import foot, place_on, way_on
from cython.cimports.sobercrow.core.tracing._adjust_kernels import Equations, Ring, Samples
from cython.cimports.sobercrow.core.tracing._ring_kernels import blocks, rows, solve
from cython.cimports.sobercrow.core.tracing._sizes import BOTH, UNKNOWNS, BothRow, Cubic, Point, Row

from sobercrow.core.arrays import F64, I64, U8

LINE_STIFFNESS = 30.0
"""Weight that holds a smooth joint's tangent in the direction of the straight piece next to it."""
ROUNDS = 6
CORNER_PULL = 0.3
"""Weight that keeps a corner near the place its sides gave it, where short sides do not say."""
SHORT_PX = 0.1
THIRDS_PULL = 0.002
"""Weight that draws handles to a third of the chord where the border does not say."""


def equations_of(m: int) -> Equations:
    """Room for the equations of `m` joints, all nought; to be given back."""
    equations = cython.declare(Equations)
    equations.diagonal, equations.side, equations.right = blocks(m), blocks(m), rows(m)
    return equations


def give_back(equations: Equations) -> None:
    free(equations.diagonal)
    free(equations.side)
    free(equations.right)


def place_controls(ring: Ring) -> None:
    """Write the four control points of every piece, x0 y0 x1 y1 x2 y2 x3 y3, from the joints' state."""
    m, state, is_corner, straight, controls = ring.count, ring.state, ring.is_corner, ring.straight, ring.controls
    for i in range(m):
        j = i + 1 if i + 1 < m else 0
        x0, y0, x3, y3 = state[i][0], state[i][1], state[j][0], state[j][1]
        if straight[i] == 1:
            hx0, hy0 = (x3 - x0) / 3.0, (y3 - y0) / 3.0
            hx3, hy3 = -hx0, -hy0
        else:
            if is_corner[i] == 1:
                hx0, hy0 = state[i][4], state[i][5]
            else:
                hx0, hy0 = state[i][4] * cos(state[i][2]), state[i][4] * sin(state[i][2])
            if is_corner[j] == 1:
                hx3, hy3 = state[j][2], state[j][3]
            else:
                hx3, hy3 = -state[j][3] * cos(state[j][2]), -state[j][3] * sin(state[j][2])
        controls[i][0], controls[i][1], controls[i][2], controls[i][3] = x0, y0, x0 + hx0, y0 + hy0
        controls[i][4], controls[i][5], controls[i][6], controls[i][7] = x3 + hx3, y3 + hy3, x3, y3


def ways_at(state: F64, i: int, j: int, ways: F64) -> None:
    """Write the directions of the tangents at two smooth joints: cosine and sine of each."""
    ways[0], ways[1] = cos(state[i][2]), sin(state[i][2])
    ways[2], ways[3] = cos(state[j][2]), sin(state[j][2])


def derivatives(u: float, nx: float, ny: float, i: int, j: int, ring: Ring, ways: F64, row: F64) -> None:
    """Write how a place on piece i moves along (nx, ny) with each unknown of its joints i and j (12).

    `ways` as of `ways_at`.
    """
    state, is_corner, straight = ring.state, ring.is_corner, ring.straight
    v = 1.0 - u
    b0, b1, b2, b3 = v * v * v, 3.0 * u * v * v, 3.0 * u * u * v, u * u * u
    memset(row, 0, BOTH * cython.sizeof(cython.double))
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
        row[2] = b1 * state[i][4] * (-nx * st + ny * ct)
        row[4] = b1 * (nx * ct + ny * st)
    if is_corner[j] == 1:
        row[8], row[9] = nx * b2, ny * b2
    else:
        ct, st = ways[2], ways[3]
        row[8] = -b2 * state[j][3] * (-nx * st + ny * ct)
        row[9] = -b2 * (nx * ct + ny * st)


def accumulate(to: Equations, i: int, j: int, row: F64, value: float, weight: float) -> None:
    """Add one residual `value` with its derivatives `row` (12: joint i, joint j) to the normal equations."""
    diagonal, side, right = to.diagonal, to.side, to.right
    for a in range(UNKNOWNS):
        ra, rb = weight * row[a], weight * row[UNKNOWNS + a]
        if ra != 0.0:
            right[i][a] -= ra * value
            for b in range(UNKNOWNS):
                diagonal[i][a][b] += ra * row[b]
                side[i][a][b] += ra * row[UNKNOWNS + b]
        if rb != 0.0:
            right[j][a] -= rb * value
            for b in range(UNKNOWNS):
                diagonal[j][a][b] += rb * row[UNKNOWNS + b]


def gather(block: F64, slope: F64, row: F64, value: float, weight: float) -> None:
    """Add one residual `value` with its derivatives `row` (12) to the equations of a piece, (12, 12) and (12).

    They are symmetric; only the half from the diagonal on is written.
    """
    for a in range(BOTH):
        share = weight * row[a]
        if share == 0.0:
            continue
        slope[a] -= share * value
        for b in range(a, BOTH):
            block[a][b] += share * row[b]


def spread(block: F64, slope: F64, to: Equations, i: int, j: int) -> None:
    """Add the equations of a piece from joint i to joint j to those of all, and empty them."""
    diagonal, side, right = to.diagonal, to.side, to.right
    for a in range(UNKNOWNS):
        right[i][a] += slope[a]
        right[j][a] += slope[UNKNOWNS + a]
        for b in range(UNKNOWNS):
            low, high = min(a, b), max(a, b)
            diagonal[i][a][b] += block[low][high]
            side[i][a][b] += block[a][UNKNOWNS + b]
            diagonal[j][a][b] += block[UNKNOWNS + low][UNKNOWNS + high]
    memset(block, 0, BOTH * cython.sizeof(BothRow))
    memset(slope, 0, cython.sizeof(BothRow))


def _hold(equations: Equations, i: int, unknown: int, m: int) -> None:
    """Keep an unknown of joint i as it is."""
    diagonal, side, right = equations.diagonal, equations.side, equations.right
    before = i - 1 if i > 0 else m - 1
    for a in range(UNKNOWNS):
        diagonal[i][unknown][a] = 0.0
        diagonal[i][a][unknown] = 0.0
        side[i][unknown][a] = 0.0
        side[before][a][unknown] = 0.0
    diagonal[i][unknown][unknown] = 1.0
    right[i][unknown] = 0.0


def add_priors(
    to: Equations, ring: Ring, corner_pull: float, thirds_pull: float, short_pull: float, damping: float
) -> float:
    """Add what is wanted of joints and handles beside nearness to the border; return what corners off home cost."""
    m, state, is_corner, straight, held, home = (
        ring.count,
        ring.state,
        ring.is_corner,
        ring.straight,
        ring.held,
        ring.home,
    )
    diagonal, right = to.diagonal, to.right
    row = cython.declare(cython.double[BOTH])
    total = cython.declare(cython.double, 0.0)
    for i in range(m):
        j = i + 1 if i + 1 < m else 0
        dx, dy = state[j][0] - state[i][0], state[j][1] - state[i][1]
        chord = hypot(dx, dy) + 1e-12
        if straight[i] == 1:
            for end in range(2):
                joint = i if end == 0 else j
                if is_corner[joint] == 1:
                    continue
                ct, st = cos(state[joint][2]), sin(state[joint][2])
                memset(row, 0, BOTH * cython.sizeof(cython.double))
                row[0], row[1], row[6], row[7] = st, -ct, -st, ct
                row[2 + UNKNOWNS * end] = -(ct * dx + st * dy)
                accumulate(to, i, j, row, ct * dy - st * dx, LINE_STIFFNESS)
            continue
        pull = thirds_pull * chord + short_pull / (chord + SHORT_PX)
        for end in range(2):
            joint = i if end == 0 else j
            first = 4 if end == 0 else 2
            if is_corner[joint] == 1:
                sign = 1.0 if end == 0 else -1.0
                diagonal[joint][first][first] += pull
                diagonal[joint][first + 1][first + 1] += pull
                right[joint][first] -= pull * (state[joint][first] - sign * dx / 3.0)
                right[joint][first + 1] -= pull * (state[joint][first + 1] - sign * dy / 3.0)
            else:
                length = 4 if end == 0 else 3
                diagonal[joint][length][length] += pull
                right[joint][length] -= pull * (state[joint][length] - chord / 3.0)
    for i in range(m):
        for a in range(UNKNOWNS):
            diagonal[i][a][a] += 1e-3 + damping * diagonal[i][a][a]
        if is_corner[i] == 1:
            for a in range(2):
                diagonal[i][a][a] += corner_pull
                right[i][a] -= corner_pull * (state[i][a] - home[i][a])
                total += corner_pull * (state[i][a] - home[i][a]) ** 2
        else:
            # a smooth joint may slide along the curve without harm, but should not wander
            ct, st = cos(state[i][2]), sin(state[i][2])
            diagonal[i][0][0] += 0.3 * ct * ct
            diagonal[i][0][1] += 0.3 * ct * st
            diagonal[i][1][0] += 0.3 * ct * st
            diagonal[i][1][1] += 0.3 * st * st
    for i in range(m):
        if is_corner[i] == 0 and held[i] & 1:
            _hold(to, i, 2, m)
        if held[i] & 2:
            _hold(to, i, 0, m)
            _hold(to, i, 1, m)
    return total


def take_step(equations: Equations, ring: Ring, furthest: float) -> None:
    """Take the step that solves the equations, shortened as a whole: no joint moves further than `furthest` px."""
    m, state, is_corner = ring.count, ring.state, ring.is_corner
    step = rows(m)
    solve(equations.diagonal, equations.side, equations.right, step, m)
    share = 1.0
    for i in range(m):
        for a in range(UNKNOWNS):
            bound = furthest
            if is_corner[i] == 0 and a == 2:
                bound = 0.3
            elif is_corner[i] == 0 and a > 2:
                bound = 0.5 * state[i][a]
            if fabs(step[i][a]) * share > bound:
                share = bound / fabs(step[i][a])
    for i in range(m):
        for a in range(UNKNOWNS):
            state[i][a] += share * step[i][a]
    free(step)


def adjust_once(samples: Samples, ring: Ring, damping: float) -> float:
    """One damped Gauss-Newton step of all joints; return the weighted sum of squared distances before it.

    The step is shortened as a whole, so that no joint moves far at once; every parameter is moved to its foot.
    """
    m, controls = ring.count, ring.controls
    place_controls(ring)
    equations = equations_of(m)
    to = cython.address(equations)
    row = cython.declare(cython.double[BOTH])
    slope = cython.declare(cython.double[BOTH])
    ways = cython.declare(cython.double[4])
    block = cython.declare(BothRow[BOTH])
    memset(block, 0, BOTH * cython.sizeof(BothRow))
    memset(slope, 0, cython.sizeof(BothRow))
    total = 0.0
    i = -1
    for k in range(samples.count):
        j = samples.owner[k] + 1 if samples.owner[k] + 1 < m else 0
        if samples.owner[k] != i:
            if i >= 0:
                spread(block, slope, to, i, i + 1 if i + 1 < m else 0)
            i = samples.owner[k]
            ways_at(ring.state, i, j, ways)
        c, px, py = cython.address(controls[i][0]), samples.xs[k], samples.ys[k]
        u, _ = foot(px, py, samples.us[k], c[0], c[1], c[2], c[3], c[4], c[5], c[6], c[7])
        samples.us[k] = u
        tx, ty = way_on(c, u)
        speed = hypot(tx, ty) + 1e-12
        nx, ny = -ty / speed, tx / speed
        x, y = place_on(c, u)
        distance = nx * (x - px) + ny * (y - py)
        derivatives(u, nx, ny, i, j, ring, ways, row)
        # the Huber weight keeps a few bad points from bending a piece
        far = fabs(distance)
        weight = samples.weights[k] * (1.0 if far < 0.3 else 0.3 / far)
        gather(block, slope, row, distance, weight)
        total += weight * distance * distance
    if i >= 0:
        spread(block, slope, to, i, i + 1 if i + 1 < m else 0)
    total += add_priors(to, ring, CORNER_PULL, THIRDS_PULL, 0.0, damping)
    take_step(to, ring, 1.5)
    give_back(to)
    return total


def settle_all(samples: Samples, ring: Ring, rounds: int) -> None:
    """Adjust all joints until it no longer pays; a step that made things worse is taken back and shortened."""
    best = cython.cast(cython.pointer(Row), rows(ring.count))
    before = cython.cast(cython.pointer(Row), rows(ring.count))
    best_us = doubles(samples.count)
    of_state, of_us = ring.count * cython.sizeof(Row), samples.count * cython.sizeof(cython.double)
    memcpy(best, ring.state, of_state)
    memcpy(best_us, samples.us, of_us)
    lowest = 1e300
    damping = 0.02
    for _ in range(rounds):
        memcpy(before, ring.state, of_state)
        cost = adjust_once(samples, ring, damping)
        if cost < lowest:
            gain = lowest - cost
            lowest = cost
            memcpy(best, before, of_state)
            memcpy(best_us, samples.us, of_us)
            damping = max(damping * 0.4, 1e-4)
            if gain < 1e-3 * cost:
                break
        else:
            memcpy(ring.state, best, of_state)
            memcpy(samples.us, best_us, of_us)
            damping *= 8.0
    memcpy(ring.state, best, of_state)
    memcpy(samples.us, best_us, of_us)
    free(best)
    free(best_us)
    free(before)


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
    """`settle_all` for Python.

    `owner` says to which piece each point belongs, `us` its parameter there, `held` which joints keep their tangent's
    angle (1), their place (2) or both (3), `home` (m, 2) where the corners were first placed.
    """
    ring, samples = cython.declare(Ring), cython.declare(Samples)
    ring.count = state.shape[0]
    ring.state = cython.cast(cython.pointer(Row), cython.address(state[0, 0]))
    ring.is_corner, ring.straight = cython.address(is_corner[0]), cython.address(straight[0])
    ring.held = cython.address(held[0])
    ring.controls = cython.cast(cython.pointer(Cubic), cython.address(controls[0, 0]))
    ring.home = cython.cast(cython.pointer(cython.const[Point]), cython.address(home[0, 0]))
    samples.count = xs.shape[0]
    samples.xs, samples.ys, samples.us = cython.address(xs[0]), cython.address(ys[0]), cython.address(us[0])
    samples.weights, samples.owner = cython.address(weights[0]), cython.address(owner[0])
    settle_all(cython.address(samples), cython.address(ring), ROUNDS)
