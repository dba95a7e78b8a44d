"""The colours of a digital graphic: those its flat places have, as they are in the file."""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np

from sobercrow.core.arrays import F64, I64, U8, greatest_of

LEAST_PX, LEAST_SHARE = 5, 0.0004
MOST = 24
REACH_PX = 4
"""So far apart are pixels of a compressed picture that are gathered."""
CHROMA_WEIGHT = 0.7
CORE_PX = 2.0
"""Nearer to a place's edge than this its colour is blurred."""


class _Look(NamedTuple):
    """One look at a compressed picture: pixels no further apart in luma and chroma than `range` are gathered.

    Places are at least `least_px` large and `inner_px` from edge to middle; those of colours nearer than `apart` are
    one.
    """

    range: float
    inner_px: float
    least_px: int
    apart: float


LOOKS = _Look(7.0, 3.0, 100, 5.0), _Look(16.0, 2.0, 25, 6.0)
"""Large places are told apart by small differences, small ones only by what ringing does not reach."""


def flat_colours(pixels: U8, compressed: bool) -> F64:
    """Return the colours, (n, 3), that flat places of a digital graphic (h, w, 3) have, the commonest first.

    A clean one has them to the last bit wherever 3 × 3 pixels are alike; soft edges have no such place, so that
    mixtures are not among them. In a compressed one they are the medians of what mean shift makes even (Comaniciu &
    Meer 2002, "Mean shift: a robust approach toward feature space analysis").
    """
    if compressed:
        return _places(pixels)
    flat = _span(pixels) == 0
    keys = pixels[flat].astype(np.int64) @ np.array([65536, 256, 1])
    values, counts = np.unique(keys, return_counts=True)
    order = np.argsort(-counts, kind="stable")
    kept = values[order][counts[order] >= max(LEAST_PX, LEAST_SHARE * flat.size)][:MOST]
    return np.stack([kept >> 16, kept >> 8 & 255, kept & 255], axis=1).astype(np.float64)


def _places(pixels: U8) -> F64:
    """The colours of places in a compressed picture, those of large places first."""
    luma_chroma: U8 = np.asarray(cv2.cvtColor(pixels, cv2.COLOR_RGB2YCrCb), dtype=np.uint8)
    weights = np.array([1.0, CHROMA_WEIGHT, CHROMA_WEIGHT])
    found: list[F64] = []
    kept: list[F64] = []
    for look in LOOKS:
        for place in _gathered(luma_chroma, look):
            seen = np.median(luma_chroma[place], axis=0) * weights
            if all(np.linalg.norm(seen - other) >= look.apart for other in kept):
                kept.append(seen)
                found.append(np.median(pixels[place], axis=0))
    return np.array(found[:MOST]).reshape(-1, 3)


def _span(pixels: U8) -> U8:
    """By how much the channel that differs most does so within 3 × 3 pixels, (h, w)."""
    planes = [np.ascontiguousarray(pixels[..., channel]) for channel in range(3)]
    spans = [cv2.morphologyEx(plane, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) for plane in planes]
    return np.asarray(np.max(spans, axis=0), dtype=np.uint8)


def _gathered(luma_chroma: U8, look: _Look) -> list[tuple[I64, ...]]:
    """The inner pixels (rows, columns) of the even places there are, those of the largest first."""
    even = cv2.pyrMeanShiftFiltering(luma_chroma, REACH_PX, look.range, maxLevel=0)
    flat = (_span(np.asarray(even, dtype=np.uint8)) <= min(6.0, 0.5 * look.range)).astype(np.uint8)
    away = cv2.distanceTransform(np.pad(flat, 1), cv2.DIST_L2, 5)[1:-1, 1:-1]
    count, place, stats, _ = cv2.connectedComponentsWithStats(flat, connectivity=4)
    furthest = greatest_of(np.asarray(place), away, count)
    sizes = stats[:, cv2.CC_STAT_AREA]
    large = [k for k in range(1, count) if sizes[k] >= look.least_px and furthest[k] >= look.inner_px]
    inner = away >= np.minimum(furthest, CORE_PX)[place]
    return [np.nonzero((place == k) & inner) for k in sorted(large, key=lambda k: -sizes[k])]
