"""Compiled loops that draw rings of cubics with exact area coverage, and move them to give back a field of tones.

Only pixels near the curves are kept: the band. It is a list of pixels, row by row; `place` (h, w) says where in it a
pixel stands, −1 for none.
"""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F32, F64, I32, I64, U8
from sobercrow.core.compiled import kernel
from sobercrow.core.geometry._piece_kernels import place_on, way_on
from sobercrow.core.tracing._adjust_kernels import (
    UNKNOWNS,
    add_priors,
    derivatives,
    gather,
    handles_of,
    spread,
    take_step,
    ways_at,
)

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
LOOK_PX = 2.0
"""Over such a length the direction of a corner's side is read."""


@kernel
def _polygon_length(c: F64) -> float:
    length = np.hypot(c[2] - c[0], c[3] - c[1]) + np.hypot(c[4] - c[2], c[5] - c[3])
    return float(length + np.hypot(c[6] - c[4], c[7] - c[5]))


@kernel
def _chord(c: F64) -> float:
    return float(np.hypot(c[6] - c[0], c[7] - c[1]))


@kernel
def mark_band(controls: F64, starts: I64, order: I64, place: I32, reach: int) -> int:
    """Write into `place` (all −1) the ring of every pixel within `reach` of a curve; return how many there are.

    Of several rings near a pixel it is the one that comes last in `order`.
    """
    height, width = place.shape
    count = 0
    for ring in order:
        for k in range(starts[ring], starts[ring + 1]):
            c = controls[k]
            steps = max(2, int(_polygon_length(c) / SPACING_PX) + 1)
            for s in range(steps):
                x, y = place_on(c, (s + 0.5) / steps)
                left, right = int(np.floor(x - BESIDE_PX)) - reach, int(np.floor(x + BESIDE_PX)) + reach
                top, bottom = int(np.floor(y - BESIDE_PX)) - reach, int(np.floor(y + BESIDE_PX)) + reach
                for i in range(min(max(top, 0), height - 1), max(min(bottom, height - 1), 0) + 1):
                    for j in range(min(max(left, 0), width - 1), max(min(right, width - 1), 0) + 1):
                        if place[i, j] < 0:
                            count += 1
                        place[i, j] = ring
    return count


@kernel
def list_band(place: I32, rows: I32, columns: I32, owner: I32) -> None:
    """List the pixels marked by `mark_band`, with the ring that marked each; `place` is then where in the list."""
    count = 0
    for i in range(place.shape[0]):
        for j in range(place.shape[1]):
            if place[i, j] >= 0:
                rows[count], columns[count], owner[count] = i, j, place[i, j]
                place[i, j] = count
                count += 1


@kernel
def _put(place: I32, steps: F64, row: int, column: int, amount: float) -> None:
    """Add to the step at a pixel; beside the band, at the next pixel of the band in its row."""
    while column < place.shape[1] and place[row, column] < 0:
        column += 1
    if column < place.shape[1]:
        steps[place[row, column]] += amount


@kernel
def _add_line(place: I32, steps: F64, x0: float, y0: float, x1: float, y1: float, amount: float) -> None:
    """Add how a line changes the covered area from each pixel of a row to the next."""
    height, width = place.shape
    if y0 == y1:
        return
    sign = -amount
    if y0 > y1:
        x0, y0, x1, y1 = x1, y1, x0, y0
        sign = amount
    if y1 <= 0.0 or y0 >= height:
        return
    slope = (x1 - x0) / (y1 - y0)
    if y0 < 0.0:
        x0, y0 = x0 - y0 * slope, 0.0
    x = x0
    for row in range(int(y0), min(height, int(np.ceil(y1)))):
        high = min(row + 1.0, y1) - max(float(row), y0)
        ahead = x + slope * high
        left, right = min(max(min(x, ahead), 0.0), width - 1e-6), min(max(max(x, ahead), 0.0), width - 1e-6)
        first, last = int(np.floor(left)), int(np.floor(right))
        rise = sign * high
        if first == last:
            mean = 0.5 * (left + right) - first
            _put(place, steps, row, first, rise * (1.0 - mean))
            _put(place, steps, row, first + 1, rise * mean)
        else:
            # what lies to the right of the line in each pixel it passes, less what lay there in the one before
            before = 0.0
            for column in range(first, last + 1):
                enters, leaves = max(left, float(column)), min(right, column + 1.0)
                share = (leaves - enters) / (right - left)
                passed = (enters - left) / (right - left)
                covered = passed + share * (column + 1.0 - 0.5 * (enters + leaves))
                _put(place, steps, row, column, rise * (covered - before))
                before = covered
            _put(place, steps, row, last + 1, rise * (1.0 - before))
        x = ahead


