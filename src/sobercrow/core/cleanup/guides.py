"""Guide lines: straight lines and circles paler than the ink, found and taken out where there is no ink."""

from __future__ import annotations

import math
import warnings
from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.cleanup._guide_kernels import lift_line, read_profiles
from sobercrow.core.cleanup.round_guides import RoundGuide, find_rounds, lift_round, tone_along
from sobercrow.core.geometry.polygon import line_through
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.picture.picture import coarse
from sobercrow.core.settings import Point

WORKING_PX = 1100
LEAST_LENGTH = 0.1
"""A guide line runs over at least this share of the sheet's longer side."""
FAINTEST = 0.05
"""Least darkness of a guide line, as a share of the ink's."""
BESIDE_INK_PX = 3
WIDEST_PX = 9
"""A guide line is narrower than this, in pixels of the working picture."""
HALF_BAND_PX = 9
"""A line is read and taken out up to this far from its middle."""
WINDOW_PX = 48
MOST_VAIN_TRIES = 4
"""So many candidates in a row that prove no lines end the search."""
LEAST_VOTES = 24
VOTES = 0.45
"""Share of the least length of a line that must be seen between the ink."""
WIDEST_GAP = 0.16
"""Ink may hide a line over so much of the sheet's longer side at a stretch."""


@dataclass(frozen=True, slots=True)
class Guide:
    """A guide line from one end to the other, in pixels of the sheet; its darkness as a share of the ink's, 0–1."""

    start: Point
    end: Point
    darkness: float


