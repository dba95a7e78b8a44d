"""One ink by its tone: a threshold for the whole picture, one for each place, or limits on both sides."""

from __future__ import annotations

import cv2
import numpy as np

from sobercrow.core.arrays import F64, U8

TONE_SPREAD = 128.0
"""Largest standard deviation tones can have: the R of Sauvola & Pietikäinen."""
LOCAL_GAIN = 2.0
LIMIT_GAIN = 6.0


def local_thresholds(grey: U8, window_px: int, contrast: float) -> F64:
    """Return a threshold for every pixel of (h, w), from the mean m and the deviation s of a window around it.

    m (1 + contrast (s / 128 − 1)): Sauvola & Pietikäinen 2000, "Adaptive document image binarization". `window_px` is
    odd.
    """
    tones = grey.astype(np.float64)
    size = (window_px, window_px)
    mean = cv2.blur(tones, size, borderType=cv2.BORDER_REFLECT)
    square = cv2.blur(tones**2, size, borderType=cv2.BORDER_REFLECT)
    deviation = np.sqrt(np.maximum(square - mean**2, 0.0))
    return np.asarray(mean * (1.0 + contrast * (deviation / TONE_SPREAD - 1.0)))


def local_tones(grey: U8, window_px: int, contrast: float) -> U8:
    """Return tones in which ink is darker than 127.5 where it is darker than its surroundings ask."""
    away = grey - local_thresholds(grey, window_px, contrast)
    return np.clip(np.rint(127.5 + LOCAL_GAIN * away), 0, 255).astype(np.uint8)


def limited_tones(grey: U8, dark: int, light: int) -> U8:
    """Return tones in which ink, darker than 127.5, is what lies between two limits, both included."""
    tones = np.arange(256.0)
    away = np.maximum(dark - 0.5 - tones, tones - light - 0.5)
    curve = np.clip(np.rint(127.5 + LIMIT_GAIN * away), 0, 255).astype(np.uint8)
    return np.asarray(cv2.LUT(grey, curve), dtype=np.uint8)
