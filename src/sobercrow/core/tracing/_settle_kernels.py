"""Compiled loops that move rings of cubics until, drawn, they give back the picture; see `rendering`.

Parts of the band do not touch, and what is drawn in one changes nothing in another: each is led to its end alone, on
any core.
"""

from __future__ import annotations

from typing import Any

import cython
from cython.cimports.libc.math import hypot
from cython.cimports.libc.string import memcpy, memset
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
from cython.cimports.sobercrow.core.tracing._render_kernels import (
    BESIDE_PX,
    SPACING_PX,
    Drawn,
    Pixels,
    draw_ring,
    polygon_length,
    soften,
)
from cython.cimports.sobercrow.core.tracing._settle_kernels import Parts, Rows, Sight
from cython.cimports.sobercrow.core.tracing._sizes import BOTH, BothRow, Cubic, Point, Row

from sobercrow.core.arrays import F32, F64, I64, U8

FURTHEST_PX = 0.7
CORNER_PULL = 0.01
"""Weight that keeps a corner near the place its sides gave it."""
THIRDS_PULL = 0.0001
"""Weight that draws handles to a third of the chord where the tones do not say."""
SHORT_PULL = 0.03
"""The same for short pieces, whose handles the tones hardly tell: divided by the chord in px."""
FAINT = 1e-4
"""Less strength than this is none; what is drawn there keeps its place."""
LEAST_DAMPING = 1e-3
WORTHWHILE = 1e-2
"""A ring whose difference falls by a smaller share than this has settled."""


def _pulled_at(to: Drawn, pull: F32, x: float, y: float) -> float:
    """The pull at a place; on the line between pixels, the mean of theirs."""
    total = 0.0
    for quarter in range(4):
        column = floored(x + (BESIDE_PX if quarter & 1 else -BESIDE_PX)) - to.left
        row = floored(y + (BESIDE_PX if quarter & 2 else -BESIDE_PX)) - to.top
        if 0 <= column < to.width and 0 <= row < to.height:
            k = to.place[row * to.width + column]
            if to.low <= k < to.high:
                total += 0.25 * pull[k]
    return total


def _strength_at(to: Drawn, strength: F32, x: float, y: float) -> float:
    """The strength at a place, at least `FAINT`."""
    column = min(max(floored(x) - to.left, 0), to.width - 1)
    row = min(max(floored(y) - to.top, 0), to.height - 1)
    here = to.place[row * to.width + column]
    return max(cython.cast(cython.double, strength[here]), FAINT) if here >= 0 else FAINT


def _step_ring(to: Drawn, sight: Sight, ring: Ring, damping: float) -> None:
    """Move one ring by a damped Gauss-Newton step.

    The pull says how much less than drawn is wanted at each pixel of the band, blurred once more: the gradient of the
    squared difference is exact.
    """
    m = ring.count
    equations = equations_of(m)
    sums = cython.address(equations)
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
        steps = max(3, truncated(polygon_length(c) / SPACING_PX) + 1)
        for s in range(steps):
            u = (s + 0.5) / steps
            x, y = place_on(c, u)
            value = _pulled_at(to, sight.pull, x, y)
            tx, ty = way_on(c, u)
            size = hypot(tx, ty) + 1e-12
            derivatives(u, -ty / size, tx / size, i, j, ring, ways, row)
            strong = _strength_at(to, sight.strength, x, y) if sight.varies else 1.0
            gather(block, slope, row, -value / (sight.response * strong), strong * 3.0 * size / steps)
        spread(block, slope, sums, i, j)
    add_priors(sums, ring, CORNER_PULL, THIRDS_PULL, SHORT_PULL, damping)
    take_step(sums, ring, FURTHEST_PX)
    give_back(sums)
    place_controls(ring)


def _soften(pixels: Pixels, low: int, high: int, sight: Sight, channel: int, values: F32, out: F32) -> None:
    """Blur what was drawn in a channel."""
    taps = sight.taps + channel * sight.most_taps
    soften(pixels, low, high, taps, sight.tap_counts[channel], values, sight.level, out)


def _cover(pixels: Pixels, low: int, high: int, steps: F64, cover: F32) -> None:
    """Sum the steps of a part along every row."""
    carried = 0.0
    for k in range(low, high):
        if k > low and pixels.rows[k] != pixels.rows[k - 1]:
            carried = 0.0
        carried += steps[k]
        cover[k] = carried


