"""Compiled loops along guide lines."""

from __future__ import annotations

import cython
import numpy as np
from cython.cimports.libc.math import fabs, hypot
from cython.cimports.sobercrow.core._numeric import floored, sort, to_tone, truncated

from sobercrow.core.arrays import F64, U8


def read_profiles(grey: U8, start: F64, end: F64, windows: int, half: int, paper: float, most: float) -> F64:
    """Return the darkness across a line in windows along it, (windows, 2 half + 1, 2): its median and its spread.

    Pixels are sorted by their whole offset from the line. Those darker than `most`, and their neighbours along the
    line, are ink and are not read; −1 stands where too few are left.
    """
    length = hypot(end[0] - start[0], end[1] - start[1])
    ax, ay = (end[0] - start[0]) / length, (end[1] - start[1]) / length
    height, width = grey.shape[0], grey.shape[1]
    wide = 2 * half + 1
    room = truncated(length / windows) + 3
    result = cython.declare(cython.double[:, :, ::1], np.full((windows, wide, 2), -1.0))
    values = cython.declare(cython.double[:, ::1], np.empty((wide, room)))
    counts = cython.declare(cython.Py_ssize_t[::1], np.zeros(wide, dtype=np.intp))
    inked = cython.declare(cython.bint)
    with cython.nogil:
        for w in range(windows):
            low, high = w * length / windows, (w + 1) * length / windows
            counts[:] = 0
            for s in range(truncated(high - low) + 1):
                along = low + s + 0.5
                inked = False
                for o in range(-half, half + 1):
                    for k in range(3):
                        ahead = along + 2.0 * k - 2.0
                        column = floored(start[0] + ahead * ax - o * ay)
                        row = floored(start[1] + ahead * ay + o * ax)
                        if 0 <= row < height and 0 <= column < width and paper - grey[row, column] > most:
                            inked = True
                if inked:
                    continue
                for o in range(-half, half + 1):
                    column, row = floored(start[0] + along * ax - o * ay), floored(start[1] + along * ay + o * ax)
                    if 0 <= row < height and 0 <= column < width:
                        values[o + half, counts[o + half]] = paper - grey[row, column]
                        counts[o + half] += 1
            for o in range(wide):
                n = counts[o]
                if n >= 5:
                    sort(cython.address(values[o, 0]), n)
                    result[w, o, 0] = max(values[o, n // 2], 0.0)
                    result[w, o, 1] = max(values[o, truncated(0.95 * (n - 1))] - values[o, n // 2], 0.0)
    return np.asarray(result)


def _beside_ink(grey: U8, row: int, column: int, ink: float) -> bool:
    """Tell whether a tone below `ink` lies within 3 pixels."""
    for i in range(max(row - 3, 0), min(row + 4, grey.shape[0])):
        for j in range(max(column - 3, 0), min(column + 4, grey.shape[1])):
            if grey[i, j] < ink:
                return True
    return False


def lift_line(
    pixels: U8, grey: U8, start: F64, end: F64, profiles: F64, half: int, paper: float, contrast: float, most: float
) -> None:
    """Put the pixels (h, w, c) of a line back to paper, in place, by its profiles of darkness and their spread.

    `grey` has the tones before; `contrast` is how much darker full ink is than paper, `most` how dark the line is at
    most. Away from ink all of the line becomes paper. Beside ink a pixel as dark as the line becomes paper, one as
    dark as ink stays, one between keeps the share it has of ink.
    """
    length = hypot(end[0] - start[0], end[1] - start[1])
    ax, ay = (end[0] - start[0]) / length, (end[1] - start[1]) / length
    height, width = grey.shape[0], grey.shape[1]
    windows = profiles.shape[0]
    beyond = 4.0
    cython.declare(line=cython.double, mean=cython.double)
    x0 = max(0, truncated(min(start[0], end[0]) - half - beyond))
    x1 = min(width, truncated(max(start[0], end[0]) + half + beyond) + 1)
    y0 = max(0, truncated(min(start[1], end[1]) - half - beyond))
    y1 = min(height, truncated(max(start[1], end[1]) + half + beyond) + 1)
    with cython.nogil:
        for row in range(y0, y1):
            first, last = x0, x1
            if fabs(ay) > 1e-3:  # only the pixels of this row that are near the line
                middle = start[0] + (row + 0.5 - start[1]) * ax / ay
                reach = (half + 1.0) / fabs(ay)
                if reach < width:
                    first, last = max(x0, truncated(middle - reach)), min(x1, truncated(middle + reach) + 1)
            for column in range(first, last):
                dx, dy = column + 0.5 - start[0], row + 0.5 - start[1]
                along = dx * ax + dy * ay
                if along < -beyond or along > length + beyond:
                    continue
                across = dy * ax - dx * ay + half
                o = floored(across + 0.5)
                if o < 0 or o >= profiles.shape[1]:
                    continue
                place = min(max(along / length * windows - 0.5, 0.0), windows - 1.0)
                w = truncated(place)
                share = place - w
                after = min(w + 1, windows - 1)
                # `mean` is the line just here, at its darker; `line` its darkest nearby, since it wavers
                line = mean = 0.0
                for k in range(max(o - 1, 0), min(o + 2, profiles.shape[1])):
                    tone = profiles[w, k, 0] + share * (profiles[after, k, 0] - profiles[w, k, 0])
                    unrest = profiles[w, k, 1] + share * (profiles[after, k, 1] - profiles[w, k, 1])
                    line = max(line, tone + 0.5 * unrest)
                    mean += max(1.0 - fabs(across - k), 0.0) * (tone + 0.5 * unrest)
                if line <= 0.01 * contrast:
                    continue
                line = min(line, 0.8 * contrast)
                dark = paper - grey[row, column]
                if dark <= 0.0:
                    continue
                mean = min(mean, line)
                kept = min(max((dark - mean) * contrast / (contrast - mean), 0.0), dark)
                if dark < 1.5 * line + 0.06 * contrast and not _beside_ink(grey, row, column, paper - most):
                    kept = 0.0
                ratio = kept / dark
                for c in range(pixels.shape[2]):
                    value = paper - (paper - pixels[row, column, c]) * ratio
                    pixels[row, column, c] = to_tone(value + 0.5)
