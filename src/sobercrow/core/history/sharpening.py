"""Whether a picture was sharpened, by how much and how widely: its edges then overshoot on either side."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.picture.picture import grey_of
from sobercrow.core.stopping import go_on

FLAT_STEP, LEAST_RUN_PX = 2.0, 4
"""In a flat run of at least so many pixels each is so near to the one before it."""
LEAST_CONTRAST, MOST_BETWEEN_PX = 24.0, 14
"""An edge leads from one flat run to another that is so much lighter or darker, across so many pixels at most."""
OVERSHOOT = 0.03
"""It overshoots a run by so much of its contrast at least,"""
NO_ROOM = 5.0
"""unless the run is so near to black or white."""
LEAST_EDGES, LEAST_SHARE = 60, 0.45
"""A sharpened picture has so many edges at least, and so many of them overshoot."""
CLEAR_OF_EDGES_PX, EDGE = (6.0, 8.0), 16.0
"""So far from steps so high a mask adds nothing, but compression still does:"""
MOST_DIRT = 0.025
"""of a sharpened picture's pixels there no larger share differs from those beside it."""
AMOUNTS: F64 = np.asarray(np.geomspace(0.25, 3.0, 11))
RADII_PX: F64 = np.asarray(np.geomspace(0.5, 3.4, 11))
"""The amounts and radii looked for: each 1.28 or 1.21 times the one before."""
MIDDLE = 5, 5
INVERTED = 10
"""Rounds in which a picture is led back: more give hardly another one."""
WINDOW_PX = 256
"""They are told in the part of the picture, so wide and high, that has most edges."""


@dataclass(frozen=True, slots=True)
class Sharpening:
    """An unsharp mask: `amount` times what a picture is off its own blur, of radius `radius_px`, was added to it."""

    amount: float
    radius_px: float

    def applied(self, tones: F32) -> F32:
        """Return tones (h, w) or (h, w, n) sharpened; what goes beyond 0–255 is cut off."""
        masked = tones + self.amount * (tones - self._blurred(tones))
        return np.asarray(np.clip(np.rint(masked), 0.0, 255.0), dtype=np.float32)

    def undone(self, tones: F32) -> F32:
        """Return tones before they were sharpened, nearly; what was cut off is led on.

        A fixed point of x = (y + amount · blurred x) / (1 + amount), as in van Cittert 1931.
        """
        least = np.where(tones <= 0.5, -np.inf, tones).astype(np.float32)
        most = np.where(tones >= 254.5, np.inf, tones).astype(np.float32)
        made, kept = tones, np.float32(self.amount)
        for _ in range(INVERTED):
            blurred = self._blurred(made)
            seen = np.clip(made + kept * (made - blurred), least, most)
            made = np.clip((seen + kept * blurred) / (1 + kept), 0.0, 255.0)
        return made

    def _blurred(self, tones: F32) -> NDArray[Any]:
        return np.asarray(cv2.GaussianBlur(tones, (0, 0), self.radius_px, borderType=cv2.BORDER_REPLICATE))


def find_sharpening(pixels: U8) -> Sharpening | None:
    """Tell how a picture (h, w) or (h, w, 3) was sharpened, or None if it was not.

    Amount and radius are those whose inverse leaves the fewest and sharpest steps: the least sum of the roots of its
    gradients (Krishnan & Fergus 2009, "Fast image deconvolution using hyper-Laplacian priors").
    """
    grey = grey_of(pixels).astype(np.float32)
    along = _overshooting(grey)
    go_on()
    overshooting = np.concatenate([along, _overshooting(np.ascontiguousarray(grey.T))])
    go_on()
    if len(overshooting) < LEAST_EDGES or overshooting.mean() < LEAST_SHARE or not _is_still(grey):
        return None
    part = grey[busiest(grey)]

    def roughness(sharpening: Sharpening) -> float:
        made = sharpening.undone(part)
        return float(sum(np.sqrt(np.abs(np.diff(made, axis=axis))).mean() for axis in (0, 1)))

    found = least(roughness, Sharpening(float(AMOUNTS[MIDDLE[0]]), float(RADII_PX[MIDDLE[1]])))
    return found if found.amount > AMOUNTS[0] else None  # what lies beside edges was drawn there


