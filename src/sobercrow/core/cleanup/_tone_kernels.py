"""Compiled loops over the tones of a sheet. Each works on rows first ≤ i < last, so that strips run side by side."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import rint
from cython.cimports.sobercrow.core.cleanup._tone_kernels import ALL_PAPER, NO_PAPER, ONE, SHIFT

from sobercrow.core.arrays import F32, I64, U8


def apply_gain(pixels: U8, grid: F32, first: int, last: int, out: U8) -> None:
    """Write pixels (h, w, c) times a gain into `out`.

    `grid` holds the gain at the middles of cells that cover the picture evenly, with one cell of padding all round;
    between the middles it is bilinear. All channels get the same gain, at most what the brightest one can take.
    """
    height, width, channels = pixels.shape[0], pixels.shape[1], pixels.shape[2]
    rows, columns = grid.shape[0] - 2, grid.shape[1] - 2
    line = cython.declare(cython.float[::1], np.empty(columns + 2, dtype=np.float32))
    gain = cython.declare(cython.int[::1], np.empty(width * channels, dtype=np.int32))
    cython.declare(step=cython.float, share=cython.float, place=cython.float, half=cython.float)
    cython.declare(cell=cython.int, here=cython.int, value=cython.int, seen=cython.int)
    step = cython.cast(cython.double, columns) / width
    half = 0.5
    with cython.nogil:
        for i in range(first, last):
            y = (i + 0.5) * rows / height + 0.5
            row = cython.cast(cython.Py_ssize_t, y)
            share = y - row
            for k in range(columns + 2):
                line[k] = (grid[row, k] + share * (grid[row + 1, k] - grid[row, k])) * ONE
            for x in range(width):
                place = (x + half) * step + half
                cell = cython.cast(cython.int, place)
                here = cython.cast(cython.int, line[cell] + (place - cell) * (line[cell + 1] - line[cell]))
                for c in range(channels):
                    gain[x * channels + c] = here
            values, result = cython.address(pixels[i, 0, 0]), cython.address(out[i, 0, 0])
            seen = 0
            for k in range(width * channels):
                value = (values[k] * gain[k] + ONE // 2) >> SHIFT
                seen |= value
                result[k] = value if value < 255 else 255
            if seen > 255 and channels == 3:
                _hold_hues(values, cython.address(gain[0]), result, width)


def _hold_hues(pixels: U8, gain: I64, out: U8, width: int) -> None:
    """Write a row again, (w, 3), with the gain of each pixel no larger than its brightest channel can take."""
    cython.declare(top=cython.int, held=cython.int)
    for x in range(width):
        top = max(pixels[3 * x], pixels[3 * x + 1], pixels[3 * x + 2])
        if top * gain[3 * x] > 255 * ONE:
            held = 255 * ONE // top
            for c in range(3):
                out[3 * x + c] = (pixels[3 * x + c] * held + ONE // 2) >> SHIFT


def shift_tones(pixels: U8, before: U8, after: U8, first: int, last: int, out: U8) -> None:
    """Write pixels (h, w, 3) moved by after − before, two (h, w), into `out`: all channels alike."""
    value = cython.declare(cython.int)
    with cython.nogil:
        for i in range(first, last):
            for j in range(pixels.shape[1]):
                shift = cython.cast(cython.int, after[i, j]) - before[i, j]
                for c in range(3):
                    value = pixels[i, j, c] + shift
                    out[i, j, c] = min(max(value, 0), 255)


def is_grey(pixels: U8) -> bool:
    """Tell whether all channels of every pixel (h, w, 3) are alike; stops at the first that is not."""
    with cython.nogil:
        for i in range(pixels.shape[0]):
            for j in range(pixels.shape[1]):
                if pixels[i, j, 0] != pixels[i, j, 1] or pixels[i, j, 0] != pixels[i, j, 2]:
                    return False
    return True


def mix_channels(pixels: U8, red: float, green: float, blue: float, first: int, last: int, out: U8) -> None:
    """Write the weighted sum of the channels of pixels (h, w, 3) into `out` (h, w)."""
    with cython.nogil:
        for i in range(first, last):
            for j in range(pixels.shape[1]):
                value = red * pixels[i, j, 0] + green * pixels[i, j, 1] + blue * pixels[i, j, 2] + 0.5
                out[i, j] = cython.cast(cython.uchar, min(max(value, 0.0), 255.0))


def take_off_tint(pixels: U8, tones: U8, tint: I64, first: int, last: int) -> None:
    """Take the paper's tint off what is nearly paper, in place.

    `tint` (3,) is what each channel of the paper lacks of the paper's tone; `tones` (h, w) are those of `pixels`
    (h, w, 3). It is added in full from `ALL_PAPER` on, and not at all below `NO_PAPER`, so that tones stay as they are
    and so do the hues of inks.
    """
    lift = cython.declare(cython.int[256][3])  # what is added at each tone
    value = cython.declare(cython.int)
    with cython.nogil:
        for tone in range(256):
            near = min(max(tone - NO_PAPER, 0), ALL_PAPER - NO_PAPER)
            for c in range(3):
                lift[c][tone] = cython.cast(cython.int, rint(tint[c] * near / (ALL_PAPER - NO_PAPER + 0.0)))
        for i in range(first, last):
            for j in range(pixels.shape[1]):
                for c in range(3):
                    value = pixels[i, j, c] + lift[c][tones[i, j]]
                    pixels[i, j, c] = min(max(value, 0), 255)
