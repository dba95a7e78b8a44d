"""The angle by which a sheet is turned: from lines of writing and from straight lines."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.cleanup._angle_kernels import projection_scores
from sobercrow.core.picture.picture import coarse
from sobercrow.core.picture.tones import histogram, otsu

MOST_ANGLE_DEG = 15.0
WORKING_PX = 2000
COARSE_STEP_DEG = 0.25
FINE_STEP_DEG = 0.02
NEAR_NORMAL_DEG = 12.0
"""An edge counts for a direction if its own is within this of it."""
CLEAR_LEVEL, CLEAR_UPRIGHT = 2.5, 5.0
"""Least height of the best angle's score over the usual one, for level and for upright edges."""
LONG_LINE = 0.3
"""Least length of an upright line, as a share of the drawing's longer side."""


@dataclass(frozen=True, slots=True)
class Turned:
    """By how much the sheet must be turned clockwise to stand straight, and how clear that is (1: not at all)."""

    angle_deg: float
    clearness: float


def find_turn(grey: U8) -> Turned | None:
    """Return by how much a sheet is turned, within ±15°, or None where nothing level or upright is found.

    Edge points whose own direction is near enough are projected on each candidate direction; in the right one
    they pile up in few places (after Postl 1986, "Detection of linear oblique structures and skew scan in digitized
    documents"). Level is preferred to upright, since the stems of sloped writing stand at a slant of their own.
    """
    points, directions = _edge_points(grey)
    if len(points) < 40:
        return None
    level = _best_angle(points, directions, upright=False)
    if level is not None and level.clearness >= CLEAR_LEVEL:
        return level
    upright = _best_angle(points, directions, upright=True)
    if upright is None or upright.clearness < CLEAR_UPRIGHT:
        return None
    # the stems of sloped writing are many and short; a line that should be upright is long
    extent = float(np.ptp(points, axis=0).max())
    return upright if _longest_line(points, directions, upright) >= LONG_LINE * extent else None


def _longest_line(points: F64, directions: F64, upright: Turned) -> float:
    """How many edge points the fullest line of the upright direction holds, about its length in pixels."""
    angle = np.radians(90.0 - upright.angle_deg)
    own = np.abs((directions - np.degrees(angle) + 90.0) % 180.0 - 90.0) < 4.0
    across = points[own, 0] * np.sin(angle) - points[own, 1] * np.cos(angle)
    return (
        float(np.bincount(np.rint((across - across.min()) / 2.0).astype(np.int64)).max(initial=0)) if own.any() else 0.0
    )


def _edge_points(grey: U8) -> tuple[F64, F64]:
    """Points (n, 2) about the middle on the edges of the ink, and the directions of the edges in degrees."""
    small = coarse(grey, -(-max(grey.shape) // WORKING_PX))
    soft = cv2.GaussianBlur(small, (0, 0), 1.0)
    gx, gy = cv2.Sobel(soft, cv2.CV_32F, 1, 0), cv2.Sobel(soft, cv2.CV_32F, 0, 1)
    size_of = cv2.magnitude(gx, gy)
    counts = histogram(small)
    split = otsu(counts)
    tones = np.arange(256)
    ink = (counts * tones)[: split + 1].sum() / max(counts[: split + 1].sum(), 1)
    paper = (counts * tones)[split + 1 :].sum() / max(counts[split + 1 :].sum(), 1)
    inner = np.zeros(small.shape, dtype=bool)
    inner[3:-3, 3:-3] = True
    rows, columns = np.nonzero((size_of > 0.8 * max(paper - ink, 12.0)) & inner)
    middle = np.array([small.shape[1] / 2, small.shape[0] / 2])
    points = np.column_stack([columns + 0.5, rows + 0.5]) - middle
    normal = np.degrees(np.arctan2(gy[rows, columns], gx[rows, columns]))
    directions = (normal + 90.0 + 90.0) % 180.0 - 90.0  # of the edge itself, −90° to 90°
    return np.asarray(points, dtype=np.float64), np.asarray(directions, dtype=np.float64)


def _best_angle(points: F64, directions: F64, upright: bool) -> Turned | None:
    if upright:  # turn the world by a quarter, so that upright edges become level ones
        points = np.column_stack([points[:, 1], -points[:, 0]])
        directions = (directions - 90.0 + 90.0) % 180.0 - 90.0
    near = np.abs(directions) < MOST_ANGLE_DEG + NEAR_NORMAL_DEG
    points, directions = np.ascontiguousarray(points[near]), np.ascontiguousarray(directions[near])
    if len(points) < 30:
        return None
    coarse = np.arange(-MOST_ANGLE_DEG - 1, MOST_ANGLE_DEG + 1 + 1e-9, COARSE_STEP_DEG)
    scores = projection_scores(points, directions, np.radians(coarse), NEAR_NORMAL_DEG)
    peak = int(np.argmax(scores))
    usual = float(np.median(scores))
    if usual <= 0.0 or not abs(coarse[peak]) <= MOST_ANGLE_DEG + 0.5:
        return None
    fine = coarse[peak] + np.arange(-1.5 * COARSE_STEP_DEG, 1.5 * COARSE_STEP_DEG + 1e-9, FINE_STEP_DEG)
    close = projection_scores(points, directions, np.radians(fine), NEAR_NORMAL_DEG)
    # the middle of what is nearly the best: steadier than the single best angle
    good = close > close.max() - 0.35 * (close.max() - min(close.min(), usual))
    angle = float(np.average(fine[good], weights=close[good] - close[good].min() + 1e-9))
    return Turned(-angle, float(scores[peak]) / usual)
