"""Compiled loops that unmix soft edges.

A soft edge pixel is a mixture of the two inks that meet there. Its colour lies on the line between theirs, in the
space where they were mixed; the larger share says whose it is. So edges make no inks of their own.

Colours come as `looked_at` gives them: weighed in sRGB values (three numbers) and in the space of mixing (three more).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from sobercrow.core.arrays import F32, U8, U64
from sobercrow.core.compiled import kernel

if TYPE_CHECKING:
    from sobercrow.core.inks.mixer import Mixer

Seen = tuple[float, float, float, float, float, float]

STRANGER = 10.0
"""What a mixture with an ink that is nowhere near costs more, in units of the noise squared."""
COLOUR_WEIGHT = 0.4


@kernel
def weighed(r: float, g: float, b: float) -> tuple[float, float, float]:
    """A colour as lightness and two differences, the latter of less weight: dirt and compression blur them more.

    A step of all three channels alike keeps its length.
    """
    y = 0.299 * r + 0.587 * g + 0.114 * b
    return 1.7320508 * y, COLOUR_WEIGHT * (b - y), COLOUR_WEIGHT * (r - y)


@kernel
def looked_at(pixels: U8, row: int, column: int, mixer: Mixer) -> Seen:
    """The colour of a pixel, weighed in sRGB values and in the space of mixing."""
    r, g, b = pixels[row, column, 0], pixels[row, column, 1], pixels[row, column, 2]
    x, y, z = weighed(float(r), float(g), float(b))
    u, v, w = weighed(mixer.forth[r], mixer.forth[g], mixer.forth[b])
    return x, y, z, u, v, w


@kernel
def share_of(seen: Seen, mixer: Mixer, p: int, q: int) -> float:
    """How much of ink p a colour has if it is a mixture with q: 0 at q, 1 at p, beyond both if it is."""
    leaning = mixer.leaning
    du, dv, dw = leaning[p, 0] - leaning[q, 0], leaning[p, 1] - leaning[q, 1], leaning[p, 2] - leaning[q, 2]
    along = (seen[3] - leaning[q, 0]) * du + (seen[4] - leaning[q, 1]) * dv + (seen[5] - leaning[q, 2]) * dw
    return float(along / max(du * du + dv * dv + dw * dw, 1e-9))


@kernel
def unlike(seen: Seen, mixer: Mixer, p: int, q: int, share: float) -> float:
    """How unlike the mixture of a share of ink p with q a colour is, squared."""
    back, mixed = mixer.back, mixer.mixed
    top = back.size - 1.0
    x, y, z = weighed(
        back[int(top * (mixed[q, 0] + share * (mixed[p, 0] - mixed[q, 0])) + 0.5)],
        back[int(top * (mixed[q, 1] + share * (mixed[p, 1] - mixed[q, 1])) + 0.5)],
        back[int(top * (mixed[q, 2] + share * (mixed[p, 2] - mixed[q, 2])) + 0.5)],
    )
    return float((seen[0] - x) ** 2 + (seen[1] - y) ** 2 + (seen[2] - z) ** 2)


@kernel
def _mostly(seen: Seen, mixer: Mixer, p: int, q: int) -> float:
    """How unlike the nearest mixture of at least half ink p with q a colour is, squared."""
    return unlike(seen, mixer, p, q, min(max(share_of(seen, mixer, p, q), 0.5), 1.0))


@kernel
def list_near(around: int, count: int, listed: U8) -> int:
    """Write which inks `around` has bits for; return how many."""
    n = 0
    for q in range(count):
        if (around >> np.uint64(q)) & np.uint64(1):
            listed[n] = q
            n += 1
    return n


@kernel
def ink_cost(seen: Seen, listed: U8, mixer: Mixer, p: int, stranger: float, banned: int) -> float:
    """How unlike ink p, pure or mixed, a colour is, squared. One of the two must be listed; more if one is not.

    `banned` is an ink that may not be in it, or −1.
    """
    known = False
    for k in range(listed.size):
        known = known or listed[k] == p
    own = 0.0 if known else stranger
    inks = mixer.weighed
    best = (seen[0] - inks[p, 0]) ** 2 + (seen[1] - inks[p, 1]) ** 2 + (seen[2] - inks[p, 2]) ** 2 + own
    if known:
        for q in range(inks.shape[0]):
            if q != p and q != banned:
                cost = _mostly(seen, mixer, p, q)
                if cost < best:
                    met = False
                    for k in range(listed.size):
                        met = met or listed[k] == q
                    best = min(best, cost if met else cost + stranger)
    else:
        for k in range(listed.size):
            best = min(best, _mostly(seen, mixer, p, listed[k]) + stranger)
    return float(best)


@kernel
def unmix(pixels: U8, near: U64, bits: U64, mixer: Mixer, noise: float, first: int, last: int, labels: U8) -> None:
    """Give pixels that are not surely one ink's to the ink that explains them best, pure or mixed with a near one.

    `bits` tell what a pixel surely is, `near` has a bit for every ink surely near.
    """
    count = mixer.weighed.shape[0]
    listed = np.empty(64, dtype=np.uint8)
    for row in range(first, last):
        for column in range(labels.shape[1]):
            if bits[row, column] != 0 or near[row, column] == 0:
                continue
            seen = looked_at(pixels, row, column, mixer)
            many = list_near(near[row, column], count, listed)
            best = 1e30
            for p in range(count):
                cost = ink_cost(seen, listed[:many], mixer, p, STRANGER * noise * noise, -1)
                if cost < best:
                    best = cost
                    labels[row, column] = p


@kernel
def is_inner(labels: U8, row: int, column: int) -> bool:
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
def _kinds_around(labels: U8, row: int, column: int, kinds: U8, alike: U8) -> tuple[int, int]:
    """Write the labels of a pixel and its eight neighbours, its own first, and how many neighbours have each.

    Returns how many kinds there are and how many neighbours.
    """
    height, width = labels.shape
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


@kernel
def calm(
    pixels: U8, near: U64, mixer: Mixer, noise: float, pull: float, first: int, last: int, before: U8, labels: U8
) -> None:
    """Let pixels at borders take a neighbour's ink where colour and neighbours together speak for it.

    One sweep of iterated conditional modes on a Potts field (Besag 1986, "On the statistical analysis of dirty
    pictures"): the cost of an ink is its colour's distance squared over twice the noise squared, plus `pull` for every
    one of the eight neighbours that is another's. All pixels change at once: from `before` to `labels`.
    """
    kinds, alike = np.empty(9, dtype=np.uint8), np.empty(9, dtype=np.uint8)
    listed = np.empty(64, dtype=np.uint8)
    for row in range(first, last):
        for column in range(labels.shape[1]):
            labels[row, column] = before[row, column]
            if is_inner(before, row, column):
                continue
            count, total = _kinds_around(before, row, column, kinds, alike)
            if count == 1:
                continue
            seen = looked_at(pixels, row, column, mixer)
            many = list_near(near[row, column], mixer.weighed.shape[0], listed)
            best = 1e30
            for k in range(count):
                cost = ink_cost(seen, listed[:many], mixer, kinds[k], STRANGER * noise * noise, -1)
                cost = cost / (2.0 * noise * noise) + pull * (total - alike[k])
                if cost < best:
                    best = cost
                    labels[row, column] = kinds[k]


@kernel
def shares(pixels: U8, mixer: Mixer, owner: U8, first: int, last: int, labels: U8, second: U8, share: U8) -> None:
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
            seen = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
            for y in range(max(row - 2, 0), min(row + 3, height)):
                for x in range(max(column - 2, 0), min(column + 3, width)):
                    q = labels[y, x]
                    bit = np.uint64(1) << np.uint64(q)
                    if owner[q] == owner[p] or tried & bit:
                        continue
                    if tried == 0:
                        seen = looked_at(pixels, row, column, mixer)
                    tried |= bit
                    cost = _mostly(seen, mixer, p, q)
                    if cost < best:
                        best = cost
                        second[row, column] = owner[q]
                        held = min(max(share_of(seen, mixer, p, q), 0.502), 1.0)
                        share[row, column] = np.uint8(held * 255.0 + 0.5)


@kernel
def unexplained(
    pixels: U8, near: U64, labels: U8, asked: U8, mixer: Mixer, without_own: bool, first: int, last: int, out: F32
) -> None:
    """Write how unlike each pixel asked for is to the inks, pure or mixed with those near it, as a distance.

    `without_own` tells how it would be if there were no ink of its label.
    """
    count = mixer.weighed.shape[0]
    listed = np.empty(64, dtype=np.uint8)
    for row in range(first, last):
        for column in range(out.shape[1]):
            if asked[row, column] == 0:
                continue
            own = labels[row, column]
            around = near[row, column]
            if without_own:
                around &= ~(np.uint64(1) << np.uint64(own))
            seen = looked_at(pixels, row, column, mixer)
            many = list_near(around, count, listed)
            best = 1e30
            for p in range(count):
                if not (without_own and p == own):
                    best = min(best, ink_cost(seen, listed[:many], mixer, p, 0.0, own if without_own else -1))
            out[row, column] = np.sqrt(best)
