"""Compiled fit of one border, closed or from junction to junction: corners, joints, pieces, adjustment."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64, I64, U8
from sobercrow.core.compiled import kernel
from sobercrow.core.geometry._piece_kernels import foot, solve_handles
from sobercrow.core.tracing._adjust_kernels import handles_of, settle
from sobercrow.core.tracing._corner_kernels import hidden_corners, local_maxima, place_corner, turn_strengths
from sobercrow.core.tracing._joint_kernels import arc_lengths
from sobercrow.core.tracing._search_kernels import candidate_joints, cheapest_chain

CORNERS_APART_PX = 2.5
LEAST_STRETCH_PX = 1e-6
GAP_PX = 1000.0
"""The way back from the end of an open border to its start counts as this long: nothing looks across it."""
END_GUARD_PX = 2.0
"""No corner is looked for nearer to the end of an open border."""
LEVEL_SNAP_RAD = 0.05
"""A joint chosen at an extreme keeps its tangent level or upright when the border agrees within this."""


@kernel
def _chain(
    points: F64,
    along: F64,
    low: F64,
    high: F64,
    ring: bool,
    tolerance: float,
    smoothness: float,
    out: F64,
    kinds: U8,
    lines: U8,
) -> tuple[int, float]:
    """Choose the joints from one end to the other; ends are rows of s, x, y, tx, ty, corner, trim.

    In a ring without corners the border beyond the ends is looked at too.

    Writes s, x, y, tx, ty and trim of the chosen joints but the last; kinds get 0 corner, 1 smooth,
    2 smooth at an extreme.
    """
    length = high[0] - low[0]
    room = int(length) + 8
    nodes = np.empty((room + 2, 5))
    extreme = np.zeros(room + 2, dtype=np.uint8)
    is_corner = np.zeros(room + 2, dtype=np.uint8)
    trim = np.zeros(room + 2)
    inner = candidate_joints(points, along, low[0], high[0], not ring, nodes[1 : room + 1], extreme[1 : room + 1])
    nodes[0] = low[:5]
    nodes[inner + 1] = high[:5]
    is_corner[0], is_corner[inner + 1] = low[5], high[5]
    trim[0], trim[inner + 1] = low[6], high[6]
    n = inner + 2
    chosen = np.empty(n, dtype=np.int64)
    straight = np.empty(n, dtype=np.uint8)
    pieces, cost = cheapest_chain(
        points, along, nodes[:n], extreme[:n], is_corner[:n], trim[:n], tolerance, smoothness, chosen, straight
    )
    for k in range(pieces):
        node = chosen[k]
        out[k, :5] = nodes[node]
        out[k, 5] = trim[node]
        kinds[k] = 0 if is_corner[node] == 1 else (2 if extreme[node] == 1 else 1)
        lines[k] = straight[k]
    return pieces, cost


@kernel
def _smooth_ring(points: F64, along: F64, tolerance: float, smoothness: float, out: F64, kinds: U8, lines: U8) -> int:
    """Choose the joints of a contour without corners. It has no natural start, so two are tried."""
    n = points.shape[0]
    perimeter = along[n]
    seeds = np.empty((int(perimeter) + 8, 5))
    level = np.zeros(seeds.shape[0], dtype=np.uint8)
    count = candidate_joints(points, along, 0.0, perimeter, False, seeds, level)
    start = 0
    lowest = 1e18
    for k in range(count):
        if level[k] == 1 and seeds[k, 1] + 1e-3 * seeds[k, 2] < lowest:
            lowest = seeds[k, 1] + 1e-3 * seeds[k, 2]
            start = k
    best_cost = 1e18
    best = 0
    low, high = np.zeros(7), np.zeros(7)
    low[:5] = seeds[start]
    low_level = level[start]
    trial, trial_kinds, trial_lines = np.empty_like(out), np.empty_like(kinds), np.empty_like(lines)
    for _ in range(2):
        high[:] = low
        high[0] += perimeter
        pieces, cost = _chain(points, along, low, high, True, tolerance, smoothness, trial, trial_kinds, trial_lines)
        trial_kinds[0] = 2 if low_level == 1 else 1
        cost -= 0.25 if low_level == 1 else 0.0
        if cost < best_cost - 1e-9:
            best_cost, best = cost, pieces
            out[:pieces], kinds[:pieces], lines[:pieces] = (trial[:pieces], trial_kinds[:pieces], trial_lines[:pieces])
        middle = pieces // 2
        if middle == 0:
            break
        low[:5] = trial[middle, :5]
        low_level = 1 if trial_kinds[middle] == 2 else 0
    return best


@kernel
def _initial_state(
    xs: F64, ys: F64, us: F64, first_of: I64, joints: F64, kinds: U8, lines: U8, state: F64, is_corner: U8
) -> None:
    m = joints.shape[0]
    ends, handles = np.empty(8), np.empty(4)
    for i in range(m):
        is_corner[i] = 1 if kinds[i] == 0 else 0
        state[i, 0], state[i, 1] = joints[i, 1], joints[i, 2]
        if is_corner[i] == 0:
            state[i, 2] = np.arctan2(joints[i, 4], joints[i, 3])
            state[i, 3] = state[i, 4] = 1.0
    for i in range(m):
        j = i + 1 if i + 1 < m else 0
        chord_x, chord_y = joints[j, 1] - joints[i, 1], joints[j, 2] - joints[i, 2]
        a, b = first_of[i], first_of[i + 1]
        ends[:4], ends[4:] = joints[i, 1:5], joints[j, 1:5]
        if lines[i] == 1:
            handles[0], handles[1] = joints[i, 1] + chord_x / 3.0, joints[i, 2] + chord_y / 3.0
            handles[2], handles[3] = joints[j, 1] - chord_x / 3.0, joints[j, 2] - chord_y / 3.0
        else:
            for _ in range(2):
                enough = b - a > 3
                solve_handles(
                    xs[a:b], ys[a:b], us[a:b], b - a, ends, enough and kinds[i] == 0, enough and kinds[j] == 0, handles
                )
                for k in range(a, b):
                    us[k], _d = foot(
                        xs[k],
                        ys[k],
                        us[k],
                        ends[0],
                        ends[1],
                        handles[0],
                        handles[1],
                        handles[2],
                        handles[3],
                        ends[4],
                        ends[5],
                    )
        out_x, out_y = handles[0] - joints[i, 1], handles[1] - joints[i, 2]
        in_x, in_y = handles[2] - joints[j, 1], handles[3] - joints[j, 2]
        if is_corner[i] == 1:
            state[i, 4], state[i, 5] = out_x, out_y
        else:
            state[i, 4] = np.hypot(out_x, out_y)
        if is_corner[j] == 1:
            state[j, 2], state[j, 3] = in_x, in_y
        else:
            state[j, 3] = np.hypot(in_x, in_y)


@kernel
def _corner_places(points: F64, along: F64, corners: I64, low: float, high: float, blur: float, places: F64) -> int:
    """Write arc length, x, y and border to distrust of the corners found; return how many.

    On an open border the first and the last one are no nearer to the other corners than its ends, `low` and `high`; on
    a closed one both are the same place, a perimeter apart.
    """
    closed = high - low >= along[points.shape[0]] - 1e-9
    count = 0
    for c in range(corners.size):
        at = corners[c]
        behind = along[at] - (along[corners[c - 1]] if c > 0 else low)
        ahead = (along[corners[c + 1]] if c + 1 < corners.size else high) - along[at]
        if closed and c == 0:
            behind = high - low if corners.size == 1 else along[at] + high - low - along[corners[corners.size - 1]]
        if closed and c + 1 == corners.size:
            ahead = high - low if corners.size == 1 else along[corners[0]] + high - low - along[at]
        count += place_corner(points, along, at, behind, ahead, blur, places[count:])
    return count


@kernel
def _placed_corners(
    points: F64, along: F64, turns: F64, corner_rad: float, low: float, high: float, blur: float
) -> F64:
    """Find the corners of a border and place them, those included that others had hidden: rows as `place_corner`'s."""
    n = points.shape[0]
    closed = high - low >= along[n] - 1e-9
    corners = local_maxima(points, along, turns, corner_rad, CORNERS_APART_PX)
    places = np.empty((2 * corners.size + 2, 4))
    count = _corner_places(points, along, corners, low, high, blur, places)
    hidden = np.empty(2 * count, dtype=np.int64)
    more = hidden_corners(points, along, places[:count], low, high, closed, corner_rad, hidden)
    if more == 0:
        return places[:count]
    together = np.sort(np.concatenate((corners, hidden[:more])))
    places = np.empty((2 * together.size + 2, 4))
    count = _corner_places(points, along, together, low, high, blur, places)
    return places[:count]


