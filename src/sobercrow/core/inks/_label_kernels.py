"""Compiled loops that give every pixel to an ink, soft edges unmixed.

A soft edge pixel is a mixture of the two inks that meet there. Its colour lies on the line between theirs, in the
space where they were mixed; the larger share says whose it is. So edges make no inks of their own.
"""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F32, F64, U8, U64
from sobercrow.core.compiled import kernel

REACH = 3
"""How far from flat colour a soft edge reaches, in pixels."""
STRANGER = 10.0
"""What a mixture with an ink that is nowhere near costs more, in units of the noise squared."""
CELL_BITS = 3
RIDGE_SHARE, RIDGE_RESIDUE, RIDGE_SLACK, RIDGE_LEAD, RIDGE_FAINT = 0.34, 0.6, 1.05, 1.3, 0.25
"""On a thin stroke blur leaves its ink a third at least; the rest of a colour it does not explain may be so large, as
a share of what it differs from what is around; neighbours along the profile may exceed it by so much, other ones by
so much; and a fainter share counts as so much more of a rest."""
COLOUR_WEIGHT = 0.4


@kernel
def _is_flat(pixels: U8, row: int, column: int, limit: int) -> bool:
    """Tell whether the pixels left, right, above and below differ by at most `limit`, channels added up."""
    height, width = pixels.shape[:2]
    for k in range(4):
        y, x = row + (k == 0) - (k == 1), column + (k == 2) - (k == 3)
        if y < 0 or x < 0 or y >= height or x >= width:
            continue
        step = np.int64(0)
        for channel in range(3):
            step += abs(np.int64(pixels[row, column, channel]) - np.int64(pixels[y, x, channel]))
        if step > limit:
            return False
    return True


@kernel
def first_labels(
    pixels: U8, nearest: U8, runner: U8, inks: F32, sure: F32, limit: int, first: int, last: int, labels: U8, bits: U64
) -> None:
    """Give pixels to the ink most like them, and mark those that surely are that ink's with its bit.

    `nearest` and `runner` (32768,) are the two inks most like a cell of colours; which of them a pixel is nearer to is
    seen exactly. `sure` (n,) is how near is surely near, squared.
    """
    width = labels.shape[1]
    for row in range(first, last):
        for column in range(width):
            r, g, b = (
                np.int64(pixels[row, column, 0]),
                np.int64(pixels[row, column, 1]),
                np.int64(pixels[row, column, 2]),
            )
            cell = ((r >> CELL_BITS) << 10) | ((g >> CELL_BITS) << 5) | (b >> CELL_BITS)
            ink, other = nearest[cell], runner[cell]
            d = (r - inks[ink, 0]) ** 2 + (g - inks[ink, 1]) ** 2 + (b - inks[ink, 2]) ** 2
            if other != ink:
                e = (r - inks[other, 0]) ** 2 + (g - inks[other, 1]) ** 2 + (b - inks[other, 2]) ** 2
                if e < d:
                    ink, d = other, e
            labels[row, column] = ink
            bits[row, column] = 0
            if d > sure[ink]:
                continue
            if _is_flat(pixels, row, column, limit):
                bits[row, column] = np.uint64(1) << np.uint64(ink)


@kernel
def spread_across(bits: U64, first: int, last: int, out: U64) -> None:
    """Write which inks are surely within `REACH` pixels left or right."""
    width = bits.shape[1]
    for row in range(first, last):
        for column in range(width):
            seen = np.uint64(0)
            for k in range(max(column - REACH, 0), min(column + REACH + 1, width)):
                seen |= bits[row, k]
            out[row, column] = seen


@kernel
def spread_down(bits: U64, first: int, last: int, out: U64) -> None:
    """Write which inks are within `REACH` pixels above or below, of what was spread across."""
    height, width = bits.shape
    for row in range(first, last):
        low, high = max(row - REACH, 0), min(row + REACH + 1, height)
        for column in range(width):
            seen = np.uint64(0)
            for k in range(low, high):
                seen |= bits[k, column]
            out[row, column] = seen


