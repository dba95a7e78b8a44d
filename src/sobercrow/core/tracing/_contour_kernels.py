"""Compiled fit of one border, closed or from junction to junction: corners, joints, pieces, adjustment."""

from __future__ import annotations

import cython
from cython.cimports.libc.math import M_PI, atan2, fabs, hypot, rint
from cython.cimports.libc.stdlib import free
from cython.cimports.libc.string import memcpy
from cython.cimports.sobercrow.core._numeric import modulo, searchsorted, truncated
from cython.cimports.sobercrow.core._scratch import bytes_of, doubles, longs
from cython.cimports.sobercrow.core.geometry._piece_kernels import foot, solve_handles
from cython.cimports.sobercrow.core.tracing._adjust_kernels import Ring, Samples, place_controls, settle_all
from cython.cimports.sobercrow.core.tracing._contour_kernels import CORNER_ROOM, Chosen, Fit
from cython.cimports.sobercrow.core.tracing._corner_kernels import find_maxima, hidden_corners, put_corner, read_turns
from cython.cimports.sobercrow.core.tracing._joint_kernels import Border
from cython.cimports.sobercrow.core.tracing._search_kernels import chain, find_candidates
from cython.cimports.sobercrow.core.tracing._sizes import Cubic, Joint, Node, Place, Point, Row, Stop

from sobercrow.core.arrays import F64, I64, U8

CORNERS_APART_PX = 2.5
LEAST_STRETCH_PX = 1e-6
GAP_PX = 1000.0
"""The way back from the end of an open border to its start counts as this long: nothing looks across it."""
END_GUARD_PX = 2.0
"""No corner is looked for nearer to the end of an open border."""
FIRST_ROUNDS, LAST_ROUNDS = 3, 6
"""So often joints are moved together before tangents are made level or upright, and after."""
LEVEL_SNAP_RAD = 0.05
"""A joint chosen at an extreme keeps its tangent level or upright when the border agrees within this."""


def _beyond(chosen: Chosen, count: int) -> Chosen:
    """The room behind the first so many."""
    rest = cython.declare(Chosen)
    rest.joints, rest.kinds, rest.lines = chosen.joints + count, chosen.kinds + count, chosen.lines + count
    return rest


def _chain(border: Border, low: F64, high: F64, ring: bool, by: Fit, out: Chosen) -> tuple[int, float]:
    """Choose the joints from one stop to the other.

    In a ring without corners the border beyond the ends is looked at too. Writes the chosen joints but the last.
    """
    room = truncated(high[0] - low[0]) + 8
    nodes = cython.cast(cython.pointer(Node), doubles(5 * (room + 2)))
    extreme, is_corner, trim = bytes_of(room + 2), bytes_of(room + 2), doubles(room + 2)
    last = find_candidates(border, low[0], high[0], not ring, nodes + 1, extreme + 1, room) + 1
    memcpy(nodes[0], low, cython.sizeof(Node))
    memcpy(nodes[last], high, cython.sizeof(Node))
    is_corner[0], is_corner[last] = truncated(low[5]), truncated(high[5])
    trim[0], trim[last] = low[6], high[6]
    chosen, straight = longs(last + 1), bytes_of(last + 1)
    pieces, cost = chain(
        border, nodes, last + 1, extreme, is_corner, trim, by.tolerance, by.smoothness, chosen, straight
    )
    for k in range(pieces):
        node = chosen[k]
        memcpy(out.joints[k], nodes[node], cython.sizeof(Node))
        out.joints[k][5] = trim[node]
        out.kinds[k] = 0 if is_corner[node] == 1 else (2 if extreme[node] == 1 else 1)
        out.lines[k] = straight[k]
    free(nodes)
    free(extreme)
    free(is_corner)
    free(trim)
    free(chosen)
    free(straight)
    return pieces, cost


