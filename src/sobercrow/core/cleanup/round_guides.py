"""Circles drawn to construct by, paler than the ink: found, and taken out where there is no ink."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.cleanup._guide_kernels import lift_line, read_profiles
from sobercrow.core.geometry.forms import fit_circle

LEAST_ARC = 24
"""Pale pixels that hang together propose a circle if there are so many of them."""
MOST_ARCS, LEAST_LENGTH_PX, BROADEST = 60, 16, 16.0
"""And if they reach so far, and are no more than so many times that: an arc is thin, a blot is not."""
LEAST_RADIUS_PX, MOST_RADIUS = 15.0, 0.6
"""Radii in pixels of the working picture, and as a share of the longer side."""
FIRST_SLACK, SLACK = 2.5, 1.5
"""An arc and what else belongs to its circle lie so many pixels from it, at first and at last."""
BIN_DEG = 3.0
LEAST_SEEN, LEAST_SHARE = 120.0, 0.75
"""A circle is seen over so many degrees, and over so much of what ink does not hide."""
SIDE_PX = 4.5
PALER, LEAST_DARK = 0.6, 0.8
"""Beside a line or circle the sheet is so much paler for the most part; so much of it is dark at all."""
MOST_CIRCLES = 12
OVERLAP_PX = 64
MARGIN_PX = 5
LONGEST_STRIP_PX = 32_000
"""Circles longer than what OpenCV can lay in a row stay."""


@dataclass(frozen=True, slots=True)
class RoundGuide:
    """A circle, in pixels of the sheet; its darkness as a share of the ink's, 0-1."""

    x: float
    y: float
    radius: float
    darkness: float


def find_circles(
    pale: U8, dark: F32, beside: U8, contrast: float, least: float, palest: float, factor: float
) -> tuple[RoundGuide, ...]:
    """Return the pale circles of a sheet, by its darkness (h, w) and masks of pale pixels and of what lies at ink.

    They are taken out of the mask of pale pixels. The masks are smaller than the sheet by a factor. Arcs that hang
    together are fitted (`fit_circle`); each circle then takes all pale pixels near it.
    """
    found: list[RoundGuide] = []
    count, labels, stats, _ = cv2.connectedComponentsWithStats(pale, connectivity=8)
    arcs = sorted(range(1, count), key=lambda k: -int(stats[k, cv2.CC_STAT_AREA]))[:MOST_ARCS]
    for k in arcs:
        rows, columns = np.nonzero((labels == k) & (pale > 0))
        length = max(int(stats[k, cv2.CC_STAT_WIDTH]), int(stats[k, cv2.CC_STAT_HEIGHT]))
        if length < LEAST_LENGTH_PX or not LEAST_ARC <= len(rows) <= BROADEST * length or len(found) == MOST_CIRCLES:
            continue
        circle = _grown(np.column_stack([columns, rows]).astype(np.float64) + 0.5, pale)
        if circle is None or not _is_seen(circle, pale, beside):
            continue
        tone = _darkness(circle, dark, beside, least) / contrast
        x, y, radius = circle
        if not 0.0 < tone <= palest or 2.0 * math.pi * radius * factor > LONGEST_STRIP_PX:
            continue
        found.append(RoundGuide(x * factor, y * factor, radius * factor, tone))
        middle = round(16 * (x - 0.5)), round(16 * (y - 0.5))
        cv2.circle(pale, middle, round(16 * radius), 0, round(4 * SLACK), cv2.LINE_8, 4)
    return tuple(found)