@kernel
def weighed(r: float, g: float, b: float) -> tuple[float, float, float]:
    """A colour as lightness and two differences, the latter of less weight: dirt and compression blur them more.

    A step of all three channels alike keeps its length.
    """
    y = 0.299 * r + 0.587 * g + 0.114 * b
    return 1.7320508 * y, COLOUR_WEIGHT * (b - y), COLOUR_WEIGHT * (r - y)


@kernel
def _mixture_cost(
    r: float, g: float, b: float, u: float, v: float, w: float, mixed: F32, leaning: F32, back: F32, p: int, q: int
) -> tuple[float, float]:
    """How unlike the nearest mixture of at least half ink p with q a colour is, squared; and p's share.

    The colour is given weighed, in sRGB values and in the space of mixing; `leaning` are the inks in the latter.
    """
    du, dv, dw = leaning[p, 0] - leaning[q, 0], leaning[p, 1] - leaning[q, 1], leaning[p, 2] - leaning[q, 2]
    along = (u - leaning[q, 0]) * du + (v - leaning[q, 1]) * dv + (w - leaning[q, 2]) * dw
    share = along / max(du * du + dv * dv + dw * dw, 1e-9)
    held = min(max(share, 0.5), 1.0)
    top = back.size - 1.0
    x, y, z = weighed(
        back[int(top * (mixed[q, 0] + held * (mixed[p, 0] - mixed[q, 0])) + 0.5)],
        back[int(top * (mixed[q, 1] + held * (mixed[p, 1] - mixed[q, 1])) + 0.5)],
        back[int(top * (mixed[q, 2] + held * (mixed[p, 2] - mixed[q, 2])) + 0.5)],
    )
    return (r - x) ** 2 + (g - y) ** 2 + (b - z) ** 2, share


@kernel
def unmix(
    pixels: U8,
    near: U64,
    bits: U64,
    inks: F32,
    mixed: F32,
    leaning: F32,
    forth: F32,
    back: F32,
    noise: float,
    first: int,
    last: int,
    labels: U8,
) -> None:
    """Give pixels that are not surely one ink's to the ink that explains them best, pure or mixed with a near one.

    `near` has a bit for every ink surely near; `mixed` (n, 3) the inks in the space of mixing, `forth` (256,) and
    `back` the ways there from sRGB values and back.
    """
    width = labels.shape[1]
    count = inks.shape[0]
    stranger = STRANGER * noise * noise
    listed = np.empty(64, dtype=np.uint8)
    for row in range(first, last):
        for column in range(width):
            if bits[row, column] != 0:
                continue
            around = near[row, column]
            if around == 0:
                continue
            r, g, b = weighed(pixels[row, column, 0], pixels[row, column, 1], pixels[row, column, 2])
            u, v, w = weighed(
                forth[pixels[row, column, 0]], forth[pixels[row, column, 1]], forth[pixels[row, column, 2]]
            )
            many = _list_near(around, count, listed)
            best = 1e30
            for p in range(count):
                cost = _cost(r, g, b, u, v, w, listed, many, inks, mixed, leaning, back, p, stranger, -1)
                if cost < best:
                    best = cost
                    labels[row, column] = p


@kernel
def _list_near(around: int, count: int, listed: U8) -> int:
    """Write which inks `around` has bits for; return how many."""
    n = 0
    for q in range(count):
        if (around >> np.uint64(q)) & np.uint64(1):
            listed[n] = q
            n += 1
    return n


