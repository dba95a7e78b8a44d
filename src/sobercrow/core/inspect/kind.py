"""What kind of artwork a picture is, to suggest a recipe."""

from __future__ import annotations

import cv2
import numpy as np

from sobercrow.core.inks.separation import OneInk, Separation
from sobercrow.core.settings.recipes import (
    BRUSH_LETTERING,
    FLAT_MARK,
    INKED_DRAWING,
    PAINTED_PICTURE,
    PEN_LETTERING,
    PENCIL_SKETCH,
    Recipe,
)

PALE_INK = 48.0
"""Strokes whose usual tone, of the cleaned picture, is lighter than this are pencil."""
BROAD_MM = 0.58
"""Strokes wider than this were made with a brush."""
WIDE_PARTS = 0.3
"""A drawing has parts as large as this share of its width and height; letters are many and small."""
LEAST_PART = 0.002


def suggested_recipe(separation: Separation) -> Recipe:
    """Return the recipe that suits a separation best."""
    if not isinstance(separation, OneInk):
        return PAINTED_PICTURE if separation.colours.shaded else FLAT_MARK
    ink = (separation.own == 0).astype(np.uint8)
    count, _, stats, _ = cv2.connectedComponentsWithStats(ink, connectivity=8)
    parts = stats[1:count]
    if not len(parts):
        return INKED_DRAWING
    edge = float((separation.grey[ink > 0].astype(np.float64)).mean())
    if edge > PALE_INK:
        return PENCIL_SKETCH
    rows, columns = np.nonzero(ink)
    size = np.array([np.ptp(columns) + 1, np.ptp(rows) + 1])
    largest = (parts[:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]] / size).min(axis=1).max()
    if largest > WIDE_PARTS:
        return INKED_DRAWING
    away = cv2.distanceTransform(ink, cv2.DIST_L2, 3)
    ridge = (away >= cv2.dilate(away, np.ones((3, 3), np.uint8)) - 1e-3) & (ink > 0)
    width_mm = 2.0 * float(np.median(away[ridge])) * 25.4 / separation.dpi
    return BRUSH_LETTERING if width_mm > BROAD_MM else PEN_LETTERING
