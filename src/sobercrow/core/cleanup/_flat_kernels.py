"""Compiled loops that tell which of few colours, or which mixture of two of them, every pixel is nearest to.

Pictures are (n, m): n channels of m pixels; colours (k, n).
"""

from __future__ import annotations

import cython
from cython.cimports.libc.math import sqrtf

from sobercrow.core.arrays import F32, I64, U8


def find_nearest(picture: F32, colours: F32, away: F32, own: I64) -> None:
    """Write how far every pixel is from the nearest colour, and which that is; the first of several as near."""
    cython.declare(least=cython.float, off=cython.float, square=cython.float)
    with cython.nogil:
        for i in range(picture.shape[1]):
            least, chosen = 3e38, 0
            for k in range(colours.shape[0]):
                square = 0.0
                for c in range(picture.shape[0]):
                    off = picture[c, i] - colours[k, c]
                    square += off * off
                if square < least:
                    least, chosen = square, k
            away[i], own[i] = sqrtf(least), chosen


def find_mixtures(picture: F32, colours: F32, about: U8, away: F32, trace: float, bonus: float, made: F32) -> None:
    """Write over `made`, which holds the nearest colours, mixtures of two colours that explain pixels better.

    Only colours that are `about` (k, m) a pixel are mixed there; a mixture with less than a `trace` of one is the
    other. `away` is how far pixels are from their nearest colour; mixtures have to be nearer by `bonus`, squared.
    """
    cython.declare(best=cython.float, cost=cython.float, share=cython.float, off=cython.float)
    cython.declare(along=cython.float, length=cython.float, way=cython.float, least=cython.float, more=cython.float)
    least, more = trace, bonus
    with cython.nogil:
        for i in range(picture.shape[1]):
            best = away[i] * away[i]
            if best <= more:
                continue
            for a in range(colours.shape[0]):
                if not about[a, i]:
                    continue
                for b in range(a + 1, colours.shape[0]):
                    if not about[b, i]:
                        continue
                    along = length = 0.0
                    for c in range(picture.shape[0]):
                        way = colours[b, c] - colours[a, c]
                        along += (picture[c, i] - colours[a, c]) * way
                        length += way * way
                    share = along / length if length > 0.0 else 0.0
                    if share < least:
                        share = 0.0
                    elif share > 1.0 - least:
                        share = 1.0
                    cost = more if 0.0 < share < 1.0 else 0.0
                    for c in range(picture.shape[0]):
                        off = picture[c, i] - colours[a, c] - share * (colours[b, c] - colours[a, c])
                        cost += off * off
                    if cost < best:
                        best = cost
                        for c in range(picture.shape[0]):
                            made[c, i] = colours[a, c] + share * (colours[b, c] - colours[a, c])