def _grown(arc: F64, pale: U8) -> tuple[float, float, float] | None:
    """The circle an arc and all pale pixels near it make; None if the arc is none."""
    circle, away = fit_circle(arc[:: 1 + len(arc) // 400])
    if np.abs(away).mean() > 0.5 * FIRST_SLACK:
        return None
    rows, columns = np.nonzero(pale)
    points = np.column_stack([columns, rows]).astype(np.float64) + 0.5
    for slack in (FIRST_SLACK, SLACK, SLACK):
        if not LEAST_RADIUS_PX < circle.rx < MOST_RADIUS * max(pale.shape):
            return None
        near = points[np.abs(np.hypot(*(points - (circle.x, circle.y)).T) - circle.rx) < slack]
        if len(near) < LEAST_ARC:
            return None
        circle, _ = fit_circle(near[:: 1 + len(near) // 2000])
    return circle.x, circle.y, circle.rx


def _is_seen(circle: tuple[float, float, float], pale: U8, beside: U8) -> bool:
    """Whether a circle is seen far enough round, and almost everywhere ink does not hide it."""
    x, y, radius = circle
    rows, columns = np.nonzero(pale)
    off = np.column_stack([columns + 0.5 - x, rows + 0.5 - y])
    near = off[np.abs(np.hypot(*off.T) - radius) < SLACK]
    count = round(360.0 / BIN_DEG)
    seen = np.unique((np.degrees(np.arctan2(near[:, 1], near[:, 0])) % 360.0 / BIN_DEG).astype(int) % count)
    angle = np.radians((np.arange(count) + 0.5) * BIN_DEG)
    tones, inside = _at(beside.astype(np.float32), x + radius * np.cos(angle), y + radius * np.sin(angle))
    hidden = np.setdiff1d(np.flatnonzero((tones > 0) | ~inside), seen)
    return len(seen) * BIN_DEG >= LEAST_SEEN and len(seen) >= LEAST_SHARE * (count - len(hidden))


def _at(values: F32, x: F64, y: F64) -> tuple[F64, np.ndarray]:
    """Values (h, w) at places, and which lie inside."""
    columns, rows = np.floor(x).astype(int), np.floor(y).astype(int)
    inside = (columns >= 0) & (rows >= 0) & (columns < values.shape[1]) & (rows < values.shape[0])
    read = values[np.clip(rows, 0, values.shape[0] - 1), np.clip(columns, 0, values.shape[1] - 1)]
    return read.astype(np.float64), inside


def _darkness(circle: tuple[float, float, float], dark: F32, beside: U8, least: float) -> float:
    """The usual darkness along a circle where there is no ink; 0 if it is no darker than what lies on both sides."""
    x, y, radius = circle
    angle = np.linspace(0.0, 2.0 * math.pi, max(24, round(2.0 * math.pi * radius)), endpoint=False)

    def read(off: float) -> tuple[F64, np.ndarray]:
        places = x + (radius + off) * np.cos(angle), y + (radius + off) * np.sin(angle)
        hidden, inside = _at(beside.astype(np.float32), *places)
        return _at(dark, *places)[0], inside & (hidden == 0)

    return tone_along(read, least, LEAST_ARC)


def tone_along(read: Callable[[float], tuple[F64, np.ndarray]], least: float, least_free: float) -> float:
    """Return the usual darkness of a line or circle where there is no ink; 0 if it is no darker than both its sides.

    `read` gives the darkness so many pixels beside it, (n,), and where no ink is near; at so many places at least.
    """
    near = [read(off) for off in (-1.0, 0.0, 1.0)]
    on_line = np.maximum.reduce([tones for tones, _ in near])
    free = np.logical_and.reduce([clear for _, clear in near])
    if free.sum() < least_free:
        return 0.0
    for off in (-SIDE_PX, SIDE_PX):
        tones, clear = read(off)
        both = free & clear
        if not both.any() or np.median(tones[both] - PALER * on_line[both]) > 0:
            return 0.0
    # dots in a row are no line
    tone = float(np.median(on_line[free]))
    return tone if (on_line[free] > max(0.35 * tone, least)).mean() > LEAST_DARK else 0.0


def lift_circle(
    planes: U8, grey: U8, guide: RoundGuide, paper: float, contrast: float, most: float, half: int, window_px: float
) -> None:
    """Put the pixels (h, w, c) of a circle back to paper, in place; `grey` (h, w) has the tones before.

    The ring around it is unrolled to a strip, the line in that taken out as a straight one is, and what became of each
    place of the strip done to the ring.
    """
    wide = half + MARGIN_PX
    count = math.ceil(2.0 * math.pi * guide.radius)
    angle = (np.arange(count + 2 * OVERLAP_PX) - OVERLAP_PX) / guide.radius
    away = guide.radius + np.arange(-wide, wide + 1)
    x = guide.x + away[:, None] * np.cos(angle)[None] - 0.5
    y = guide.y + away[:, None] * np.sin(angle)[None] - 0.5
    strip: U8 = np.asarray(
        cv2.remap(grey, x.astype(np.float32), y.astype(np.float32), cv2.INTER_LINEAR, None, cv2.BORDER_REPLICATE),
        dtype=np.uint8,
    )
    start, end = np.array([0.0, wide + 0.5]), np.array([float(strip.shape[1]), wide + 0.5])
    profiles = read_profiles(strip, start, end, max(1, round(strip.shape[1] / window_px)), half, paper, most)
    lifted = strip[..., None].copy()
    lift_line(lifted, strip, start, end, _known(profiles), half, paper, contrast, most)
    before = paper - strip.astype(np.float32)
    kept = np.where(before > 0.0, (paper - lifted[..., 0].astype(np.float32)) / np.maximum(before, 1e-6), 1.0)
    _apply(planes, guide, np.clip(kept, 0.0, 1.0).astype(np.float32), wide, half, paper)


def _known(profiles: F64) -> F64:
    """Profiles (windows, offsets, 2) with those that could not be read taken from the usual one."""
    known = np.where(profiles >= 0.0, profiles, np.nan)
    usual = np.nan_to_num(np.nanmedian(np.concatenate([known, np.zeros_like(known[:1])]), axis=0))
    return np.ascontiguousarray(np.where(profiles >= 0.0, profiles, usual))


def _apply(planes: U8, guide: RoundGuide, kept: F32, wide: int, half: int, paper: float) -> None:
    """Leave of the darkness of each pixel of a ring what a strip (2 wide + 1, n) says is kept there."""
    reach = guide.radius + half + 1.0
    left, top = max(0, math.floor(guide.x - reach)), max(0, math.floor(guide.y - reach))
    right = min(planes.shape[1], math.ceil(guide.x + reach))
    bottom = min(planes.shape[0], math.ceil(guide.y + reach))
    rows, columns = np.mgrid[top:bottom, left:right]
    dx, dy = columns + 0.5 - guide.x, rows + 0.5 - guide.y
    away = np.hypot(dx, dy) - guide.radius
    ring = np.abs(away) < half
    along = (np.arctan2(dy[ring], dx[ring]) % (2.0 * math.pi)) * guide.radius + OVERLAP_PX
    share = _read(kept, along, away[ring] + wide)
    part = planes[top:bottom, left:right]
    tones = part[ring].astype(np.float32)
    part[ring] = np.clip(np.rint(paper - (paper - tones) * share[:, None]), 0, 255).astype(np.uint8)


def _read(values: F32, x: F64, y: F64) -> F32:
    """Values (h, w) at places (n,) between pixels."""
    low_x, low_y = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    left, top = np.clip(low_x, 0, values.shape[1] - 2), np.clip(low_y, 0, values.shape[0] - 2)
    right, down = np.clip(x - left, 0.0, 1.0), np.clip(y - top, 0.0, 1.0)
    above = values[top, left] * (1.0 - right) + values[top, left + 1] * right
    below = values[top + 1, left] * (1.0 - right) + values[top + 1, left + 1] * right
    return np.asarray(above * (1.0 - down) + below * down, dtype=np.float32)