@kernel
def _between(
    points: F64, along: F64, low: F64, high: F64, tolerance: float, smoothness: float, joints: F64, kinds: U8, lines: U8
) -> int:
    """Choose the joints between two places that part the border; a corner there takes the chord's direction."""
    high[0] = max(high[0], low[0] + LEAST_STRETCH_PX)  # the corners of tiny contours may fall on each other
    room_between = 0.35 * (high[0] - low[0])
    low[6], high[6] = min(low[6], room_between), min(high[6], room_between)
    size = np.hypot(high[1] - low[1], high[2] - low[2]) + 1e-12
    for row in (low, high):
        if row[5] > 0.0:
            row[3], row[4] = (high[1] - low[1]) / size, (high[2] - low[2]) / size
    pieces, _ = _chain(points, along, low, high, False, tolerance, smoothness, joints, kinds, lines)
    return pieces


@kernel
def _adjusted(points: F64, along: F64, joints: F64, kinds: U8, lines: U8, held: U8, anchors: F64) -> None:
    """Adjust the joints of a ring of pieces together and write the anchors (m, 6); kinds become 0 corner, 1 smooth.

    `held` is 1 where a tangent keeps its angle, 2 where a joint keeps its place, 3 for both.
    """
    n, m = points.shape[0], joints.shape[0]
    perimeter = along[n]
    xs, ys, us = np.empty(n), np.empty(n), np.empty(n)
    weights, owner = np.ones(n), np.empty(n, dtype=np.int64)
    first_of = np.zeros(m + 1, dtype=np.int64)
    start = np.searchsorted(along[:n], joints[0, 0] % perimeter)
    base = joints[0, 0] - joints[0, 0] % perimeter
    piece = 0
    for k in range(n):
        at = start + k
        s = along[at] + base if at < n else along[at - n] + base + perimeter
        at %= n
        while piece < m - 1 and s >= joints[piece + 1, 0]:
            piece += 1
            first_of[piece] = k
        ahead = joints[piece + 1, 0] if piece + 1 < m else joints[0, 0] + perimeter
        xs[k], ys[k], owner[k] = points[at, 0], points[at, 1], piece
        stretch = max(ahead - joints[piece, 0], LEAST_STRETCH_PX)
        us[k] = min(max((s - joints[piece, 0]) / stretch, 0.0), 1.0)
        trim_ahead = joints[piece + 1, 5] if piece + 1 < m else joints[0, 5]
        if s - joints[piece, 0] < joints[piece, 5] or ahead - s < trim_ahead:
            weights[k] = 0.01
    for k in range(piece + 1, m + 1):
        first_of[k] = n
    state = np.zeros((m, 6))
    is_corner = np.zeros(m, dtype=np.uint8)
    controls = np.empty((m, 8))
    _initial_state(xs, ys, us, first_of, joints, kinds, lines, state, is_corner)
    settle(xs, ys, us, weights, owner, state, is_corner, lines, held, controls, joints[:, 1:3])
    for i in range(m):
        if kinds[i] == 2:
            quarter = np.round(state[i, 2] / (0.5 * np.pi)) * 0.5 * np.pi
            if abs(state[i, 2] - quarter) < LEVEL_SNAP_RAD:
                state[i, 2] = quarter
                held[i] |= 1
    settle(xs, ys, us, weights, owner, state, is_corner, lines, held, controls, joints[:, 1:3])
    handles_of(state, is_corner, lines, controls)
    for i in range(m):
        before = i - 1 if i > 0 else m - 1
        anchors[i, 0], anchors[i, 1] = controls[before, 4], controls[before, 5]
        anchors[i, 2], anchors[i, 3] = controls[i, 0], controls[i, 1]
        anchors[i, 4], anchors[i, 5] = controls[i, 2], controls[i, 3]
        if lines[before] == 1:
            anchors[i, 0], anchors[i, 1] = anchors[i, 2], anchors[i, 3]
        if lines[i] == 1:
            anchors[i, 4], anchors[i, 5] = anchors[i, 2], anchors[i, 3]
        kinds[i] = 0 if is_corner[i] == 1 else 1


