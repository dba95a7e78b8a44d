"""Compiled search for the cheapest chain of pieces: dynamic programming over candidate joints.

After Bellman 1961, "On the approximation of curves by line segments using dynamic programming", with
cubic pieces (Schneider 1990) in place of lines.
"""

from __future__ import annotations

import cython
from cython.cimports.libc.math import cos, fabs, hypot
from cython.cimports.libc.stdlib import free
from cython.cimports.sobercrow.core._numeric import modulo, searchsorted, sign
from cython.cimports.sobercrow.core._scratch import bytes_of, doubles, longs
from cython.cimports.sobercrow.core.geometry._piece_kernels import fit
from cython.cimports.sobercrow.core.tracing._joint_kernels import Border, border_of, place_on_border
from cython.cimports.sobercrow.core.tracing._sizes import ROOM, SAMPLES, Node

from sobercrow.core.arrays import F64, I64, U8

TANGENT_REACH_PX = 3.0
ERROR_PRICE = 0.5
"""Price of one px2 of squared distance per px of border, in anchors."""
LINE_BONUS = 0.2
EXTREME_BONUS = 0.25
"""How much cheaper than one anchor a straight piece and a joint at an extreme are."""
WIDEST_TURN_COS = -0.2
WIDE_TURN_PRICE = 1.0
"""A piece that turns by much more than a quarter is as dear as two: a draughtsman sets an anchor at each extreme."""
LINE_SLACK_RAD = 0.10
"""A straight piece may leave a smooth joint at this angle from the joint's estimated tangent."""


def find_candidates(
    border: Border, low: float, high: float, open_ends: bool, joints: F64, extreme: U8, room: int
) -> int:
    """Write smooth joint candidates between arc lengths `low` and `high`: extremes and even steps.

    `joints` rows are s, x, y, tangent x, tangent y, of which there is `room`. Returns the count. With `open_ends`
    the ends are corners and no candidate comes near them.
    """
    length = high - low
    guard = 1.5 if open_ends else 0.0
    step = min(max(length / 24.0, 2.0), 7.0)
    edge_low, edge_high = (low + 0.6, high - 0.6) if open_ends else (-1e18, 1e18)
    count = 0
    fine = 1.0
    here = cython.declare(cython.double[4])
    spot = cython.declare(cython.double[4])
    before_x = before_y = 0.0
    last = low + (0.0 if open_ends else -step)
    s = low + guard
    first = True
    while s < high - guard and count + 3 < room:
        place_on_border(border, s, TANGENT_REACH_PX, edge_low, edge_high, here)
        if not first and (before_x * here[2] < 0.0 or before_y * here[3] < 0.0):
            # the tangent passed level or upright: find the place between the two by the regula falsi
            part_now = fabs(here[2]) if before_x * here[2] < 0.0 else fabs(here[3])
            part_old = fabs(before_x) if before_x * here[2] < 0.0 else fabs(before_y)
            at = s - fine * part_now / (part_now + part_old + 1e-12)
            if count > 0 and at - joints[count - 1][0] < 0.6 * step and extreme[count - 1] == 0:
                count -= 1
            if count == 0 or at - joints[count - 1][0] > 1.0:
                place_on_border(border, at, TANGENT_REACH_PX, edge_low, edge_high, spot)
                joints[count][0] = at
                for k in range(4):
                    joints[count][1 + k] = spot[k]
                if fabs(spot[2]) < fabs(spot[3]):
                    joints[count][3], joints[count][4] = 0.0, sign(spot[3])
                else:
                    joints[count][3], joints[count][4] = sign(spot[2]), 0.0
                extreme[count] = 1
                count += 1
                last = at
        if s - last >= step:
            joints[count][0] = s
            for k in range(4):
                joints[count][1 + k] = here[k]
            extreme[count] = 0
            count += 1
            last = s
        before_x, before_y = here[2], here[3]
        first = False
        s += fine
    return count


