"""Compiled loops that draw rings of cubics with exact area coverage, and move them to give back a field of tones.

Only pixels near the curves are kept: the band. It is a list of pixels, row by row; `place` (h, w) says where in it a
pixel stands, −1 for none.
"""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import atan2, ceil, fabs, hypot, sqrt
from cython.cimports.libc.string import memset
from cython.cimports.sobercrow.core._numeric import floored, truncated
from cython.cimports.sobercrow.core.geometry._piece_kernels import place_on, way_on
from cython.cimports.sobercrow.core.tracing._adjust_kernels import (
    Ring,
    add_priors,
    derivatives,
    equations_of,
    gather,
    give_back,
    place_controls,
    spread,
    take_step,
    ways_at,
)
from cython.cimports.sobercrow.core.tracing._sizes import BOTH, BothRow, Cubic, Point, Row

from sobercrow.core.arrays import F32, F64, I32, I64, U8

FLAT_PX = 0.005
"""Curves are drawn as chords no further off than this."""
SPACING_PX = 0.7
"""Places on the curve that far apart are pulled at."""
FURTHEST_PX = 0.7
BESIDE_PX = 1e-3
"""Nearer than this to the line between pixels both are read."""
SHORTEST_ARM = 0.15
"""A corner made smooth gets handles no shorter than this share of its pieces' chords."""
CORNER_PULL = 0.01
"""Weight that keeps a corner near the place its sides gave it."""
THIRDS_PULL = 0.0001
"""Weight that draws handles to a third of the chord where the tones do not say."""
SHORT_PULL = 0.03
"""The same for short pieces, whose handles the tones hardly tell: divided by the chord in px."""
FAINT = 1e-4
"""Less strength than this is none; what is drawn there keeps its place."""
LOOK_PX = 2.0
"""Over such a length the direction of a corner's side is read."""


def _polygon_length(c: F64) -> float:
    length = hypot(c[2] - c[0], c[3] - c[1]) + hypot(c[4] - c[2], c[5] - c[3])
    return length + hypot(c[6] - c[4], c[7] - c[5])


def _chord(c: F64) -> float:
    return hypot(c[6] - c[0], c[7] - c[1])


def mark_band(controls: F64, starts: I64, order: I64, place: I32, reach: int) -> int:
    """Write into `place` (all −1) the ring of every pixel within `reach` of a curve; return how many there are.

    Of several rings near a pixel it is the one that comes last in `order`.
    """
    height, width = place.shape[0], place.shape[1]
    count = 0
    with cython.nogil:
        for nth in range(order.shape[0]):
            ring = order[nth]
            for k in range(starts[ring], starts[ring + 1]):
                c = cython.address(controls[k, 0])
                steps = max(2, truncated(_polygon_length(c) / SPACING_PX) + 1)
                for s in range(steps):
                    x, y = place_on(c, (s + 0.5) / steps)
                    left, right = floored(x - BESIDE_PX) - reach, floored(x + BESIDE_PX) + reach
                    top, bottom = floored(y - BESIDE_PX) - reach, floored(y + BESIDE_PX) + reach
                    for i in range(min(max(top, 0), height - 1), max(min(bottom, height - 1), 0) + 1):
                        for j in range(min(max(left, 0), width - 1), max(min(right, width - 1), 0) + 1):
                            if place[i, j] < 0:
                                count += 1
                            place[i, j] = ring
    return count


def list_band(place: I32, rows: I32, columns: I32, owner: I32, above: I32, below: I32) -> None:
    """List the pixels marked by `mark_band`, with the ring that marked each; `place` is then where in the list.

    With them come the pixels above and below in the list; at the band's rim these are the same ones.
    """
    count = 0
    with cython.nogil:
        for i in range(place.shape[0]):
            for j in range(place.shape[1]):
                if place[i, j] >= 0:
                    rows[count], columns[count], owner[count] = i, j, place[i, j]
                    place[i, j] = above[count] = below[count] = count
                    if i > 0 and place[i - 1, j] >= 0:
                        above[count] = place[i - 1, j]
                        below[place[i - 1, j]] = count
                    count += 1


def _put(place: I32, width: int, steps: F64, column: int, amount: float) -> None:
    """Add to the step at a pixel of a row; beside the band, at the next pixel of the band."""
    while column < width and place[column] < 0:
        column += 1
    if column < width:
        steps[place[column]] += amount


