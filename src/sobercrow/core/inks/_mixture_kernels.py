"""Compiled loops that unmix soft edges.

A soft edge pixel is a mixture of the two inks that meet there. Its colour lies on the line between theirs, in the
space where they were mixed; the larger share says whose it is. So edges make no inks of their own.

Colours come as `looked_at` gives them: weighed in sRGB values (three numbers) and in the space of mixing (three more).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import cython
from cython.cimports.libc.math import sqrt
from cython.cimports.sobercrow.core._numeric import to_tone, truncated
from cython.cimports.sobercrow.core.inks._mixture_kernels import MOST_INKS, Colours, Inks, Seen

from sobercrow.core.arrays import F32, U8, U64

if TYPE_CHECKING:
    from sobercrow.core.inks.mixer import Mixer

STRANGER = 10.0
"""What a mixture with an ink that is nowhere near costs more, in units of the noise squared."""
COLOUR_WEIGHT = 0.4


def weighed(r: float, g: float, b: float) -> tuple[float, float, float]:
    """A colour as lightness and two differences, the latter of less weight: dirt and compression blur them more.

    A step of all three channels alike keeps its length.
    """
    y = 0.299 * r + 0.587 * g + 0.114 * b
    return 1.7320508 * y, COLOUR_WEIGHT * (b - y), COLOUR_WEIGHT * (r - y)


def inks_of(mixer: Mixer) -> Inks:
    """Where the inks of a mixer lie in memory."""
    inks = cython.declare(Inks)
    plain = cython.declare(cython.const[cython.float][:, ::1], mixer.weighed)
    mixed = cython.declare(cython.const[cython.float][:, ::1], mixer.mixed)
    leaning = cython.declare(cython.const[cython.float][:, ::1], mixer.leaning)
    forth = cython.declare(cython.const[cython.float][::1], mixer.forth)
    back = cython.declare(cython.const[cython.float][::1], mixer.back)
    inks.count = plain.shape[0]
    inks.weighed = cython.cast(Colours, cython.address(plain[0, 0]))
    inks.mixed = cython.cast(Colours, cython.address(mixed[0, 0]))
    inks.leaning = cython.cast(Colours, cython.address(leaning[0, 0]))
    inks.forth, inks.back = cython.address(forth[0]), cython.address(back[0])
    inks.top = back.shape[0] - 1.0
    return inks


def seen_at(colour: U8, inks: Inks) -> Seen:
    """A colour weighed in sRGB values and in the space of mixing."""
    x, y, z = weighed(colour[0], colour[1], colour[2])
    u, v, w = weighed(inks.forth[colour[0]], inks.forth[colour[1]], inks.forth[colour[2]])
    return x, y, z, u, v, w


def share_in(seen: Seen, inks: Inks, p: int, q: int) -> float:
    """How much of ink p a colour has if it is a mixture with q: 0 at q, 1 at p, beyond both if it is."""
    one, other = cython.address(inks.leaning[p][0]), cython.address(inks.leaning[q][0])
    du, dv, dw = one[0] - other[0], one[1] - other[1], one[2] - other[2]
    along = (seen[3] - other[0]) * du + (seen[4] - other[1]) * dv + (seen[5] - other[2]) * dw
    return along / max(du * du + dv * dv + dw * dw, 1e-9)


def unlike(seen: Seen, inks: Inks, p: int, q: int, share: float) -> float:
    """How unlike the mixture of a share of ink p with q a colour is, squared."""
    one, other = cython.address(inks.mixed[p][0]), cython.address(inks.mixed[q][0])
    x, y, z = weighed(
        inks.back[truncated(inks.top * (other[0] + share * (one[0] - other[0])) + 0.5)],
        inks.back[truncated(inks.top * (other[1] + share * (one[1] - other[1])) + 0.5)],
        inks.back[truncated(inks.top * (other[2] + share * (one[2] - other[2])) + 0.5)],
    )
    return (seen[0] - x) ** 2 + (seen[1] - y) ** 2 + (seen[2] - z) ** 2


def _mostly(seen: Seen, inks: Inks, p: int, q: int) -> float:
    """How unlike the nearest mixture of at least half ink p with q a colour is, squared."""
    return unlike(seen, inks, p, q, min(max(share_in(seen, inks, p, q), 0.5), 1.0))


def list_near(around: int, count: int, listed: U8) -> int:
    """Write which inks `around` has bits for; return how many."""
    n = 0
    for q in range(count):
        if (around >> q) & 1:
            listed[n] = q
            n += 1
    return n


def _is_listed(listed: U8, many: int, p: int) -> bool:
    for k in range(many):
        if listed[k] == p:
            return True
    return False


def cost_of(seen: Seen, listed: U8, many: int, inks: Inks, p: int, stranger: float, banned: int) -> float:
    """How unlike ink p, pure or mixed, a colour is, squared. One of the two must be listed; more if one is not.

    `banned` is an ink that may not be in it, or −1.
    """
    known = _is_listed(listed, many, p)
    pure = cython.address(inks.weighed[p][0])
    own = 0.0 if known else stranger
    best = (seen[0] - pure[0]) ** 2 + (seen[1] - pure[1]) ** 2 + (seen[2] - pure[2]) ** 2 + own
    if known:
        for q in range(inks.count):
            if q != p and q != banned:
                cost = _mostly(seen, inks, p, q)
                if cost < best:
                    best = min(best, cost if _is_listed(listed, many, q) else cost + stranger)
    else:
        for k in range(many):
            best = min(best, _mostly(seen, inks, p, listed[k]) + stranger)
    return best


def looked_at(pixels: U8, row: int, column: int, mixer: Mixer) -> Seen:
    """`seen_at` for Python."""
    inks = inks_of(mixer)
    return seen_at(cython.address(pixels[row, column, 0]), cython.address(inks))


def share_of(seen: Seen, mixer: Mixer, p: int, q: int) -> float:
    """`share_in` for Python."""
    inks = inks_of(mixer)
    return share_in(seen, cython.address(inks), p, q)


def ink_cost(seen: Seen, listed: U8, mixer: Mixer, p: int, stranger: float, banned: int) -> float:
    """`cost_of` for Python."""
    inks = inks_of(mixer)
    return cost_of(seen, cython.address(listed[0]), listed.shape[0], cython.address(inks), p, stranger, banned)


def unmix(pixels: U8, near: U64, bits: U64, mixer: Mixer, noise: float, first: int, last: int, labels: U8) -> None:
    """Give pixels that are not surely one ink's to the ink that explains them best, pure or mixed with a near one.

    `bits` tell what a pixel surely is, `near` has a bit for every ink surely near.
    """
    inks = inks_of(mixer)
    listed = cython.declare(cython.uchar[MOST_INKS])
    with cython.nogil:
        for row in range(first, last):
            for column in range(labels.shape[1]):
                if bits[row, column] != 0 or near[row, column] == 0:
                    continue
                seen = seen_at(cython.address(pixels[row, column, 0]), cython.address(inks))
                many = list_near(near[row, column], inks.count, listed)
                best = 1e30
                for p in range(inks.count):
                    cost = cost_of(seen, listed, many, cython.address(inks), p, STRANGER * noise * noise, -1)
                    if cost < best:
                        best = cost
                        labels[row, column] = p


def is_inner(labels: U8, row: int, column: int) -> bool:
    """Tell whether all eight neighbours have the pixel's label; never at the picture's edge."""
    if row == 0 or column == 0 or row == labels.shape[0] - 1 or column == labels.shape[1] - 1:
        return False
    own = labels[row, column]
    return (
        labels[row, column - 1] == own
        and labels[row, column + 1] == own
        and labels[row - 1, column] == own
        and labels[row + 1, column] == own
        and labels[row - 1, column - 1] == own
        and labels[row - 1, column + 1] == own
        and labels[row + 1, column - 1] == own
        and labels[row + 1, column + 1] == own
    )


def _kinds_around(labels: U8, row: int, column: int, kinds: U8, alike: U8) -> tuple[int, int]:
    """Write the labels of a pixel and its eight neighbours, its own first, and how many neighbours have each.

    Returns how many kinds there are and how many neighbours.
    """
    height, width = labels.shape[0], labels.shape[1]
    kinds[0], alike[0] = labels[row, column], 0
    count, total = 1, 0
    for y in range(max(row - 1, 0), min(row + 2, height)):
        for x in range(max(column - 1, 0), min(column + 2, width)):
            if y == row and x == column:
                continue
            total += 1
            k = 0
            while k < count and kinds[k] != labels[y, x]:
                k += 1
            if k == count:
                kinds[k], alike[k] = labels[y, x], 0
                count += 1
            alike[k] += 1
    return count, total


def calm(
    pixels: U8, near: U64, mixer: Mixer, noise: float, pull: float, first: int, last: int, before: U8, labels: U8
) -> None:
    """Let pixels at borders take a neighbour's ink where colour and neighbours together speak for it.

    One sweep of iterated conditional modes on a Potts field (Besag 1986, "On the statistical analysis of dirty
    pictures"): the cost of an ink is its colour's distance squared over twice the noise squared, plus `pull` for every
    one of the eight neighbours that is another's. All pixels change at once: from `before` to `labels`.
    """
    inks = inks_of(mixer)
    kinds, alike = cython.declare(cython.uchar[9]), cython.declare(cython.uchar[9])
    listed = cython.declare(cython.uchar[MOST_INKS])
    with cython.nogil:
        for row in range(first, last):
            for column in range(labels.shape[1]):
                labels[row, column] = before[row, column]
                if is_inner(before, row, column):
                    continue
                count, total = _kinds_around(before, row, column, kinds, alike)
                if count == 1:
                    continue
                seen = seen_at(cython.address(pixels[row, column, 0]), cython.address(inks))
                many = list_near(near[row, column], inks.count, listed)
                best = 1e30
                for k in range(count):
                    cost = cost_of(seen, listed, many, cython.address(inks), kinds[k], STRANGER * noise * noise, -1)
                    cost = cost / (2.0 * noise * noise) + pull * (total - alike[k])
                    if cost < best:
                        best = cost
                        labels[row, column] = kinds[k]


def shares(pixels: U8, mixer: Mixer, owner: U8, first: int, last: int, labels: U8, second: U8, share: U8) -> None:
    """Write with which other ink near it each pixel is mixed, and the share of its own, 128–255 for 0.5–1.

    `labels` are members; `owner` says whose each is, and `second` names the owner.
    """
    height, width = labels.shape[0], labels.shape[1]
    inks = inks_of(mixer)
    cython.declare(seen=Seen, tried=cython.ulonglong, best=cython.double)
    with cython.nogil:
        for row in range(first, last):
            for column in range(width):
                p = labels[row, column]
                second[row, column] = owner[p]
                share[row, column] = 255
                best = 1e30
                tried = 0
                seen = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
                for y in range(max(row - 2, 0), min(row + 3, height)):
                    for x in range(max(column - 2, 0), min(column + 3, width)):
                        q = labels[y, x]
                        bit = cython.cast(cython.ulonglong, 1) << q
                        if owner[q] == owner[p] or tried & bit:
                            continue
                        if tried == 0:
                            seen = seen_at(cython.address(pixels[row, column, 0]), cython.address(inks))
                        tried |= bit
                        cost = _mostly(seen, cython.address(inks), p, q)
                        if cost < best:
                            best = cost
                            second[row, column] = owner[q]
                            held = min(max(share_in(seen, cython.address(inks), p, q), 0.502), 1.0)
                            share[row, column] = to_tone(held * 255.0 + 0.5)


def unexplained(
    pixels: U8, near: U64, labels: U8, asked: U8, mixer: Mixer, without_own: bool, first: int, last: int, out: F32
) -> None:
    """Write how unlike each pixel asked for is to the inks, pure or mixed with those near it, as a distance.

    `without_own` tells how it would be if there were no ink of its label.
    """
    inks = inks_of(mixer)
    listed = cython.declare(cython.uchar[MOST_INKS])
    cython.declare(best=cython.double, around=cython.ulonglong, banned=cython.Py_ssize_t)
    with cython.nogil:
        for row in range(first, last):
            for column in range(out.shape[1]):
                if asked[row, column] == 0:
                    continue
                own = labels[row, column]
                around = near[row, column]
                if without_own:
                    around &= ~(cython.cast(cython.ulonglong, 1) << own)
                seen = seen_at(cython.address(pixels[row, column, 0]), cython.address(inks))
                many = list_near(around, inks.count, listed)
                banned = own if without_own else -1
                best = 1e30
                for p in range(inks.count):
                    if not (without_own and p == own):
                        best = min(best, cost_of(seen, listed, many, cython.address(inks), p, 0.0, banned))
                out[row, column] = sqrt(best)
