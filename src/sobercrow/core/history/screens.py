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
from sobercrow.core.stopping import go_on

FEW_COLOURS, FEW_GREYS = 256, 16
"""More colours, or greys where there are no colours, need no dither."""
LEAST_DOTS, LEAST_DOT_SHARE = 60, 0.004
"""Dither leaves so many single dots at least, and so large a share of all pixels."""
WINDOW_PX = 128
BUSY_TONES = 12.0
"""A window whose tones deviate by less has nothing in it."""
LEAST_WINDOWS, MOST_WINDOWS = 3, 60
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
PIXELS_A_PERIOD = 1.5
"""So many pixels for a period of its screen hold what a halftone can show."""
STAIR_BLUR_PX = 0.8
"""So much takes the stairs from black and white pixels."""
CROSSING = 0.4
"""Another wave of its length that crosses it squarely is at least so loud, as a share."""
SAME_WAVE = 2.0
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
    go_on()
    seen = np.zeros(1 << (24 if pixels.ndim == 3 else 8), dtype=np.bool_)
    seen[keys.ravel()] = True
    colours = int(seen.sum())
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


DOWN: F64 = np.asarray(np.fft.fftfreq(WINDOW_PX)[:, None], dtype=np.float64)
ACROSS: F64 = np.asarray(np.fft.rfftfreq(WINDOW_PX)[None], dtype=np.float64)
LENGTH: F64 = np.hypot(DOWN, ACROSS)
"""The waves of a window's spectrum, in cycles a pixel, and how long they are."""


def _halftone(grey: U8) -> Screen | None:
    """The screen whose wave stands out in most windows (Welch 1967 on averaging windowed spectra)."""
    spectra = _spectra(grey)
    if len(spectra) < LEAST_WINDOWS:
        return None
    told = (1.0 / PERIODS_PX[1] <= LENGTH) & (1.0 / PERIODS_PX[0] >= LENGTH)
    mean: F64 = np.mean([s / s[told].sum() for s in spectra], axis=0)
    row, column = np.unravel_index(int(np.where(told, mean, 0.0).argmax()), mean.shape)
    fy, fx, length = float(DOWN[row, 0]), float(ACROSS[0, column]), float(LENGTH[row, column])
    loud = float(mean[row, column])
    if loud < STANDS_OUT * _usual(mean, length) or loud < LOUDER * _loudest(mean, LOWER * fy, LOWER * fx):
        return None
    agreeing = [_loudest(s, fy, fx) >= 0.25 * STANDS_OUT * _usual(s, length) for s in spectra]
    crossing = max(_loudest(mean, y, x) for y, x in ((fx, -fy), (-fx, fy)))  # stripes have none
    if np.mean(agreeing) < LEAST_SHARE or crossing < CROSSING * loud:
        return None
    weight = np.where(_near(fy, fx), mean, 0.0)
    fy, fx = (float((weight * waves).sum() / weight.sum()) for waves in (DOWN, ACROSS))
    return Screen(Dots.HALFTONE, 1.0 / float(np.hypot(fy, fx)), float(np.degrees(np.arctan2(fy, fx)) % 90.0))


def _spectra(grey: U8) -> list[F64]:
    """Power spectra of windows that overlap by half and have something in them."""
    step = WINDOW_PX // 2
    places = [
        (top, left)
        for top in range(0, grey.shape[0] - WINDOW_PX + 1, step)
        for left in range(0, grey.shape[1] - WINDOW_PX + 1, step)
    ]
    taper = np.outer(np.hanning(WINDOW_PX), np.hanning(WINDOW_PX))
    spectra = []
    for top, left in places[:: max(1, len(places) // MOST_WINDOWS)]:
        go_on()
        window = grey[top : top + WINDOW_PX, left : left + WINDOW_PX].astype(np.float64)
        if window.std() >= BUSY_TONES:
            spectra.append(np.asarray(np.abs(np.fft.rfft2((window - window.mean()) * taper)) ** 2, dtype=np.float64))
    return spectra


def _usual(power: F64, length: float) -> float:
    """The usual power of waves of about a length."""
    return float(np.median(power[(0.75 * length < LENGTH) & (1.33 * length > LENGTH)])) + 1e-12


def _near(fy: float, fx: float) -> NDArray[np.bool_]:
    return (np.abs(DOWN - fy) * WINDOW_PX <= SAME_WAVE) & (np.abs(ACROSS - fx) * WINDOW_PX <= SAME_WAVE)


def _loudest(power: F64, fy: float, fx: float) -> float:
    """The greatest power about a wave; nought where a spectrum has none."""
    near = _near(fy, fx)
    return float(power[near].max()) if near.any() else 0.0


def screenless_size(screen: Screen, width: int, height: int) -> tuple[int, int]:
    """Return the width and height of a picture once its dots are averaged: a halftone has 1.5 pixels for a period."""
    factor = max(1.0, screen.period_px / PIXELS_A_PERIOD)
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
