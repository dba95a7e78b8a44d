"""Whether a picture was made larger, by how much and how; and the picture at its own size."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import cv2
import numpy as np

from sobercrow.core.arrays import F64, I64, U8
from sobercrow.core.history.planes import BLOCK, luma_chroma_of, luma_of, rgb_of
from sobercrow.core.stopping import go_on

LEAST_FACTOR, MOST_FACTOR = 1.25, 8.0
LEAST_SIDE = 32
"""Nothing was made larger from fewer rows or columns than this."""
LINES = 32
"""The liveliest so many lines are looked at."""
AROUND_PX, LEAST_AROUND = 17, 1.0
"""Second differences are compared with those of so many pixels around; smaller ones tell nothing."""
USUAL_FACTORS = (2.0, 3.0, 4.0)
"""Looked at in any case: the periods of two and four pixels are those of JPEG's blocks, too."""
LEAST_PEAK = 3.0
"""A period of second differences stands out if its amplitude is so many times the usual one."""
CANDIDATES = 3
SPECTRUM = 8192
BESIDE = 3
"""What a size leaves is compared with what sizes up to so many more or less leave."""
WORTH_A_LOOK = 0.9
"""Kernels are compared where the commonest leaves less than this share of what it leaves two sizes off."""
LEAST_DIP, SAME_DIP, ALIKE_DIP = 1.1, 1.2, 1.25
"""The size a picture had leaves so many times less than those beside it: at least; in the mean of rows and columns that
tell the same factor and kernel; both, where they tell the same factor;"""
UNLIKE_DIP, SURE_DIP = 1.3, 1.55
"""and both, and in the mean, where they tell different ones."""
LEAST_STEPS = 64
"""Fewer rows with a step may all lie on every second pixel by chance."""
NOTHING_LEFT = 0.1
"""In tones; differences smaller than this are rounding."""
WHOLE = 0.012
"""Factors across and down nearer than this, relative to each other, are one."""
RIDGE = 1e-3


class Kernel(StrEnum):
    """How a picture was made larger."""

    NEAREST = "nearest"
    LINEAR = "linear"
    CUBIC = "cubic"
    SHARP_CUBIC = "sharp cubic"
    LANCZOS = "lanczos"


REACH = {Kernel.NEAREST: 1, Kernel.LINEAR: 1, Kernel.CUBIC: 2, Kernel.SHARP_CUBIC: 2, Kernel.LANCZOS: 3}
"""How many pixels of the smaller picture on either side a kernel weighs."""
SHARPNESS = {Kernel.CUBIC: -0.5, Kernel.SHARP_CUBIC: -0.75}
"""The free parameter of cubic convolution (Keys 1981); the second is the other one in use."""


@dataclass(frozen=True, slots=True)
class Enlargement:
    """How a picture was made larger: the size it had, and by which kernels, down and across."""

    height: int
    width: int
    down: Kernel
    across: Kernel


def find_enlargement(pixels: U8) -> Enlargement | None:
    """Tell whether a picture (h, w) or (h, w, 3) was made larger; None without evidence.

    Second differences of an interpolated line are periodic (Gallagher 2005, "Detection of linear and cubic
    interpolation in JPEG compressed images"): their spectrum names candidates. The size it had is the one from which a
    kernel gives it back but for next to nothing, while sizes beside it leave much more. Rows and columns have to tell
    the same factor, or each of them surely another one.
    """
    luma = luma_of(pixels)
    planes = luma, np.ascontiguousarray(luma.T)
    down, across = (_along(plane, _candidates(plane)) for plane in planes)
    every_down = down + _along(planes[0], _others(planes[0], down, across))
    every_across = across + _along(planes[1], _others(planes[1], across, down))
    pairs = [(one, other) for one in every_down for other in every_across if _agree(one, other)]
    if not pairs:
        return None
    one, other = max(pairs, key=lambda pair: pair[0].dip * pair[1].dip)
    return Enlargement(one.size, other.size, one.kernel, other.kernel)


@dataclass(frozen=True, slots=True)
class _Found:
    dip: float
    left: float
    size: int
    kernel: Kernel
    factor: float


def _agree(down: _Found, across: _Found) -> bool:
    """Whether rows and columns tell the same factor, or each surely its own."""
    if min(down.dip, across.dip) >= UNLIKE_DIP and down.dip * across.dip >= SURE_DIP**2:
        return True
    alike = abs(down.factor - across.factor) <= WHOLE * max(down.factor, across.factor)
    same = down.kernel is across.kernel and down.dip * across.dip >= SAME_DIP**2
    return alike and (same or min(down.dip, across.dip) >= ALIKE_DIP)


def _others(plane: F64, known: Sequence[_Found], across: Sequence[_Found]) -> list[int]:
    """Sizes a plane may have had along its first axis by the factors found across it, if they are not known yet."""
    counts = {max(LEAST_SIDE, round(len(plane) / found.factor)) for found in across}
    return sorted(counts - {found.size for found in known})


def _along(plane: F64, counts: Sequence[int]) -> list[_Found]:
    """Which of some sizes a plane may have had along its first axis, and by which kernels it was made larger."""
    lively = np.argsort(-np.abs(np.diff(plane, axis=0)).sum(axis=0), kind="stable")[:LINES]
    lines = plane[:, np.sort(lively)]
    steps = int((np.abs(np.diff(lines, axis=0)).max(axis=1) > NOTHING_LEFT).sum())
    if steps < LEAST_STEPS:
        return []
    every = []
    for count in counts:
        go_on()
        left = {n: _left_over(lines, n, Kernel.CUBIC) for n in range(count - 2, count + 3)}
        size = min(left, key=lambda n: left[n])
        if left[size] > WORTH_A_LOOK * max(left.values()):
            continue
        found = min((_judged(lines, size, kernel) for kernel in Kernel), key=lambda one: one.left)
        if found.dip >= LEAST_DIP:
            every.append(found)
    return every


