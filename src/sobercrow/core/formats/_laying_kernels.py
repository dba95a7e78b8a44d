"""Compiled loops that lay covered areas over each other, and make bytes of what comes of it."""

from __future__ import annotations

import cython
from cython.cimports.libc.math import fabs, fmod

from sobercrow.core.arrays import F32, F64, U8

NOTHING, ALL = 1e-6, 1.0 - 1e-6
"""Shares of a pixel nearer than this to none or all are rounding."""


def _share(winding: float, is_even_odd: bool) -> float:
    """What share of a pixel is covered, by how often it is run around."""
    share = fabs(winding)
    if is_even_odd and share > 1.0:
        share = 1.0 - fabs(fmod(share, 2.0) - 1.0)
    if share < NOTHING:
        return 0.0
    return 1.0 if share > ALL else share


def lay_colour(
    band: F32, first: int, left: int, steps: F64, is_even_odd: bool, red: float, green: float, blue: float
) -> None:
    """Lay a colour over a band of pixels (h, w, 4), premultiplied, from a row and a column on (SVG 2: source over).

    `steps` has by how much every pixel is covered more than the one before it in its row.
    """
    cython.declare(winding=cython.double, share=cython.float, rest=cython.float)
    with cython.nogil:
        for row in range(steps.shape[0]):
            winding = 0.0
            share = 0.0
            rest = 1.0
            for column in range(steps.shape[1]):
                if steps[row, column] != 0.0:
                    winding += steps[row, column]
                    share = _share(winding, is_even_odd)
                    rest = 1.0 - share
                if share == 0.0:
                    continue
                pixel = cython.address(band[first + row, left + column, 0])
                pixel[0] = rest * pixel[0] + share * red
                pixel[1] = rest * pixel[1] + share * green
                pixel[2] = rest * pixel[2] + share * blue
                pixel[3] = rest * pixel[3] + share


def covers(steps: F64, is_even_odd: bool, cover: F32) -> None:
    """Write what share of every pixel is covered."""
    cython.declare(winding=cython.double)
    with cython.nogil:
        for row in range(steps.shape[0]):
            winding = 0.0
            for column in range(steps.shape[1]):
                winding += steps[row, column]
                cover[row, column] = _share(winding, is_even_odd)


def to_bytes(band: F32, pixels: U8) -> None:
    """Make bytes of a band, its colours no longer multiplied by alpha."""
    cython.declare(alpha=cython.float, scale=cython.float)
    with cython.nogil:
        for row in range(band.shape[0]):
            for column in range(band.shape[1]):
                alpha = band[row, column, 3]
                if alpha <= 0.0:
                    for k in range(4):
                        pixels[row, column, k] = 0
                    continue
                scale = 255.0 / alpha
                for k in range(3):
                    pixels[row, column, k] = cython.cast(cython.uchar, min(band[row, column, k] * scale, 255.0) + 0.5)
                pixels[row, column, 3] = cython.cast(cython.uchar, min(alpha, 1.0) * 255.0 + 0.5)
