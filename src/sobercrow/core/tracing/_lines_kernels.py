"""Compiled fit of many borders, one after the other, each seen in a view of its own and with the care it needs."""

from __future__ import annotations

import cython
from cython.cimports.libc.math import exp, fabs, hypot, rint
from cython.cimports.libc.stdlib import free
from cython.cimports.libc.string import memcpy
from cython.cimports.sobercrow.core._numeric import sort, truncated, wrap
from cython.cimports.sobercrow.core._scratch import bytes_of, doubles
from cython.cimports.sobercrow.core.geometry._crossing_kernels import Cubic, crosses
from cython.cimports.sobercrow.core.tracing._contour_kernels import Fit, fit_line, fit_ring
from cython.cimports.sobercrow.core.tracing._joint_kernels import Border, measure_lengths
from cython.cimports.sobercrow.core.tracing._lines_kernels import BELL, REACH, Frame, Manner
from cython.cimports.sobercrow.core.tracing._sizes import Point, Row

from sobercrow.core.arrays import F64, I64, U8

NOISE_PX = 0.12
"""Usual error of a border point. Below a tolerance of about twice this the fit would follow noise."""
ROUGH_POINTS, SMOOTHED_POINTS, SIGMA_OF_MEDIAN = 24, 2.5, 1.48
"""Borders of so many points tell how rough they are, against themselves smoothed over so many."""
ROUGH, SURE_PX, ROUGH_CORNER, MOST_CORNER_RAD = 4.0, 0.06, 10.0, 1.6
"""The tolerance is so many times the roughness at least; a corner must turn by so much more for every px of it beyond
what sure borders have."""
LEAST_APART_PX = 1.0
"""Smooth anchors nearer than this to another are to be looked at again."""
THINNED_FROM = 16
"""Borders of fewer grains are not thinned."""
LOOP, REVERSED = 1, 2


def _frame_of(line: F64, n: int) -> Frame:
    """The view in which a border is wider than high and heavier to the right and at the bottom."""
    frame = cython.declare(Frame)
    cython.declare(left=cython.double, top=cython.double, right=cython.double, bottom=cython.double)
    left = right = line[0][0]
    top = bottom = line[0][1]
    for k in range(n):
        left, right = min(left, line[k][0]), max(right, line[k][0])
        top, bottom = min(top, line[k][1]), max(bottom, line[k][1])
    frame.x, frame.y = 0.5 * (left + right), 0.5 * (top + bottom)
    wide = high = to_right = to_bottom = 0.0
    for k in range(n):
        x, y = line[k][0] - frame.x, line[k][1] - frame.y
        wide += x * x
        high += y * y
        to_right += x * x * x
        to_bottom += y * y * y
    frame.along, frame.down = -1.0 if to_right < 0.0 else 1.0, -1.0 if to_bottom < 0.0 else 1.0
    frame.on_its_side = wide < high
    return frame


def _seen(frame: Frame, x: float, y: float, out: F64) -> None:
    """A vector as seen in a view."""
    if frame.on_its_side:
        out[0], out[1] = y * frame.down, x * frame.along
    else:
        out[0], out[1] = x * frame.along, y * frame.down


def _back(frame: Frame, grain: float, out: F64) -> None:
    """Where three points seen in a view lie, in place."""
    for k in range(3):
        x, y = out[2 * k], out[2 * k + 1]
        if frame.on_its_side:
            x, y = y, x
        out[2 * k] = (x * frame.along + frame.x) * grain
        out[2 * k + 1] = (y * frame.down + frame.y) * grain


