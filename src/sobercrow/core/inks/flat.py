"""The colours of a digital graphic: those its flat places have, as they are in the file."""

from __future__ import annotations

import cv2
import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.picture.tones import colour_cells

LEAST_PX, LEAST_SHARE = 5, 0.0004
MOST = 24
SOFT = 12
"""Channels that differ by more than this within 3 × 3 pixels lie on an edge."""
RINGING_PX, STIR = 3.0, 4
"""Compressed flat places, beyond the reach of ringing, waver by so much at most."""
LARGE_SHARE, LARGE_PX = 0.012, 60
CELL, ALIKE = 4, 6.0
"""Colours of a compressed picture whose channels differ by no more than this are one."""


def flat_colours(pixels: U8, compressed: bool) -> F64:
    """Return the colours, (n, 3), that flat places of a digital graphic (h, w, 3) have, the commonest first.

    A clean one has them to the last bit wherever 3 × 3 pixels are alike; soft edges have no such place, so that
    mixtures are not among them. In a compressed one they are the medians of its large flat places.
    """
    span = np.zeros(pixels.shape[:2], dtype=np.uint8)
    for channel in range(3):
        plane = np.ascontiguousarray(pixels[..., channel])
        span = np.maximum(span, cv2.morphologyEx(plane, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)))
    if compressed:
        away = cv2.distanceTransform((span <= SOFT).astype(np.uint8), cv2.DIST_L2, 3)
        calm = (away > RINGING_PX) & (span <= STIR)
        return _large(pixels[calm], max(LARGE_PX, LARGE_SHARE * span.size))
    flat = span == 0
    keys = pixels[flat].astype(np.int64) @ np.array([65536, 256, 1])
    values, counts = np.unique(keys, return_counts=True)
    order = np.argsort(-counts, kind="stable")
    kept = values[order][counts[order] >= max(LEAST_PX, LEAST_SHARE * flat.size)][:MOST]
    return np.stack([kept >> 16, kept >> 8 & 255, kept & 255], axis=1).astype(np.float64)


def _large(colours: U8, least: float) -> F64:
    """The medians of crowds of colours (n, 3) that are at least so large, the largest first."""
    means, counts, own = colour_cells(colours, CELL)
    free = np.ones(len(means), dtype=bool)
    found: list[F64] = []
    for k in np.argsort(-counts, kind="stable"):
        near = free & (np.abs(means - means[k]).max(axis=1) <= ALIKE)
        if not free[k] or counts[near].sum() < least:
            continue
        free &= np.abs(means - means[k]).max(axis=1) > 1.5 * ALIKE
        found.append(np.median(colours[near[own]], axis=0))
    return np.array(found).reshape(-1, 3)[:MOST]
