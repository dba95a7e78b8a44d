"""Compiled loops that draw rings of cubics with exact area coverage.

Only pixels near the curves are kept: the band. It is a list of pixels, part by part, each row by row; parts do not
touch. `place` (h, w) says where in the list a pixel of the box around the band stands, −1 for none; the box begins at
the picture's row `top` and column `left`.
"""

from __future__ import annotations

import cython
from cython.cimports.libc.math import ceil, hypot, sqrt
from cython.cimports.sobercrow.core._numeric import floored, truncated
from cython.cimports.sobercrow.core.geometry._piece_kernels import place_on
from cython.cimports.sobercrow.core.tracing._render_kernels import Drawn, Pixels
from cython.cimports.sobercrow.core.tracing._sizes import Cubic

from sobercrow.core.arrays import F32, F64, I32, I64, U8

FLAT_PX = 0.005
"""Curves are drawn as chords no further off than this."""
SPACING_PX = 0.7
"""Places on the curve that far apart are looked at."""
BESIDE_PX = 1e-3
"""Nearer than this to the line between pixels both count."""


def polygon_length(c: F64) -> float:
    length = hypot(c[2] - c[0], c[3] - c[1]) + hypot(c[4] - c[2], c[5] - c[3])
    return length + hypot(c[6] - c[4], c[7] - c[5])


def _root(joined: I64, ring: int) -> int:
    """The first of the rings that one is joined with."""
    while joined[ring] != ring:
        joined[ring] = joined[joined[ring]]
        ring = joined[ring]
    return ring


def _join(joined: I64, a: int, b: int) -> None:
    a, b = _root(joined, a), _root(joined, b)
    if a < b:
        joined[b] = a
    else:
        joined[a] = b


def mark_band(controls: F64, starts: I64, order: I64, place: I32, top: int, left: int, reach: int, joined: I64) -> int:
    """Write into `place` (all −1) the ring of every pixel within `reach` of a curve; return how many there are.

    Of several rings near a pixel it is the one that comes last in `order`. Rings that come near the same pixel are
    `joined` (n): each with one before it, or with itself.
    """
    height, width = place.shape[0], place.shape[1]
    parents = cython.address(joined[0])
    count = 0
    with cython.nogil:
        for nth in range(order.shape[0]):
            ring = order[nth]
            was_first = was_last = was_high = was_low = -1
            for k in range(starts[ring], starts[ring + 1]):
                c = cython.address(controls[k, 0])
                steps = max(2, truncated(polygon_length(c) / SPACING_PX) + 1)
                for s in range(steps):
                    x, y = place_on(c, (s + 0.5) / steps)
                    first = min(max(floored(x - BESIDE_PX) - reach - left, 0), width - 1)
                    last = max(min(floored(x + BESIDE_PX) + reach - left, width - 1), 0)
                    high = min(max(floored(y - BESIDE_PX) - reach - top, 0), height - 1)
                    low = max(min(floored(y + BESIDE_PX) + reach - top, height - 1), 0)
                    for i in range(high, low + 1):
                        j = first
                        while j <= last:
                            if was_high <= i <= was_low and was_first <= j <= was_last:
                                j = was_last + 1  # what was marked just before need not be again
                                continue
                            other = place[i, j]
                            if other < 0:
                                count += 1
                            elif other != ring:
                                _join(parents, other, ring)
                            place[i, j] = ring
                            j += 1
                    was_first, was_last, was_high, was_low = first, last, high, low
    return count


def join_neighbours(place: I32, joined: I64, counts: I64) -> None:
    """Join rings whose pixels, marked by `mark_band`, lie beside or above one another; each with the first of all.

    `counts` (n, nought before) are how many pixels each ring has.
    """
    parents = cython.address(joined[0])
    with cython.nogil:
        for i in range(place.shape[0]):
            for j in range(place.shape[1]):
                ring = place[i, j]
                if ring < 0:
                    continue
                if j > 0 and place[i, j - 1] >= 0 and place[i, j - 1] != ring:
                    _join(parents, place[i, j - 1], ring)
                if i > 0 and place[i - 1, j] >= 0 and place[i - 1, j] != ring:
                    _join(parents, place[i - 1, j], ring)
                counts[ring] += 1
        for ring in range(joined.shape[0]):
            joined[ring] = _root(parents, ring)


