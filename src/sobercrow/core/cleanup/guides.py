"""Guide lines: straight lines paler than the ink, found and taken out where there is no ink."""

from __future__ import annotations

import math
import warnings
from dataclasses import dataclass

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter1d

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.cleanup._guide_kernels import lift_line, read_profiles
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
MOST_LINES = 80


@dataclass(frozen=True, slots=True)
class Guide:
    """A guide line from one end to the other, in pixels of the sheet; its darkness as a share of the ink's, 0–1."""

    start: Point
    end: Point
    darkness: float


def find_guides(grey: U8, paper: float, ink: float, palest: float = 0.6) -> tuple[Guide, ...]:
    """Return the straight lines of a sheet (h, w) that are paler than `palest`, a share of the ink's darkness.

    Pixels of such a tone away from the ink vote for lines (Kiryati, Eldar & Bruckstein 1991, "A probabilistic Hough
    transform"); each line is then fitted to its pixels.
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
    votes = cv2.HoughLinesP(pale * 255, 1.0, math.pi / 720, round(0.3 * length), None, length, 0.05 * max(size) + 6)
    if votes is None:
        return ()
    segments = np.asarray(votes, dtype=np.float64).reshape(-1, 4)[: 40 * MOST_LINES]
    order = np.argsort(-np.hypot(segments[:, 2] - segments[:, 0], segments[:, 3] - segments[:, 1]))
    rows, columns = np.nonzero(pale)
    points = np.column_stack([columns + 0.5, rows + 0.5])
    found: list[Guide] = []
    taken: list[tuple[F64, F64]] = []
    for segment in segments[order]:
        a, b = segment[:2] + 0.5, segment[2:] + 0.5
        if any(_lies_on(a, b, *other) for other in taken):
            continue
        fitted = _fitted(points, a, b)
        if fitted is None or any(_lies_on(*fitted, *other) for other in taken):
            continue
        taken.append(fitted)
        tone = _darkness(dark, beside, *fitted) / contrast
        if FAINTEST * 0.5 <= tone <= palest:
            (x0, y0), (x1, y1) = (fitted[0] * factor).tolist(), (fitted[1] * factor).tolist()
            found.append(Guide((x0, y0), (x1, y1), float(tone)))
        if len(found) == MOST_LINES:
            break
    return tuple(found)


def _lies_on(a: F64, b: F64, start: F64, end: F64) -> bool:
    """Tell whether the middle of a–b lies on the line from start to end, both running alike."""
    along = (end - start) / np.hypot(*(end - start))
    other = (b - a) / np.hypot(*(b - a))
    if abs(along[0] * other[1] - along[1] * other[0]) > 0.03:
        return False
    offs = [abs(along[0] * (p[1] - start[1]) - along[1] * (p[0] - start[0])) for p in (a, b)]
    place = ((a + b) / 2 - start) @ along
    return bool(max(offs) < 4.5 and -10 <= place <= np.hypot(*(end - start)) + 10)


def _fitted(points: F64, a: F64, b: F64) -> tuple[F64, F64] | None:
    """The line through the pale pixels near a–b by total least squares, as long as they follow each other."""
    for reach in (3.0, 2.0):
        along = (b - a) / np.hypot(*(b - a))
        off = along[0] * (points[:, 1] - a[1]) - along[1] * (points[:, 0] - a[0])
        near = points[np.abs(off) < reach]
        if len(near) < 12:
            return None
        middle = near.mean(axis=0)
        _, _, axes = np.linalg.svd(near - middle, full_matrices=False)
        direction = axes[0] if axes[0] @ along > 0 else -axes[0]
        place = np.sort((near - middle) @ direction)
        # ends are where there is still company: lone dirt far out does not make the line longer
        low, high = place[min(3, len(place) - 1)], place[max(len(place) - 4, 0)]
        a, b = middle + low * direction, middle + high * direction
    if np.hypot(*(b - a)) < 20.0:
        return None
    return a, b


def _darkness(dark: F32, beside: U8, a: F64, b: F64) -> float:
    """The usual darkness along a line where there is no ink; 0 if it is no darker than what lies on both sides."""
    count = max(8, int(np.hypot(*(b - a))))
    at = a + np.linspace(0, 1, count)[:, None] * (b - a)
    normal = np.array([a[1] - b[1], b[0] - a[0]]) / np.hypot(*(b - a))

    def read(off: float) -> tuple[F64, np.ndarray]:
        x = np.clip((at[:, 0] + off * normal[0]).astype(np.int64), 0, dark.shape[1] - 1)
        y = np.clip((at[:, 1] + off * normal[1]).astype(np.int64), 0, dark.shape[0] - 1)
        return dark[y, x].astype(np.float64), beside[y, x] == 0

    near = [read(off) for off in (-1.0, 0.0, 1.0)]
    on_line = np.maximum.reduce([tones for tones, _ in near])
    free = np.logical_and.reduce([clear for _, clear in near])
    if free.sum() < max(12, 0.25 * count):
        return 0.0
    for off in (-WIDEST_PX / 2, WIDEST_PX / 2):
        tones, clear = read(off)
        if np.median(tones[free & clear] - 0.6 * on_line[free & clear]) > 0 if (free & clear).any() else True:
            return 0.0
    # dots in a row are no line
    return float(np.median(on_line[free])) if (on_line[free] > 0.35 * np.median(on_line[free])).mean() > 0.8 else 0.0


def take_out(pixels: U8, grey: U8, guides: tuple[Guide, ...], paper: float, ink: float) -> U8:
    """Return pixels, (h, w) or (h, w, 3), without the guides; where ink crosses one, the ink stays.

    Along each line its profile is read window by window, from the pixels that are no ink. A pixel of the line is
    taken for a mixture of ink and of the line, as an edge of ink on plain paper is one of ink and paper; the line's
    share is then put back to paper. So edges of ink that lie on a line keep their place.
    """
    result = pixels.copy()
    planes = result if pixels.ndim == 3 else result[..., None]
    contrast = paper - ink
    for guide in guides:
        start, end = np.array(guide.start), np.array(guide.end)
        length = float(np.hypot(*(end - start)))
        windows = max(1, round(length / WINDOW_PX))
        most = min(0.85, guide.darkness + 0.25) * contrast
        profiles = read_profiles(grey, start, end, windows, HALF_BAND_PX, paper, most)
        profiles = _steadied(profiles)
        lift_line(planes, grey, start, end, profiles, HALF_BAND_PX, paper, contrast, most)
    return result


def _steadied(profiles: F64) -> F64:
    """Smooth profiles (windows, offsets, 2) along the line; windows without a reading take their neighbours'."""
    known = profiles[..., :1] >= 0.0
    weight = gaussian_filter1d(known.astype(np.float64), 1.0, axis=0)
    mixed = gaussian_filter1d(np.where(known, profiles, 0.0), 1.0, axis=0) / np.maximum(weight, 1e-9)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)  # an offset that was never read is all NaN
        usual = np.nan_to_num(np.nanmedian(np.where(known, profiles, np.nan), axis=0))
    return np.ascontiguousarray(np.where(weight > 0.05, mixed, usual))
