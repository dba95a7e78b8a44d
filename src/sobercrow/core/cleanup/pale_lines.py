"""Lines drawn to work by, paler than the ink: found as in sketches, and taken out where there is no ink."""

from __future__ import annotations

import math
import warnings
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, I64, U8
from sobercrow.core.cleanup._guide_kernels import lift_line, read_profiles
from sobercrow.core.cleanup.unrolled import way_along
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.picture.picture import coarse
from sobercrow.core.strokes.free_curves import find_free_curves
from sobercrow.core.strokes.strokes import Strokes, single_strokes
from sobercrow.core.strokes.working_forms import Sought, StraightLine, WorkingForm, is_on
from sobercrow.core.strokes.working_lines import find_working_lines

WORKING_PX = 1100
STROKE_PX = 2.5
"""About how wide lines are taken to be in the working picture."""
LEAST_LENGTH, LEAST_CURVE = 0.1, 0.2
"""A line, and a curve that is neither straight nor round, runs over at least this share of the sheet's longer side."""
FAINTEST, WEAKEST = 0.025, 0.004
"""Least darkness of a line, as a share of the ink's, and how strong its ridge is at least."""
LIKE_OTHERS = 1.35
"""A free curve is about as dark as the straight and round ones, if there are any: of the same pencil."""
BESIDE_INK_PX = 3
NOISY = 4.0
"""And it is so many times as dark as the paper is uneven (median absolute deviation, as a standard deviation)."""
SIDE_PX, PALER = 4.5, 0.6
"""So far beside a line the sheet is so much paler."""
MOST_POINTS = 30_000
"""A picture with more of pale strokes is no drawing on plain paper."""
HALF_BAND_PX = 9
"""A line is read and taken out up to this far from its middle."""
WINDOW_PX = 48


@dataclass(frozen=True, slots=True, eq=False)
class PaleLine:
    """A line drawn to work by, in pixels of the sheet; its darkness as a share of the ink's, 0–1."""

    form: WorkingForm
    darkness: float