@kernel
def _chords(c: F64) -> int:
    """Into how many chords a cubic is parted so that none is off it by more than `FLAT_PX`."""
    first = np.hypot(c[0] - 2.0 * c[2] + c[4], c[1] - 2.0 * c[3] + c[5])
    second = np.hypot(c[2] - 2.0 * c[4] + c[6], c[3] - 2.0 * c[5] + c[7])
    return int(np.sqrt(0.75 * max(first, second) / FLAT_PX)) + 1


@kernel
def draw(first: int, last: int, controls: F64, starts: I64, which: U8, amount: float, place: I32, steps: F64) -> None:
    """Add clockwise rings from `first` up to `last`, or with `amount` −1 take them away.

    `steps` holds by how much each pixel of the band is covered more than the one before it in its row, exactly, after
    Levien 2016 ("Inside the fastest font renderer in the world").
    """
    for ring in range(first, last):
        if which[ring] == 0:
            continue
        for k in range(starts[ring], starts[ring + 1]):
            c = controls[k]
            chords = _chords(c)
            x, y = c[0], c[1]
            for s in range(1, chords + 1):
                ahead_x, ahead_y = place_on(c, s / chords)
                _add_line(place, steps, x, y, ahead_x, ahead_y, amount)
                x, y = ahead_x, ahead_y


@kernel
def covered(rows: I32, steps: F64, cover: F32) -> None:
    """Sum the steps along every row."""
    carried = 0.0
    for k in range(cover.size):
        if k > 0 and rows[k] != rows[k - 1]:
            carried = 0.0
        carried += steps[k]
        cover[k] = carried


@kernel
def compare(drawn: F32, wanted: F32, owner: I32, off: F32, costs: F64) -> None:
    """Write how much more is drawn than wanted at every pixel, and each owner's sum of the squares (nought before)."""
    for k in range(drawn.size):
        off[k] = drawn[k] - wanted[k]
        costs[owner[k]] += float(off[k]) * float(off[k])


@kernel
def soften(place: I32, rows: I32, columns: I32, taps: F64, values: F32, out: F32) -> None:
    """Blur values of the band by one half of a symmetric kernel, its middle first; the band's rim goes on beyond it."""
    level = np.empty_like(values)
    count = values.size
    for k in range(count):
        total = taps[0] * values[k]
        for way in (-1, 1):
            last = values[k]
            for d in range(1, taps.size):
                there = k + way * d
                if 0 <= there < count and rows[there] == rows[k] and columns[there] == columns[k] + way * d:
                    last = values[there]
                total += taps[d] * last
        level[k] = total
    for k in range(count):
        total = taps[0] * level[k]
        for way in (-1, 1):
            last = level[k]
            for d in range(1, taps.size):
                i = rows[k] + way * d
                if 0 <= i < place.shape[0] and place[i, columns[k]] >= 0:
                    last = level[place[i, columns[k]]]
                total += taps[d] * last
        out[k] = total


@kernel
def _pulled_at(place: I32, pull: F32, x: float, y: float) -> float:
    """The pull at a place; on the line between pixels, the mean of theirs."""
    total = 0.0
    for quarter in range(4):
        column = int(np.floor(x + (BESIDE_PX if quarter & 1 else -BESIDE_PX)))
        row = int(np.floor(y + (BESIDE_PX if quarter & 2 else -BESIDE_PX)))
        if 0 <= column < place.shape[1] and 0 <= row < place.shape[0] and place[row, column] >= 0:
            total += 0.25 * pull[place[row, column]]
    return total