@kernel
def fit_contour(
    points: F64, tolerance: float, corner_rad: float, smoothness: float, blur: float, anchors: F64, kinds: U8
) -> int:
    """Fit one closed border (n, 2); write anchors (m, 6: handle in, anchor, handle out) and kinds; return m."""
    n = points.shape[0]
    along = arc_lengths(points)
    perimeter = along[n]
    places = _placed_corners(points, along, turn_strengths(points, along), corner_rad, 0.0, perimeter, blur)
    count = places.shape[0]
    room = int(perimeter) + 8 + count
    joints = np.zeros((room, 6))
    lines = np.zeros(room, dtype=np.uint8)
    m = 0
    if count == 0:
        m = _smooth_ring(points, along, tolerance, smoothness, joints, kinds, lines)
    else:
        low, high = np.zeros(7), np.zeros(7)
        for c in range(count):
            for end in range(2):
                row = low if end == 0 else high
                place = places[(c + end) % count]
                row[0] = place[0] + (perimeter if c + end >= count else 0.0)
                row[1], row[2], row[5], row[6] = place[1], place[2], 1.0, place[3]
            m += _between(points, along, low, high, tolerance, smoothness, joints[m:], kinds[m:], lines[m:])
    _adjusted(points, along, joints[:m], kinds[:m], lines[:m], np.zeros(m, dtype=np.uint8), anchors)
    return m