@kernel
def _cost(
    r: float,
    g: float,
    b: float,
    u: float,
    v: float,
    w: float,
    listed: U8,
    many: int,
    inks: F32,
    mixed: F32,
    leaning: F32,
    back: F32,
    p: int,
    stranger: float,
    banned: int,
) -> float:
    """How unlike ink p, pure or mixed, a colour is, squared. One of the two must be listed; more if one is not.

    `banned` is an ink that may not be in it, or −1.
    """
    known = False
    for k in range(many):
        known = known or listed[k] == p
    own = 0.0 if known else stranger
    best = (r - inks[p, 0]) ** 2 + (g - inks[p, 1]) ** 2 + (b - inks[p, 2]) ** 2 + own
    if known:
        for q in range(inks.shape[0]):
            if q != p and q != banned:
                cost, _s = _mixture_cost(r, g, b, u, v, w, mixed, leaning, back, p, q)
                if cost < best:
                    met = False
                    for k in range(many):
                        met = met or listed[k] == q
                    best = min(best, cost if met else cost + stranger)
    else:
        for k in range(many):
            cost, _s = _mixture_cost(r, g, b, u, v, w, mixed, leaning, back, p, listed[k])
            best = min(best, cost + stranger)
    return float(best)


@kernel
def _is_inner(labels: U8, row: int, column: int) -> bool:
    """Tell whether all eight neighbours have the pixel's label; never at the picture's edge."""
    if row == 0 or column == 0 or row == labels.shape[0] - 1 or column == labels.shape[1] - 1:
        return False
    own = labels[row, column]
    above, level, below = labels[row - 1], labels[row], labels[row + 1]
    return bool(
        level[column - 1] == own
        and level[column + 1] == own
        and above[column] == own
        and below[column] == own
        and above[column - 1] == own
        and above[column + 1] == own
        and below[column - 1] == own
        and below[column + 1] == own
    )


@kernel
def calm(
    pixels: U8,
    near: U64,
    inks: F32,
    mixed: F32,
    leaning: F32,
    forth: F32,
    back: F32,
    noise: float,
    pull: float,
    first: int,
    last: int,
    before: U8,
    labels: U8,
) -> None:
    """Let pixels at borders take a neighbour's ink where colour and neighbours together speak for it.

    One sweep of iterated conditional modes on a Potts field (Besag 1986, "On the statistical analysis of dirty
    pictures"): the cost of an ink is its colour's distance squared over twice the noise squared, plus `pull` for every
    one of the eight neighbours that is another's. All pixels change at once: from `before` to `labels`.
    """
    height, width = labels.shape
    stranger = STRANGER * noise * noise
    seen = np.empty(9, dtype=np.int64)
    listed = np.empty(64, dtype=np.uint8)
    for row in range(max(first, 0), min(last, height)):
        for column in range(width):
            own = before[row, column]
            labels[row, column] = own
            if _is_inner(before, row, column):
                continue
            kinds = 1
            seen[0] = own
            total = 0
            for dy in range(-1, 2):
                for dx in range(-1, 2):
                    y, x = row + dy, column + dx
                    if (dy != 0 or dx != 0) and 0 <= y < height and 0 <= x < width:
                        total += 1
                        other = before[y, x]
                        known = False
                        for k in range(kinds):
                            known = known or seen[k] == other
                        if not known:
                            seen[kinds] = other
                            kinds += 1
            if kinds == 1:
                continue
            best = 1e30
            chosen = own
            r, g, b = weighed(pixels[row, column, 0], pixels[row, column, 1], pixels[row, column, 2])
            u, v, w = weighed(
                forth[pixels[row, column, 0]], forth[pixels[row, column, 1]], forth[pixels[row, column, 2]]
            )
            many = _list_near(near[row, column], inks.shape[0], listed)
            for k in range(kinds):
                p = seen[k]
                alike = 0
                for dy in range(-1, 2):
                    for dx in range(-1, 2):
                        y, x = row + dy, column + dx
                        if (dy != 0 or dx != 0) and 0 <= y < height and 0 <= x < width and before[y, x] == p:
                            alike += 1
                cost = _cost(r, g, b, u, v, w, listed, many, inks, mixed, leaning, back, p, stranger, -1)
                cost /= 2.0 * noise * noise
                cost += pull * (total - alike)
                if cost < best:
                    best = cost
                    chosen = p
            labels[row, column] = chosen