def list_band(
    place: I32,
    top: int,
    left: int,
    part_of: I64,
    ends: I64,
    by_row: I32,
    rows: I32,
    columns: I32,
    owner: I32,
    above: I32,
    below: I32,
) -> None:
    """List the pixels marked by `mark_band`, with the ring that marked each; `place` is then where in the list.

    With them come the pixels above and below in the list, at the band's rim the same ones; `by_row` is where in the
    list each stands, row by row over all parts. `ends` (m) is where each part begins, and becomes where it ends.
    """
    count = 0
    with cython.nogil:
        for i in range(place.shape[0]):
            for j in range(place.shape[1]):
                ring = place[i, j]
                if ring < 0:
                    continue
                k = ends[part_of[ring]]
                ends[part_of[ring]] += 1
                rows[k], columns[k], owner[k] = i + top, j + left, ring
                place[i, j] = above[k] = below[k] = k
                if i > 0 and place[i - 1, j] >= 0:
                    above[k] = place[i - 1, j]
                    below[place[i - 1, j]] = k
                by_row[count] = k
                count += 1


def _put(to: Drawn, row: I32, column: int, amount: float) -> None:
    """Add to the step at a pixel of a row; beside what is drawn, at the next pixel of it."""
    while column < to.width and not to.low <= row[column] < to.high:
        column += 1
    if column < to.width:
        to.steps[row[column]] += amount


def _add_line(to: Drawn, x0: float, y0: float, x1: float, y1: float, amount: float) -> None:
    """Add how a line changes the covered area from each pixel of a row to the next."""
    if y0 == y1:
        return
    sign = -amount
    if y0 > y1:
        x0, y0, x1, y1 = x1, y1, x0, y0
        sign = amount
    if y1 <= 0.0 or y0 >= to.height:
        return
    cython.declare(x=cython.double, high=cython.double, left=cython.double, right=cython.double)
    cython.declare(enters=cython.double, leaves=cython.double)
    slope = (x1 - x0) / (y1 - y0)
    if y0 < 0.0:
        x0, y0 = x0 - y0 * slope, 0.0
    x = x0
    furthest = to.width - 1e-6
    for row in range(truncated(y0), min(to.height, truncated(ceil(y1)))):
        here = to.place + row * to.width
        high = min(row + 1.0, y1) - max(row, y0)
        ahead = x + slope * high
        left, right = min(max(min(x, ahead), 0.0), furthest), min(max(max(x, ahead), 0.0), furthest)
        first, last = truncated(left), truncated(right)
        rise = sign * high
        if first == last:
            mean = 0.5 * (left + right) - first
            _put(to, here, first, rise * (1.0 - mean))
            _put(to, here, first + 1, rise * mean)
        else:
            # what lies to the right of the line in each pixel it passes, less what lay there in the one before
            before = 0.0
            for column in range(first, last + 1):
                enters, leaves = max(left, column), min(right, column + 1.0)
                share = (leaves - enters) / (right - left)
                passed = (enters - left) / (right - left)
                covered_here = passed + share * (column + 1.0 - 0.5 * (enters + leaves))
                _put(to, here, column, rise * (covered_here - before))
                before = covered_here
            _put(to, here, last + 1, rise * (1.0 - before))
        x = ahead


def _chords(c: F64) -> int:
    """Into how many chords a cubic is parted so that none is off it by more than `FLAT_PX`."""
    first = hypot(c[0] - 2.0 * c[2] + c[4], c[1] - 2.0 * c[3] + c[5])
    second = hypot(c[2] - 2.0 * c[4] + c[6], c[3] - 2.0 * c[5] + c[7])
    return truncated(sqrt(0.75 * max(first, second) / FLAT_PX)) + 1


