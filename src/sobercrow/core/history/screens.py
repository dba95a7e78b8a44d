"""Whether tones of a picture are made of dots: by a halftone screen, by dither, or in black and white alone."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, U8
from sobercrow.core.picture.picture import grey_of

FEW_COLOURS, FEW_GREYS = 256, 16
"""More colours, or greys where there are no colours, need no dither."""
LEAST_DOTS, LEAST_DOT_SHARE = 60, 0.004
"""Dither leaves so many single dots at least, and so large a share of all pixels."""
WINDOW_PX = 128
BUSY_TONES = 12.0
"""A window whose tones deviate by less has nothing in it."""
LEAST_WINDOWS = 3
PERIODS_PX = (2.5, 12.0)
"""The periods of the screens looked for."""
STANDS_OUT = 30.0
"""A screen's power is so many times that of other waves of about its length."""
LOUDER, LOWER = 1.3, 0.6
"""It is so many times as loud as a wave that is so much longer: of edges the longer waves are the louder ones."""
LEAST_SHARE = 0.5
"""In so many of all busy windows."""
BLUR_PERIODS = 0.5
"""A halftone is blurred by so many periods: its wave is then a hundredth of what it was."""
STAIR_BLUR_PX = 0.8
"""So much takes the stairs from black and white pixels."""
SAME_WAVE = 1.5
"""Waves so near to each other in a spectrum, in steps of it, are one."""


class Dots(StrEnum):
    """What tones are made of."""

    HALFTONE = "halftone"
    DITHER = "dither"
    ONE_BIT = "one bit"


@dataclass(frozen=True, slots=True)
class Screen:
    """What the tones of a picture are made of.

    `period_px` is how far the dots of a halftone lie apart and `angle_deg` the direction of their closest rows, 0–90;
    both are 0 otherwise.
    """

    dots: Dots
    period_px: float = 0.0
    angle_deg: float = 0.0


def find_screen(pixels: U8) -> Screen | None:
    """Tell whether the tones of a picture (h, w) or (h, w, 3) are made of dots, and of which."""
    halftone = _halftone(grey_of(pixels))
    if halftone is not None:
        return halftone
    keys = pixels.astype(np.int64) @ np.array([65536, 256, 1]) if pixels.ndim == 3 else pixels.astype(np.int64)
    colours = len(np.unique(keys))
    if colours > (FEW_COLOURS if pixels.ndim == 3 else FEW_GREYS):
        return None
    dots = _single_dots(keys)
    if dots >= max(LEAST_DOTS, LEAST_DOT_SHARE * keys.size):
        return Screen(Dots.DITHER)
    return Screen(Dots.ONE_BIT) if colours == 2 and np.ptp(grey_of(pixels)) > 128 else None


def _single_dots(keys: NDArray[Any]) -> int:
    """How many pixels differ from all four beside them, which are alike: what error diffusion leaves.

    Floyd & Steinberg 1976, "An adaptive algorithm for spatial greyscale". Lines and soft edges have none.
    """
    here, up, down = keys[1:-1, 1:-1], keys[:-2, 1:-1], keys[2:, 1:-1]
    left, right = keys[1:-1, :-2], keys[1:-1, 2:]
    return int(((up == down) & (up == left) & (up == right) & (here != up)).sum())


def _halftone(grey: U8) -> Screen | None:
    """The screen whose wave stands out in most windows (Welch 1967 on averaging windowed spectra)."""
    step = WINDOW_PX // 2
    height, width = grey.shape
    rows, columns = range(0, height - WINDOW_PX + 1, step), range(0, width - WINDOW_PX + 1, step)
    taper = np.outer(np.hanning(WINDOW_PX), np.hanning(WINDOW_PX))
    every = max(1, len(rows) * len(columns) // 60)
    spectra = []
    for top, left in [(top, left) for top in rows for left in columns][::every]:
        window = grey[top : top + WINDOW_PX, left : left + WINDOW_PX].astype(np.float64)
        if window.std() >= BUSY_TONES:
            spectra.append(np.abs(np.fft.rfft2((window - window.mean()) * taper)) ** 2)
    if len(spectra) < LEAST_WINDOWS:
        return None
    down, across = np.fft.fftfreq(WINDOW_PX)[:, None], np.fft.rfftfreq(WINDOW_PX)[None]
    length = np.hypot(down, across)
    told = (length >= 1.0 / PERIODS_PX[1]) & (length <= 1.0 / PERIODS_PX[0])
    mean = np.mean([s / s[told].sum() for s in spectra], axis=0)
    top = np.unravel_index(int(np.where(told, mean, 0.0).argmax()), mean.shape)
    if mean[top] < STANDS_OUT * _usual(mean, length, float(length[top])):
        return None
    near = (np.abs(down - down[top[0], 0]) * WINDOW_PX <= SAME_WAVE) & (
        np.abs(across - across[0, top[1]]) * WINDOW_PX <= SAME_WAVE
    )
    if mean[top] < LOUDER * _at(mean, down, across, LOWER * down[top[0], 0], LOWER * across[0, top[1]]):
        return None
    agreeing = [s[near].max() >= 0.25 * STANDS_OUT * _usual(s, length, float(length[top])) for s in spectra]
    if np.mean(agreeing) < LEAST_SHARE:
        return None
    crossing = _crossing_wave(mean, down, across, top)
    if not crossing:
        return None
    weight = np.where(near, mean, 0.0)
    fy, fx = float((weight * down).sum() / weight.sum()), float((weight * across).sum() / weight.sum())
    angle = np.degrees(np.arctan2(fy, fx)) % 90.0
    return Screen(Dots.HALFTONE, 1.0 / float(np.hypot(fy, fx)), float(angle))


def _usual(power: F64, length: F64, at: float) -> float:
    ring = (length > 0.75 * at) & (length < 1.33 * at)
    return float(np.median(power[ring])) + 1e-12


def _at(power: F64, down: F64, across: F64, fy: float, fx: float) -> float:
    """The greatest power about a wave."""
    near = (np.abs(down - fy) * WINDOW_PX <= 2.0) & (np.abs(across - fx) * WINDOW_PX <= 2.0)
    return float(power[near].max()) if near.any() else 0.0


def _crossing_wave(power: F64, down: F64, across: F64, top: tuple[Any, ...]) -> bool:
    """Whether a wave of the same length crosses the one found squarely: stripes have none."""
    fy, fx = down[top[0], 0], across[0, top[1]]
    for y, x in ((fx, -fy), (-fx, fy)):
        if x < 0:
            continue
        if _at(power, down, across, y, x) >= 0.1 * power[top]:
            return True
    return False


def screenless_size(screen: Screen, width: int, height: int) -> tuple[int, int]:
    """Return the width and height of a picture once its dots are averaged: a halftone has two pixels for a period."""
    factor = max(1.0, 0.5 * screen.period_px)
    return max(1, round(width / factor)), max(1, round(height / factor))


def without_dots(pixels: U8, screen: Screen) -> U8:
    """Return the picture (h, w) or (h, w, 3) with dots averaged as far as they can be without its edges."""
    if screen.dots is Dots.DITHER:
        return pixels
    if screen.dots is Dots.ONE_BIT:
        return np.asarray(cv2.GaussianBlur(pixels, (0, 0), STAIR_BLUR_PX), dtype=np.uint8)
    blurred = cv2.GaussianBlur(pixels, (0, 0), BLUR_PERIODS * screen.period_px)
    size = screenless_size(screen, pixels.shape[1], pixels.shape[0])
    return np.asarray(cv2.resize(blurred, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)
