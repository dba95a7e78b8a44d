"""Slivers of a third ink along a border of two others: dissolved where a mixture of those two explains them as well."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, U8, greatest_of
from sobercrow.core.inks.labels import Labels

THIN_PX = 1.7
"""What is nowhere further than this from its own edge may be a sliver."""
ALLOWANCE = 4.0
"""A mixture may be so much less like the pixels, in values of a channel, and still explains them as well."""
MOST_REGIONS = 20_000
RING = np.ones((3, 3), np.uint8)


def dissolve_slivers(pixels: U8, labels: Labels, colours: F64) -> bool:
    """Give slivers of a third ink to the two inks they lie between; tell whether there were any.

    `pixels` (h, w, 3) are parted into inks of `colours` (n, 3); the labels are changed. A thin region is a sliver if
    its pixels lie about as near to the way between two inks it touches as to its own colour: what a soft edge of those
    two, or the coarser colour of JPEG (ITU-T T.81, 1992), leaves. Each pixel becomes that mixture.
    """
    own, any_found = labels.own, False
    for ink in range(len(colours)):
        mask = (own == ink).astype(np.uint8)
        count, region, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=8)
        if count < 2 or count > MOST_REGIONS:
            continue
        depth = greatest_of(np.asarray(region), np.asarray(cv2.distanceTransform(mask, cv2.DIST_L2, 3)), count)
        for k in range(1, count):
            if depth[k] > THIN_PX:
                continue
            x, y, width, height = (int(v) for v in stats[k, :4])
            part = slice(max(y - 1, 0), y + height + 1), slice(max(x - 1, 0), x + width + 1)
            inside = region[part] == k
            mixture = _mixture(pixels[part], own[part], inside, ink, colours)
            if mixture is not None:
                for plane, values in zip((labels.own, labels.second, labels.share), mixture, strict=True):
                    plane[part][inside] = values
                any_found = True
    return any_found


def _mixture(
    pixels: U8, own: U8, inside: NDArray[np.bool_], ink: int, colours: F64
) -> tuple[NDArray[np.uint8], ...] | None:
    """Own and second ink and share of a region's pixels as a mixture of the inks it touches, if that explains them."""
    around = (cv2.dilate(inside.astype(np.uint8), RING) > 0) & ~inside
    touched = np.bincount(own[around], minlength=len(colours))
    touched[ink] = 0
    first, second = (int(k) for k in np.argsort(-touched, kind="stable")[:2])
    if touched[second] == 0:
        return None
    seen = pixels[inside].astype(np.float64)
    way = colours[second] - colours[first]
    share = np.clip((seen - colours[first]) @ way / max(float(way @ way), 1.0), 0.0, 1.0)
    mixed = np.abs(seen - colours[first] - share[:, None] * way).max(axis=1)
    plain = np.abs(seen - colours[ink]).max(axis=1)
    if np.mean(mixed) > np.mean(plain) + ALLOWANCE:
        return None
    upper = share >= 0.5
    held = np.rint(255.0 * np.where(upper, share, 1.0 - share)).astype(np.uint8)
    return np.where(upper, second, first).astype(np.uint8), np.where(upper, first, second).astype(np.uint8), held
