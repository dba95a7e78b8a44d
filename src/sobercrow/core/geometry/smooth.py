"""Smoothing of numbers along a line."""

from __future__ import annotations

import math
from enum import StrEnum

import numpy as np

from sobercrow.core.arrays import F64


class Beyond(StrEnum):
    """What lies beyond the ends of a line while it is smoothed."""

    ROUND = "wrap"
    LAST = "edge"
    MIRRORED = "symmetric"


def smoothed(values: F64, sigma: float, beyond: Beyond) -> F64:
    """Return values (n, ...) smoothed along their first axis by a Gaussian bell that wide, in steps.

    The bell is cut off at four times its width and sums to one.
    """
    reach = math.ceil(4.0 * sigma)
    bell = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    padded = np.pad(values, [(reach, reach)] + [(0, 0)] * (values.ndim - 1), mode=beyond.value)
    columns = padded.reshape(len(padded), -1)
    mixed = np.stack([np.convolve(column, bell / bell.sum(), mode="valid") for column in columns.T], axis=-1)
    return np.asarray(mixed.reshape(values.shape))