@kernel
def _ridge_ink(
    r: float, g: float, b: float, u: float, v: float, w: float, plain: F32, mixed: F32, leaning: F32, back: F32, p: int
) -> tuple[int, float]:
    """The ink whose mixture with p explains a colour on a thin stroke best, and its share; p where none does."""
    x, y, z = r - plain[p, 0], g - plain[p, 1], b - plain[p, 2]
    least = RIDGE_RESIDUE * RIDGE_RESIDUE * (x * x + y * y + z * z)
    chosen = p
    most = 0.0
    top = back.size - 1.0
    for q in range(plain.shape[0]):
        if q == p:
            continue
        du, dv, dw = leaning[q, 0] - leaning[p, 0], leaning[q, 1] - leaning[p, 1], leaning[q, 2] - leaning[p, 2]
        along = (u - leaning[p, 0]) * du + (v - leaning[p, 1]) * dv + (w - leaning[p, 2]) * dw
        share = along / max(du * du + dv * dv + dw * dw, 1e-9)
        if share < RIDGE_SHARE:
            continue
        held = min(share, 1.0)
        mr, mg, mb = weighed(
            back[int(top * (mixed[p, 0] + held * (mixed[q, 0] - mixed[p, 0])) + 0.5)],
            back[int(top * (mixed[p, 1] + held * (mixed[q, 1] - mixed[p, 1])) + 0.5)],
            back[int(top * (mixed[p, 2] + held * (mixed[q, 2] - mixed[p, 2])) + 0.5)],
        )
        cost = (r - mr) ** 2 + (g - mg) ** 2 + (b - mb) ** 2
        cost += RIDGE_FAINT * (1.0 - held) ** 2 * (x * x + y * y + z * z)
        if cost < least:
            least, chosen, most = cost, q, share
    return chosen, most


@kernel
def _stands_out(pixels: U8, row: int, column: int, plain: F32, p: int, off: float) -> bool:
    """Tell whether no neighbour is much further from ink p: on a stroke, not at the rim of something wider."""
    height, width = pixels.shape[:2]
    for y in range(max(row - 1, 0), min(row + 2, height)):
        for x in range(max(column - 1, 0), min(column + 2, width)):
            r, g, b = weighed(pixels[y, x, 0], pixels[y, x, 1], pixels[y, x, 2])
            if abs(r - plain[p, 0]) + abs(g - plain[p, 1]) + abs(b - plain[p, 2]) > RIDGE_LEAD * off:
                return False
    return True


@kernel
def _is_peak(pixels: U8, row: int, column: int, dy: int, dx: int, reach: int, plain: F32, p: int, off: float) -> bool:
    """Tell whether a pixel is the furthest from ink p on its profile, and both its ends are much nearer."""
    for side in range(-1, 2, 2):
        for step in (reach, 1):
            y, x = row + side * step * dy, column + side * step * dx
            r, g, b = weighed(pixels[y, x, 0], pixels[y, x, 1], pixels[y, x, 2])
            away = abs(r - plain[p, 0]) + abs(g - plain[p, 1]) + abs(b - plain[p, 2])
            if away > (0.5 if step == reach else RIDGE_SLACK) * off:
                return False
    return True


