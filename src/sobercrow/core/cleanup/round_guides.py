"""Circles and ellipses drawn to construct by, paler than the ink: found, and taken out where there is no ink."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.cleanup._guide_kernels import lift_line, read_profiles
from sobercrow.core.geometry.forms import Ellipse, ellipse_through, fit_circle, fit_ellipse, nearest_on_ellipse

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
MOST_ROUNDS = 12
FLATTEST, LEAST_ARC_DEG = 5.0, 60.0
"""An ellipse is no more times as long as wide; an arc proposes one if it goes so far round."""
LEAST_BEND_PX = 12.0
"""One that bends more sharply than by this radius stays: it cannot be unrolled."""
STEPS = 2048
OVERLAP_PX = 64
MARGIN_PX = 5
LONGEST_STRIP_PX = 32_000
"""What is longer than what OpenCV can lay in a row stays."""


@dataclass(frozen=True, slots=True)
class RoundGuide:
    """A circle or an ellipse, in pixels of the sheet; its darkness as a share of the ink's, 0-1."""

    form: Ellipse
    darkness: float


class _Around(NamedTuple):
    """The way around an ellipse: places (n, 2) about so far apart, the directions outwards there, and how far along
    each of `STEPS` even angles lies."""

    places: F64
    outwards: F64
    lengths: F64

    @classmethod
    def of(cls, form: Ellipse, count: int | None = None) -> _Around:
        """Walk around, by steps of about a pixel or so many."""
        t = np.linspace(0.0, 2.0 * math.pi, STEPS)
        lengths = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(_place(form, t), axis=0).T))])
        count = count if count is not None else max(24, math.ceil(lengths[-1]))
        even = np.interp(np.arange(count) * (lengths[-1] / count), lengths, t)
        out = np.column_stack([np.cos(even) / form.rx, np.sin(even) / form.ry])
        out /= np.hypot(*out.T)[:, None]
        return cls(_place(form, even), _turned(form, out), lengths)


def _place(form: Ellipse, t: F64) -> F64:
    middle = np.array((form.x, form.y))
    return middle + _turned(form, np.column_stack([form.rx * np.cos(t), form.ry * np.sin(t)]))


def _turned(form: Ellipse, way: F64) -> F64:
    c, s = math.cos(math.radians(form.angle_deg)), math.sin(math.radians(form.angle_deg))
    return np.column_stack([way[:, 0] * c - way[:, 1] * s, way[:, 0] * s + way[:, 1] * c])


def find_rounds(
    pale: U8, dark: F32, beside: U8, contrast: float, least: float, palest: float, factor: float
) -> tuple[RoundGuide, ...]:
    """Return the pale circles and ellipses of a sheet, by its darkness (h, w) and masks of pale pixels and of what lies
    at ink.

    They are taken out of the mask of pale pixels. The masks are smaller than the sheet by a factor. Arcs that hang
    together are fitted (`fit_circle`, `fit_ellipse`); each form then takes all pale pixels near it.
    """
    found: list[RoundGuide] = []
    count, labels, stats, _ = cv2.connectedComponentsWithStats(pale, connectivity=8)
    arcs = sorted(range(1, count), key=lambda k: -int(stats[k, cv2.CC_STAT_AREA]))[:MOST_ARCS]
    for k in arcs:
        rows, columns = np.nonzero((labels == k) & (pale > 0))
        length = max(int(stats[k, cv2.CC_STAT_WIDTH]), int(stats[k, cv2.CC_STAT_HEIGHT]))
        if length < LEAST_LENGTH_PX or not LEAST_ARC <= len(rows) <= BROADEST * length or len(found) == MOST_ROUNDS:
            continue
        form = _grown(np.column_stack([columns, rows]).astype(np.float64) + 0.5, pale)
        if form is None or not _is_seen(form, pale, beside):
            continue
        around = _Around.of(form)
        tone = _darkness(around, dark, beside, least) / contrast
        if not 0.0 < tone <= palest or around.lengths[-1] * factor > LONGEST_STRIP_PX:
            continue
        found.append(RoundGuide(form.scaled(factor), tone))
        ring = np.rint((around.places - 0.5) * 16.0).astype(np.int32)
        cv2.polylines(pale, [ring], True, 0, round(4 * SLACK), cv2.LINE_8, 4)
    return tuple(found)