def draw_ring(to: Drawn, controls: F64, first: int, last: int, amount: float) -> None:
    """Add the clockwise ring of cubics from `first` up to `last`, or take it away with `amount` −1."""
    for k in range(first, last):
        c = cython.address(controls[k][0])
        chords = _chords(c)
        x, y = c[0] - to.left, c[1] - to.top
        for s in range(1, chords + 1):
            ahead_x, ahead_y = place_on(c, cython.cast(cython.double, s) / chords)
            ahead_x, ahead_y = ahead_x - to.left, ahead_y - to.top
            _add_line(to, x, y, ahead_x, ahead_y, amount)
            x, y = ahead_x, ahead_y


def draw(
    first: int,
    last: int,
    controls: F64,
    starts: I64,
    which: U8,
    amount: float,
    place: I32,
    top: int,
    left: int,
    steps: F64,
) -> None:
    """Add clockwise rings from `first` up to `last`, or with `amount` −1 take them away.

    `steps` holds by how much each pixel of the band is covered more than the one before it in its row, exactly, after
    Levien 2016 ("Inside the fastest font renderer in the world").
    """
    to = cython.declare(Drawn)
    if steps.shape[0] == 0:
        return
    to.place, to.height, to.width, to.top, to.left = (
        cython.address(place[0, 0]),
        place.shape[0],
        place.shape[1],
        top,
        left,
    )
    to.steps, to.low, to.high = cython.address(steps[0]), 0, steps.shape[0]
    with cython.nogil:
        for ring in range(first, last):
            if which[ring]:
                cubics = cython.cast(cython.pointer(Cubic), cython.address(controls[0, 0]))
                draw_ring(cython.address(to), cubics, starts[ring], starts[ring + 1], amount)


def covered(by_row: I32, rows: I32, steps: F64, cover: F64) -> None:
    """Sum the steps along every row."""
    carried = 0.0
    with cython.nogil:
        for nth in range(by_row.shape[0]):
            k = by_row[nth]
            if nth > 0 and rows[k] != rows[by_row[nth - 1]]:
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


def see_around(covers: U8, ground: U8, inks: I64, number: int, colours: F32, without: F32, more: F32) -> None:
    """Write what n pixels show without one of the inks laid over each other, and what they show more with it, (3, n).

    Of each ink (layers, n), the lowest first, 255 parts of a pixel are covered; beneath them is the ink `ground` (n).
    """
    share = cython.declare(cython.float)
    rest = cython.declare(cython.float)
    with cython.nogil:
        for k in range(ground.shape[0]):
            for channel in range(3):
                without[channel, k] = colours[ground[k], channel]
            for lower in range(number):
                if covers[lower, k]:
                    share = covers[lower, k] / cython.cast(cython.float, 255.0)
                    for channel in range(3):
                        without[channel, k] += share * (colours[inks[lower], channel] - without[channel, k])
            for channel in range(3):
                more[channel, k] = colours[inks[number], channel] - without[channel, k]
            for upper in range(number + 1, inks.shape[0]):
                if covers[upper, k]:
                    share = covers[upper, k] / cython.cast(cython.float, 255.0)
                    rest = 1.0 - share
                    for channel in range(3):
                        without[channel, k] += share * (colours[inks[upper], channel] - without[channel, k])
                        more[channel, k] *= rest


def soften(pixels: Pixels, low: int, high: int, taps: F64, count: int, values: F32, level: F32, out: F32) -> None:
    """Blur values of whole parts of a band, from `low` up to `high` in the list, by one half of a symmetric kernel.

    It begins with its middle and is `count` long; the band's rim goes on beyond it. `level` is written over.
    """
    cython.declare(total=cython.double)
    rows, columns, above, below = pixels.rows, pixels.columns, pixels.above, pixels.below
    first = low
    while first < high:
        end = first + 1
        while end < high and rows[end] == rows[first] and columns[end] == columns[end - 1] + 1:
            end += 1
        for k in range(first, end):
            total = taps[0] * values[k]
            for d in range(1, count):
                total += taps[d] * (values[max(k - d, first)] + values[min(k + d, end - 1)])
            level[k] = total
        first = end
    for k in range(low, high):
        total = taps[0] * level[k]
        up = down = k
        for d in range(1, count):
            up, down = above[up], below[down]
            total += taps[d] * (level[up] + level[down])
        out[k] = total