@kernel
def fit_open(
    points: F64, ends: F64, tolerance: float, corner_rad: float, smoothness: float, blur: float, anchors: F64, kinds: U8
) -> int:
    """Fit a border (n, 2) from its first point to its last, both of which stay in their place.

    `ends` (2, 3) are the directions along the border at both, and 1 where it keeps that direction, 0 where it may come
    as it likes. Writes anchors (m, 6) and kinds, 1 for ends that keep their direction; returns m, at least 2.
    """
    n = points.shape[0]
    along = arc_lengths(points)
    length = along[n - 1]
    along[n] = length + GAP_PX
    turns = turn_strengths(points, along)
    for k in range(n):
        if along[k] < END_GUARD_PX or length - along[k] < END_GUARD_PX:
            turns[k] = 0.0
    places = _placed_corners(points, along, turns, corner_rad, 0.0, length, blur)
    count = places.shape[0]
    room = int(length) + 12 + count
    joints = np.zeros((room, 6))
    lines = np.zeros(room, dtype=np.uint8)
    stops = np.zeros((count + 2, 7))
    stops[1 : count + 1, :3], stops[1 : count + 1, 6] = places[:count, :3], places[:count, 3]
    stops[1 : count + 1, 5] = 1.0
    for end in range(2):
        row = stops[0] if end == 0 else stops[count + 1]
        row[0], row[1], row[2] = end * length, points[end * (n - 1), 0], points[end * (n - 1), 1]
        row[3], row[4], row[5], row[6] = ends[end, 0], ends[end, 1], 1.0 - ends[end, 2], 0.8
    m = 0
    for c in range(count + 1):
        m += _between(
            points, along, stops[c].copy(), stops[c + 1].copy(), tolerance, smoothness, joints[m:], kinds[m:], lines[m:]
        )
    joints[m, :5], joints[m, 5] = (
        stops[count + 1, :5],
        stops[count + 1, 6],
    )  # a straight piece without border leads back to the start
    kinds[m] = 1 if ends[1, 2] > 0.0 else 0
    lines[m] = 1
    held = np.zeros(m + 1, dtype=np.uint8)
    held[0], held[m] = 3, 3
    _adjusted(points, along, joints[: m + 1], kinds[: m + 1], lines[: m + 1], held, anchors)
    return m + 1