def _grown(arc: F64, pale: U8) -> Ellipse | None:
    """The circle or ellipse an arc and all pale pixels near it make; None if the arc is none."""
    thinned = arc[:: 1 + len(arc) // 400]
    rows, columns = np.nonzero(pale)
    points = np.column_stack([columns, rows]).astype(np.float64) + 0.5
    circle, away = fit_circle(thinned)
    if np.abs(away).mean() <= 0.5 * FIRST_SLACK:
        return _settled(circle, points, max(pale.shape))
    oval = ellipse_through(thinned)
    if oval is None or min(oval.rx, oval.ry) <= 1.0:
        return None
    t, off = nearest_on_ellipse(thinned, oval)
    far = len(np.unique(np.floor(np.degrees(t) % 360.0 / BIN_DEG))) * BIN_DEG >= LEAST_ARC_DEG
    return _settled(oval, points, max(pale.shape)) if far and np.abs(off).mean() <= 0.5 * FIRST_SLACK else None


def _settled(form: Ellipse, points: F64, longer_side: int) -> Ellipse | None:
    """A form fitted to all points near it; None if it has no fitting size."""
    for slack in (FIRST_SLACK, SLACK, SLACK):
        low, high = sorted((form.rx, form.ry))
        if not LEAST_RADIUS_PX < low <= high < MOST_RADIUS * longer_side or high > FLATTEST * low:
            return None
        if low**2 / high < LEAST_BEND_PX:
            return None
        near = points[np.abs(nearest_on_ellipse(points, form)[1]) < slack]
        if len(near) < LEAST_ARC:
            return None
        near = near[:: 1 + len(near) // 2000]
        form = (fit_circle(near) if form.is_circle else fit_ellipse(near, form))[0]
    return form


def _is_seen(form: Ellipse, pale: U8, beside: U8) -> bool:
    """Whether a form is seen far enough round, and almost everywhere ink does not hide it."""
    rows, columns = np.nonzero(pale)
    t, off = nearest_on_ellipse(np.column_stack([columns + 0.5, rows + 0.5]), form)
    count = round(360.0 / BIN_DEG)
    seen = np.unique((np.degrees(t[np.abs(off) < SLACK]) % 360.0 / BIN_DEG).astype(int) % count)
    places = _place(form, np.radians((np.arange(count) + 0.5) * BIN_DEG))
    tones, inside = _at(beside.astype(np.float32), *places.T)
    hidden = np.setdiff1d(np.flatnonzero((tones > 0) | ~inside), seen)
    return len(seen) * BIN_DEG >= LEAST_SEEN and len(seen) >= LEAST_SHARE * (count - len(hidden))


def _at(values: F32, x: F64, y: F64) -> tuple[F64, np.ndarray]:
    """Values (h, w) at places, and which lie inside."""
    columns, rows = np.floor(x).astype(int), np.floor(y).astype(int)
    inside = (columns >= 0) & (rows >= 0) & (columns < values.shape[1]) & (rows < values.shape[0])
    read = values[np.clip(rows, 0, values.shape[0] - 1), np.clip(columns, 0, values.shape[1] - 1)]
    return read.astype(np.float64), inside


def _darkness(around: _Around, dark: F32, beside: U8, least: float) -> float:
    """The usual darkness along a form where there is no ink; 0 if it is no darker than what lies on both sides."""

    def read(off: float) -> tuple[F64, np.ndarray]:
        places = (around.places + off * around.outwards).T
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


def lift_round(
    planes: U8, grey: U8, guide: RoundGuide, paper: float, contrast: float, most: float, half: int, window_px: float
) -> None:
    """Put the pixels (h, w, c) of a circle or an ellipse back to paper, in place; `grey` (h, w) has the tones before.

    The ring around it is unrolled to a strip, the line in that taken out as a straight one is, and what became of each
    place of the strip done to the ring.
    """
    wide = half + MARGIN_PX
    around = _Around.of(guide.form)
    count = len(around.places)
    rows = (np.arange(count + 2 * OVERLAP_PX) - OVERLAP_PX) % count
    away = np.arange(-wide, wide + 1)[:, None, None]
    x, y = np.moveaxis(around.places[rows] + away * around.outwards[rows] - 0.5, 2, 0)
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
    _apply(planes, guide.form, around, np.clip(kept, 0.0, 1.0).astype(np.float32), wide, half, paper)


def _known(profiles: F64) -> F64:
    """Profiles (windows, offsets, 2) with those that could not be read taken from the usual one."""
    known = np.where(profiles >= 0.0, profiles, np.nan)
    usual = np.nan_to_num(np.nanmedian(np.concatenate([known, np.zeros_like(known[:1])]), axis=0))
    return np.ascontiguousarray(np.where(profiles >= 0.0, profiles, usual))


def _apply(planes: U8, form: Ellipse, around: _Around, kept: F32, wide: int, half: int, paper: float) -> None:
    """Leave of the darkness of each pixel of a ring what a strip (2 wide + 1, n) says is kept there."""
    left, top = np.maximum(np.floor(around.places.min(axis=0) - half - 1.0), 0).astype(int)
    right, bottom = np.ceil(around.places.max(axis=0) + half + 1.0).astype(int)
    band = np.zeros((max(bottom - top, 1), max(right - left, 1)), np.uint8)
    cv2.polylines(band, [np.rint(around.places - (left, top)).astype(np.int32)], True, 1, 2 * half + 3)
    part = planes[top:bottom, left:right]
    rows, columns = np.nonzero(band[: part.shape[0], : part.shape[1]])
    t, away = nearest_on_ellipse(np.column_stack([columns + left + 0.5, rows + top + 0.5]), form)
    ring = np.abs(away) < half
    rows, columns, t, away = rows[ring], columns[ring], t[ring], away[ring]
    even = np.linspace(0.0, 2.0 * math.pi, STEPS)
    along = np.interp(t % (2.0 * math.pi), even, around.lengths) * (len(around.places) / around.lengths[-1])
    share = _read(kept, along + OVERLAP_PX, away + wide)
    tones = part[rows, columns].astype(np.float32)
    part[rows, columns] = np.clip(np.rint(paper - (paper - tones) * share[:, None]), 0, 255).astype(np.uint8)


def _read(values: F32, x: F64, y: F64) -> F32:
    """Values (h, w) at places (n,) between pixels."""
    low_x, low_y = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    left, top = np.clip(low_x, 0, values.shape[1] - 2), np.clip(low_y, 0, values.shape[0] - 2)
    right, down = np.clip(x - left, 0.0, 1.0), np.clip(y - top, 0.0, 1.0)
    above = values[top, left] * (1.0 - right) + values[top, left + 1] * right
    below = values[top + 1, left] * (1.0 - right) + values[top + 1, left + 1] * right
    return np.asarray(above * (1.0 - down) + below * down, dtype=np.float32)