def _add_line(
    place: I32, height: int, width: int, steps: F64, x0: float, y0: float, x1: float, y1: float, amount: float
) -> None:
    """Add how a line changes the covered area from each pixel of a row to the next."""
    if y0 == y1:
        return
    sign = -amount
    if y0 > y1:
        x0, y0, x1, y1 = x1, y1, x0, y0
        sign = amount
    if y1 <= 0.0 or y0 >= height:
        return
    cython.declare(x=cython.double, high=cython.double, left=cython.double, right=cython.double)
    cython.declare(enters=cython.double, leaves=cython.double)
    slope = (x1 - x0) / (y1 - y0)
    if y0 < 0.0:
        x0, y0 = x0 - y0 * slope, 0.0
    x = x0
    furthest = width - 1e-6
    for row in range(truncated(y0), min(height, truncated(ceil(y1)))):
        here = place + row * width
        high = min(row + 1.0, y1) - max(row, y0)
        ahead = x + slope * high
        left, right = min(max(min(x, ahead), 0.0), furthest), min(max(max(x, ahead), 0.0), furthest)
        first, last = truncated(left), truncated(right)
        rise = sign * high
        if first == last:
            mean = 0.5 * (left + right) - first
            _put(here, width, steps, first, rise * (1.0 - mean))
            _put(here, width, steps, first + 1, rise * mean)
        else:
            # what lies to the right of the line in each pixel it passes, less what lay there in the one before
            before = 0.0
            for column in range(first, last + 1):
                enters, leaves = max(left, column), min(right, column + 1.0)
                share = (leaves - enters) / (right - left)
                passed = (enters - left) / (right - left)
                covered_here = passed + share * (column + 1.0 - 0.5 * (enters + leaves))
                _put(here, width, steps, column, rise * (covered_here - before))
                before = covered_here
            _put(here, width, steps, last + 1, rise * (1.0 - before))
        x = ahead


def _chords(c: F64) -> int:
    """Into how many chords a cubic is parted so that none is off it by more than `FLAT_PX`."""
    first = hypot(c[0] - 2.0 * c[2] + c[4], c[1] - 2.0 * c[3] + c[5])
    second = hypot(c[2] - 2.0 * c[4] + c[6], c[3] - 2.0 * c[5] + c[7])
    return truncated(sqrt(0.75 * max(first, second) / FLAT_PX)) + 1


def draw(first: int, last: int, controls: F64, starts: I64, which: U8, amount: float, place: I32, steps: F64) -> None:
    """Add clockwise rings from `first` up to `last`, or with `amount` −1 take them away.

    `steps` holds by how much each pixel of the band is covered more than the one before it in its row, exactly, after
    Levien 2016 ("Inside the fastest font renderer in the world").
    """
    height, width = place.shape[0], place.shape[1]
    cells, drawn = cython.address(place[0, 0]), cython.address(steps[0])
    with cython.nogil:
        for ring in range(first, last):
            if which[ring] == 0:
                continue
            for k in range(starts[ring], starts[ring + 1]):
                c = cython.address(controls[k, 0])
                chords = _chords(c)
                x, y = c[0], c[1]
                for s in range(1, chords + 1):
                    ahead_x, ahead_y = place_on(c, cython.cast(cython.double, s) / chords)
                    _add_line(cells, height, width, drawn, x, y, ahead_x, ahead_y, amount)
                    x, y = ahead_x, ahead_y


def covered(rows: I32, steps: F64, cover: F32) -> None:
    """Sum the steps along every row."""
    carried = 0.0
    with cython.nogil:
        for k in range(rows.shape[0]):
            if k > 0 and rows[k] != rows[k - 1]:
                carried = 0.0
            carried += steps[k]
            cover[k] = carried


def lay_over(covers: U8, inks: I64, colours: F32, picture: F32) -> None:
    """Lay inks over a picture (h, w, 3), the lowest first: of each (h, w) of 255 parts of a pixel are covered."""
    cython.declare(share=cython.float)
    with cython.nogil:
        for i in range(picture.shape[0]):
            for j in range(picture.shape[1]):
                for k in range(inks.shape[0]):
                    if covers[k, i, j]:
                        share = covers[k, i, j] / cython.cast(cython.float, 255.0)
                        for channel in range(3):
                            picture[i, j, channel] += share * (colours[inks[k], channel] - picture[i, j, channel])


def compare(drawn: F32, wanted: F32, owner: I32, off: F32, costs: F64) -> None:
    """Write how much more is drawn than wanted at every pixel, and each owner's sum of the squares (nought before)."""
    with cython.nogil:
        for k in range(drawn.shape[0]):
            off[k] = drawn[k] - wanted[k]
            costs[owner[k]] += cython.cast(cython.double, off[k]) * off[k]


def soften(rows: I32, columns: I32, above: I32, below: I32, taps: F64, values: F32, out: F32) -> None:
    """Blur values of the band by one half of a symmetric kernel, its middle first; the band's rim goes on beyond it."""
    level = cython.declare(cython.float[::1], np.empty(values.shape[0], dtype=np.float32))
    cython.declare(total=cython.double)
    count, first = values.shape[0], 0
    with cython.nogil:
        while first < count:
            end = first + 1
            while end < count and rows[end] == rows[first] and columns[end] == columns[end - 1] + 1:
                end += 1
            for k in range(first, end):
                total = taps[0] * values[k]
                for d in range(1, taps.shape[0]):
                    total += taps[d] * (values[max(k - d, first)] + values[min(k + d, end - 1)])
                level[k] = total
            first = end
        for k in range(count):
            total = taps[0] * level[k]
            up = down = k
            for d in range(1, taps.shape[0]):
                up, down = above[up], below[down]
                total += taps[d] * (level[up] + level[down])
            out[k] = total


