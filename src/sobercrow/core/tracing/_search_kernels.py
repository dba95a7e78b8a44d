"""Compiled search for the cheapest chain of pieces: dynamic programming over candidate joints.

After Bellman 1961, "On the approximation of curves by line segments using dynamic programming", with
cubic pieces (Schneider 1990) in place of lines.
"""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64, I64, U8
from sobercrow.core.compiled import kernel
from sobercrow.core.geometry._piece_kernels import SAMPLES, fit_piece
from sobercrow.core.tracing._joint_kernels import place_at

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


@kernel
def candidate_joints(
    points: F64, along: F64, low: float, high: float, open_ends: bool, joints: F64, extreme: U8
) -> int:
    """Write smooth joint candidates between arc lengths `low` and `high`: extremes and even steps.

    `joints` rows are s, x, y, tangent x, tangent y. Returns the count. With `open_ends` the ends are
    corners and no candidate comes near them.
    """
    length = high - low
    guard = 1.5 if open_ends else 0.0
    step = min(max(length / 24.0, 2.0), 7.0)
    edge_low, edge_high = (low + 0.6, high - 0.6) if open_ends else (-1e18, 1e18)
    count = 0
    fine = 1.0
    here = np.empty(4)
    before_x = before_y = 0.0
    last = low + (0.0 if open_ends else -step)
    s = low + guard
    first = True
    while s < high - guard and count + 3 < joints.shape[0]:
        place_at(points, along, s, TANGENT_REACH_PX, edge_low, edge_high, here)
        if not first and (before_x * here[2] < 0.0 or before_y * here[3] < 0.0):
            # the tangent passed level or upright: find the place between the two by the regula falsi
            part_now = abs(here[2]) if before_x * here[2] < 0.0 else abs(here[3])
            part_old = abs(before_x) if before_x * here[2] < 0.0 else abs(before_y)
            at = s - fine * part_now / (part_now + part_old + 1e-12)
            if count > 0 and at - joints[count - 1, 0] < 0.6 * step and extreme[count - 1] == 0:
                count -= 1
            if count == 0 or at - joints[count - 1, 0] > 1.0:
                spot = np.empty(4)
                place_at(points, along, at, TANGENT_REACH_PX, edge_low, edge_high, spot)
                joints[count, 0] = at
                joints[count, 1:] = spot
                if abs(spot[2]) < abs(spot[3]):
                    joints[count, 3], joints[count, 4] = 0.0, np.sign(spot[3])
                else:
                    joints[count, 3], joints[count, 4] = np.sign(spot[2]), 0.0
                extreme[count] = 1
                count += 1
                last = at
        if s - last >= step:
            joints[count, 0] = s
            joints[count, 1:] = here
            extreme[count] = 0
            count += 1
            last = s
        before_x, before_y = here[2], here[3]
        first = False
        s += fine
    return count


@kernel
def gather(points: F64, along: F64, low: float, high: float, xs: F64, ys: F64, us: F64) -> int:
    """Take evenly chosen border points between two arc lengths; return their count.

    `us` gets their place as a share of the stretch.
    """
    n = points.shape[0]
    perimeter = along[n]
    first = np.searchsorted(along[:n], low % perimeter)
    last = np.searchsorted(along[:n], high % perimeter)
    base = low - low % perimeter
    total = last - first
    if total < 0 or (total == 0 and high - low > 0.5 * perimeter):
        total += n
    if total <= 0:
        return 0
    stride = max(1, (total + SAMPLES - 1) // SAMPLES)
    count = 0
    k = (stride - 1) // 2
    while k < total and count < xs.size:
        i = first + k
        lap = base
        if i >= n:
            i -= n
            lap += perimeter
        xs[count], ys[count] = points[i, 0], points[i, 1]
        us[count] = (along[i] + lap - low) / (high - low)
        count += 1
        k += stride
    return count


@kernel
def _line_error(xs: F64, ys: F64, count: int, ends: F64) -> tuple[float, float]:
    dx, dy = ends[4] - ends[0], ends[5] - ends[1]
    size = np.hypot(dx, dy) + 1e-12
    total = worst = 0.0
    for k in range(count):
        d = ((xs[k] - ends[0]) * dy - (ys[k] - ends[1]) * dx) / size
        total += d * d
        worst = max(worst, abs(d))
    return total, worst


@kernel
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
    """Choose the cheapest way from the first node to the last.

    `nodes` rows are s, x, y, tangent x, tangent y in order of s; `trim` is the border to distrust next
    to each corner. A piece costs one anchor, plus its squared distance, less the bonuses; pieces beyond
    the tolerance cost steeply more, so that there is always a way. Writes the chosen node indices and,
    for each piece, whether it is straight; returns the number of pieces and the cost.
    """
    n = nodes.shape[0]
    best = np.full(n, 1e18)
    came = np.zeros(n, dtype=np.int64)
    as_line = np.zeros(n, dtype=np.uint8)
    best[0] = 0.0
    xs, ys, us = np.empty(2 * SAMPLES), np.empty(2 * SAMPLES), np.empty(2 * SAMPLES)
    ends, handles = np.empty(8), np.empty(4)
    slack = np.cos(LINE_SLACK_RAD)
    for i in range(n - 1):
        failures = 0
        for j in range(i + 1, n):
            length = nodes[j, 0] - nodes[i, 0]
            if length < 1.0 and j < n - 1:
                continue
            turn = nodes[i, 3] * nodes[j, 3] + nodes[i, 4] * nodes[j, 4]
            wide = is_corner[i] == 0 and is_corner[j] == 0 and turn < WIDEST_TURN_COS
            if wide and best[j] <= best[i] + 1.0 + WIDE_TURN_PRICE - LINE_BONUS - EXTREME_BONUS:
                continue  # reached more cheaply already
            ends[:4] = nodes[i, 1:5]
            ends[4:] = nodes[j, 1:5]
            low, high = nodes[i, 0] + trim[i], nodes[j, 0] - trim[j]
            count = 0
            if high > low:
                count = gather(points, along, low, high, xs, ys, us)
                for k in range(count):
                    us[k] = (low - nodes[i, 0] + us[k] * (high - low)) / length
            dx, dy = ends[4] - ends[0], ends[5] - ends[1]
            chord = np.hypot(dx, dy) + 1e-12
            line_fits = (is_corner[i] == 1 or (ends[2] * dx + ends[3] * dy) / chord > slack) and (
                is_corner[j] == 1 or (ends[6] * dx + ends[7] * dy) / chord > slack
            )
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
                squares, worst = fit_piece(
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
    return pieces, best[n - 1]
