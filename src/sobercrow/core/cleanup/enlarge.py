"""Making a small picture larger with keen edges."""

from __future__ import annotations

import cv2
import numpy as np

from sobercrow.core.arrays import U8

SUGGESTED_BELOW_PX = 400
"""A picture whose longer side is shorter than this is worth enlarging."""
WORTH_PX = 800
"""Enlarging is suggested up to about this length."""


def suggested_factor(width: int, height: int) -> int:
    """Return the factor suggested for a picture: 1 from 400 px on, else what brings it to about 800 px, 2–8."""
    longest = max(width, height)
    if longest >= SUGGESTED_BELOW_PX:
        return 1
    return int(min(max(round(WORTH_PX / longest), 2), 8))


def enlarge(pixels: U8, width: int, height: int) -> U8:
    """Return pixels, (h, w) or (h, w, 3), at a larger size with edges as keen as they were, counted in new pixels.

    Between the old pixels tones follow windowed sinc waves (Duchon 1979, "Lanczos filtering in one and two
    dimensions"). Then each tone is pushed towards the darkest or the brightest near it, by an S-shaped curve that
    leaves the middle where it is: so an edge becomes steeper but does not move (after the shock filters of Osher &
    Rudin 1990), and no halo can rise above what is near.
    """
    factor = max(width / pixels.shape[1], height / pixels.shape[0])
    if factor <= 1.0:
        return pixels
    large = cv2.resize(pixels, (width, height), interpolation=cv2.INTER_LANCZOS4)
    reach = 2 * max(1, round(0.8 * factor)) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach))
    # what lies near is read from the old pixels, so that the waves' own overshoot does not count
    flat = cv2.resize(pixels, (width, height), interpolation=cv2.INTER_LINEAR)
    low = cv2.erode(flat, disc).astype(np.float32)
    span = cv2.dilate(flat, disc).astype(np.float32) - low
    share = np.clip((large - low) / np.maximum(span, 1.0), 0.0, 1.0)
    steep = share * share * (3.0 - 2.0 * share)
    keen = np.minimum(span / 32.0, 1.0)  # faint unrest is not made into edges
    pushed = share + keen * (steep - share)
    return np.asarray(np.clip(np.rint(low + pushed * span), 0, 255), dtype=np.uint8)
