"""Compiled loops that take contours apart into rows of unknowns, see `_adjust_kernels`, and change what these are."""

from __future__ import annotations

import cython
from cython.cimports.libc.math import atan2, fabs, floor, hypot
from cython.cimports.sobercrow.core.geometry._piece_kernels import place_on
from cython.cimports.sobercrow.core.tracing._adjust_kernels import Ring, place_controls
from cython.cimports.sobercrow.core.tracing._render_kernels import polygon_length
from cython.cimports.sobercrow.core.tracing._row_kernels import Knot
from cython.cimports.sobercrow.core.tracing._sizes import Cubic, Point, Row

from sobercrow.core.arrays import F64, I64, U8

SHORTEST_ARM = 0.15
"""A corner made smooth gets handles no shorter than this share of its pieces' chords."""
LOOK_PX = 2.0
"""Over such a length the direction of a corner's side is read."""
QUARTER = 1.5707963267948966
LEVEL_RAD = 1e-6


def _take_apart_ring(points: Knot, m: int, is_corner: U8, state: Row, straight: U8, held: U8, home: Point) -> None:
    """Write the unknowns of a ring's anchors, each given with the handle behind and the one ahead."""
    for i in range(m):
        here, after = cython.address(points[i][0]), cython.address(points[(i + 1) % m][0])
        straight[i] = here[4] == here[2] and here[5] == here[3] and after[0] == after[2] and after[1] == after[3]
    for i in range(m):
        before = (i + m - 1) % m
        here, after = cython.address(points[i][0]), cython.address(points[(i + 1) % m][0])
        x, y = here[2], here[3]
        back_x, back_y, ahead_x, ahead_y = here[0] - x, here[1] - y, here[4] - x, here[5] - y
        home[i][0], home[i][1] = x, y
        state[i][0], state[i][1] = x, y
        held[i] = 0
        if is_corner[i]:
            state[i][2], state[i][3], state[i][4], state[i][5] = back_x, back_y, ahead_x, ahead_y
            continue
        way_x, way_y = ahead_x, ahead_y
        if straight[i]:
            way_x, way_y = after[2] - x, after[3] - y
        if straight[before]:
            way_x, way_y = way_x + x - points[before][2], way_y + y - points[before][3]
        else:
            way_x, way_y = way_x - back_x, way_y - back_y
        angle = atan2(way_y, way_x)
        state[i][2], state[i][3], state[i][4] = angle, hypot(back_x, back_y), hypot(ahead_x, ahead_y)
        state[i][5] = 0.0
        held[i] = fabs(angle - QUARTER * floor(angle / QUARTER + 0.5)) < LEVEL_RAD


def take_apart(points: F64, starts: I64, is_corner: U8, state: F64, straight: U8, held: U8, home: F64) -> None:
    """Write the unknowns of rings, given as anchors with their handles (n, 3, 2): before it, itself, ahead of it.

    What is `straight` leaves the anchor so; tangents that lie level or upright are `held`.
    """
    knots = cython.cast(cython.pointer(cython.const[Knot]), cython.address(points[0, 0, 0]))
    rows = cython.cast(cython.pointer(Row), cython.address(state[0, 0]))
    homes = cython.cast(cython.pointer(Point), cython.address(home[0, 0]))
    with cython.nogil:
        for ring in range(starts.shape[0] - 1):
            a = starts[ring]
            _take_apart_ring(
                knots + a,
                starts[ring + 1] - a,
                cython.address(is_corner[a]),
                rows + a,
                cython.address(straight[a]),
                cython.address(held[a]),
                homes + a,
            )


def place_all(starts: I64, state: F64, is_corner: U8, straight: U8, controls: F64) -> None:
    """Write the control points of all rings (n, 8) from their unknowns."""
    ring = cython.declare(Ring)
    with cython.nogil:
        for k in range(starts.shape[0] - 1):
            a = starts[k]
            ring.count = starts[k + 1] - a
            ring.state = cython.cast(cython.pointer(Row), cython.address(state[a, 0]))
            ring.controls = cython.cast(cython.pointer(Cubic), cython.address(controls[a, 0]))
            ring.is_corner, ring.straight = cython.address(is_corner[a]), cython.address(straight[a])
            place_controls(cython.address(ring))


def _chord(c: F64) -> float:
    return hypot(c[6] - c[0], c[7] - c[1])


def _way_from(c: F64, backwards: bool) -> tuple[float, float]:
    """Unit direction in which a cubic leaves its start, or its end if `backwards`, read over `LOOK_PX`."""
    u = min(1.0, LOOK_PX / (polygon_length(c) + 1e-9))
    near, far = 0.25 * u, u
    if backwards:
        near, far = 1.0 - near, 1.0 - far
    near_x, near_y = place_on(c, near)
    far_x, far_y = place_on(c, far)
    size = hypot(far_x - near_x, far_y - near_y) + 1e-12
    return (far_x - near_x) / size, (far_y - near_y) / size


def ease_corners(
    starts: I64, controls: F64, state: F64, is_corner: U8, straight: U8, least_rad: float, changed: U8
) -> None:
    """Make corners smooth that turn by less than `least_rad`, unless both sides are straight; mark their rings."""
    with cython.nogil:
        for ring in range(starts.shape[0] - 1):
            for i in range(starts[ring], starts[ring + 1]):
                before = i - 1 if i > starts[ring] else starts[ring + 1] - 1
                if is_corner[i] == 0 or (straight[before] == 1 and straight[i] == 1):
                    continue
                ahead_x, ahead_y = _way_from(cython.address(controls[i, 0]), False)
                back_x, back_y = _way_from(cython.address(controls[before, 0]), True)
                turn = atan2(ahead_x * back_y - ahead_y * back_x, -(ahead_x * back_x + ahead_y * back_y))
                if fabs(turn) >= least_rad:
                    continue
                x, y = ahead_x - back_x, ahead_y - back_y
                if straight[before] == 1:
                    x, y = -back_x, -back_y
                elif straight[i] == 1:
                    x, y = ahead_x, ahead_y
                into = max(hypot(state[i, 2], state[i, 3]), SHORTEST_ARM * _chord(cython.address(controls[before, 0])))
                out = max(hypot(state[i, 4], state[i, 5]), SHORTEST_ARM * _chord(cython.address(controls[i, 0])))
                state[i, 2], state[i, 3], state[i, 4], state[i, 5] = atan2(y, x), into, out, 0.0
                is_corner[i] = 0
                changed[ring] = 1