def find_guides(grey: U8, paper: float, ink: float, palest: float = 0.6) -> tuple[Guide | RoundGuide, ...]:
    """Return the lines and circles of a sheet (h, w) that are paler than `palest`, a share of the ink's darkness.

    Pixels of such a tone away from the ink vote for lines (Duda & Hart 1972, "Use of the Hough transformation to
    detect lines and curves in pictures"); each line is then fitted to its pixels, and kept if it is darker than both
    its sides.
    """
    contrast = paper - ink
    if contrast < 16.0:
        return ()
    factor = -(-max(grey.shape) // WORKING_PX)
    small = coarse(grey, factor)
    size = small.shape[1], small.shape[0]
    dark: F32 = np.float32(paper) - small.astype(np.float32)
    strong = (dark > palest * contrast).astype(np.uint8)
    wide = 2 * BESIDE_INK_PX + 1
    beside: U8 = np.asarray(cv2.dilate(strong, np.ones((wide, wide), np.uint8)), dtype=np.uint8)
    # a line is darker than what lies a few pixels off on both sides; a shade is not
    around = cv2.morphologyEx(small, cv2.MORPH_CLOSE, np.ones((WIDEST_PX, WIDEST_PX), np.uint8)).astype(np.float32)
    noise = 1.4826 * float(np.median(np.abs(dark[beside == 0]))) if (beside == 0).any() else 0.0
    least = max(0.5 * FAINTEST * contrast, 3.0 * noise)
    pale = ((around - small > least) & (dark > least) & (beside == 0)).astype(np.uint8)
    length = LEAST_LENGTH * max(size)
    # circles first, lest straight lines be found along them; then again what hung together with straight lines
    look = partial(find_rounds, pale, dark, beside, contrast, least, palest, float(factor))
    found: list[Guide | RoundGuide] = [*look()]
    vain = 0
    while vain < MOST_VAIN_TRIES:  # the clearest line first; its pixels are then out of the way
        votes = cv2.HoughLines(pale, 1.5, math.pi / 720, max(round(VOTES * length), LEAST_VOTES))
        if votes is None:
            break
        rho, theta = np.asarray(votes, dtype=np.float64).reshape(-1, 2)[0]
        a, b = _across(float(rho), float(theta), size)
        rows, columns = np.nonzero(pale)
        fitted = _fitted(np.column_stack([columns + 0.5, rows + 0.5]), a, b, WIDEST_GAP * max(size) + 12)
        vain += 1
        if fitted is not None:
            a, b = fitted
            tone = _darkness(dark, beside, a, b, least) / contrast
            if np.hypot(*(b - a)) >= length and 0.5 * FAINTEST <= tone <= palest:
                (x0, y0), (x1, y1) = (a * factor).tolist(), (b * factor).tolist()
                found.append(Guide((x0, y0), (x1, y1), float(tone)))
                vain = 0
        ends = [(round(16 * float(x - 0.5)), round(16 * float(y - 0.5))) for x, y in (a, b)]
        cv2.line(pale, ends[0], ends[1], 0, WIDEST_PX - 2, cv2.LINE_8, 4)
    return (*found, *look())


def _across(rho: float, theta: float, size: tuple[int, int]) -> tuple[F64, F64]:
    """Two points far out on a line given as Hough's transform gives it."""
    foot = rho * np.array([math.cos(theta), math.sin(theta)]) + 0.5
    along = np.array([-math.sin(theta), math.cos(theta)]) * (size[0] + size[1])
    return foot - along, foot + along


def _fitted(points: F64, a: F64, b: F64, most_gap: float) -> tuple[F64, F64] | None:
    """The line through the pale pixels near a–b by total least squares, where none of their gaps is too wide."""
    for reach in (3.0, 2.0):
        along = (b - a) / np.hypot(*(b - a))
        off = along[0] * (points[:, 1] - a[1]) - along[1] * (points[:, 0] - a[0])
        near = points[np.abs(off) < reach]
        if len(near) < 16:
            return None
        place = near @ along
        order = np.argsort(place)
        parts = np.split(order, np.flatnonzero(np.diff(place[order]) > most_gap) + 1)
        near = near[max(parts, key=len)]
        if len(near) < 16:
            return None
        middle, direction = line_through(near, along)
        ends = np.sort((near - middle) @ direction)
        a, b = middle + ends[1] * direction, middle + ends[-2] * direction
    return a, b


def _darkness(dark: F32, beside: U8, a: F64, b: F64, least: float) -> float:
    """The usual darkness along a line where there is no ink; 0 if it is no darker than what lies on both sides."""
    count = max(8, int(np.hypot(*(b - a))))
    at = a + np.linspace(0, 1, count)[:, None] * (b - a)
    normal = np.array([a[1] - b[1], b[0] - a[0]]) / np.hypot(*(b - a))

    def read(off: float) -> tuple[F64, np.ndarray]:
        x = np.clip((at[:, 0] + off * normal[0]).astype(np.int64), 0, dark.shape[1] - 1)
        y = np.clip((at[:, 1] + off * normal[1]).astype(np.int64), 0, dark.shape[0] - 1)
        return dark[y, x].astype(np.float64), beside[y, x] == 0

    return tone_along(read, least, max(16, 0.12 * count))


def take_out(pixels: U8, grey: U8, guides: tuple[Guide | RoundGuide, ...], paper: float, ink: float) -> U8:
    """Return pixels, (h, w) or (h, w, 3), without the guides; where ink crosses one, the ink stays.

    Along each line its profile is read window by window, from the pixels that are no ink. A pixel of the line is
    taken for a mixture of ink and of the line, as an edge of ink on plain paper is one of ink and paper; the line's
    share is then put back to paper. So edges of ink that lie on a line keep their place.
    """
    result = pixels.copy()
    planes = result if pixels.ndim == 3 else result[..., None]
    contrast = paper - ink
    for guide in guides:
        most = min(0.85, guide.darkness + 0.25) * contrast
        if isinstance(guide, RoundGuide):
            lift_round(planes, grey, guide, paper, contrast, most, HALF_BAND_PX, WINDOW_PX)
            continue
        start, end = np.array(guide.start), np.array(guide.end)
        length = float(np.hypot(*(end - start)))
        windows = max(1, round(length / WINDOW_PX))
        profiles = read_profiles(grey, start, end, windows, HALF_BAND_PX, paper, most)
        profiles = _steadied(profiles)
        lift_line(planes, grey, start, end, profiles, HALF_BAND_PX, paper, contrast, most)
    return result


def _steadied(profiles: F64) -> F64:
    """Smooth profiles (windows, offsets, 2) along the line; windows without a reading take their neighbours'."""
    known = profiles[..., :1] >= 0.0
    weight = smoothed(known.astype(np.float64), 1.0, Beyond.MIRRORED)
    mixed = smoothed(np.where(known, profiles, 0.0), 1.0, Beyond.MIRRORED) / np.maximum(weight, 1e-9)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)  # an offset that was never read is all NaN
        usual = np.nan_to_num(np.nanmedian(np.where(known, profiles, np.nan), axis=0))
    return np.ascontiguousarray(np.where(weight > 0.05, mixed, usual))
