"""Compiled least-squares fit of one cubic piece between two joints."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import fabs, hypot, sqrt

from sobercrow.core.arrays import F64

SHORTEST_HANDLE = 0.08
LONGEST_HANDLE = 0.9
"""Bounds of a handle's length as a share of the chord."""


def _bound(length: float, chord: float) -> float:
    return min(max(length, SHORTEST_HANDLE * chord), LONGEST_HANDLE * chord)


def solve_handles(
    xs: F64, ys: F64, us: F64, count: int, ends: F64, free_out: bool, free_in: bool, handles: F64
) -> None:
    """Least-squares handles of a cubic with fixed end points for given parameters.

    A held end keeps its direction (Schneider 1990); a free one, at a corner, may turn. `ends` holds
    x0 y0 tx0 ty0 x3 y3 tx3 ty3 with the tangents pointing along the path. Writes x1 y1 x2 y2.
    """
    x0, y0, tx0, ty0 = ends[0], ends[1], ends[2], ends[3]
    x3, y3, tx3, ty3 = ends[4], ends[5], ends[6], ends[7]
    chord = hypot(x3 - x0, y3 - y0)
    # a weak pull to the thirds keeps pieces with few points well-behaved
    s11 = s22 = 0.02
    s12 = 0.0
    third_x, third_y = (x3 - x0) / 3.0, (y3 - y0) / 3.0
    r1x, r1y, r2x, r2y = 0.02 * third_x, 0.02 * third_y, -0.02 * third_x, -0.02 * third_y
    if not free_out:
        r1x, r1y = 0.02 * chord / 3.0 * tx0, 0.02 * chord / 3.0 * ty0
    if not free_in:
        r2x, r2y = -0.02 * chord / 3.0 * tx3, -0.02 * chord / 3.0 * ty3
    for k in range(count):
        u = us[k]
        v = 1.0 - u
        b1, b2 = 3.0 * u * v * v, 3.0 * u * u * v
        near, far = v * v * v + b1, u * u * u + b2
        dx, dy = xs[k] - near * x0 - far * x3, ys[k] - near * y0 - far * y3
        s11 += b1 * b1
        s12 += b1 * b2
        s22 += b2 * b2
        r1x += b1 * dx
        r1y += b1 * dy
        r2x += b2 * dx
        r2y += b2 * dy
    det = s11 * s22 - s12 * s12
    if free_out and free_in:
        h1x, h1y = (s22 * r1x - s12 * r2x) / det, (s22 * r1y - s12 * r2y) / det
        h2x, h2y = (s11 * r2x - s12 * r1x) / det, (s11 * r2y - s12 * r1y) / det
    elif free_out:
        rest = (r2x - s12 / s11 * r1x) * -tx3 + (r2y - s12 / s11 * r1y) * -ty3
        back = _bound(rest / (det / s11), chord)
        h2x, h2y = -back * tx3, -back * ty3
        h1x, h1y = (r1x - s12 * h2x) / s11, (r1y - s12 * h2y) / s11
    elif free_in:
        rest = (r1x - s12 / s22 * r2x) * tx0 + (r1y - s12 / s22 * r2y) * ty0
        ahead = _bound(rest / (det / s22), chord)
        h1x, h1y = ahead * tx0, ahead * ty0
        h2x, h2y = (r2x - s12 * h1x) / s22, (r2y - s12 * h1y) / s22
    else:
        cross = -s12 * (tx0 * tx3 + ty0 * ty3)
        q1, q2 = r1x * tx0 + r1y * ty0, -(r2x * tx3 + r2y * ty3)
        both = max(s11 * s22 - cross * cross, 1e-9)
        ahead, back = (s22 * q1 - cross * q2) / both, (s11 * q2 - cross * q1) / both
        if ahead < SHORTEST_HANDLE * chord:
            ahead = SHORTEST_HANDLE * chord
            back = (q2 - cross * ahead) / s22
        if back < SHORTEST_HANDLE * chord:
            back = SHORTEST_HANDLE * chord
            ahead = (q1 - cross * back) / s11
        ahead, back = _bound(ahead, chord), _bound(back, chord)
        h1x, h1y, h2x, h2y = ahead * tx0, ahead * ty0, -back * tx3, -back * ty3
    reach = LONGEST_HANDLE * chord
    size1, size2 = hypot(h1x, h1y), hypot(h2x, h2y)
    if size1 > reach:
        h1x, h1y = h1x * reach / size1, h1y * reach / size1
    if size2 > reach:
        h2x, h2y = h2x * reach / size2, h2y * reach / size2
    handles[0], handles[1] = x0 + h1x, y0 + h1y
    handles[2], handles[3] = x3 + h2x, y3 + h2y


