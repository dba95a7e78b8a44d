"""A band along a curve unrolled to a straight strip, and what became of the strip done to the band."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, U8, following, preceding
from sobercrow.core.geometry.forms import Ellipse, in_place
from sobercrow.core.strokes.strokes import evenly_spaced, tree_of
from sobercrow.core.strokes.working_forms import Freehand

STEPS = 2048
MARGIN_PX = 5
"""The strip is so much wider on both sides than what is changed."""
OVERLAP_PX = 64
"""The strip of a closed curve goes on so far beyond where it began, at both ends."""
BEYOND_PX = 4
"""That of an open one goes on straight beyond its ends."""
LONGEST_PX = 30_000
"""Curves are no longer than what OpenCV can lay in a row."""


@dataclass(frozen=True, slots=True, eq=False)
class Way:
    """A way along a curve.

    Attributes
    ----------
    places : (n, 2) float64
        Places about a pixel apart; of a closed curve from before its first to after its last.
    across : (n, 2) float64
        Unit vectors across it.
    half : int
        How far from it pixels are changed.
    """

    places: F64
    across: F64
    half: int

    @property
    def _wide(self) -> int:
        return self.half + MARGIN_PX

    def unrolled(self, grey: U8) -> U8:
        """Return the tones of a sheet (h, w) beside the way as a strip, its middle row along the way."""
        away = np.arange(-self._wide, self._wide + 1)[:, None, None]
        x, y = np.moveaxis(self.places + away * self.across - 0.5, 2, 0).astype(np.float32)
        return np.asarray(cv2.remap(grey, x, y, cv2.INTER_LINEAR, None, cv2.BORDER_REPLICATE), dtype=np.uint8)

    def keep(self, planes: U8, kept: F32, paper: float) -> None:
        """Leave of the darkness of pixels (h, w, c) beside the way what a strip says is kept there, in place."""
        low = np.maximum(np.floor(self.places.min(axis=0) - self.half - 1.0), 0).astype(int)
        high = np.ceil(self.places.max(axis=0) + self.half + 1.0).astype(int)
        part = planes[low[1] : max(high[1], 0), low[0] : max(high[0], 0)]
        if not part.size:
            return
        band = np.zeros(part.shape[:2], np.uint8)
        cv2.polylines(band, [np.rint(self.places - low).astype(np.int32)], False, 1, 2 * self.half + 3)
        rows, columns = np.nonzero(band)
        pixels = np.column_stack([columns, rows]) + low + 0.5
        nearest = np.asarray(tree_of(self.places).query(pixels)[1])
        off, across = pixels - self.places[nearest], self.across[nearest]
        away = (off * across).sum(axis=1)
        along = off[:, 0] * across[:, 1] - off[:, 1] * across[:, 0]
        # what is nearest to an end but lies beyond it is no part of the band
        inside = (np.abs(away) < self.half) & (np.abs(along) <= 1.0)
        rows, columns = rows[inside], columns[inside]
        share = _read(kept, nearest[inside] + along[inside], away[inside] + self._wide)
        tones = part[rows, columns].astype(np.float32)
        part[rows, columns] = np.clip(np.rint(paper - (paper - tones) * share[:, None]), 0, 255).astype(np.uint8)


def way_along(form: Ellipse | Freehand, half: int) -> Way:
    """Return the way along a curve, of which pixels up to `half` beside it will be changed."""
    if isinstance(form, Freehand):
        places = evenly_spaced(form.points, max(1.0, len(form.points) / LONGEST_PX))
        along = np.gradient(places, axis=0)
        (first, last), (back, on) = places[[0, -1]], along[[0, -1]] / np.hypot(*along[[0, -1]].T)[:, None]
        further = np.arange(1.0, BEYOND_PX + 1.0)[:, None]
        places = np.concatenate([first - further[::-1] * back, places, last + further * on])
        along = np.gradient(places, axis=0)
    else:
        t = np.linspace(0.0, 2.0 * math.pi, STEPS)
        ring = in_place(np.column_stack([form.rx * np.cos(t), form.ry * np.sin(t)]), form)
        around = math.pi * (form.rx + form.ry)
        places = evenly_spaced(ring, max(1.0, around / LONGEST_PX))[:-1]
        along = following(places) - preceding(places)
        rows = np.arange(-OVERLAP_PX, len(places) + OVERLAP_PX) % len(places)
        places, along = places[rows], along[rows]
    along /= np.hypot(*along.T)[:, None]
    return Way(places, np.column_stack([-along[:, 1], along[:, 0]]), half)


def _read(values: F32, x: F64, y: F64) -> F32:
    """Values (h, w) at places (n,) between pixels."""
    low_x, low_y = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    left, top = np.clip(low_x, 0, values.shape[1] - 2), np.clip(low_y, 0, values.shape[0] - 2)
    right, down = np.clip(x - left, 0.0, 1.0), np.clip(y - top, 0.0, 1.0)
    above = values[top, left] * (1.0 - right) + values[top, left + 1] * right
    below = values[top + 1, left] * (1.0 - right) + values[top + 1, left + 1] * right
    return np.asarray(above * (1.0 - down) + below * down, dtype=np.float32)