def _smooth_ring(border: Border, by: Fit, out: Chosen, room: int) -> int:
    """Choose the joints of a contour without corners. It has no natural start, so two are tried."""
    perimeter = border.along[border.count]
    seed_room = truncated(perimeter) + 8
    seeds = cython.cast(cython.pointer(Node), doubles(5 * seed_room))
    level = bytes_of(seed_room)
    count = find_candidates(border, 0.0, perimeter, False, seeds, level, seed_room)
    start = 0
    lowest = 1e18
    for k in range(count):
        if level[k] == 1 and seeds[k][1] + 1e-3 * seeds[k][2] < lowest:
            lowest = seeds[k][1] + 1e-3 * seeds[k][2]
            start = k
    best_cost = 1e18
    best = 0
    low, high = cython.declare(Stop), cython.declare(Stop)
    low[5] = low[6] = 0.0
    memcpy(low, seeds[start], cython.sizeof(Node))
    low_level = level[start]
    trial = cython.declare(Chosen)
    trial.joints = cython.cast(cython.pointer(Joint), doubles(6 * room))
    trial.kinds, trial.lines = bytes_of(room), bytes_of(room)
    for _ in range(2):
        memcpy(high, low, cython.sizeof(Stop))
        high[0] += perimeter
        pieces, cost = _chain(border, low, high, True, by, cython.address(trial))
        trial.kinds[0] = 2 if low_level == 1 else 1
        cost -= 0.25 if low_level == 1 else 0.0
        if cost < best_cost - 1e-9:
            best_cost, best = cost, pieces
            memcpy(out.joints, trial.joints, pieces * cython.sizeof(Joint))
            memcpy(out.kinds, trial.kinds, pieces)
            memcpy(out.lines, trial.lines, pieces)
        middle = pieces // 2
        if middle == 0:
            break
        memcpy(low, trial.joints[middle], cython.sizeof(Node))
        low_level = 1 if trial.kinds[middle] == 2 else 0
    free(seeds)
    free(level)
    free(trial.joints)
    free(trial.kinds)
    free(trial.lines)
    return best


def _initial_state(xs: F64, ys: F64, us: F64, first_of: I64, chosen: Chosen, m: int, state: F64, is_corner: U8) -> None:
    """Write the unknowns of the joints as the pieces between them have them, each fitted by itself."""
    joints, kinds = chosen.joints, chosen.kinds
    ends, handles = cython.declare(cython.double[8]), cython.declare(cython.double[4])
    cython.declare(free_out=cython.bint, free_in=cython.bint)
    for i in range(m):
        is_corner[i] = 1 if kinds[i] == 0 else 0
        state[i][0], state[i][1] = joints[i][1], joints[i][2]
        if is_corner[i] == 0:
            state[i][2] = atan2(joints[i][4], joints[i][3])
            state[i][3] = state[i][4] = 1.0
    for i in range(m):
        j = i + 1 if i + 1 < m else 0
        chord_x, chord_y = joints[j][1] - joints[i][1], joints[j][2] - joints[i][2]
        a, b = first_of[i], first_of[i + 1]
        for k in range(4):
            ends[k], ends[4 + k] = joints[i][1 + k], joints[j][1 + k]
        if chosen.lines[i] == 1:
            handles[0], handles[1] = joints[i][1] + chord_x / 3.0, joints[i][2] + chord_y / 3.0
            handles[2], handles[3] = joints[j][1] - chord_x / 3.0, joints[j][2] - chord_y / 3.0
        else:
            free_out, free_in = b - a > 3 and kinds[i] == 0, b - a > 3 and kinds[j] == 0
            for _ in range(2):
                solve_handles(xs + a, ys + a, us + a, b - a, ends, free_out, free_in, handles)
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
        out_x, out_y = handles[0] - joints[i][1], handles[1] - joints[i][2]
        in_x, in_y = handles[2] - joints[j][1], handles[3] - joints[j][2]
        if is_corner[i] == 1:
            state[i][4], state[i][5] = out_x, out_y
        else:
            state[i][4] = hypot(out_x, out_y)
        if is_corner[j] == 1:
            state[j][2], state[j][3] = in_x, in_y
        else:
            state[j][3] = hypot(in_x, in_y)


def _corner_places(border: Border, corners: I64, many: int, low: float, high: float, blur: float, places: F64) -> int:
    """Write arc length, x, y and border to distrust of the corners found; return how many.

    On an open border the first and the last one are no nearer to the other corners than its ends, `low` and `high`; on
    a closed one both are the same place, a perimeter apart.
    """
    along = border.along
    closed = cython.declare(cython.bint, high - low >= along[border.count] - 1e-9)
    count = 0
    for c in range(many):
        at = corners[c]
        behind = along[at] - (along[corners[c - 1]] if c > 0 else low)
        ahead = (along[corners[c + 1]] if c + 1 < many else high) - along[at]
        if closed and c == 0:
            behind = high - low if many == 1 else along[at] + high - low - along[corners[many - 1]]
        if closed and c + 1 == many:
            ahead = high - low if many == 1 else along[corners[0]] + high - low - along[at]
        count += put_corner(border, at, behind, ahead, blur, places + count)
    return count


def _placed_corners(border: Border, turns: F64, low: float, high: float, by: Fit, places: F64) -> int:
    """Find the corners of a border and place them, those included that others had hidden; return how many."""
    closed = cython.declare(cython.bint, high - low >= border.along[border.count] - 1e-9)
    corners, hidden = longs(5 * border.count), longs(4 * border.count)
    many = find_maxima(border, turns, by.corner_rad, CORNERS_APART_PX, corners)
    count = _corner_places(border, corners, many, low, high, by.blur, places)
    more = hidden_corners(border, places, count, low, high, closed, by.corner_rad, hidden)
    if more > 0:
        for k in range(more):  # in their order along the border
            at = many
            while at > 0 and corners[at - 1] > hidden[k]:
                corners[at] = corners[at - 1]
                at -= 1
            corners[at] = hidden[k]
            many += 1
        count = _corner_places(border, corners, many, low, high, by.blur, places)
    free(corners)
    free(hidden)
    return count