def _differ(pixels: Pixels, low: int, high: int, sight: Sight) -> None:
    """Find by how much more is drawn than wanted at every pixel of some parts; add up each ring's squares."""
    cython.declare(total=cython.float, difference=cython.float)
    n = sight.count
    if sight.plain:
        _soften(pixels, low, high, sight, 0, sight.cover, sight.off)
        for k in range(low, high):
            sight.off[k] -= sight.wanted[k]
            sight.costs[pixels.owner[k]] += cython.cast(cython.double, sight.off[k]) * sight.off[k]
        return
    for channel in range(sight.channels):
        off = sight.off + channel * n
        without, more, wanted = sight.without + channel * n, sight.more + channel * n, sight.wanted + channel * n
        for k in range(low, high):
            sight.shown[k] = without[k] + sight.cover[k] * more[k]
        _soften(pixels, low, high, sight, channel, sight.shown, off)
        for k in range(low, high):
            off[k] = (off[k] - wanted[k]) * sight.told[k]
    for k in range(low, high):
        total = 0.0
        for channel in range(sight.channels):
            difference = sight.off[channel * n + k]
            total += difference * difference
        sight.costs[pixels.owner[k]] += total * sight.scale[k]


def _pull(pixels: Pixels, low: int, high: int, sight: Sight) -> None:
    """Find how much half the sum of squares changes with what each pixel is covered by."""
    n = sight.count
    if sight.plain:
        _soften(pixels, low, high, sight, 0, sight.off, sight.pull)
        return
    memset(sight.pull + low, 0, (high - low) * cython.sizeof(cython.float))
    for channel in range(sight.channels):
        more = sight.more + channel * n
        _soften(pixels, low, high, sight, channel, sight.off + channel * n, sight.shown)
        for k in range(low, high):
            sight.pull[k] += more[k] * sight.shown[k]
    for k in range(low, high):
        sight.pull[k] *= sight.scale[k]


def _pixels_of(pixels: Pixels, band: Any) -> None:
    """Point to a band's list, which must not be empty."""
    rows = cython.declare(cython.int[::1], band.rows)
    columns = cython.declare(cython.int[::1], band.columns)
    above = cython.declare(cython.int[::1], band.above)
    below = cython.declare(cython.int[::1], band.below)
    owner = cython.declare(cython.int[::1], band.owner)
    pixels.rows, pixels.columns = cython.address(rows[0]), cython.address(columns[0])
    pixels.above, pixels.below = cython.address(above[0]), cython.address(below[0])
    pixels.owner = cython.address(owner[0])


def _sight_of(sight: Sight, likeness: Any, room: F32, costs: F64) -> None:
    """Point to what a band is compared with, to room for what is computed meanwhile, and to `costs`."""
    without = cython.declare(cython.float[:, ::1], likeness.without)
    more = cython.declare(cython.float[:, ::1], likeness.more)
    wanted = cython.declare(cython.float[:, ::1], likeness.wanted)
    told = cython.declare(cython.float[::1], likeness.told)
    scale = cython.declare(cython.float[::1], likeness.scale)
    strength = cython.declare(cython.float[::1], likeness.strength)
    taps = cython.declare(cython.double[:, ::1], likeness.taps)
    tap_counts = cython.declare(cython.longlong[::1], likeness.tap_counts)
    n = wanted.shape[1]
    sight.channels, sight.count, sight.plain = wanted.shape[0], n, without.shape[1] == 0
    sight.wanted = cython.address(wanted[0, 0])
    if not sight.plain:
        sight.without, sight.more = cython.address(without[0, 0]), cython.address(more[0, 0])
        sight.told, sight.scale = cython.address(told[0]), cython.address(scale[0])
    sight.varies, sight.response = strength.shape[0] > 0, likeness.response
    if sight.varies:
        sight.strength = cython.address(strength[0])
    sight.taps, sight.most_taps = cython.address(taps[0, 0]), taps.shape[1]
    sight.tap_counts = cython.address(tap_counts[0])
    sight.cover, sight.level, sight.shown, sight.pull, sight.off = (
        cython.address(room[0, 0]),
        cython.address(room[1, 0]),
        cython.address(room[2, 0]),
        cython.address(room[3, 0]),
        cython.address(room[4, 0]),
    )
    sight.costs = cython.address(costs[0])


