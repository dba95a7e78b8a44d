"""Lines drawn to work by, paler than the ink: found as in sketches, and taken out where there is no ink."""

from __future__ import annotations

import math
import warnings
from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, I64, U8
from sobercrow.core.cleanup._guide_kernels import lift_line, read_profiles
from sobercrow.core.cleanup.unrolled import way_along
from sobercrow.core.geometry.forms import Ellipse
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.picture.picture import coarse
from sobercrow.core.strokes.free_curves import find_free_curves
from sobercrow.core.strokes.strokes import Strokes, single_strokes
from sobercrow.core.strokes.working_forms import Freehand, Sought, StraightLine, WorkingForm, is_on
from sobercrow.core.strokes.working_lines import find_working_lines

WORKING_PX = 1100
STROKE_PX = 2.5
"""About how wide lines are taken to be in the working picture."""
LEAST_LENGTH, LEAST_CURVE = 0.1, 0.2
"""A line, and a curve that is neither straight nor round, runs over at least this share of the sheet's longer side."""
FAINTEST, WEAKEST = 0.025, 0.004
"""Least darkness of a line, as a share of the ink's, and how strong its ridge is at least."""
IS_FORM, MOST_SHARED = 0.8, 0.6
"""A curve of which so much lies on a form is that form; a form of which so much lies on another curve is part of it."""
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
    pale, drawn = strokes.only(faint), strokes.only(~faint)
    _, forms = find_working_lines(pale, sought, palest)
    curves = find_free_curves(pale, drawn, inked, LEAST_CURVE * longer)
    found = _told_apart(forms, curves, pale)
    pencil = [tone for form, tone in found if not isinstance(form, Freehand)]
    most = LIKE_OTHERS * max(pencil) if pencil else palest
    return tuple(
        PaleLine(form.scaled(factor), tone)
        for form, tone in found
        if tone <= (most if isinstance(form, Freehand) else palest)
    )


def _told_apart(
    forms: Sequence[StraightLine | Ellipse], curves: Sequence[Freehand], strokes: Strokes
) -> list[tuple[WorkingForm, float]]:
    """Forms and curves found among the same pale strokes, each stretch as one of them, with their darkness.

    A curve nearly all of which lies on a form is that form, one made up of pieces of others is none; a form most of
    which lies on another curve is a part of that.
    """
    tones = strokes.dark
    on_forms = [is_on(strokes, form, STROKE_PX) for form in forms]
    kept: list[tuple[WorkingForm, float]] = []
    parts: set[int] = set()
    for curve in curves:
        on = is_on(strokes, curve, STROKE_PX)
        if not on.any():
            continue
        part_of_it = [bool((on & own).sum() >= MOST_SHARED * own.sum()) for own in on_forms]
        others = np.zeros(len(strokes), dtype=np.bool_)
        for own, is_part in zip(on_forms, part_of_it, strict=True):
            if not is_part:
                others |= own
        if (on & others).sum() < 0.5 * on.sum() and not any((on & own).sum() > IS_FORM * on.sum() for own in on_forms):
            kept.append((curve, float(np.median(tones[on]))))
            parts |= {k for k, is_part in enumerate(part_of_it) if is_part}
    whole = [(form, own) for k, (form, own) in enumerate(zip(forms, on_forms, strict=True)) if k not in parts]
    return [*((form, float(np.median(tones[own]))) for form, own in whole if own.any()), *kept]


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


def told_lines(lines: Sequence[PaleLine]) -> str:
    """Return how many lines, circles, ellipses and curves there are, in words."""
    forms = [line.form for line in lines]
    rounds = [form for form in forms if isinstance(form, Ellipse)]
    circles, curves = sum(form.is_circle for form in rounds), sum(isinstance(form, Freehand) for form in forms)
    straight = len(forms) - len(rounds) - curves
    parts = [
        one if count == 1 else f"{count} {many}"
        for count, one, many in (
            (straight, "a straight line", "straight lines"),
            (circles, "a circle", "circles"),
            (len(rounds) - circles, "an ellipse", "ellipses"),
            (curves, "a curve", "curves"),
        )
        if count
    ]
    return " and ".join([", ".join(parts[:-1]), parts[-1]] if len(parts) > 1 else parts)


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