def _between(border: Border, low: F64, high: F64, by: Fit, out: Chosen) -> int:
    """Choose the joints between two places that part the border; a corner there takes the chord's direction."""
    high[0] = max(high[0], low[0] + LEAST_STRETCH_PX)  # the corners of tiny contours may fall on each other
    room = 0.35 * (high[0] - low[0])
    low[6], high[6] = min(low[6], room), min(high[6], room)
    size = hypot(high[1] - low[1], high[2] - low[2]) + 1e-12
    x, y = (high[1] - low[1]) / size, (high[2] - low[2]) / size
    if low[5] > 0.0:
        low[3], low[4] = x, y
    if high[5] > 0.0:
        high[3], high[4] = x, y
    pieces, _ = _chain(border, low, high, False, by, out)
    return pieces


def _adjusted(border: Border, chosen: Chosen, m: int, held: U8, anchors: F64) -> None:
    """Adjust the joints of a ring of pieces together and write the anchors (m, 6); kinds become 0 corner, 1 smooth.

    `held` is 1 where a tangent keeps its angle, 2 where a joint keeps its place, 3 for both.
    """
    n, points, along, joints = border.count, border.points, border.along, chosen.joints
    perimeter = along[n]
    xs, ys, us, weights = doubles(n), doubles(n), doubles(n), doubles(n)
    owner = longs(n)
    first_of = cython.cast(cython.pointer(cython.Py_ssize_t), longs(m + 1))
    wrapped = modulo(joints[0][0], perimeter)
    start = searchsorted(along, n, wrapped)
    base = joints[0][0] - wrapped
    piece = 0
    for k in range(n):
        at = start + k
        s = along[at] + base if at < n else along[at - n] + base + perimeter
        if at >= n:
            at -= n
        while piece < m - 1 and s >= joints[piece + 1][0]:
            piece += 1
            first_of[piece] = k
        ahead = joints[piece + 1][0] if piece + 1 < m else joints[0][0] + perimeter
        xs[k], ys[k], owner[k] = points[at][0], points[at][1], piece
        stretch = max(ahead - joints[piece][0], LEAST_STRETCH_PX)
        us[k] = min(max((s - joints[piece][0]) / stretch, 0.0), 1.0)
        trim_ahead = joints[piece + 1][5] if piece + 1 < m else joints[0][5]
        weights[k] = 0.01 if s - joints[piece][0] < joints[piece][5] or ahead - s < trim_ahead else 1.0
    for k in range(piece + 1, m + 1):
        first_of[k] = n
    ring, samples = cython.declare(Ring), cython.declare(Samples)
    state, is_corner = cython.cast(cython.pointer(Row), doubles(6 * m)), bytes_of(m)
    home, controls = (
        cython.cast(cython.pointer(Point), doubles(2 * m)),
        cython.cast(cython.pointer(Cubic), doubles(8 * m)),
    )
    _initial_state(xs, ys, us, first_of, chosen, m, state, is_corner)
    for i in range(m):
        home[i][0], home[i][1] = joints[i][1], joints[i][2]
    ring.count, ring.state, ring.is_corner, ring.straight = m, state, is_corner, chosen.lines
    ring.held, ring.controls, ring.home = held, controls, home
    samples.count, samples.xs, samples.ys, samples.us, samples.weights, samples.owner = n, xs, ys, us, weights, owner
    settle_all(cython.address(samples), cython.address(ring), FIRST_ROUNDS)
    for i in range(m):
        if chosen.kinds[i] == 2:
            quarter = rint(state[i][2] / (0.5 * M_PI)) * 0.5 * M_PI
            if fabs(state[i][2] - quarter) < LEVEL_SNAP_RAD:
                state[i][2] = quarter
                held[i] |= 1
    settle_all(cython.address(samples), cython.address(ring), LAST_ROUNDS)
    place_controls(cython.address(ring))
    for i in range(m):
        before = i - 1 if i > 0 else m - 1
        anchors[i][0], anchors[i][1] = controls[before][4], controls[before][5]
        anchors[i][2], anchors[i][3] = controls[i][0], controls[i][1]
        anchors[i][4], anchors[i][5] = controls[i][2], controls[i][3]
        if chosen.lines[before] == 1:
            anchors[i][0], anchors[i][1] = anchors[i][2], anchors[i][3]
        if chosen.lines[i] == 1:
            anchors[i][4], anchors[i][5] = anchors[i][2], anchors[i][3]
        chosen.kinds[i] = 0 if is_corner[i] == 1 else 1
    free(xs)
    free(ys)
    free(us)
    free(weights)
    free(owner)
    free(first_of)
    free(state)
    free(is_corner)
    free(home)
    free(controls)