@kernel
def step_ring(
    place: I32,
    pull: F32,
    response: float,
    state: F64,
    is_corner: U8,
    straight: U8,
    held: U8,
    home: F64,
    controls: F64,
    damping: float,
) -> None:
    """Move one ring by a damped Gauss-Newton step.

    `pull` says how much less than drawn is wanted at each pixel of the band, blurred once more: the gradient of the
    squared difference is exact. `response` is what a pixel's difference changes by, squared and summed, for each px
    of border that moves by one px.
    """
    m = state.shape[0]
    diagonal = np.zeros((m, UNKNOWNS, UNKNOWNS))
    side = np.zeros((m, UNKNOWNS, UNKNOWNS))
    right = np.zeros((m, UNKNOWNS))
    row = np.empty(2 * UNKNOWNS)
    block, slope = np.zeros((2 * UNKNOWNS, 2 * UNKNOWNS)), np.zeros(2 * UNKNOWNS)
    ways = np.empty(4)
    for i in range(m):
        j = i + 1 if i + 1 < m else 0
        c = controls[i]
        ways_at(state, i, j, ways)
        steps = max(3, int(_polygon_length(c) / SPACING_PX) + 1)
        for s in range(steps):
            u = (s + 0.5) / steps
            x, y = place_on(c, u)
            value = _pulled_at(place, pull, x, y)
            tx, ty = way_on(c, u)
            size = np.hypot(tx, ty) + 1e-12
            derivatives(u, -ty / size, tx / size, i, j, state, ways, is_corner, straight, row)
            gather(block, slope, row, -value / response, 3.0 * size / steps)
        spread(block, slope, diagonal, side, right, i, j)
    add_priors(
        diagonal, side, right, state, is_corner, straight, held, home, CORNER_PULL, THIRDS_PULL, SHORT_PULL, damping
    )
    take_step(diagonal, side, right, state, is_corner, FURTHEST_PX)
    handles_of(state, is_corner, straight, controls)


@kernel
def step_rings(
    first: int,
    last: int,
    starts: I64,
    dampings: F64,
    place: I32,
    pull: F32,
    response: float,
    state: F64,
    is_corner: U8,
    straight: U8,
    held: U8,
    home: F64,
    controls: F64,
) -> None:
    """Move the rings from `first` up to `last`, those of negative damping excepted."""
    for ring in range(first, last):
        a, b = starts[ring], starts[ring + 1]
        if dampings[ring] >= 0.0 and b - a > 1:
            step_ring(
                place,
                pull,
                response,
                state[a:b],
                is_corner[a:b],
                straight[a:b],
                held[a:b],
                home[a:b],
                controls[a:b],
                dampings[ring],
            )


@kernel
def _way_from(c: F64, backwards: bool) -> tuple[float, float]:
    """Unit direction in which a cubic leaves its start, or its end if `backwards`, read over `LOOK_PX`."""
    u = min(1.0, LOOK_PX / (_polygon_length(c) + 1e-9))
    near, far = 0.25 * u, u
    if backwards:
        near, far = 1.0 - near, 1.0 - far
    near_x, near_y = place_on(c, near)
    far_x, far_y = place_on(c, far)
    size = np.hypot(far_x - near_x, far_y - near_y) + 1e-12
    return (far_x - near_x) / size, (far_y - near_y) / size


@kernel
def ease_corners(
    starts: I64, controls: F64, state: F64, is_corner: U8, straight: U8, least_rad: float, changed: U8
) -> None:
    """Make corners smooth that turn by less than `least_rad`, unless both sides are straight; mark their rings."""
    for ring in range(starts.size - 1):
        for i in range(starts[ring], starts[ring + 1]):
            before = i - 1 if i > starts[ring] else starts[ring + 1] - 1
            if is_corner[i] == 0 or (straight[before] == 1 and straight[i] == 1):
                continue
            ahead_x, ahead_y = _way_from(controls[i], False)
            back_x, back_y = _way_from(controls[before], True)
            turn = np.arctan2(ahead_x * back_y - ahead_y * back_x, -(ahead_x * back_x + ahead_y * back_y))
            if abs(turn) >= least_rad:
                continue
            x, y = ahead_x - back_x, ahead_y - back_y
            if straight[before] == 1:
                x, y = -back_x, -back_y
            elif straight[i] == 1:
                x, y = ahead_x, ahead_y
            into = max(np.hypot(state[i, 2], state[i, 3]), SHORTEST_ARM * _chord(controls[before]))
            out = max(np.hypot(state[i, 4], state[i, 5]), SHORTEST_ARM * _chord(controls[i]))
            state[i, 2], state[i, 3], state[i, 4], state[i, 5] = np.arctan2(y, x), into, out, 0.0
            is_corner[i] = 0
            changed[ring] = 1