def _pulled_at(place: I32, height: int, width: int, pull: F32, x: float, y: float) -> float:
    """The pull at a place; on the line between pixels, the mean of theirs."""
    total = 0.0
    for quarter in range(4):
        column = floored(x + (BESIDE_PX if quarter & 1 else -BESIDE_PX))
        row = floored(y + (BESIDE_PX if quarter & 2 else -BESIDE_PX))
        if 0 <= column < width and 0 <= row < height and place[row * width + column] >= 0:
            total += 0.25 * pull[place[row * width + column]]
    return total


def _strength_at(place: I32, height: int, width: int, strength: F32, x: float, y: float) -> float:
    """The strength at a place, at least `FAINT`."""
    column, row = min(max(floored(x), 0), width - 1), min(max(floored(y), 0), height - 1)
    here = place[row * width + column]
    return max(cython.cast(cython.double, strength[here]), FAINT) if here >= 0 else FAINT


def step_ring(
    place: I32,
    height: int,
    width: int,
    pull: F32,
    strength: F32,
    varies: bool,
    response: float,
    ring: Ring,
    damping: float,
) -> None:
    """Move one ring by a damped Gauss-Newton step.

    `pull` says how much less than drawn is wanted at each pixel of the band, blurred once more: the gradient of the
    squared difference is exact. `response` is what a pixel's difference changes by, squared and summed, for each px
    of border that moves by one px; if it `varies`, `strength` times as much.
    """
    m = ring.count
    equations = equations_of(m)
    to = cython.address(equations)
    row = cython.declare(cython.double[BOTH])
    slope = cython.declare(cython.double[BOTH])
    ways = cython.declare(cython.double[4])
    block = cython.declare(BothRow[BOTH])
    memset(block, 0, BOTH * cython.sizeof(BothRow))
    memset(slope, 0, cython.sizeof(BothRow))
    for i in range(m):
        j = i + 1 if i + 1 < m else 0
        c = cython.address(ring.controls[i][0])
        ways_at(ring.state, i, j, ways)
        steps = max(3, truncated(_polygon_length(c) / SPACING_PX) + 1)
        for s in range(steps):
            u = (s + 0.5) / steps
            x, y = place_on(c, u)
            value = _pulled_at(place, height, width, pull, x, y)
            tx, ty = way_on(c, u)
            size = hypot(tx, ty) + 1e-12
            derivatives(u, -ty / size, tx / size, i, j, ring, ways, row)
            strong = _strength_at(place, height, width, strength, x, y) if varies else 1.0
            gather(block, slope, row, -value / (response * strong), strong * 3.0 * size / steps)
        spread(block, slope, to, i, j)
    add_priors(to, ring, CORNER_PULL, THIRDS_PULL, SHORT_PULL, damping)
    take_step(to, ring, FURTHEST_PX)
    give_back(to)
    place_controls(ring)


def step_rings(
    first: int,
    last: int,
    starts: I64,
    dampings: F64,
    place: I32,
    pull: F32,
    strength: F32,
    response: float,
    state: F64,
    is_corner: U8,
    straight: U8,
    held: U8,
    home: F64,
    controls: F64,
) -> None:
    """Move the rings from `first` up to `last`, those of negative damping excepted. Other threads run meanwhile.

    An empty `strength` is 1 everywhere.
    """
    ring = cython.declare(Ring)
    varies = cython.declare(cython.bint, strength.shape[0] > 0)
    strengths = cython.address(strength[0]) if varies else cython.NULL
    height, width = place.shape[0], place.shape[1]
    with cython.nogil:
        for k in range(first, last):
            a, b = starts[k], starts[k + 1]
            if dampings[k] < 0.0 or b - a < 2:
                continue
            ring.count = b - a
            ring.state = cython.cast(cython.pointer(Row), cython.address(state[a, 0]))
            ring.is_corner, ring.straight = cython.address(is_corner[a]), cython.address(straight[a])
            ring.held = cython.address(held[a])
            ring.controls = cython.cast(cython.pointer(Cubic), cython.address(controls[a, 0]))
            ring.home = cython.cast(cython.pointer(cython.const[Point]), cython.address(home[a, 0]))
            step_ring(
                cython.address(place[0, 0]),
                height,
                width,
                cython.address(pull[0]),
                strengths,
                varies,
                response,
                cython.address(ring),
                dampings[k],
            )


def _way_from(c: F64, backwards: bool) -> tuple[float, float]:
    """Unit direction in which a cubic leaves its start, or its end if `backwards`, read over `LOOK_PX`."""
    u = min(1.0, LOOK_PX / (_polygon_length(c) + 1e-9))
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
