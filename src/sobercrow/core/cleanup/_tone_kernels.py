"""Compiled loops over the tones of a sheet. Each works on rows first ≤ i < last, so that strips run side by side."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F32, I64, U8
from sobercrow.core.compiled import kernel

NO_PAPER, ALL_PAPER = 190, 235
"""Tones between which a colour goes over from ink to paper, once tones are stretched."""
SHIFT = 12
ONE = 1 << SHIFT
"""Tones are multiplied as whole numbers, in parts of this: quicker than as fractions."""


@kernel
def apply_gain(pixels: U8, grid: F32, first: int, last: int, out: U8) -> None:
    """Write pixels (h, w, c) times a gain into `out`.

    `grid` holds the gain at the middles of cells that cover the picture evenly, with one cell of padding all round;
    between the middles it is bilinear. All channels get the same gain, at most what the brightest one can take.
    """
    height, width, channels = pixels.shape
    rows, columns = grid.shape[0] - 2, grid.shape[1] - 2
    line = np.empty(columns + 2, dtype=np.float32)
    gain = np.empty(width * channels, dtype=np.int32)
    step = np.float32(columns / width)
    half = np.int32(ONE // 2)
    for i in range(first, last):
        y = (i + 0.5) * rows / height + 0.5
        row = int(y)
        share = np.float32(y - row)
        for k in range(columns + 2):
            line[k] = (grid[row, k] + share * (grid[row + 1, k] - grid[row, k])) * np.float32(ONE)
        for x in range(width):
            place = (np.float32(x) + np.float32(0.5)) * step + np.float32(0.5)
            cell = np.int32(place)
            here = np.int32(line[cell] + (place - np.float32(cell)) * (line[cell + 1] - line[cell]))
            for c in range(channels):
                gain[x * channels + c] = here
        values, result = pixels[i].reshape(width * channels), out[i].reshape(width * channels)
        seen = np.int32(0)
        for k in range(width * channels):
            value = (np.int32(values[k]) * gain[k] + half) >> SHIFT
            seen |= value
            result[k] = np.uint8(min(value, np.int32(255)))
        if seen > 255 and channels == 3:
            _hold_hues(pixels[i], gain, out[i])


@kernel
def _hold_hues(pixels: U8, gain: I64, out: U8) -> None:
    """Write a row again, (w, 3), with the gain of each pixel no larger than its brightest channel can take."""
    for x in range(pixels.shape[0]):
        r, g, b = np.int32(pixels[x, 0]), np.int32(pixels[x, 1]), np.int32(pixels[x, 2])
        top = max(r, max(g, b))
        if top * gain[3 * x] > 255 * ONE:
            held = np.int32(255 * ONE // top)
            out[x, 0] = np.uint8((r * held + ONE // 2) >> SHIFT)
            out[x, 1] = np.uint8((g * held + ONE // 2) >> SHIFT)
            out[x, 2] = np.uint8((b * held + ONE // 2) >> SHIFT)


@kernel
def shift_tones(pixels: U8, before: U8, after: U8, first: int, last: int, out: U8) -> None:
    """Write pixels (h, w, 3) moved by after − before, two (h, w), into `out`: all channels alike."""
    wide = 3 * pixels.shape[1]
    shift = np.empty(wide, dtype=np.int16)
    for i in range(first, last):
        for j in range(pixels.shape[1]):
            shift[3 * j] = shift[3 * j + 1] = shift[3 * j + 2] = np.int16(after[i, j]) - np.int16(before[i, j])
        values, result = pixels[i].reshape(wide), out[i].reshape(wide)
        for k in range(wide):
            result[k] = np.uint8(min(max(np.int16(values[k]) + shift[k], np.int16(0)), np.int16(255)))


@kernel
def is_grey(pixels: U8) -> bool:
    """Tell whether all channels of every pixel (h, w, 3) are alike; stops at the first that is not."""
    for i in range(pixels.shape[0]):
        for j in range(pixels.shape[1]):
            if pixels[i, j, 0] != pixels[i, j, 1] or pixels[i, j, 0] != pixels[i, j, 2]:
                return False
    return True


@kernel
def mix_channels(pixels: U8, red: float, green: float, blue: float, first: int, last: int, out: U8) -> None:
    """Write the weighted sum of the channels of pixels (h, w, 3) into `out` (h, w)."""
    for i in range(first, last):
        for j in range(pixels.shape[1]):
            value = red * pixels[i, j, 0] + green * pixels[i, j, 1] + blue * pixels[i, j, 2] + 0.5
            out[i, j] = np.uint8(min(max(value, 0.0), 255.0))


@kernel
def take_off_tint(pixels: U8, tones: U8, tint: I64, first: int, last: int) -> None:
    """Take the paper's tint off what is nearly paper, in place.

    `tint` (3,) is what each channel of the paper lacks of the paper's tone; `tones` (h, w) are those of `pixels`
    (h, w, 3). It is added in full from `ALL_PAPER` on, and not at all below `NO_PAPER`, so that tones stay as they are
    and so do the hues of inks.
    """
    wide = 3 * pixels.shape[1]
    lift = np.zeros((256, 3), dtype=np.int16)  # what is added at each tone
    for tone in range(NO_PAPER, 256):
        near = min(tone - NO_PAPER, ALL_PAPER - NO_PAPER)
        for c in range(3):
            lift[tone, c] = np.int16(np.rint(tint[c] * near / (ALL_PAPER - NO_PAPER)))
    added = np.empty(wide, dtype=np.int16)
    for i in range(first, last):
        for j in range(pixels.shape[1]):
            tone = tones[i, j]
            added[3 * j] = lift[tone, 0]
            added[3 * j + 1] = lift[tone, 1]
            added[3 * j + 2] = lift[tone, 2]
        values = pixels[i].reshape(wide)
        for k in range(wide):
            values[k] = np.uint8(min(max(np.int16(values[k]) + added[k], np.int16(0)), np.int16(255)))
