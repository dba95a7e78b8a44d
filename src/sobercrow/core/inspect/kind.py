"""What kind of artwork a picture is, to suggest a recipe."""

from __future__ import annotations

import cv2
import numpy as np

from sobercrow.core.arrays import U8
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

PALE_INK = 22.0
"""Strokes that in their middle, in the cleaned picture, are lighter than this were drawn in pencil."""
BROAD_MM = 1.1
"""Strokes wider than this were made with a brush."""
INNER_PX = 2.0
MIDDLE = 80.0
"""So many per cent of a stroke's pixels lie nearer to its edge than what counts as its middle."""
WIDE_PARTS = 0.3
"""A drawing has parts as large as this share of its width and height; letters are many and small."""
LEAST_PART = 0.002


def suggested_recipe(separation: Separation, reduction: float = 1.0, digital: bool = False) -> Recipe:
    """Return the recipe that suits a separation best; `reduction` is how much smaller than at full scale it is.

    A `digital` graphic was drawn neither in pencil nor with a brush.
    """
    if not isinstance(separation, OneInk):
        return PAINTED_PICTURE if separation.colours.shaded else FLAT_MARK
    ink = (separation.own == 0).astype(np.uint8)
    count, _, stats, _ = cv2.connectedComponentsWithStats(ink, connectivity=8)
    parts = stats[1:count]
    if not len(parts):
        return INKED_DRAWING
    if not digital and _is_pale(separation.grey, ink):
        return PENCIL_SKETCH
    rows, columns = np.nonzero(ink)
    size = np.array([np.ptp(columns) + 1, np.ptp(rows) + 1])
    largest = (parts[:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]] / size).min(axis=1).max()
    if largest > WIDE_PARTS:
        return INKED_DRAWING
    lines, _ = cv2.findContours(ink, cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)
    around = sum(cv2.arcLength(line, True) for line in lines)
    width_mm = px_to_mm(2.0 * float(ink.sum()) / max(around, 1.0) * reduction, separation.dpi)
    return BRUSH_LETTERING if width_mm > BROAD_MM and not digital else PEN_LETTERING


def _is_pale(grey: U8, ink: U8) -> bool:
    """Tell whether strokes are pale in their middle, where neither their edges' softness nor paper counts."""
    away = cv2.distanceTransform(ink, cv2.DIST_L2, 3)
    middle = away >= max(INNER_PX, float(np.percentile(away[ink > 0], MIDDLE)))
    return bool(middle.any()) and float(np.median(grey[middle])) > PALE_INK
