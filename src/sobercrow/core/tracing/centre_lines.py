"""Centre lines: the strokes a drawing was made with, found from its ink.

The paths of the strokes come from the thinned ink (`skeletons.py`). Each point is then moved half way between the
borders on either side, which also tells the width, and the ends are led on to where a round pen leaves the ink. What is
much wider than the strokes, and dots, are left to be traced by their outlines.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, U8, following, greatest_of, preceding
from sobercrow.core.geometry.polygon import along_of, at_distances
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.inks.separation import InkField
from sobercrow.core.strokes.skeletons import Thinned, stroke_paths, thinned_ink

STEP_PX, STAIRS_PX = 0.25, 1.5
BROAD = 2.5
"""Ink so many times as wide as the strokes are usually is an area, not a stroke."""
STICKS_OUT, CORNER_AREA, SLEEVE = 2.0, 1.0, 0.55
"""What is no further from an area than so many times the radius that tells areas, and no larger than so many times its
square, is a corner of it; beside a stroke that leaves there, what is wider than by so much of that radius."""
MOST_SWELL = 2.2
"""Ink more than so many times as wide as its stroke is a crossing."""
DISC_SLACK_PX = 0.8
LEAST_REACH_PX = 1.0
"""So far is looked for paper beside a stroke, however thin."""
MEDIAN_POINTS, SWELL_SMOOTH = 9, 2.0
"""Widths are taken as the median over so many points, then smoothed by so many points' standard deviation."""
TOLD_LENGTH = 2.0
"""A stroke shorter than so many times the usual width does not tell its own."""
DOT = 1.6
"""A part no longer than so many times its width is a dot."""


@dataclass(frozen=True, slots=True, eq=False)
class Stroke:
    """A centre line: points (n, 2) x, y in px, whether it closes, its width in px, and that at every point if read."""

    points: F64
    closed: bool
    width_px: float
    widths_px: F64 | None = None


@dataclass(frozen=True, slots=True, eq=False)
class CentreLines:
    """The strokes found, and the tones of what is left: areas and dots, to be traced by their outlines."""

    strokes: list[Stroke]
    rest: InkField


