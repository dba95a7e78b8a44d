"""Undoing a slant: the sheet's four corners in a photo, and its true proportions."""

from __future__ import annotations

import math

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.settings import Corners

LEAST_FOCAL, MOST_FOCAL = 0.55, 3.5
"""Focal lengths taken for possible, in diagonals of the picture: wide angle phone to short telephoto."""


def proportions(corners: Corners, width: int, height: int) -> float:
    """Return width ÷ height of the sheet whose corners are seen in a picture of this size.

    The lens is taken to look at the middle of the picture, with square pixels. Its focal length follows from the
    two directions of the sheet being square to each other (Zhang & He 2007, "Whiteboard scanning and image
    enhancement", equations 11, 14 and 20). Where the slant is too slight to tell it, the nearest plausible one is
    taken.
    """
    middle = np.array([width / 2, height / 2])
    p = np.column_stack([np.array(corners.points) - middle, np.ones(4)])
    m1, m2, m4, m3 = p  # top left, top right, bottom right, bottom left
    k2 = np.dot(np.cross(m1, m4), m3) / np.dot(np.cross(m2, m4), m3)
    k3 = np.dot(np.cross(m1, m4), m2) / np.dot(np.cross(m3, m4), m2)
    n2, n3 = k2 * m2 - m1, k3 * m3 - m1
    focal2 = _squared_focal(n2, n3, math.hypot(width, height))
    across = n2[0] ** 2 + n2[1] ** 2 + focal2 * n2[2] ** 2
    down = n3[0] ** 2 + n3[1] ** 2 + focal2 * n3[2] ** 2
    return float(math.sqrt(across / down))


def _squared_focal(n2: F64, n3: F64, diagonal: float) -> float:
    least, most = (LEAST_FOCAL * diagonal) ** 2, (MOST_FOCAL * diagonal) ** 2
    perspective = n2[2] * n3[2]
    planar = n2[0] * n3[0] + n2[1] * n3[1]
    if perspective == 0.0:
        return most
    focal2 = -planar / perspective
    if focal2 <= 0.0:  # the corners contradict every lens: the longest one bends least
        return most
    return float(min(max(focal2, least), most))


def rectified_size(corners: Corners, width: int, height: int, ratio: float | None = None) -> tuple[int, int]:
    """Return the size in pixels of the sheet with its slant undone: as many pixels as were seen, in true proportions.

    These are `ratio`, width ÷ height, if it is known, else found from the perspective.
    """
    area = abs(polygon_area(np.array(corners.points)))
    if ratio is None:
        ratio = min(max(proportions(corners, width, height), 0.02), 50.0)
    return max(1, round(math.sqrt(area * ratio))), max(1, round(math.sqrt(area / ratio)))