def _smoothed(values: F64, n: int, closed: bool, out: F64) -> None:
    """Numbers smoothed by a Gaussian bell; beyond its ends an open line stays as it was last."""
    bell = cython.declare(cython.double[BELL])
    whole = 0.0
    for d in range(BELL):
        bell[d] = exp(-0.5 * ((d - REACH) / SMOOTHED_POINTS) ** 2)
        whole += bell[d]
    for k in range(n):
        mean = 0.0
        for d in range(BELL):
            at = k + d - REACH
            if at < 0 or at >= n:
                at = wrap(at, n) if closed else (0 if at < 0 else n - 1)
            mean += bell[d] * values[at]
        out[k] = mean / whole


def roughness(line: F64, n: int, closed: bool) -> float:
    """How far the points of a border are off a smooth one, as a standard deviation in px; a few may be far off."""
    room = doubles(5 * n)
    xs, ys, smooth_x, smooth_y, across = room, room + n, room + 2 * n, room + 3 * n, room + 4 * n
    for k in range(n):
        xs[k], ys[k] = line[k][0], line[k][1]
    _smoothed(xs, n, closed, smooth_x)
    _smoothed(ys, n, closed, smooth_y)
    for k in range(n):
        low, high = k - 1 if k > 0 else 0, k + 1 if k + 1 < n else n - 1
        way_x, way_y = smooth_x[high] - smooth_x[low], smooth_y[high] - smooth_y[low]
        long = hypot(way_x, way_y)
        off = (xs[k] - smooth_x[k]) * way_y - (ys[k] - smooth_y[k]) * way_x
        across[k] = off / (long if long > 1e-9 else 1e-9)
    _smoothed(across, n, closed, xs)  # smoothing pulls bends inwards
    for k in range(n):
        ys[k] = fabs(across[k] - xs[k])
    sort(ys, n)
    middle = n // 2
    rough: float = SIGMA_OF_MEDIAN * (ys[middle] if n % 2 else 0.5 * (ys[middle - 1] + ys[middle]))
    free(room)
    return rough


def _price(tolerance: float) -> float:
    """The price of distance: a looser tolerance also says that less is wanted of the mean distance."""
    least = tolerance if tolerance > NOISE_PX else NOISE_PX
    return 0.125 / (least * least)


def _suited(line: F64, n: int, closed: bool, manner: Manner) -> Fit:
    """How a border as rough as this one is fitted."""
    by = cython.declare(Fit)
    by.tolerance, by.corner_rad, by.blur = manner.tolerance, manner.corner_rad, manner.blur
    if manner.mixed and n >= ROUGH_POINTS:
        rough = roughness(line, n, closed)
        if ROUGH * rough > by.tolerance:
            by.tolerance = ROUGH * rough
        wider = by.corner_rad * (1.0 + ROUGH_CORNER * (rough - SURE_PX if rough > SURE_PX else 0.0))
        by.corner_rad = wider if wider < MOST_CORNER_RAD else MOST_CORNER_RAD
    by.smoothness = _price(by.tolerance)
    return by


