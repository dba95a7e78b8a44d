"""Tones of a picture: histogram and threshold."""

from __future__ import annotations

import cv2
import numpy as np

from sobercrow.core.arrays import F64, U8


def histogram(grey: U8) -> F64:
    """Return how many pixels have each tone, (256,) float64."""
    counts = cv2.calcHist([np.ascontiguousarray(grey)], [0], None, [256], [0.0, 256.0])
    return np.asarray(counts, dtype=np.float64).ravel()


FULL_INK_SHARE = 0.05
"""Share of the ink's pixels that are as dark as its full tone. Blur keeps most of a thin stroke lighter."""


def usual_tones(counts: F64, split: int) -> tuple[int, int]:
    """Return the full tone of the ink (≤ `split`) and the usual tone of the paper (> `split`), 0–255.

    Ink is read where it is darkest, at its 5th percentile; paper, which is mostly undisturbed, at its median.
    """
    return _quantile(counts[: split + 1], FULL_INK_SHARE, 0), _quantile(counts[split + 1 :], 0.5, split + 1)


def _quantile(counts: F64, share: float, first: int) -> int:
    total = counts.sum()
    if total == 0:
        return first
    return first + int(np.searchsorted(np.cumsum(counts), share * total))


def otsu(counts: F64) -> int:
    """Return the tone t that parts a histogram best into ≤ t and > t.

    Best is the greatest variance between the two classes (Otsu 1979, "A threshold selection method from
    gray-level histograms"). Where a run of tones parts equally well, the lowest is taken. A histogram
    with fewer than two tones gives 127.
    """
    if np.count_nonzero(counts) < 2:
        return 127
    tones = np.arange(256)
    below = np.cumsum(counts)
    above = below[-1] - below
    sum_below = np.cumsum(counts * tones)
    with np.errstate(divide="ignore", invalid="ignore"):
        mean_below = sum_below / below
        mean_above = (sum_below[-1] - sum_below) / above
        between = below * above * (mean_below - mean_above) ** 2
    between[~np.isfinite(between)] = 0.0
    return int(np.argmax(between))
