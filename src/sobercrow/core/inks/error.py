"""How unlike the picture its separation is."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.inks.colour import lab_of, pairwise_ciede2000, rgb_of_hex
from sobercrow.core.settings import Ink

MOST_PIXELS = 400_000


def colour_error(pixels: U8, own: U8, inks: tuple[Ink, ...]) -> F32:
    """Return how unlike every pixel of (h, w, 3) is to its ink, ΔE00, (h, w); of large pictures every n-th pixel.

    Colours are compared to within four sRGB values.
    """
    every = max(1, int(np.ceil((own.size / MOST_PIXELS) ** 0.5)))
    sample, owner = pixels[::every, ::every].astype(np.int64), own[::every, ::every].astype(np.int64)
    cell = (((sample[..., 0] >> 3) << 10) | ((sample[..., 1] >> 3) << 5) | (sample[..., 2] >> 3)) * len(inks) + owner
    met, where = np.unique(cell, return_inverse=True)
    cells, which = met // len(inks), met % len(inks)
    middle: F64 = np.stack([cells >> 10, (cells >> 5) & 31, cells & 31], axis=1) * 8.0 + 3.5
    drawn = lab_of(np.array([rgb_of_hex(ink.colour) for ink in inks], dtype=np.float64))
    away = pairwise_ciede2000(lab_of(middle), drawn)
    return np.asarray(away[np.arange(len(met)), which][where.reshape(owner.shape)], dtype=np.float32)
