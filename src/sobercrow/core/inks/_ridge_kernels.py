"""Compiled loops that find thin strokes, which blur and compression leave less than half of their ink."""

from __future__ import annotations

from typing import TYPE_CHECKING

import cython
from cython.cimports.libc.math import fabs
from cython.cimports.sobercrow.core.inks._mixture_kernels import Inks, Seen, inks_of, seen_at, share_in, unlike, weighed

from sobercrow.core.arrays import F32, U8, U64

if TYPE_CHECKING:
    from sobercrow.core.inks.mixer import Mixer

RIDGE_SHARE, RIDGE_RESIDUE, RIDGE_SLACK, RIDGE_LEAD, RIDGE_FAINT = 0.34, 0.6, 1.05, 1.3, 0.25
"""On a thin stroke blur leaves its ink a third at least; the rest of a colour it does not explain may be so large, as
a share of what it differs from what is around; neighbours along the profile may exceed it by so much, other ones by
so much; and a fainter share counts as so much more of a rest."""


def _ridge_ink(seen: Seen, inks: Inks, p: int) -> int:
    """The ink whose mixture with p explains a colour on a thin stroke best; p where none does."""
    ground = cython.address(inks.weighed[p][0])
    off = (seen[0] - ground[0]) ** 2 + (seen[1] - ground[1]) ** 2 + (seen[2] - ground[2]) ** 2
    least = RIDGE_RESIDUE * RIDGE_RESIDUE * off
    chosen = p
    for q in range(inks.count):
        if q == p:
            continue
        share = share_in(seen, inks, q, p)
        if share < RIDGE_SHARE:
            continue
        held = min(share, 1.0)
        cost = unlike(seen, inks, q, p, held) + RIDGE_FAINT * (1.0 - held) ** 2 * off
        if cost < least:
            least, chosen = cost, q
    return chosen


def _away(pixels: U8, row: int, column: int, ink: F32) -> float:
    """How far a pixel is from an ink, weighed differences added up."""
    r, g, b = weighed(pixels[row, column, 0], pixels[row, column, 1], pixels[row, column, 2])
    return fabs(r - ink[0]) + fabs(g - ink[1]) + fabs(b - ink[2])


def _stands_out(pixels: U8, row: int, column: int, ink: F32, off: float) -> bool:
    """Tell whether no neighbour is much further from an ink: on a stroke, not at the rim of something wider."""
    height, width = pixels.shape[0], pixels.shape[1]
    for y in range(max(row - 1, 0), min(row + 2, height)):
        for x in range(max(column - 1, 0), min(column + 2, width)):
            if _away(pixels, y, x, ink) > RIDGE_LEAD * off:
                return False
    return True


def _is_peak(pixels: U8, row: int, column: int, dy: int, dx: int, reach: int, ink: F32, off: float) -> bool:
    """Tell whether a pixel is the furthest from an ink on its profile, and both its ends are much nearer."""
    for side in range(-1, 2, 2):
        if _away(pixels, row + side * reach * dy, column + side * reach * dx, ink) > 0.5 * off:
            return False
        if _away(pixels, row + side * dy, column + side * dx, ink) > RIDGE_SLACK * off:
            return False
    return True


def find_ridges(
    pixels: U8, mixer: Mixer, contrast: float, first: int, last: int, sure: U64, labels: U8, around: U8, likely: U8
) -> None:
    """Find pixels on thin strokes: what ink is `around` each (255 off any stroke), and which it is `likely` itself.

    A pixel is on a stroke if two or three pixels off on either side there is one ink, from which it differs by
    `contrast` or more, if it is further from it than its neighbours on that line, and no neighbour stands out more.
    Pixels that are `sure` (not 0) are on none.
    """
    height, width = labels.shape[0], labels.shape[1]
    inks = inks_of(mixer)
    with cython.nogil:
        for row in range(first, last):
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
                    ink = cython.address(inks.weighed[p][0])
                    off = _away(pixels, row, column, ink)
                    if off < contrast or not _is_peak(pixels, row, column, dy, dx, reach, ink, off):
                        continue
                    if not _stands_out(pixels, row, column, ink, off):
                        continue
                    around[row, column] = p
                    if labels[row, column] == p:
                        seen = seen_at(cython.address(pixels[row, column, 0]), cython.address(inks))
                        likely[row, column] = _ridge_ink(seen, cython.address(inks), p)
                    break
