"""What kind of artwork a picture is, to suggest a recipe."""

from __future__ import annotations

import cv2
import numpy as np

from sobercrow.core.inks.separation import OneInk, Separation
from sobercrow.core.settings import px_to_mm
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
BROAD_MM = 1.1
"""Strokes wider than this were made with a brush."""
WIDE_PARTS = 0.3
"""A drawing has parts as large as this share of its width and height; letters are many and small."""
LEAST_PART = 0.002


def suggested_recipe(separation: Separation, reduction: float = 1.0) -> Recipe:
    """Return the recipe that suits a separation best; `reduction` is how much smaller than at full scale it is."""
    if not isinstance(separation, OneInk):
        return PAINTED_PICTURE if separation.colours.shaded else FLAT_MARK
    ink = (separation.own == 0).astype(np.uint8)
    count, _, stats, _ = cv2.connectedComponentsWithStats(ink, connectivity=8)
    parts = stats[1:count]
    if not len(parts):
        return INKED_DRAWING
    if float(separation.grey[ink > 0].mean()) > PALE_INK:
        return PENCIL_SKETCH
    rows, columns = np.nonzero(ink)
    size = np.array([np.ptp(columns) + 1, np.ptp(rows) + 1])
    largest = (parts[:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]] / size).min(axis=1).max()
    if largest > WIDE_PARTS:
        return INKED_DRAWING
    lines, _ = cv2.findContours(ink, cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)
    around = sum(cv2.arcLength(line, True) for line in lines)
    width_mm = px_to_mm(2.0 * float(ink.sum()) / max(around, 1.0) * reduction, separation.dpi)
    return BRUSH_LETTERING if width_mm > BROAD_MM else PEN_LETTERING