def take_points(border: Border, low: float, high: float, xs: F64, ys: F64, us: F64) -> int:
    """Take evenly chosen border points between two arc lengths; return their count.

    `us` gets their place as a share of the stretch.
    """
    n, points, along = border.count, border.points, border.along
    perimeter = along[n]
    first = searchsorted(along, n, modulo(low, perimeter))
    last = searchsorted(along, n, modulo(high, perimeter))
    base = low - modulo(low, perimeter)
    total = last - first
    if total < 0 or (total == 0 and high - low > 0.5 * perimeter):
        total += n
    if total <= 0:
        return 0
    stride = max(1, (total + SAMPLES - 1) // SAMPLES)
    count = 0
    k = (stride - 1) // 2
    while k < total and count < ROOM:
        i = first + k
        lap = base
        if i >= n:
            i -= n
            lap += perimeter
        xs[count], ys[count] = points[i][0], points[i][1]
        us[count] = (along[i] + lap - low) / (high - low)
        count += 1
        k += stride
    return count


def _line_error(xs: F64, ys: F64, count: int, ends: F64) -> tuple[float, float]:
    dx, dy = ends[4] - ends[0], ends[5] - ends[1]
    size = hypot(dx, dy) + 1e-12
    total = worst = 0.0
    for k in range(count):
        d = ((xs[k] - ends[0]) * dy - (ys[k] - ends[1]) * dx) / size
        total += d * d
        worst = max(worst, fabs(d))
    return total, worst


def chain(
    border: Border,
    nodes: F64,
    n: int,
    extreme: U8,
    is_corner: U8,
    trim: F64,
    tolerance: float,
    smoothness: float,
    chosen: I64,
    straight: U8,
) -> tuple[int, float]:
    """Choose the cheapest way from the first node to the last.

    `nodes` rows are s, x, y, tangent x, tangent y in order of s; `trim` is the border to distrust next
    to each corner. A piece costs one anchor, plus its squared distance, less the bonuses; pieces beyond
    the tolerance cost steeply more, so that there is always a way. Writes the chosen node indices and,
    for each piece, whether it is straight; returns the number of pieces and the cost.
    """
    best, came, as_line = doubles(n), longs(n), bytes_of(n)
    for i in range(1, n):
        best[i] = 1e18
    xs = cython.declare(cython.double[ROOM])
    ys = cython.declare(cython.double[ROOM])
    us = cython.declare(cython.double[ROOM])
    ends = cython.declare(cython.double[8])
    handles = cython.declare(cython.double[4])
    cython.declare(wide=cython.bint, line_fits=cython.bint, line=cython.bint, cost=cython.double, curved=cython.double)
    slack = cos(LINE_SLACK_RAD)
    for i in range(n - 1):
        failures = 0
        for j in range(i + 1, n):
            length = nodes[j][0] - nodes[i][0]
            if length < 1.0 and j < n - 1:
                continue
            turn = nodes[i][3] * nodes[j][3] + nodes[i][4] * nodes[j][4]
            wide = is_corner[i] == 0 and is_corner[j] == 0 and turn < WIDEST_TURN_COS
            if wide and best[j] <= best[i] + 1.0 + WIDE_TURN_PRICE - LINE_BONUS - EXTREME_BONUS:
                continue  # reached more cheaply already
            for k in range(4):
                ends[k], ends[4 + k] = nodes[i][1 + k], nodes[j][1 + k]
            dx, dy = ends[4] - ends[0], ends[5] - ends[1]
            chord = hypot(dx, dy) + 1e-12
            line_fits = (is_corner[i] == 1 or (ends[2] * dx + ends[3] * dy) / chord > slack) and (
                is_corner[j] == 1 or (ends[6] * dx + ends[7] * dy) / chord > slack
            )
            least = (1.0 - LINE_BONUS if line_fits else 1.0) - (EXTREME_BONUS if extreme[j] == 1 else 0.0)
            if best[i] + least >= best[j]:
                failures = 0  # not known to have failed
                continue  # reached as cheaply already, whatever the piece costs
            low, high = nodes[i][0] + trim[i], nodes[j][0] - trim[j]
            count = 0
            if high > low:
                count = take_points(border, low, high, xs, ys, us)
                for k in range(count):
                    us[k] = (low - nodes[i][0] + us[k] * (high - low)) / length
            if count == 0:
                squares, worst, line = 0.0, 0.0, line_fits
            else:
                squares, worst = _line_error(xs, ys, count, ends)
                line = line_fits and worst < 0.8 * tolerance
            cost = 1e18
            if line:
                cost = 1.0 - LINE_BONUS + ERROR_PRICE * smoothness * squares / max(count, 1) * length
            if not line or (cost > 1.3 and count > 4):
                rounds = 2
                squares, worst = fit(
                    xs,
                    ys,
                    us,
                    count,
                    ends,
                    is_corner[i] == 1 and count > 3,
                    is_corner[j] == 1 and count > 3,
                    handles,
                    rounds,
                )
                curved = 1.0 + ERROR_PRICE * smoothness * squares / max(count, 1) * length
                if worst > tolerance:
                    over = worst / tolerance - 1.0
                    curved += 0.5 + 8.0 * over + 4.0 * over * over
                if curved < cost:
                    cost = curved
                    line = False
            if wide:
                cost += WIDE_TURN_PRICE
            if extreme[j] == 1:
                cost -= EXTREME_BONUS
            if best[i] + cost < best[j]:
                best[j] = best[i] + cost
                came[j] = i
                as_line[j] = 1 if line else 0
            if worst > 4.0 * tolerance + 0.5:
                failures += 1
                if failures >= 3:
                    break
            else:
                failures = 0
    pieces = 0
    k = n - 1
    while k > 0:
        chosen[pieces + 1] = k
        straight[pieces] = as_line[k]
        pieces += 1
        k = came[k]
    for a in range(pieces // 2):  # the way was found from its end
        b = pieces - 1 - a
        chosen[a + 1], chosen[b + 1] = chosen[b + 1], chosen[a + 1]
        straight[a], straight[b] = straight[b], straight[a]
    chosen[0] = 0
    lowest = best[n - 1]
    free(best)
    free(came)
    free(as_line)
    return pieces, lowest


def candidate_joints(
    points: F64, along: F64, low: float, high: float, open_ends: bool, joints: F64, extreme: U8
) -> int:
    """`find_candidates` for Python."""
    border = border_of(points, along)
    rows = cython.cast(cython.pointer(Node), cython.address(joints[0, 0]))
    return find_candidates(
        cython.address(border), low, high, open_ends, rows, cython.address(extreme[0]), joints.shape[0]
    )


def gather(points: F64, along: F64, low: float, high: float, xs: F64, ys: F64, us: F64) -> int:
    """`take_points` for Python."""
    border = border_of(points, along)
    return take_points(
        cython.address(border), low, high, cython.address(xs[0]), cython.address(ys[0]), cython.address(us[0])
    )


def cheapest_chain(
    points: F64,
    along: F64,
    nodes: F64,
    extreme: U8,
    is_corner: U8,
    trim: F64,
    tolerance: float,
    smoothness: float,
    chosen: I64,
    straight: U8,
) -> tuple[int, float]:
    """`chain` for Python."""
    border = border_of(points, along)
    return chain(
        cython.address(border),
        cython.cast(cython.pointer(cython.const[Node]), cython.address(nodes[0, 0])),
        nodes.shape[0],
        cython.address(extreme[0]),
        cython.address(is_corner[0]),
        cython.address(trim[0]),
        tolerance,
        smoothness,
        cython.address(chosen[0]),
        cython.address(straight[0]),
    )