def difference(band: Any, likeness: Any, room: F32, costs: F64) -> None:
    """Add to each ring's costs (nought before) by how much what covers a band differs from the picture.

    `room` (4 + channels, n) begins with what covers it; the rest is written over.
    """
    pixels = cython.declare(Pixels)
    sight = cython.declare(Sight)
    if room.shape[1] == 0:
        return
    _pixels_of(cython.address(pixels), band)
    _sight_of(cython.address(sight), likeness, room, costs)
    with cython.nogil:
        _differ(cython.address(pixels), 0, sight.count, cython.address(sight))


def _drawn_of(to: Drawn, band: Any, steps: F64) -> None:
    place = cython.declare(cython.int[:, ::1], band.place)
    to.place, to.height, to.width = cython.address(place[0, 0]), place.shape[0], place.shape[1]
    to.top, to.left, to.steps = band.top, band.left, cython.address(steps[0])


def _rows_of(rows: Rows, rings: Any) -> None:
    """Point to the unknowns of rings."""
    starts = cython.declare(cython.longlong[::1], rings.starts)
    state = cython.declare(cython.double[:, ::1], rings.state)
    is_corner = cython.declare(cython.const[cython.uchar][::1], rings.is_corner)
    straight = cython.declare(cython.const[cython.uchar][::1], rings.straight)
    held = cython.declare(cython.uchar[::1], rings.held)
    home = cython.declare(cython.double[:, ::1], rings.home)
    controls = cython.declare(cython.double[:, ::1], rings.controls)
    rows.starts = cython.address(starts[0])
    rows.state = cython.cast(cython.pointer(Row), cython.address(state[0, 0]))
    rows.is_corner, rows.straight = cython.address(is_corner[0]), cython.address(straight[0])
    rows.held = cython.address(held[0])
    rows.home = cython.cast(cython.pointer(cython.const[Point]), cython.address(home[0, 0]))
    rows.controls = cython.cast(cython.pointer(Cubic), cython.address(controls[0, 0]))


def _ring_at(ring: Ring, rows: Rows, k: int) -> None:
    first = rows.starts[k]
    ring.count = rows.starts[k + 1] - first
    ring.state, ring.controls, ring.home = rows.state + first, rows.controls + first, rows.home + first
    ring.is_corner, ring.straight, ring.held = rows.is_corner + first, rows.straight + first, rows.held + first


def _draw(to: Drawn, rows: Rows, k: int, amount: float) -> None:
    draw_ring(to, rows.controls, rows.starts[k], rows.starts[k + 1], amount)


def _parts_of(parts: Parts, band: Any) -> int:
    """Point to a band's parts and the rings of each; return how many parts there are."""
    places = cython.declare(cython.longlong[::1], band.parts)
    members = cython.declare(cython.longlong[::1], band.members)
    starts = cython.declare(cython.longlong[::1], band.member_starts)
    parts.places, parts.members = cython.address(places[0]), cython.address(members[0])
    parts.starts = cython.address(starts[0])
    return places.shape[0] - 1


def redraw(band: Any, before: Any, after: Any, which: U8, steps: F64) -> None:
    """Take some rings out of the drawing, and draw them as they are `after`; `steps` as for `settle`."""
    to = cython.declare(Drawn)
    was = cython.declare(Rows)
    now = cython.declare(Rows)
    parts = cython.declare(Parts)
    count = _parts_of(cython.address(parts), band)
    _drawn_of(cython.address(to), band, steps)
    _rows_of(cython.address(was), before)
    _rows_of(cython.address(now), after)
    with cython.nogil:
        for part in range(count):
            to.low, to.high = parts.places[part], parts.places[part + 1]
            for m in range(parts.starts[part], parts.starts[part + 1]):
                k = parts.members[m]
                if which[k]:
                    _draw(cython.address(to), cython.address(was), k, -1.0)
                    _draw(cython.address(to), cython.address(now), k, 1.0)


def _is_any_active(members: I64, count: int, dampings: F64) -> bool:
    for m in range(count):
        if dampings[members[m]] >= 0.0:
            return True
    return False