def place_on(c: F64, u: float) -> tuple[float, float]:
    """The place on a cubic x0 y0 x1 y1 x2 y2 x3 y3 at a parameter, 0–1."""
    v = 1.0 - u
    b0, b1, b2, b3 = v * v * v, 3.0 * u * v * v, 3.0 * u * u * v, u * u * u
    return b0 * c[0] + b1 * c[2] + b2 * c[4] + b3 * c[6], b0 * c[1] + b1 * c[3] + b2 * c[5] + b3 * c[7]


def way_on(c: F64, u: float) -> tuple[float, float]:
    """A third of a cubic's derivative at a parameter, 0–1."""
    v = 1.0 - u
    x = v * v * (c[2] - c[0]) + 2.0 * u * v * (c[4] - c[2]) + u * u * (c[6] - c[4])
    y = v * v * (c[3] - c[1]) + 2.0 * u * v * (c[5] - c[3]) + u * u * (c[7] - c[5])
    return x, y


def foot(
    px: float,
    py: float,
    u: float,
    x0: float,
    y0: float,
    x1: float,
    y1: float,
    x2: float,
    y2: float,
    x3: float,
    y3: float,
) -> tuple[float, float]:
    """One Newton step of a point's foot on a cubic: (new parameter, signed normal distance at the old one).

    The distance is positive where the curve lies to the left of the path as seen from the point, y down.
    """
    v = 1.0 - u
    a0, a1, a2, a3 = v * v * v, 3.0 * u * v * v, 3.0 * u * u * v, u * u * u
    ex = a0 * x0 + a1 * x1 + a2 * x2 + a3 * x3 - px
    ey = a0 * y0 + a1 * y1 + a2 * y2 + a3 * y3 - py
    d0, d1, d2 = 3.0 * v * v, 6.0 * u * v, 3.0 * u * u
    vx = d0 * (x1 - x0) + d1 * (x2 - x1) + d2 * (x3 - x2)
    vy = d0 * (y1 - y0) + d1 * (y2 - y1) + d2 * (y3 - y2)
    wx = 6.0 * (v * (x2 - 2.0 * x1 + x0) + u * (x3 - 2.0 * x2 + x1))
    wy = 6.0 * (v * (y2 - 2.0 * y1 + y0) + u * (y3 - 2.0 * y2 + y1))
    speed2 = vx * vx + vy * vy
    slope = speed2 + ex * wx + ey * wy
    if slope < 0.25 * speed2:
        slope = speed2
    step = (ex * vx + ey * vy) / (slope + 1e-12)
    distance = (vx * ey - vy * ex) / sqrt(speed2 + 1e-12)
    return min(max(u - step, 0.0), 1.0), distance


def feet(points: F64, us: F64, control: F64) -> F64:
    """Move the parameters `us` of points (n, 2) one step to their feet on a cubic; return the signed distances.

    `control` holds x0 y0 x1 y1 x2 y2 x3 y3.
    """
    off = cython.declare(cython.double[::1], np.empty(us.shape[0]))
    for k in range(us.shape[0]):
        us[k], off[k] = foot(
            points[k, 0],
            points[k, 1],
            us[k],
            control[0],
            control[1],
            control[2],
            control[3],
            control[4],
            control[5],
            control[6],
            control[7],
        )
    return np.asarray(off)


def measure(xs: F64, ys: F64, us: F64, count: int, ends: F64, handles: F64) -> tuple[float, float]:
    """Move every parameter one step to its foot; return the sum of squares and the largest distance."""
    total = worst = 0.0
    for k in range(count):
        u, distance = foot(
            xs[k], ys[k], us[k], ends[0], ends[1], handles[0], handles[1], handles[2], handles[3], ends[4], ends[5]
        )
        us[k] = u
        total += distance * distance
        worst = max(worst, fabs(distance))
    return total, worst


def fit(
    xs: F64, ys: F64, us: F64, count: int, ends: F64, free_out: bool, free_in: bool, handles: F64, rounds: int
) -> tuple[float, float]:
    """Fit a cubic to `count` points; return the sum of squared distances and the largest one, in px."""
    for _ in range(rounds):
        solve_handles(xs, ys, us, count, ends, free_out, free_in, handles)
        measure(xs, ys, us, count, ends, handles)
    return measure(xs, ys, us, count, ends, handles)


def fit_piece(
    xs: F64, ys: F64, us: F64, count: int, ends: F64, free_out: bool, free_in: bool, handles: F64, rounds: int
) -> tuple[float, float]:
    """The same for Python."""
    return fit(
        cython.address(xs[0]),
        cython.address(ys[0]),
        cython.address(us[0]),
        count,
        cython.address(ends[0]),
        free_out,
        free_in,
        cython.address(handles[0]),
        rounds,
    )