def _reverse(rows: F64, kinds: U8, count: int) -> None:
    """Turn anchors round, in place: their order, and the handles of each."""
    row = cython.declare(Row)
    for k in range((count + 1) // 2):
        other = count - 1 - k
        kind = kinds[k]
        kinds[k], kinds[other] = kinds[other], kind
        memcpy(row, rows[k], cython.sizeof(Row))
        if other != k:
            _turned(rows[other], rows[k])
        _turned(row, rows[other])


def _turned(row: F64, out: F64) -> None:
    """Write an anchor with its handles exchanged."""
    for k in range(3):
        out[2 * k], out[2 * k + 1] = row[4 - 2 * k], row[5 - 2 * k]


def _thinned(line: F64, n: int, grain: float, out: F64) -> int:
    """Write a border in pixels of the drawing, only one point for each of them; return how many."""
    if grain == 1.0:
        memcpy(out, line, n * cython.sizeof(Point))
        return n
    every = truncated(rint(grain)) if n > THINNED_FROM * grain else 1
    count = (n + every - 1) // every
    for k in range(count):
        out[k][0], out[k][1] = line[k * every][0] / grain, line[k * every][1] / grain
    return count


def _fit_closed(line: F64, n: int, manner: Manner, rows: F64, kinds: U8) -> tuple[int, int]:
    """Fit a closed border; turned by quarters or mirrored it gives the same, turned or mirrored."""
    points = cython.cast(cython.pointer(Point), doubles(2 * n))
    seen = cython.cast(cython.pointer(Point), doubles(2 * n))
    along = doubles(n + 1)
    n = _thinned(line, n, manner.grain, points)
    frame = _frame_of(points, n)
    for k in range(n):
        _seen(cython.address(frame), points[k][0] - frame.x, points[k][1] - frame.y, seen[k])
    cython.declare(reverse=cython.bint)
    area = 0.0
    for k in range(n):
        after = k + 1 if k + 1 < n else 0
        area += seen[k][0] * seen[after][1] - seen[k][1] * seen[after][0]
    reverse = area < 0.0
    first, furthest = 0, -1e300
    for k in range(n):
        at = n - 1 - k if reverse else k
        far = seen[at][0] + 1e-3 * seen[at][1]
        if far > furthest:
            first, furthest = at, far
    ordered = cython.cast(cython.pointer(Point), doubles(2 * n))
    for k in range(n):
        at = wrap(first - k if reverse else first + k, n)
        ordered[k][0], ordered[k][1] = seen[at][0], seen[at][1]
    measure_lengths(ordered, n, along)
    border = cython.declare(Border)
    border.count, border.points, border.along = n, ordered, along
    by = _suited(points, n, True, manner)
    count = fit_ring(cython.address(border), cython.address(by), rows, kinds)
    if count <= 1:  # a small rough spot is more than a point
        by.tolerance, by.corner_rad, by.smoothness = manner.tolerance, manner.corner_rad, _price(manner.tolerance)
        count = fit_ring(cython.address(border), cython.address(by), rows, kinds)
    for k in range(count):
        _back(cython.address(frame), manner.grain, rows[k])
    if reverse:
        _reverse(rows, kinds, count)
    free(points)
    free(seen)
    free(ordered)
    free(along)
    return count, REVERSED if reverse else 0


def _fit_open(line: F64, n: int, ends: F64, manner: Manner, rows: F64, kinds: U8) -> int:
    """Fit a border between its first and its last point, which stay exactly there."""
    points = cython.cast(cython.pointer(Point), doubles(2 * n))
    seen = cython.cast(cython.pointer(Point), doubles(2 * n))
    along = doubles(n + 1)
    last = n - 1
    n = _thinned(line, n - 1, manner.grain, points)
    points[n][0], points[n][1] = line[last][0] / manner.grain, line[last][1] / manner.grain
    n += 1
    frame = _frame_of(points, n)
    for k in range(n):
        _seen(cython.address(frame), points[k][0] - frame.x, points[k][1] - frame.y, seen[k])
    seen_ends = cython.declare(cython.double[6])
    for end in range(2):
        _seen(cython.address(frame), ends[3 * end], ends[3 * end + 1], cython.address(seen_ends[3 * end]))
        seen_ends[3 * end + 2] = ends[3 * end + 2]
    cython.declare(reverse=cython.bint)
    reverse = seen[n - 1][0] + 1e-3 * seen[n - 1][1] > seen[0][0] + 1e-3 * seen[0][1]
    if reverse:
        _turn_round(seen, n, seen_ends)
    measure_lengths(seen, n, along)
    border = cython.declare(Border)
    border.count, border.points, border.along = n, seen, along
    by = _suited(points, n, False, manner)
    count: int = fit_line(cython.address(border), along, seen_ends, cython.address(by), rows, kinds)
    for k in range(count):
        _back(cython.address(frame), manner.grain, rows[k])
    if reverse:
        _reverse(rows, kinds, count)
    for end in range(2):
        row, exactly = cython.address(rows[end * (count - 1)][0]), cython.address(line[end * last][0])
        off_x, off_y = exactly[0] - row[2], exactly[1] - row[3]
        for k in range(3):
            row[2 * k], row[2 * k + 1] = row[2 * k] + off_x, row[2 * k + 1] + off_y
        row[2], row[3] = exactly[0], exactly[1]
        row[4 * end], row[4 * end + 1] = exactly[0], exactly[1]
    free(points)
    free(seen)
    free(along)
    return count


def _turn_round(points: F64, n: int, ends: F64) -> None:
    """Turn a line round, in place, and the directions at its ends."""
    for k in range(n // 2):
        for axis in range(2):
            kept = points[k][axis]
            points[k][axis], points[n - 1 - k][axis] = points[n - 1 - k][axis], kept
    for axis in range(3):
        sign = 1.0 if axis == 2 else -1.0
        kept = ends[axis]
        ends[axis], ends[3 + axis] = sign * ends[3 + axis], sign * kept


def _is_untidy(rows: F64, kinds: U8, count: int, closed: bool) -> bool:
    """Whether smooth anchors crowd others, or the contour crosses itself."""
    pieces = count if closed else count - 1
    if pieces < 1:
        return False
    controls = cython.cast(cython.pointer(Cubic), doubles(8 * pieces))
    crowded = False
    for k in range(pieces):
        after = k + 1 if k + 1 < count else 0
        memcpy(controls[k], cython.address(rows[k][2]), 4 * cython.sizeof(cython.double))
        memcpy(cython.address(controls[k][4]), rows[after], 4 * cython.sizeof(cython.double))
        apart = hypot(rows[after][2] - rows[k][2], rows[after][3] - rows[k][3])
        if apart < LEAST_APART_PX and (kinds[k] != 0 or kinds[after] != 0):
            crowded = True
    place = cython.declare(cython.double[4])
    untidy = crowded or crosses(controls, pieces, closed, place)
    free(controls)
    return untidy


def fit_lines(
    points: F64,
    starts: I64,
    is_closed: U8,
    ends: F64,
    tolerance: float,
    corner_rad: float,
    blur: float,
    grain: float,
    mixed: bool,
    anchors: F64,
    kinds: U8,
    counts: I64,
    flags: U8,
) -> None:
    """Fit borders that follow each other in `points` (n, 2), as `starts` (m + 1,) says; see `fitting.Fitter`.

    `ends` (m, 6) are those of open ones, see `fit_line`. Writes anchors (k, 6: handle in, anchor, handle out) and kinds
    one border after the other, `counts` (m,) of them, and flags: 1 where a contour is to be tidied, 2 where a closed
    one was read the other way round. There must be room for 4 n + 64 m anchors. Other threads run meanwhile.
    """
    manner = cython.declare(Manner)
    manner.tolerance, manner.corner_rad, manner.blur = tolerance, corner_rad, blur
    manner.grain, manner.mixed = grain, mixed
    with cython.nogil:
        lines = cython.cast(cython.pointer(cython.const[Point]), cython.address(points[0, 0]))
        written = 0
        for k in range(starts.shape[0] - 1):
            n = starts[k + 1] - starts[k]
            room = 4 * n + 64
            rows, kind = cython.cast(cython.pointer(Row), doubles(6 * room)), bytes_of(room)
            flag = 0
            if is_closed[k]:
                count, flag = _fit_closed(lines + starts[k], n, cython.address(manner), rows, kind)
            else:
                count = _fit_open(lines + starts[k], n, cython.address(ends[k, 0]), cython.address(manner), rows, kind)
            if _is_untidy(rows, kind, count, is_closed[k]):
                flag = flag | LOOP
            memcpy(cython.address(anchors[written, 0]), rows, count * cython.sizeof(Row))
            memcpy(cython.address(kinds[written]), kind, count)
            free(rows)
            free(kind)
            counts[k], flags[k] = count, flag
            written += count
