"""The colours of a clean digital graphic: those its flat places have, as they are in the file."""

from __future__ import annotations

import cv2
import numpy as np

from sobercrow.core.arrays import F64, U8

LEAST_PX, LEAST_SHARE = 5, 0.0004
MOST = 24


def flat_colours(pixels: U8) -> F64:
    """Return the colours, (n, 3), that a picture (h, w, 3) has wherever 3 × 3 pixels are alike, the commonest first.

    Soft edges have no such place, so that mixtures are not among them.
    """
    flat = np.ones(pixels.shape[:2], dtype=bool)
    for channel in range(3):
        plane = np.ascontiguousarray(pixels[..., channel])
        flat &= cv2.morphologyEx(plane, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) == 0
    keys = pixels[flat].astype(np.int64) @ np.array([65536, 256, 1])
    values, counts = np.unique(keys, return_counts=True)
    order = np.argsort(-counts, kind="stable")
    kept = values[order][counts[order] >= max(LEAST_PX, LEAST_SHARE * flat.size)][:MOST]
    return np.stack([kept >> 16, kept >> 8 & 255, kept & 255], axis=1).astype(np.float64)
