"""Compiled places along a border: how far along they are, and how the border runs there."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import hypot
from cython.cimports.sobercrow.core._numeric import modulo, searchsorted, wrap
from cython.cimports.sobercrow.core.tracing._joint_kernels import Border
from cython.cimports.sobercrow.core.tracing._sizes import Point

from sobercrow.core.arrays import F64


def border_of(points: F64, along: F64) -> Border:
    """Where a closed border and its cumulative length lie in memory."""
    border = cython.declare(Border)
    border.count = points.shape[0]
    border.points = cython.cast(cython.pointer(cython.const[Point]), cython.address(points[0, 0]))
    border.along = cython.address(along[0])
    return border


def measure_lengths(points: F64, count: int, along: F64) -> None:
    """Write the cumulative length of a closed polyline, (count + 1,): the last entry is its perimeter."""
    along[0] = 0.0
    for i in range(count):
        j = i + 1 if i + 1 < count else 0
        along[i + 1] = along[i] + hypot(points[j][0] - points[i][0], points[j][1] - points[i][1])


def place_on_border(border: Border, s: float, reach: float, low: float, high: float, place: F64) -> None:
    """Smoothed place and tangent of the border at arc length `s`.

    A parabola in arc length is fitted to x and y within `reach` of `s` and within [low, high].
    Writes x, y, tangent x, tangent y (unit).
    """
    n, points, along = border.count, border.points, border.along
    perimeter = along[n]
    from_s, to_s = max(s - reach, low), min(s + reach, high)
    wrapped = modulo(from_s, perimeter)
    start = searchsorted(along, n, wrapped)
    lap = from_s - wrapped
    m0 = m1 = m2 = m3 = m4 = 0.0
    x0 = x1 = x2 = y0 = y1 = y2 = 0.0
    k = start
    if k == n:
        k = 0
        lap += perimeter
    ox, oy = points[k][0], points[k][1]
    for _ in range(n):
        d = along[k] + lap - s
        if d > to_s - s:
            break
        x, y = points[k][0] - ox, points[k][1] - oy
        m0 += 1.0
        m1 += d
        m2 += d * d
        m3 += d * d * d
        m4 += d * d * d * d
        x0 += x
        x1 += d * x
        x2 += d * d * x
        y0 += y
        y1 += d * y
        y2 += d * d * y
        k += 1
        if k == n:
            k = 0
            lap += perimeter
    if m0 >= 4.0:
        c00, c01, c02 = m2 * m4 - m3 * m3, m2 * m3 - m1 * m4, m1 * m3 - m2 * m2
        det = m0 * c00 + m1 * c01 + m2 * c02
        c11, c12 = m0 * m4 - m2 * m2, m1 * m2 - m0 * m3
        if det > 1e-9:
            place[0] = ox + (c00 * x0 + c01 * x1 + c02 * x2) / det
            place[1] = oy + (c00 * y0 + c01 * y1 + c02 * y2) / det
            tx = (c01 * x0 + c11 * x1 + c12 * x2) / det
            ty = (c01 * y0 + c11 * y1 + c12 * y2) / det
            size = hypot(tx, ty)
            if size > 1e-9:
                place[2], place[3] = tx / size, ty / size
                return
    # too few points for a parabola: the nearest point and the chord around it
    i = searchsorted(along, n, modulo(s, perimeter)) % n
    j, h = (i + 1) % n, wrap(i - 1, n)
    place[0], place[1] = points[i][0], points[i][1]
    tx, ty = points[j][0] - points[h][0], points[j][1] - points[h][1]
    size = hypot(tx, ty) + 1e-12
    place[2], place[3] = tx / size, ty / size


def arc_lengths(points: F64) -> F64:
    """Cumulative length of a closed polyline (n, 2), (n + 1,): the last entry is its perimeter."""
    along = cython.declare(cython.double[::1], np.empty(points.shape[0] + 1))
    border = border_of(points, along)
    measure_lengths(border.points, border.count, cython.address(along[0]))
    return np.asarray(along)


def place_at(points: F64, along: F64, s: float, reach: float, low: float, high: float, place: F64) -> None:
    """`place_on_border` for Python."""
    border = border_of(points, along)
    place_on_border(cython.address(border), s, reach, low, high, cython.address(place[0]))