def fit_ring(border: Border, by: Fit, anchors: F64, kinds: U8) -> int:
    """Fit one closed border; write anchors (m, 6: handle in, anchor, handle out) and kinds; return m."""
    n = border.count
    perimeter = border.along[n]
    turns, places = doubles(n), cython.cast(cython.pointer(Place), doubles(4 * CORNER_ROOM * n))
    read_turns(border, turns)
    count = _placed_corners(border, turns, 0.0, perimeter, by, places)
    room = truncated(perimeter) + 8 + 9 * (count + 1)
    chosen = cython.declare(Chosen)
    chosen.joints, chosen.kinds = cython.cast(cython.pointer(Joint), doubles(6 * room)), kinds
    chosen.lines = bytes_of(room)
    rest = cython.declare(Chosen)
    low, high = cython.declare(Stop), cython.declare(Stop)
    m = 0
    if count == 0:
        m = _smooth_ring(border, by, cython.address(chosen), room)
    for c in range(count):
        after = c + 1 if c + 1 < count else 0
        low[0], low[1], low[2], low[5], low[6] = places[c][0], places[c][1], places[c][2], 1.0, places[c][3]
        high[0] = places[after][0] + (perimeter if after == 0 else 0.0)
        high[1], high[2], high[5], high[6] = places[after][1], places[after][2], 1.0, places[after][3]
        rest = _beyond(cython.address(chosen), m)
        m += _between(border, low, high, by, cython.address(rest))
    held = bytes_of(m + 1)
    _adjusted(border, cython.address(chosen), m, held, anchors)
    free(turns)
    free(places)
    free(chosen.joints)
    free(chosen.lines)
    free(held)
    return m


def fit_line(border: Border, along: F64, ends: F64, by: Fit, anchors: F64, kinds: U8) -> int:
    """Fit a border from its first point to its last, both of which stay in their place.

    `ends` (2, 3) are the directions along the border at both, and 1 where it keeps that direction, 0 where it may come
    as it likes. Writes anchors (m, 6: handle in, anchor, handle out) and kinds, 1 for ends that keep their direction;
    returns m, at least 2. There must be room for 4 n + 64 anchors.
    """
    n, points = border.count, border.points
    length = along[n - 1]
    along[n] = length + GAP_PX
    turns, places = doubles(n), cython.cast(cython.pointer(Place), doubles(4 * CORNER_ROOM * n))
    read_turns(border, turns)
    for k in range(n):
        if along[k] < END_GUARD_PX or length - along[k] < END_GUARD_PX:
            turns[k] = 0.0
    count = _placed_corners(border, turns, 0.0, length, by, places)
    room = truncated(length) + 12 + 9 * (count + 1)
    chosen = cython.declare(Chosen)
    chosen.joints, chosen.kinds = cython.cast(cython.pointer(Joint), doubles(6 * room)), kinds
    chosen.lines = bytes_of(room)
    rest = cython.declare(Chosen)
    stops = cython.cast(cython.pointer(Stop), doubles(7 * (count + 2)))
    low, high = cython.declare(Stop), cython.declare(Stop)
    for c in range(count):
        stop = cython.address(stops[c + 1][0])
        stop[0], stop[1], stop[2], stop[5], stop[6] = places[c][0], places[c][1], places[c][2], 1.0, places[c][3]
    for end in range(2):
        stop, at = cython.address(stops[end * (count + 1)][0]), end * (n - 1)
        stop[0], stop[1], stop[2] = end * length, points[at][0], points[at][1]
        stop[3], stop[4], stop[5], stop[6] = ends[3 * end], ends[3 * end + 1], 1.0 - ends[3 * end + 2], 0.8
    m = 0
    for c in range(count + 1):
        memcpy(low, stops[c], cython.sizeof(Stop))
        memcpy(high, stops[c + 1], cython.sizeof(Stop))
        rest = _beyond(cython.address(chosen), m)
        m += _between(border, low, high, by, cython.address(rest))
    # a straight piece without border leads back to the start
    memcpy(chosen.joints[m], stops[count + 1], cython.sizeof(Node))
    chosen.joints[m][5] = stops[count + 1][6]
    kinds[m] = 1 if ends[5] > 0.0 else 0
    chosen.lines[m] = 1
    held = bytes_of(m + 1)
    held[0], held[m] = 3, 3
    _adjusted(border, cython.address(chosen), m + 1, held, anchors)
    free(turns)
    free(places)
    free(chosen.joints)
    free(chosen.lines)
    free(stops)
    free(held)
    return m + 1