def _judge(
    members: I64, count: int, rows: Rows, sight: Sight, best: Row, lowest: F64, dampings: F64, worse: U8
) -> bool:
    """Keep what rings are at if they lie better there than before, else mark them worse; tell whether any is."""
    any_worse = False
    for m in range(count):
        k = members[m]
        worse[k] = 0
        if dampings[k] < 0.0:
            continue
        cost = sight.costs[k]
        if cost < lowest[k]:
            dampings[k] = max(0.5 * dampings[k], LEAST_DAMPING)
            if lowest[k] - cost < WORTHWHILE * cost:
                dampings[k] = -1.0
            lowest[k] = cost
            a, b = rows.starts[k], rows.starts[k + 1]
            memcpy(best + a, rows.state + a, (b - a) * cython.sizeof(Row))
        else:
            dampings[k] *= 8.0
            worse[k] = 1
            any_worse = True
    return any_worse


def settle(
    first: int,
    last: int,
    band: Any,
    rings: Any,
    likeness: Any,
    steps: F64,
    room: F32,
    costs: F64,
    dampings: F64,
    best: F64,
    lowest: F64,
    worse: U8,
    rounds: int,
) -> None:
    """Move the rings of the parts from `first` up to `last`, those of negative damping excepted, to where they differ
    least.

    They are drawn in `steps` (n), which follow each other within their part only. A step that made a ring worse is
    taken back, and shorter ones follow. `lowest` (rings; infinite before) are their sums of squares then; `best` is as
    large as the rings' state, `room` (4 + channels, n). The other arrays are written over. Other threads run meanwhile.
    """
    to = cython.declare(Drawn)
    pixels = cython.declare(Pixels)
    sight = cython.declare(Sight)
    rows = cython.declare(Rows)
    ring = cython.declare(Ring)
    parts = cython.declare(Parts)
    _parts_of(cython.address(parts), band)
    _drawn_of(cython.address(to), band, steps)
    _pixels_of(cython.address(pixels), band)
    _sight_of(cython.address(sight), likeness, room, costs)
    _rows_of(cython.address(rows), rings)
    bests = cython.cast(cython.pointer(Row), cython.address(best[0, 0]))
    lows, damps, bads = cython.address(lowest[0]), cython.address(dampings[0]), cython.address(worse[0])
    with cython.nogil:
        for part in range(first, last):
            low, high = parts.places[part], parts.places[part + 1]
            to.low, to.high = low, high
            members, count = parts.members + parts.starts[part], parts.starts[part + 1] - parts.starts[part]
            for turn in range(rounds + 1):
                if not _is_any_active(members, count, damps):
                    break
                _look(cython.address(to), cython.address(pixels), cython.address(sight), members, count)
                if _judge(members, count, cython.address(rows), cython.address(sight), bests, lows, damps, bads):
                    for m in range(count):
                        k = members[m]
                        if bads[k]:
                            _draw(cython.address(to), cython.address(rows), k, -1.0)
                            _ring_at(cython.address(ring), cython.address(rows), k)
                            memcpy(ring.state, bests + rows.starts[k], ring.count * cython.sizeof(Row))
                            place_controls(cython.address(ring))
                            _draw(cython.address(to), cython.address(rows), k, 1.0)
                    if turn < rounds:
                        _look(cython.address(to), cython.address(pixels), cython.address(sight), members, count)
                if turn == rounds:
                    break
                _pull(cython.address(pixels), low, high, cython.address(sight))
                for m in range(count):
                    k = members[m]
                    if damps[k] < 0.0:
                        continue
                    _draw(cython.address(to), cython.address(rows), k, -1.0)
                    _ring_at(cython.address(ring), cython.address(rows), k)
                    if ring.count >= 2:
                        _step_ring(cython.address(to), cython.address(sight), cython.address(ring), damps[k])
                    _draw(cython.address(to), cython.address(rows), k, 1.0)


def _look(to: Drawn, pixels: Pixels, sight: Sight, members: I64, count: int) -> None:
    """Compare what is drawn of a part with the picture."""
    for m in range(count):
        sight.costs[members[m]] = 0.0
    _cover(pixels, to.low, to.high, to.steps, sight.cover)
    _differ(pixels, to.low, to.high, sight)
