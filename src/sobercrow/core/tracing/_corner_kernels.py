"""Compiled search for corners: where a border turns sharply, and where its sides meet."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import M_PI, atan2, cos, fabs, hypot, sin, sqrt, tan
from cython.cimports.sobercrow.core._numeric import modulo, searchsorted, wrap
from cython.cimports.sobercrow.core.tracing._joint_kernels import Border, border_of
from cython.cimports.sobercrow.core.tracing._sizes import Place, Side

from sobercrow.core.arrays import F64, I64

SIDE_GAP_PX = 0.6
"""Border within this of a place is left out when its sides are judged: the pixel rounds it."""

BLUNT_WIDTH = 1.75
"""An end wider than this many times the blur is no tip."""

BLUNT_TURN_RAD = 1.9
"""A blunt end turning less than this, in all, is a rounded corner rather than two."""

STRAIGHT_PX = 0.12
"""Points this near to a line, in the root mean square, are one straight side."""

WIDEST_END_PX = 3.5
"""A side of a corner begins no further off than this."""

BLUNT_SURELY_RAD = 2.8
"""The sides of an end that turns more than this run so nearly parallel that they cannot be made to meet."""

OFF_SIDE_PX = 0.35
"""Border further than this from the line of a side belongs to the end."""

LONGEST_TIP_PX = 2.0
"""A tip is never extended further beyond the border than this."""

HIDDEN_APART_PX, HIDDEN_WITHIN_PX = 1.8, 5.5
"""Between these distances from a corner along the border another one is looked for."""

HIDDEN_TURN = 1.4
"""A hidden corner turns so many times as much as others must: it is read off few points."""

SIDE_PX = 3.0
"""Length of border looked at on each side of a place."""


def fit_side(border: Border, at: int, way: int, gap: float, reach: float, least: int, line: F64) -> bool:
    """Fit a line to the border on one side of point `at`; `way` is +1 ahead, -1 behind.

    Points from `gap` to `gap + reach` away are taken, and further ones until there are `least`.

    Writes centre x, centre y, direction x, direction y (unit, along the path) and the root mean square distance of the
    points. False if there are fewer than `least` points.
    """
    n, points, along = border.count, border.points, border.along
    perimeter = along[n]
    count = 0
    mx = my = sxx = sxy = syy = 0.0
    first_x = first_y = last_x = last_y = 0.0
    for step in range(1, n // 2):
        k = at + way * step
        turns = 0.0
        if k < 0:
            k += n
            turns = -perimeter
        elif k >= n:
            k -= n
            turns = perimeter
        away = fabs(along[k] + turns - along[at])
        if away > gap + reach and count >= least:
            break
        if away < gap:
            continue
        if count == 0:
            first_x, first_y = points[k][0], points[k][1]
        last_x, last_y = points[k][0], points[k][1]
        x, y = last_x - first_x, last_y - first_y
        mx += x
        my += y
        sxx += x * x
        sxy += x * y
        syy += y * y
        count += 1
    if count < least:
        return False
    if count == 1:  # one point of a short side: the line from the corner through it
        dx, dy = (first_x - points[at][0]) * way, (first_y - points[at][1]) * way
        size = hypot(dx, dy) + 1e-12
        line[0], line[1], line[2], line[3], line[4] = first_x, first_y, dx / size, dy / size, 0.0
        return True
    mx /= count
    my /= count
    sxx -= count * mx * mx
    sxy -= count * mx * my
    syy -= count * my * my
    angle = 0.5 * atan2(2.0 * sxy, sxx - syy)
    dx, dy = cos(angle), sin(angle)
    if (dx * (last_x - first_x) + dy * (last_y - first_y)) * way < 0.0:
        dx, dy = -dx, -dy
    line[0], line[1], line[2], line[3] = first_x + mx, first_y + my, dx, dy
    across = sxx * dy * dy - 2.0 * sxy * dx * dy + syy * dx * dx
    line[4] = sqrt(max(across, 0.0) / count)
    return True


def read_turns(border: Border, turns: F64) -> None:
    """Write the turn, in radians and signed, between the lines through both sides of every border point."""
    ahead, behind = cython.declare(Side), cython.declare(Side)
    for i in range(border.count):
        turns[i] = 0.0
        if fit_side(border, i, 1, SIDE_GAP_PX, SIDE_PX, 2, ahead) and fit_side(
            border, i, -1, SIDE_GAP_PX, SIDE_PX, 2, behind
        ):
            cross = behind[2] * ahead[3] - behind[3] * ahead[2]
            dot = behind[2] * ahead[2] + behind[3] * ahead[3]
            turns[i] = atan2(cross, dot)


def find_maxima(border: Border, turns: F64, least: float, apart_px: float, found: I64) -> int:
    """Write the places that turn more than `least` and more than all others within `apart_px`; return how many."""
    n, along = border.count, border.along
    perimeter = along[n]
    count = 0
    best = cython.declare(cython.bint)
    for i in range(n):
        here = fabs(turns[i])
        if here < least:
            continue
        best = True
        for way in range(-1, 2, 2):
            for step in range(1, n // 2):
                k = wrap(i + way * step, n)
                away = fabs(along[k] - along[i])
                if min(away, perimeter - away) > apart_px:
                    break
                if turns[k] * turns[i] > 0.0 and (fabs(turns[k]) > here or (fabs(turns[k]) == here and k < i)):
                    best = False
                    break
            if not best:
                break
        if best:
            found[count] = i
            count += 1
    return count


def _sides(border: Border, at: int, gap: float, room_behind: float, room_ahead: float, behind: F64, ahead: F64) -> bool:
    """Lines through both sides of a corner, beyond `gap` and before the next corners, `room` px away.

    A side begins where a line holds: the rounding of the corner, or the width of a blunt end, lies before it.
    """
    for side in range(2):
        room, way, line = (room_behind if side == 0 else room_ahead), 2 * side - 1, (behind if side == 0 else ahead)
        start = min(gap, 0.3 * room)
        while True:
            reach = min(SIDE_PX, room - start - min(0.6, 0.3 * room))
            if not fit_side(border, at, way, start, reach, 1, line):
                return False
            if line[4] < STRAIGHT_PX or start + 0.5 > min(0.5 * room, WIDEST_END_PX):
                break
            start += 0.5
    return True


def _outermost(border: Border, at: int, mx: float, my: float, behind: float, ahead: float) -> int:
    """The border point furthest in direction (mx, my), not further along the border than the limits."""
    n, points, along = border.count, border.points, border.along
    perimeter = along[n]
    best, furthest = at, points[at][0] * mx + points[at][1] * my
    for way in range(-1, 2, 2):
        limit = behind if way < 0 else ahead
        for step in range(1, n // 2):
            k = wrap(at + way * step, n)
            away = fabs(along[k] - along[at])
            if min(away, perimeter - away) > limit:
                break
            out = points[k][0] * mx + points[k][1] * my
            if out > furthest:
                furthest = out
                best = k
    return best


def _nearest_along(border: Border, at: int, x: float, y: float, way: int, limit: float) -> float:
    """Signed border length from point `at` to the border point nearest (x, y), on one side and within `limit`."""
    n, points, along = border.count, border.points, border.along
    perimeter = along[n]
    best, nearest = 0.0, hypot(points[at][0] - x, points[at][1] - y)
    for step in range(1, n // 2):
        k = wrap(at + way * step, n)
        away = fabs(along[k] - along[at])
        away = min(away, perimeter - away)
        if away > limit:
            break
        distance = hypot(points[k][0] - x, points[k][1] - y)
        if distance < nearest:
            nearest = distance
            best = way * away
    return best


def _meet(one: F64, other: F64, where: F64) -> bool:
    """Write where two lines (x, y, direction x, direction y) cross; False if they are nearly parallel."""
    cross = one[2] * other[3] - one[3] * other[2]
    if fabs(cross) < 0.2:
        return False
    t = ((other[0] - one[0]) * other[3] - (other[1] - one[1]) * other[2]) / cross
    where[0], where[1] = one[0] + t * one[2], one[1] + t * one[3]
    return True


def _line_across_end(
    border: Border, at: int, behind: F64, ahead: F64, mx: float, my: float, reach: float, end: F64
) -> None:
    """Fit a line to the border of a blunt end: what lies between its sides, near point `at`.

    With too few points for a slope the line runs square to the end's direction (mx, my).
    """
    n, points, along = border.count, border.points, border.along
    perimeter = along[n]
    first, last = 0, 0
    for way in range(-1, 2, 2):
        line = behind if way < 0 else ahead
        for step in range(n // 2):
            k = wrap(at + way * step, n)
            away = fabs(along[k] - along[at])
            off = fabs((points[k][0] - line[0]) * line[3] - (points[k][1] - line[1]) * line[2])
            if off < OFF_SIDE_PX or min(away, perimeter - away) > reach:
                break
            if way < 0:
                first = -step
            else:
                last = step
    count = last - first + 1
    cx = cy = sxx = sxy = syy = 0.0
    for step in range(first, last + 1):
        k = wrap(at + step, n)
        cx += points[k][0] / count
        cy += points[k][1] / count
    for step in range(first, last + 1):
        k = wrap(at + step, n)
        dx, dy = points[k][0] - cx, points[k][1] - cy
        sxx += dx * dx
        sxy += dx * dy
        syy += dy * dy
    end[0], end[1], end[2], end[3] = points[at][0], points[at][1], -my, mx
    # from behind to ahead, across the direction of the end
    side = (ahead[0] - behind[0]) * end[2] + (ahead[1] - behind[1]) * end[3]
    if side < 0.0:
        end[2], end[3] = -end[2], -end[3]
    if count >= 3 and sxx + syy > 0.6:
        angle = 0.5 * atan2(2.0 * sxy, sxx - syy)
        dx, dy = cos(angle), sin(angle)
        if dx * end[2] + dy * end[3] < 0.0:
            dx, dy = -dx, -dy
        if dx * end[2] + dy * end[3] > 0.6:
            end[0], end[1], end[2], end[3] = cx, cy, dx, dy


def put_corner(border: Border, at: int, room_behind: float, room_ahead: float, blur: float, out: F64) -> int:
    """Write one or two corners for the turn at point `at`; return how many.

    Blur pulls the border back from a corner's tip: a wedge blurred by `blur` px is half covered where it is
    1.35 blur wide (the peak of a blurred bar that wide is a half). So where the border ends, the sides of a
    true tip are about that far apart, whatever its angle. Much further apart, the end is blunt and gets two
    corners, where its sides meet the line across it, or, if it turns little, is rounded and gets one.
    `out` rows are arc length, x, y, length of border to distrust.
    """
    ahead, behind = cython.declare(Side), cython.declare(Side)
    points, along = border.points, border.along
    perimeter = along[border.count]
    out[0][0], out[0][1], out[0][2], out[0][3] = along[at], points[at][0], points[at][1], 0.7
    gap = 0.4 + 0.7 * blur
    reach_behind, reach_ahead = min(4.0, 0.4 * room_behind), min(4.0, 0.4 * room_ahead)
    place = along[at]
    mx = my = turn = 0.0
    for _ in range(2):
        if not _sides(border, at, gap, room_behind, room_ahead, behind, ahead):
            return 1
        turn = fabs(atan2(behind[2] * ahead[3] - behind[3] * ahead[2], behind[2] * ahead[2] + behind[3] * ahead[3]))
        if turn < 0.35:
            return 1
        mx, my = behind[2] - ahead[2], behind[3] - ahead[3]
        size = hypot(mx, my) + 1e-12
        mx, my = mx / size, my / size
        tip = _outermost(border, at, mx, my, reach_behind, reach_ahead)
        moved = along[tip] - along[at]
        if moved > 0.5 * perimeter:
            moved -= perimeter
        elif moved < -0.5 * perimeter:
            moved += perimeter
        room_behind, room_ahead = room_behind + moved, room_ahead - moved
        reach_behind, reach_ahead = max(reach_behind + moved, 0.0), max(reach_ahead - moved, 0.0)
        at = tip
        place += moved
    x, y = points[at][0], points[at][1]
    end = cython.declare(Side)
    reach = min(4.0, 0.45 * (room_ahead + room_behind))
    out[0][0] = place
    # how far apart the sides are at the end of the border
    part_behind = ((x - behind[0]) * mx + (y - behind[1]) * my) / max(behind[2] * mx + behind[3] * my, 0.15)
    part_ahead = ((x - ahead[0]) * mx + (y - ahead[1]) * my) / min(ahead[2] * mx + ahead[3] * my, -0.15)
    bx, by = behind[0] + part_behind * behind[2], behind[1] + part_behind * behind[3]
    ax, ay = ahead[0] + part_ahead * ahead[2], ahead[1] + part_ahead * ahead[3]
    width = hypot(ax - bx, ay - by)
    half = tan(0.5 * (M_PI - min(turn, 3.1)))
    to_tip = 0.5 * width / half
    if width > BLUNT_WIDTH * blur or turn > BLUNT_SURELY_RAD:
        if turn > BLUNT_TURN_RAD:
            _line_across_end(border, at, behind, ahead, mx, my, reach, end)
            end[0] += 0.25 * blur * mx
            end[1] += 0.25 * blur * my
            if _meet(behind, end, cython.address(out[0][1])) and _meet(ahead, end, cython.address(out[1][1])):
                bx, by, ax, ay = out[0][1], out[0][2], out[1][1], out[1][2]
            far = max(hypot(bx - x, by - y), hypot(ax - x, ay - y))
            if far < 4.0 and (ax - bx) * end[2] + (ay - by) * end[3] > 0.4:
                out[0][1], out[0][2], out[1][1], out[1][2] = bx, by, ax, ay
                out[0][0] = place + _nearest_along(border, at, bx, by, -1, min(4.0, 0.4 * room_behind))
                out[1][0] = place + _nearest_along(border, at, ax, ay, 1, min(4.0, 0.4 * room_ahead))
                if out[1][0] - out[0][0] < 0.5:
                    out[0][0] -= 0.25
                    out[1][0] += 0.25
                out[0][3] = out[1][3] = 0.3 + 0.7 * blur
                return 2
            out[0][1], out[0][2] = x + 0.25 * blur * mx, y + 0.25 * blur * my
            return 1
        to_tip = min(to_tip, 1.0 * blur / half + 0.3)
    to_tip = min(to_tip, LONGEST_TIP_PX)
    dx, dy = 0.5 * (ax + bx) + to_tip * mx - x, 0.5 * (ay + by) + to_tip * my - y
    shrink = min(1.0, LONGEST_TIP_PX / (hypot(dx, dy) + 1e-12))  # sides that were read wrong would lead astray
    out[0][1], out[0][2] = x + shrink * dx, y + shrink * dy
    out[0][3] = min(0.3 + 0.6 * blur + 0.5 * to_tip, 3.0)
    return 1


def _turned_beside(border: Border, from_s: float, way: int, room: float, least: float) -> int:
    """The border point that turns most, and more than `least`, on one side of a corner; −1 if none does.

    The corner lies at arc length `from_s`; points up to `room` away are looked at, by sides that do not reach over it.
    """
    n, along = border.count, border.along
    perimeter = along[n]
    ahead, behind = cython.declare(Side), cython.declare(Side)
    toward = cython.address(behind[0]) if way > 0 else cython.address(ahead[0])
    beyond = cython.address(ahead[0]) if way > 0 else cython.address(behind[0])
    at = searchsorted(along, n, modulo(from_s, perimeter)) % n
    best, strongest = -1, least
    for step in range(n // 2):
        k = wrap(at + way * step, n)
        away = modulo(way * (along[k] - from_s), perimeter)
        if away > 0.5 * perimeter or away < HIDDEN_APART_PX:
            continue
        if away > room:
            break
        reach = min(SIDE_PX, max(away - 0.5 - SIDE_GAP_PX, 0.6))
        if not fit_side(border, k, -way, SIDE_GAP_PX, reach, 1, toward):
            continue
        if not fit_side(border, k, way, SIDE_GAP_PX, min(SIDE_PX, room + 2.0 - away), 2, beyond):
            continue
        cross = behind[2] * ahead[3] - behind[3] * ahead[2]
        turn = fabs(atan2(cross, behind[2] * ahead[2] + behind[3] * ahead[3]))
        if turn > strongest:
            best, strongest = k, turn
    return best


def hidden_corners(
    border: Border, places: F64, count: int, low: float, high: float, closed: bool, least: float, found: I64
) -> int:
    """Write the corners that others close by had hidden, two for each of `places` at most; return how many.

    At a short end both corners are turned over at once, in its middle, and only one is found. Beside each corner in
    `places` (rows of arc length, x, y, distrust) the turn is read again, by sides that do not reach over that corner.
    """
    along = border.along
    perimeter = along[border.count]
    new = 0
    known = cython.declare(cython.bint)
    for c in range(count):
        for way in range(-1, 2, 2):
            following = c + way
            if closed:
                gap = way * (places[wrap(following, count)][0] - places[c][0])
                gap = perimeter if count == 1 else modulo(gap, perimeter)
            elif 0 <= following < count:
                gap = way * (places[following][0] - places[c][0])
            else:
                gap = high - places[c][0] if way > 0 else places[c][0] - low
            room = min(HIDDEN_WITHIN_PX, gap - HIDDEN_APART_PX)
            best = _turned_beside(border, places[c][0], way, room, HIDDEN_TURN * least)
            known = best < 0
            for other in range(new):
                between = fabs(along[found[other]] - along[best])
                known = known or min(between, perimeter - between) < HIDDEN_APART_PX
            if not known:
                found[new] = best
                new += 1
    return new


def side_line(points: F64, along: F64, at: int, way: int, gap: float, reach: float, least: int, line: F64) -> bool:
    """`fit_side` for Python."""
    border = border_of(points, along)
    return fit_side(cython.address(border), at, way, gap, reach, least, cython.address(line[0]))


def turn_strengths(points: F64, along: F64) -> F64:
    """`read_turns` for Python."""
    border = border_of(points, along)
    turns = cython.declare(cython.double[::1], np.empty(points.shape[0]))
    read_turns(cython.address(border), cython.address(turns[0]))
    return np.asarray(turns)


def local_maxima(points: F64, along: F64, turns: F64, least: float, apart_px: float) -> I64:
    """`find_maxima` for Python."""
    border = border_of(points, along)
    found = cython.declare(cython.longlong[::1], np.empty(points.shape[0], dtype=np.int64))
    count = find_maxima(cython.address(border), cython.address(turns[0]), least, apart_px, cython.address(found[0]))
    return np.asarray(found)[:count]


def place_corner(points: F64, along: F64, at: int, room_behind: float, room_ahead: float, blur: float, out: F64) -> int:
    """`put_corner` for Python."""
    border = border_of(points, along)
    rows = cython.cast(cython.pointer(Place), cython.address(out[0, 0]))
    return put_corner(cython.address(border), at, room_behind, room_ahead, blur, rows)