def find_pale_lines(grey: U8, paper: float, ink: float, palest: float = 0.6) -> tuple[PaleLine, ...]:
    """Return the lines of a sheet (h, w) that are paler than `palest`, a share of the ink's darkness.

    They are found among its strokes as the working lines of sketches are (`find_working_lines`), then curves that are
    neither straight nor round (`find_free_curves`).
    """
    contrast = paper - ink
    if contrast < 16.0:
        return ()
    factor = -(-max(grey.shape) // WORKING_PX)
    small = coarse(grey, factor)
    dark = np.clip((np.float32(paper) - small.astype(np.float32)) / np.float32(contrast), -1.0, 1.0)
    wide = 2 * BESIDE_INK_PX + 1
    inked = np.asarray(cv2.dilate((dark > palest).astype(np.uint8), np.ones((wide, wide), np.uint8))) > 0
    strokes = single_strokes(np.maximum(dark, 0.0), STROKE_PX, WEAKEST)
    if not len(strokes):
        return ()
    faint = _faint(strokes, dark, inked, palest)
    if faint.sum() > MOST_POINTS:
        return ()
    darkest = np.asarray(cv2.dilate(dark, np.ones((3, 3), np.uint8)))[_cells(strokes.points, dark)]
    strokes = replace(strokes, dark=darkest.astype(np.float64))
    longer = float(max(small.shape))
    sought = Sought(math.hypot(*small.shape), STROKE_PX, LEAST_LENGTH * longer, inked)
    _, forms = find_working_lines(strokes.only(faint), sought, palest)
    found: list[PaleLine] = []
    for form in forms:
        on = is_on(strokes, form, STROKE_PX) & faint
        found.append(PaleLine(form, float(np.median(strokes.dark[on])) if on.any() else palest))
        faint &= ~on
    most = LIKE_OTHERS * max(line.darkness for line in found) if found else palest
    for curve in find_free_curves(strokes, faint, inked, LEAST_CURVE * longer):
        tone = float(np.median(strokes.dark[is_on(strokes, curve, STROKE_PX) & faint]))
        if tone <= most:
            found.append(PaleLine(curve, tone))
    return tuple(PaleLine(line.form.scaled(factor), line.darkness) for line in found)


def _faint(strokes: Strokes, dark: F32, inked: NDArray[np.bool_], palest: float) -> NDArray[np.bool_]:
    """Which stroke points (n,) are pale but no dirt, away from ink, and darker than what lies on both sides."""
    free = dark[~inked]
    noise = 1.4826 * float(np.median(np.abs(free))) if len(free) else 0.0
    faint = (
        (strokes.dark < palest) & (strokes.dark > max(FAINTEST, NOISY * noise)) & ~inked[_cells(strokes.points, dark)]
    )
    across = SIDE_PX * np.column_stack([-np.sin(strokes.ways), np.cos(strokes.ways)])
    for side in (strokes.points - across, strokes.points + across):
        cells = _cells(side, dark)
        faint &= inked[cells] | (dark[cells] < PALER * strokes.dark)
    return np.asarray(faint)


def _cells(places: F64, sheet: F32) -> tuple[I64, ...]:
    """Rows and columns of the pixels of a sheet (h, w) at places (n, 2); beyond the edge those at it."""
    return tuple(np.clip(places[:, ::-1].astype(np.int64), 0, np.array(sheet.shape) - 1).T)


def take_out(pixels: U8, grey: U8, lines: tuple[PaleLine, ...], paper: float, ink: float) -> U8:
    """Return pixels, (h, w) or (h, w, 3), without pale lines; where ink crosses one, the ink stays.

    Along each line its profile is read window by window, from the pixels that are no ink. A pixel of the line is
    taken for a mixture of ink and of the line, as an edge of ink on plain paper is one of ink and paper; the line's
    share is then put back to paper. So edges of ink that lie on a line keep their place. A line that is not straight
    is unrolled to a strip first.
    """
    result = pixels.copy()
    planes = result if pixels.ndim == 3 else result[..., None]
    contrast = paper - ink
    for line in lines:
        most = min(0.85, line.darkness + 0.25) * contrast
        if isinstance(line.form, StraightLine):
            start, end = np.array(line.form.end(line.form.first)), np.array(line.form.end(line.form.last))
            _lift(planes, grey, start, end, paper, contrast, most)
            continue
        way = way_along(line.form, HALF_BAND_PX)
        strip = way.unrolled(grey)
        lifted = strip[..., None].copy()
        middle = 0.5 * strip.shape[0]
        _lift(lifted, strip, np.array([0.0, middle]), np.array([float(strip.shape[1]), middle]), paper, contrast, most)
        before = paper - strip.astype(np.float32)
        kept = np.where(before > 0.0, (paper - lifted[..., 0].astype(np.float32)) / np.maximum(before, 1e-6), 1.0)
        way.keep(planes, np.clip(kept, 0.0, 1.0).astype(np.float32), paper)
    return result


def _lift(planes: U8, grey: U8, start: F64, end: F64, paper: float, contrast: float, most: float) -> None:
    """Put pixels (h, w, c) of a straight line back to paper, in place; `grey` (h, w) has the tones before."""
    windows = max(1, round(float(np.hypot(*(end - start))) / WINDOW_PX))
    profiles = read_profiles(grey, start, end, windows, HALF_BAND_PX, paper, most)
    lift_line(planes, grey, start, end, _steadied(profiles), HALF_BAND_PX, paper, contrast, most)


def _steadied(profiles: F64) -> F64:
    """Smooth profiles (windows, offsets, 2) along the line; windows without a reading take their neighbours'."""
    known = profiles[..., :1] >= 0.0
    weight = smoothed(known.astype(np.float64), 1.0, Beyond.MIRRORED)
    mixed = smoothed(np.where(known, profiles, 0.0), 1.0, Beyond.MIRRORED) / np.maximum(weight, 1e-9)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)  # an offset that was never read is all NaN
        usual = np.nan_to_num(np.nanmedian(np.where(known, profiles, np.nan), axis=0))
    return np.ascontiguousarray(np.where(weight > 0.05, mixed, usual))
