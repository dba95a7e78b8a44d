"""Tones of a picture: histogram and threshold."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64, U8


def histogram(grey: U8) -> F64:
    """Return how many pixels have each tone, (256,) float64."""
    return np.bincount(grey.ravel(), minlength=256).astype(np.float64)


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