@kernel
def find_ridges(
    pixels: U8,
    plain: F32,
    mixed: F32,
    leaning: F32,
    forth: F32,
    back: F32,
    contrast: float,
    first: int,
    last: int,
    sure: U64,
    labels: U8,
    around: U8,
    likely: U8,
) -> None:
    """Find pixels on thin strokes: what ink is `around` each (255 off any stroke), and which it is `likely` itself.

    A pixel is on a stroke if two or three pixels off on either side there is one ink, from which it differs by
    `contrast` or more, if it is further from it than its neighbours on that line, and no neighbour stands out more.
    Pixels that are `sure` (not 0) are on none.
    """
    height, width = labels.shape
    for row in range(max(first, 0), min(last, height)):
        for column in range(width):
            around[row, column] = 255
            likely[row, column] = labels[row, column]
            if sure[row, column] != 0:
                continue
            for way in range(4):
                dy = 0 if way == 0 else 1
                dx = 1 if way == 0 else way - 2  # east, south-west, south, south-east
                reach = 2 if way == 1 or way == 3 else 3
                ya, xa, yb, xb = row - reach * dy, column - reach * dx, row + reach * dy, column + reach * dx
                if min(ya, yb, xa, xb) < 0 or max(ya, yb) >= height or max(xa, xb) >= width:
                    continue
                p = labels[ya, xa]
                if labels[yb, xb] != p:
                    continue
                r, g, b = weighed(pixels[row, column, 0], pixels[row, column, 1], pixels[row, column, 2])
                off = abs(r - plain[p, 0]) + abs(g - plain[p, 1]) + abs(b - plain[p, 2])
                if off < contrast or not _is_peak(pixels, row, column, dy, dx, reach, plain, p, off):
                    continue
                if not _stands_out(pixels, row, column, plain, p, off):
                    continue
                around[row, column] = p
                if labels[row, column] == p:
                    u, v, w = weighed(
                        forth[pixels[row, column, 0]], forth[pixels[row, column, 1]], forth[pixels[row, column, 2]]
                    )
                    likely[row, column], _share = _ridge_ink(r, g, b, u, v, w, plain, mixed, leaning, back, p)
                break


@kernel
def shares(
    pixels: U8,
    inks: F32,
    mixed: F32,
    leaning: F32,
    forth: F32,
    back: F32,
    owner: U8,
    first: int,
    last: int,
    labels: U8,
    second: U8,
    share: U8,
) -> None:
    """Write with which other ink near it each pixel is mixed, and the share of its own, 128–255 for 0.5–1.

    `labels` are members; `owner` says whose each is, and `second` names the owner.
    """
    height, width = labels.shape
    for row in range(first, last):
        for column in range(width):
            p = labels[row, column]
            second[row, column] = owner[p]
            share[row, column] = 255
            best = 1e30
            tried = np.uint64(0)
            r = g = b = u = v = w = 0.0
            for y in range(max(row - 2, 0), min(row + 3, height)):
                for x in range(max(column - 2, 0), min(column + 3, width)):
                    q = labels[y, x]
                    if q == p or owner[q] == owner[p]:
                        continue
                    bit = np.uint64(1) << np.uint64(q)
                    if tried & bit:
                        continue
                    if tried == 0:
                        r, g, b = weighed(pixels[row, column, 0], pixels[row, column, 1], pixels[row, column, 2])
                        u, v, w = weighed(
                            forth[pixels[row, column, 0]], forth[pixels[row, column, 1]], forth[pixels[row, column, 2]]
                        )
                    tried |= bit
                    cost, s = _mixture_cost(r, g, b, u, v, w, mixed, leaning, back, p, q)
                    if cost < best:
                        best = cost
                        second[row, column] = owner[q]
                        share[row, column] = np.uint8(min(max(s, 0.502), 1.0) * 255.0 + 0.5)


@kernel
def unexplained(
    pixels: U8,
    near: U64,
    labels: U8,
    asked: U8,
    inks: F32,
    mixed: F32,
    leaning: F32,
    forth: F32,
    back: F32,
    without_own: bool,
    first: int,
    last: int,
    out: F32,
) -> None:
    """Write how unlike each pixel asked for is to the inks, pure or mixed with those near it, as a distance.

    `without_own` tells how it would be if there were no ink of its label.
    """
    width = out.shape[1]
    listed = np.empty(64, dtype=np.uint8)
    for row in range(first, last):
        for column in range(width):
            if asked[row, column] == 0:
                continue
            own = labels[row, column]
            around = near[row, column]
            if without_own:
                around &= ~(np.uint64(1) << np.uint64(own))
            r, g, b = weighed(pixels[row, column, 0], pixels[row, column, 1], pixels[row, column, 2])
            u, v, w = weighed(
                forth[pixels[row, column, 0]], forth[pixels[row, column, 1]], forth[pixels[row, column, 2]]
            )
            many = _list_near(around, inks.shape[0], listed)
            best = 1e30
            for p in range(inks.shape[0]):
                if not (without_own and p == own):
                    cost = _cost(
                        r, g, b, u, v, w, listed, many, inks, mixed, leaning, back, p, 0.0, own if without_own else -1
                    )
                    best = min(best, cost)
            out[row, column] = np.sqrt(best)