def find_centre_lines(
    field: InkField, speck_px2: float = 0.0, keep_areas: bool = True, with_widths: bool = False
) -> CentreLines:
    """Return the strokes an ink was drawn with.

    Parts smaller than `speck_px2` are left out. With `keep_areas` ink much wider than the strokes is left to be traced
    by its outlines; dots always are. With `with_widths` the width is read all along each stroke.
    """
    ink = (field.grey < field.iso).astype(np.uint8)
    count, parts, stats, _ = cv2.connectedComponentsWithStats(ink, connectivity=8)
    dirt = stats[:, cv2.CC_STAT_AREA] < max(speck_px2, 1.0)
    dirt[0] = False
    thinned = _thinned(field, dirt[parts])
    area = np.zeros(ink.shape, dtype=bool)
    lines = thinned.framed[1:-1, 1:-1] > 0
    if keep_areas and lines.any():
        area = _broad(ink, BROAD * float(np.median(thinned.radius[lines])) / thinned.fine)
        if area.any():
            thinned = _thinned(field, dirt[parts] | area)
    strokes: list[Stroke] = []
    drawn = np.zeros(count, dtype=bool)
    labels = np.asarray(parts, dtype=np.int32)
    paths, tips = stroke_paths(thinned)
    reader = _Reader(field, thinned, with_widths, tips)
    owners = [_label_at(labels, path[len(path) // 2]) for path, _ in paths]
    paths_of = Counter(owners)
    for (path, closed), owner in zip(paths, owners, strict=True):
        reach = reader.radius_at(path)
        width = 2.0 * float(np.median(reach))
        if closed or paths_of[owner] > 1 or along_of(path)[-1] + width >= DOT * width:
            strokes.append(reader.centred(path, closed, reach))
            drawn[owner] = True
    dots = ~(drawn | dirt)
    dots[0] = False
    rest = area | (dots[parts] & ~area & (parts > 0))
    near = cv2.dilate(rest.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    left = np.where(rest | (near & (ink == 0)), field.grey, 255).astype(np.uint8)
    return CentreLines(_of_usual_width(strokes), replace(field, grey=left))


def _thinned(field: InkField, left_out: NDArray[np.bool_]) -> Thinned:
    """The ink thinned, pixels (h, w) left out."""
    return thinned_ink(np.where(left_out, 255, field.grey).astype(np.uint8), field.iso)


def _of_usual_width(strokes: list[Stroke]) -> list[Stroke]:
    """Strokes too short to tell their width, which ink nearby widens or cuts, made as wide as most of the drawing."""
    if not strokes:
        return strokes
    lengths: F64 = np.array([along_of(stroke.points)[-1] for stroke in strokes])
    widths: F64 = np.array([stroke.width_px for stroke in strokes])
    order = np.argsort(widths)
    half = np.searchsorted(np.cumsum(lengths[order]), 0.5 * lengths.sum())
    usual = float(widths[order][min(int(half), len(order) - 1)])
    return [
        replace(stroke, width_px=usual) if length < TOLD_LENGTH * usual else stroke
        for stroke, length in zip(strokes, lengths, strict=True)
    ]


def _broad(ink: U8, radius_px: float) -> NDArray[np.bool_]:
    """Where ink is wider than strokes are: what an opening by a disc leaves, and what little sticks out of that.

    Corners stick out, and waists lie between. Where a stroke leaves at a corner, what is wider there than the stroke is
    the area's still.
    """
    away = np.asarray(cv2.distanceTransform(np.pad(ink, 1), cv2.DIST_L2, 5)[1:-1, 1:-1], dtype=np.float32)
    area = _opened(ink, away, radius_px)
    if not area.any():
        return area
    near = cv2.distanceTransform((~area).astype(np.uint8), cv2.DIST_L2, 5) <= STICKS_OUT * radius_px
    _, wide = cv2.connectedComponents(((area | _opened(ink, away, SLEEVE * radius_px)) & near).astype(np.uint8))
    area = np.isin(wide, np.unique(wide[area]))
    count, found = cv2.connectedComponents((ink & ~area).astype(np.uint8), connectivity=8)
    parts = np.asarray(found, dtype=np.int64)
    beyond: F64 = cv2.distanceTransform((~area).astype(np.uint8), cv2.DIST_L2, 5).astype(np.float64)
    furthest = greatest_of(parts, beyond, count)
    sticks_out = (furthest <= STICKS_OUT * radius_px) & (np.bincount(parts.ravel()) <= CORNER_AREA * radius_px**2)
    sticks_out[0] = False
    return np.asarray(area | sticks_out[parts])


def _opened(ink: U8, away: F32, radius_px: float) -> NDArray[np.bool_]:
    """Ink covered by discs of a radius that lie within it; `away` is how far each pixel is from paper."""
    core = (away > radius_px).astype(np.uint8)
    side = 2 * int(np.ceil(radius_px)) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))
    return np.asarray((cv2.dilate(core, disc) > 0) & (ink > 0))


def _label_at(labels: NDArray[np.int32], place: F64) -> int:
    row, column = np.clip(place[::-1].astype(np.int64), 0, np.array(labels.shape) - 1)
    return int(labels[row, column])


class _Reader:
    """Reads the tones across a path: where its middle lies, how wide the stroke is, how far it reaches."""

    def __init__(self, field: InkField, thinned: Thinned, with_widths: bool, tips: F64) -> None:
        self._with_widths, self._tips = with_widths, tips
        self._tones, self._iso, self.radius_at = field.grey.astype(np.float32), field.iso, thinned.radius_at

    def _until_paper(self, points: F64, ways: F64, furthest: float) -> F64:
        """How far from points (n, 2) the ink ends in directions (n, 2); NaN where it does not."""
        steps = np.arange(0.0, furthest, STEP_PX)
        places = points[:, None] + steps[:, None] * ways[:, None]
        from scipy.ndimage import map_coordinates  # SciPy comes in when it is first needed

        tones = map_coordinates(self._tones, [places[..., 1] - 0.5, places[..., 0] - 0.5], order=1, cval=255.0)
        paper = tones >= self._iso
        first = paper.argmax(axis=1)
        rows = np.arange(len(points))
        outer, inner = tones[rows, first], tones[rows, np.maximum(first - 1, 0)]
        part = (self._iso - inner) / np.maximum(outer - inner, 1e-6)
        return np.where(paper.any(axis=1) & (first > 0), (first - 1 + np.clip(part, 0, 1)) * STEP_PX, np.nan)

    def centred(self, path: F64, closed: bool, reach: F64) -> Stroke:
        """A path moved to the middle of its ink and out to where the ink ends."""
        usual = float(np.median(reach))
        points = _evenly(path, closed, self._tips)
        for _ in range(2):
            across = _across(points, closed)
            right = self._until_paper(points, across, 2.0 * usual + 3.0)
            left = self._until_paper(points, -across, 2.0 * usual + 3.0)
            width = right + left
            known = np.isfinite(width) & (np.abs(width - 2.0 * usual) < max(0.35 * 2.0 * usual, 1.2))
            shift = np.where(known, 0.5 * (right - left), 0.0)
            points = points + np.clip(shift, -0.5 * usual - 0.5, 0.5 * usual + 0.5)[:, None] * across
        wide = float(np.median(width[known])) if known.any() else 2.0 * usual
        if not closed and len(points) >= 3:
            points = self._reaching(points, wide)
        return Stroke(points, closed, wide, self._widths(points, closed, wide) if self._with_widths else None)

    def _widths(self, points: F64, closed: bool, usual: float) -> F64:
        """How wide the ink is along a stroke, smoothed; where it cannot be read, as wide as beside it."""
        if len(points) < 4:
            return np.full(len(points), usual)
        across = _across(points, closed)
        reach = max(MOST_SWELL * usual, LEAST_REACH_PX)
        widths = self._until_paper(points, across, reach) + self._until_paper(points, -across, reach)
        # at crossings and sharp turns the ink is wider across than the pen: no more than the widest disc in it counts
        widths = np.minimum(widths, 2.0 * self.radius_at(points) + DISC_SLACK_PX)
        along = along_of(points)
        known = np.isfinite(widths) & (widths < reach)
        if not closed:  # the round end of a stroke is no taper
            known &= np.minimum(along, along[-1] - along) > 0.5 * usual
        if not known.any():
            return np.full(len(points), usual)
        from scipy.ndimage import median_filter  # SciPy comes in when it is first needed

        filled = np.interp(along, along[known], median_filter(widths[known], MEDIAN_POINTS, mode="nearest"))
        return smoothed(filled, SWELL_SMOOTH, Beyond.ROUND if closed else Beyond.LAST)

    def _reaching(self, points: F64, width: float) -> F64:
        """Lead both ends as far as a round pen must go to leave the ink where it ends."""
        for end in (0, -1):
            run = points if end == 0 else points[::-1]
            inner = run[min(max(2, round(width)), len(run) - 1) :]
            tip = inner[0]
            way = tip - inner[min(max(3, round(width)), len(inner) - 1)]
            size = float(np.hypot(*way))
            if size < 1e-6:
                continue
            way = way / size
            gone = self._until_paper(tip[None], way[None], 3.0 * width + 6.0)[0]
            if not np.isfinite(gone) or gone > 2.5 * width + 4.0:
                continue
            new = tip + max(gone - 0.5 * width, 0.0) * way
            run = np.concatenate([_between(new, tip), inner])
            points = run if end == 0 else run[::-1]
        return np.ascontiguousarray(points)


def _between(start: F64, end: F64) -> F64:
    """Points from one place up to another, about a pixel apart, without the latter."""
    count = max(1, round(float(np.hypot(*(end - start)))))
    return start + np.linspace(0.0, 1.0, count, endpoint=False)[:, None] * (end - start)


def _evenly(path: F64, closed: bool, tips: F64) -> F64:
    """Points a pixel apart along a path, its stairs smoothed; where it runs straight to a tip there are none."""
    line = np.concatenate([path, path[:1]]) if closed else path
    along = along_of(line)
    count = max(3, round(float(along[-1])) + 1)
    at = np.linspace(0.0, along[-1], count)[: count - 1 if closed else count]
    points = at_distances(line, along, at)
    smooth = smoothed(points, STAIRS_PX, Beyond.ROUND if closed else Beyond.LAST)
    if len(tips):
        beside = np.flatnonzero((np.hypot(*(points[:, None] - tips).transpose(2, 0, 1)) < 3.0 * STAIRS_PX).any(axis=1))
        smooth[beside] = points[beside]
    if not closed:
        smooth[0], smooth[-1] = points[0], points[-1]
    return np.asarray(smooth)


def _across(points: F64, closed: bool) -> F64:
    """Unit directions to the right of a path's points, y down."""
    step = following(points) - preceding(points) if closed else np.gradient(points, axis=0)
    smooth = smoothed(step, 1.5, Beyond.ROUND if closed else Beyond.LAST)
    along = smooth / np.maximum(np.hypot(*smooth.T), 1e-9)[:, None]
    return np.column_stack([-along[:, 1], along[:, 0]])