def least(cost: Callable[[Sharpening], float], start: Sharpening) -> Sharpening:
    """Return the sharpening of `AMOUNTS` and `RADII_PX` with the least cost, going downhill from another."""
    known: dict[tuple[int, int], float] = {}

    def asked(place: tuple[int, int]) -> float:
        if not (0 <= place[0] < len(AMOUNTS) and 0 <= place[1] < len(RADII_PX)):
            return float("inf")
        go_on()
        if place not in known:
            known[place] = cost(Sharpening(float(AMOUNTS[place[0]]), float(RADII_PX[place[1]])))
        return known[place]

    at = int(np.abs(AMOUNTS - start.amount).argmin()), int(np.abs(RADII_PX - start.radius_px).argmin())
    while True:
        beside = [(at[0] + down, at[1] + across) for down in (-1, 0, 1) for across in (-1, 0, 1)]
        best = min(beside, key=asked)
        if asked(best) >= asked(at):
            return Sharpening(float(AMOUNTS[at[0]]), float(RADII_PX[at[1]]))
        at = best


def busiest(grey: F32) -> tuple[slice, slice]:
    """Return the rows and columns of the part of a picture (h, w) that has most edges."""
    height, width = grey.shape
    tall, wide = min(height, WINDOW_PX), min(width, WINDOW_PX)
    steps = np.zeros_like(grey)
    steps[1:] += np.abs(np.diff(grey, axis=0)) > LEAST_CONTRAST
    steps[:, 1:] += np.abs(np.diff(grey, axis=1)) > LEAST_CONTRAST
    total = cv2.integral(steps)
    inside = total[tall:, wide:] - total[:-tall, wide:] - total[tall:, :-wide] + total[:-tall, :-wide]
    top, left = (int(k) for k in np.unravel_index(int(inside.argmax()), inside.shape))
    return slice(top, top + tall), slice(left, left + wide)


def _is_still(grey: F32) -> bool:
    """Tell whether a picture is flat beyond the reach of a mask: compression leaves waves in the whole of a block."""
    steps = np.zeros(grey.shape, dtype=np.float32)
    steps[1:] = np.abs(np.diff(grey, axis=0))
    steps[:, 1:] = np.maximum(steps[:, 1:], np.abs(np.diff(grey, axis=1)))
    away = cv2.distanceTransform((steps <= EDGE).astype(np.uint8), cv2.DIST_L2, 5)
    beyond = (away >= CLEAR_OF_EDGES_PX[0]) & (away <= CLEAR_OF_EDGES_PX[1])
    return not beyond.any() or float((steps[beyond] > 0.0).mean()) <= MOST_DIRT


def _overshooting(grey: F32) -> NDArray[np.bool_]:
    """Which edges along the rows of a picture overshoot, one for each pair of flat runs they lie between."""
    flat = np.zeros((grey.shape[0], grey.shape[1] + 1), dtype=np.int8)
    flat[:, 1:-1] = np.abs(np.diff(grey, axis=1)) <= FLAT_STEP
    turns = np.diff(flat.ravel(), append=0)
    starts, ends = np.flatnonzero(turns == 1), np.flatnonzero(turns == -1) + 1  # in rows one pixel longer
    long = ends - starts >= LEAST_RUN_PX
    starts, ends = starts[long], ends[long]
    tones = np.pad(grey, ((0, 0), (0, 1)), mode="edge").ravel()
    gap = starts[1:] - ends[:-1]
    same_row = starts[1:] // flat.shape[1] == (ends[:-1] - 1) // flat.shape[1]
    near = (gap <= MOST_BETWEEN_PX) & same_row
    before, after = ends[:-1][near] - LEAST_RUN_PX // 2, starts[1:][near] + LEAST_RUN_PX // 2
    first, second = tones[before], tones[after]
    apart = np.abs(second - first) >= LEAST_CONTRAST
    before, after, first, second = (values[apart] for values in (before, after, first, second))
    between = np.arange(MOST_BETWEEN_PX + 2 * LEAST_RUN_PX)[None] + before[:, None]
    seen = tones[np.minimum(between, after[:, None])]
    rising = np.where(second > first, 1.0, -1.0)[:, None]
    over = np.array([((first[:, None] - seen) * rising).max(axis=1), ((seen - second[:, None]) * rising).max(axis=1)])
    ends_at = np.array(
        [np.where(second > first, first, 255.0 - first), np.where(second > first, 255.0 - second, second)]
    )
    room = ends_at > NO_ROOM
    reaches = over >= OVERSHOOT * np.abs(second - first)
    return np.asarray((reaches | ~room).all(axis=0)[room.any(axis=0)])