def _judged(lines: F64, size: int, kernel: Kernel) -> _Found:
    """What a size and a kernel leave of lines, and how many times as much sizes beside it leave."""
    left = _left_over(lines, size, kernel)
    beside = min(_left_over(lines, size + k, kernel) for k in (-BESIDE, -1, 1, BESIDE))
    return _Found(beside / (left + NOTHING_LEFT), left, size, kernel, len(lines) / size)


def _candidates(plane: F64) -> list[int]:
    """Sizes that a plane may have had along its first axis, the likeliest first."""
    go_on()
    size = len(plane)
    second = np.abs(np.diff(plane, 2, axis=0)).astype(np.float32)
    if len(second) < LEAST_SIDE:
        return []
    around = cv2.blur(second, (1, AROUND_PX))
    told = around > LEAST_AROUND
    relative = np.where(told, second / np.maximum(around, LEAST_AROUND), 0.0)
    count = told.sum(axis=1)
    second = np.where(count > 0, relative.sum(axis=1) / np.maximum(count, 1), 1.0)
    spectrum = np.abs(np.fft.rfft((second - second.mean()) * np.hanning(len(second)), SPECTRUM))
    frequency = np.arange(len(spectrum)) / SPECTRUM
    usual = np.array([np.median(spectrum[max(0, k - 400) : k + 400]) for k in range(0, len(spectrum), 50)])
    peak = spectrum / (np.interp(np.arange(len(spectrum)), np.arange(0, len(spectrum), 50), usual) + 1e-9)
    peak[frequency < 1.0 / MOST_FACTOR] = 0.0
    width = 2 * SPECTRUM // len(second)
    for k in range(1, BLOCK // 2 + 1):
        at = k * SPECTRUM // BLOCK
        peak[max(0, at - width) : at + width] = 0.0
    found = [n for n in (round(size / factor) for factor in USUAL_FACTORS) if n >= LEAST_SIDE]
    while len(found) < 2 * CANDIDATES + len(USUAL_FACTORS):
        top = int(peak.argmax())
        if peak[top] < LEAST_PEAK:
            break
        for share in (frequency[top], 1.0 - frequency[top]):
            count = round(share * size)
            if max(size / MOST_FACTOR, LEAST_SIDE) <= count <= size / LEAST_FACTOR and count not in found:
                found.append(count)
        peak[max(0, top - width) : top + width] = 0.0
    return found


def _taps(count: int, size: int, kernel: Kernel) -> tuple[I64, F64]:
    """From which samples of `count` each of `size` pixels was made, and their weights, (size, 2 reach) both.

    Pixels lie by their middles; at the ends the kernel is cut off and its weights add up to one all the same.
    """
    place = (np.arange(size) + 0.5) * count / size - 0.5
    reach = REACH[kernel]
    first = np.floor(place).astype(np.int64) - reach + 1
    which = first[:, None] + np.arange(2 * reach)
    away = np.abs(place[:, None] - which)
    if kernel is Kernel.NEAREST:
        weight = (which == np.floor(place + 0.5)[:, None]).astype(np.float64)
    elif kernel is Kernel.LINEAR:
        weight = np.maximum(0.0, 1.0 - away)
    elif kernel is Kernel.LANCZOS:
        weight = np.where(away < 3.0, np.sinc(away) * np.sinc(away / 3.0), 0.0)
    else:
        a = SHARPNESS[kernel]
        inner = ((a + 2.0) * away - (a + 3.0)) * away**2 + 1.0
        outer = (((away - 5.0) * away + 8.0) * away - 4.0) * a
        weight = np.where(away < 1.0, inner, np.where(away < 2.0, outer, 0.0))
    weight = np.where((which >= 0) & (which < count), weight, 0.0)
    weight /= weight.sum(axis=1, keepdims=True)
    return np.clip(which, 0, count - 1), weight


def _solved(lines: F64, count: int, kernel: Kernel) -> tuple[F64, Any]:
    """The samples (count, n) from which lines (size, n) come nearest, and the sparse matrix that leads to them."""
    from scipy.linalg import solveh_banded  # few pictures were made larger
    from scipy.sparse import csr_array

    size = len(lines)
    which, weight = _taps(count, size, kernel)
    taps = which.shape[1]
    larger = csr_array((weight.ravel(), which.ravel(), taps * np.arange(size + 1)), shape=(size, count))
    upper = np.zeros((taps, count))  # of the products of its columns, which are taps apart at most
    for k in range(taps):
        for tap in range(taps - k):
            products = weight[:, tap] * weight[:, tap + k]
            upper[taps - 1 - k] += np.bincount(which[:, tap + k], weights=products, minlength=count)
    upper[taps - 1] += RIDGE
    return np.asarray(solveh_banded(upper, larger.T @ lines)), larger


def _left_over(lines: F64, count: int, kernel: Kernel) -> float:
    """What the nearest enlargement from so many samples leaves, root mean square."""
    go_on()
    samples, larger = _solved(lines, count, kernel)
    return float(np.sqrt(((larger @ samples - lines) ** 2).mean()))


def at_own_size(pixels: U8, enlargement: Enlargement) -> U8:
    """Return the picture (h, w) or (h, w, 3) that was made larger, by least squares, at the size it had."""
    planes = []
    for plane in luma_chroma_of(pixels):
        go_on()
        fewer = _solved(plane, enlargement.height, enlargement.down)[0]
        planes.append(_solved(np.ascontiguousarray(fewer.T), enlargement.width, enlargement.across)[0].T)
    return np.ascontiguousarray(rgb_of(np.stack(planes)))