@kernel
def inner_sums(pixels: U8, labels: U8, sums: F64, inner: U8) -> None:
    """Mark the pixels whose eight neighbours are all their ink's, and add their r, g, b and 1 to its row of (n, 4)."""
    height, width = labels.shape
    for row in range(1, height - 1):
        for column in range(1, width - 1):
            own = labels[row, column]
            if _is_inner(labels, row, column):
                inner[row, column] = 1
                for k in range(3):
                    sums[own, k] += pixels[row, column, k]
                sums[own, 3] += 1.0


@kernel
def ink_tones(own: U8, second: U8, share: U8, ink: int, upper: U8, first: int, last: int, out: U8) -> None:
    """Write the tones at which an ink is traced: 0 where it is pure, 255 where there is none of it.

    Inks drawn above it (`upper`, by ink) count as its own up to two pixels beyond its border: it runs on beneath them.
    """
    height, width = own.shape
    for row in range(first, last):
        for column in range(width):
            a, b, s = own[row, column], second[row, column], np.int64(share[row, column])
            held = np.int64(0)
            above = np.int64(0)
            if a == ink:
                held = s
            elif upper[a] == 1:
                above = s
            if b != a:
                if b == ink:
                    held += 255 - s
                elif upper[b] == 1:
                    above += 255 - s
            if above > 0:
                nearest = 3
                for y in range(max(row - 2, 0), min(row + 3, height)):
                    for x in range(max(column - 2, 0), min(column + 3, width)):
                        if own[y, x] == ink:
                            nearest = min(nearest, max(abs(y - row), abs(x - column)))
                if nearest < 2:
                    held += above
                elif nearest == 2:
                    held += above * 2 // 5
            out[row, column] = 255 - held if held < 255 else 0


@kernel
def settle_seconds(own: U8, second: U8, share: U8) -> None:
    """Let a pixel be pure whose second ink is nowhere within two pixels of it."""
    height, width = own.shape
    for row in range(height):
        for column in range(width):
            b = second[row, column]
            if b == own[row, column]:
                share[row, column] = 255
                continue
            met = False
            for y in range(max(row - 2, 0), min(row + 3, height)):
                for x in range(max(column - 2, 0), min(column + 3, width)):
                    met = met or own[y, x] == b
            if not met:
                second[row, column] = own[row, column]
                share[row, column] = 255


@kernel
def mark_crumbs(labels: U8, least: int, crumbs: U8) -> None:
    """Mark with 1 the pixels of regions of like labels, eight neighbours joined, with fewer than `least` pixels."""
    height, width = labels.shape
    state = np.zeros((height, width), dtype=np.uint8)  # 1 seen in a small region, 2 known to be in a large one
    queue = np.empty((least, 2), dtype=np.int64)
    for first_row in range(height):
        for first_column in range(width):
            if state[first_row, first_column] != 0:
                continue
            own = labels[first_row, first_column]
            queue[0, 0], queue[0, 1] = first_row, first_column
            state[first_row, first_column] = 1
            count = 1
            large = False
            done = 0
            while done < count and not large:
                row, column = queue[done]
                done += 1
                for y in range(max(row - 1, 0), min(row + 2, height)):
                    for x in range(max(column - 1, 0), min(column + 2, width)):
                        if labels[y, x] != own or state[y, x] == 1:
                            continue
                        if state[y, x] == 2 or count == least:
                            large = True
                        else:
                            state[y, x] = 1
                            queue[count, 0], queue[count, 1] = y, x
                            count += 1
            for k in range(count):
                y, x = queue[k]
                state[y, x] = 2 if large or count >= least else 1
                crumbs[y, x] = 0 if large or count >= least else 1
