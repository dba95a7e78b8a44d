"""Touch-ups: strokes, shapes and pours, replayed on the cleaned picture."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.cleanup._stroke_kernels import polygon_coverage, stroke_coverage
from sobercrow.core.cleanup.sheet import SheetMap
from sobercrow.core.picture.picture import grey_of
from sobercrow.core.picture.tones import FULL_INK_SHARE, histogram, otsu
from sobercrow.core.settings import INK_COLOUR, PAPER_COLOUR, Point, TouchForm, TouchTool, TouchUp

CAPTURE_PX = 0.3
"""A freehand stroke is kept to this, in pixels of the cleaned picture."""
SPACED_PX, SWELL_STEP_PX = 1.0, 0.25
"""Places of a stroke whose width changes lie so far apart; its width changes by so little from piece to piece."""
OWN_COLOUR_SAMPLES = 20_000
EDGE_REACH_PX = 2
"""How far the soft edge around a poured region reaches."""


@dataclass(frozen=True, slots=True)
class OwnColours:
    """The picture's own ink and paper, as rgb 0–255."""

    ink: tuple[int, int, int]
    paper: tuple[int, int, int]


def own_colours(pixels: U8) -> OwnColours:
    """Return the colour of the ink where it is darkest and the usual one of the paper, from (h, w) or (h, w, 3)."""
    every = max(1, int((pixels.shape[0] * pixels.shape[1] / OWN_COLOUR_SAMPLES) ** 0.5))
    sample = np.ascontiguousarray(pixels[::every, ::every])
    grey = grey_of(sample)
    split = otsu(histogram(grey))
    colours = sample.reshape(grey.size, -1).repeat(3 if sample.ndim == 2 else 1, axis=1)
    dark, bright = colours[grey.ravel() <= split], colours[grey.ravel() > split]
    paper = np.median(bright, axis=0) if len(bright) else np.full(3, 255.0)
    ink = np.zeros(3)
    if len(dark):
        tones = grey.ravel()[grey.ravel() <= split]
        ink = np.median(dark[tones <= np.quantile(tones, 2 * FULL_INK_SHARE)], axis=0)
    r, g, b = (int(v) for v in ink)
    return OwnColours((r, g, b), (int(paper[0]), int(paper[1]), int(paper[2])))


def colour_at(pixels: U8, x: float, y: float) -> str:
    """Return the colour at a place as "#rrggbb": the median of the 3 × 3 pixels there."""
    row = min(max(int(y), 0), pixels.shape[0] - 1)
    column = min(max(int(x), 0), pixels.shape[1] - 1)
    near = pixels[max(row - 1, 0) : row + 2, max(column - 1, 0) : column + 2]
    colour = np.median(near.reshape(-1, pixels.shape[2] if pixels.ndim == 3 else 1), axis=0)
    r, g, b = (int(v) for v in (colour if len(colour) == 3 else colour.repeat(3)))
    return f"#{r:02x}{g:02x}{b:02x}"


def simplified(points: list[Point]) -> tuple[Point, ...]:
    """Return a freehand path with as few points as keep it within a third of a pixel (Douglas & Peucker 1973)."""
    if len(points) < 3:
        return tuple(points)
    path = np.array(points, dtype=np.float32).reshape(-1, 1, 2)
    kept = cv2.approxPolyDP(path, CAPTURE_PX, False).reshape(-1, 2)
    return tuple((float(x), float(y)) for x, y in kept)


def spaced(points: list[Point], shares: list[float]) -> tuple[tuple[Point, ...], tuple[float, ...]]:
    """Return a freehand path with the shares of its width, without points that lie hardly apart; its ends stay."""
    kept = [0]
    for k, point in enumerate(points):
        if math.dist(point, points[kept[-1]]) >= SPACED_PX or k == len(points) - 1 > 0:
            kept.append(k)
    return tuple(points[k] for k in kept), tuple(shares[k] for k in kept)


def replay(pixels: U8, touch_ups: tuple[TouchUp, ...], sheet: SheetMap) -> U8:
    """Return pixels with the touch-ups that are shown done to them, one after the other.

    A grey sheet, (h, w), stays grey unless a touch-up has a colour.
    """
    shown = [t for t in touch_ups if t.shown]
    if not shown:
        return pixels
    own = own_colours(pixels)
    colours = [_rgb(t, own) for t in shown]
    if pixels.ndim == 2 and any(len(set(c)) > 1 for c in colours):
        pixels = np.asarray(cv2.cvtColor(pixels, cv2.COLOR_GRAY2RGB), dtype=np.uint8)
    result = pixels.copy()
    for touch_up, colour in zip(shown, colours, strict=True):
        if touch_up.tool is TouchTool.POUR:
            _pour(result, touch_up, colour, sheet)
        else:
            _lay(result, touch_up, colour, sheet)
    return result


def _rgb(touch_up: TouchUp, own: OwnColours) -> tuple[int, int, int]:
    if touch_up.tool is TouchTool.SCRAPE or touch_up.colour == PAPER_COLOUR:
        return own.paper
    if touch_up.colour == INK_COLOUR:
        return own.ink
    r, g, b = bytes.fromhex(touch_up.colour[1:])
    return r, g, b


@dataclass(frozen=True, slots=True, eq=False)
class Cover:
    """How much each pixel of a part of a picture is covered, 0–1, and which part it is."""

    place: tuple[slice, slice]
    cover: F32


def coverage_of(points: F64, half_px: float, filled: bool, height: int, width: int) -> Cover | None:
    """Return what a stroke along points (n, 2), or a filled polygon, covers of a picture; None if nothing."""
    made = _nothing_covered(points, 1.0 if filled else half_px + 1.0, height, width)
    if made is None:
        return None
    local = np.ascontiguousarray(points - (made.place[1].start, made.place[0].start))
    if filled:
        polygon_coverage(local, made.cover)
    else:
        stroke_coverage(local, half_px, made.cover)
    return made


def _nothing_covered(points: F64, reach: float, height: int, width: int) -> Cover | None:
    """The part of a picture within reach of points, covered nowhere yet; None if they lie beside it."""
    left, top = (max(0, int(v)) for v in np.floor(points.min(axis=0) - reach))
    right, bottom = (int(v) + 1 for v in np.ceil(points.max(axis=0) + reach))
    right, bottom = min(right, width), min(bottom, height)
    if left >= right or top >= bottom:
        return None
    return Cover((slice(top, bottom), slice(left, right)), np.zeros((bottom - top, right - left), dtype=np.float32))


def swelling_coverage(points: F64, halves: F64, height: int, width: int) -> Cover | None:
    """Return what a stroke along points (n, 2) covers of a picture, so many pixels to either side at each of them
    (n,); None if nothing. It is that of pieces of even width, short enough for their steps not to be seen."""
    steps = [max(1, math.ceil(abs(b - a) / SWELL_STEP_PX)) for a, b in pairwise(halves)] or [1]
    at = np.concatenate([np.linspace(k, k + 1, n, endpoint=False) for k, n in enumerate(steps)] + [[len(points) - 1]])
    line = np.column_stack([np.interp(at, np.arange(len(points)), points[:, k]) for k in (0, 1)])
    halves = np.interp(at, np.arange(len(points)), halves)
    whole = _nothing_covered(line, float(halves.max()) + 1.0, height, width)
    if whole is None:
        return None
    top, left = whole.place[0].start, whole.place[1].start
    for k in range(max(len(line) - 1, 1)):
        half = float(halves[k : k + 2].mean())
        piece = coverage_of(line[k : k + 2], half, False, height, width)
        if piece is not None:
            rows, columns = piece.place
            here = whole.cover[rows.start - top : rows.stop - top, columns.start - left : columns.stop - left]
            np.maximum(here, piece.cover, out=here)
    return whole


def _lay(result: U8, touch_up: TouchUp, colour: tuple[int, int, int], sheet: SheetMap) -> None:
    """Lay a colour over what a stroke or a shape covers, its edge mixed by area."""
    points = sheet.to_sheet(np.array(touch_up.points, dtype=np.float64))
    half = 0.5 * touch_up.width_px * sheet.scale_at(touch_up.middle)
    filled = touch_up.form in (TouchForm.BOX, TouchForm.POLYGON)
    if touch_up.shares:
        found = swelling_coverage(points, half * np.array(touch_up.shares), *result.shape[:2])
    else:
        found = coverage_of(points, half, filled, *result.shape[:2])
    if found is not None:
        _blend(result[found.place], found.cover, colour)


def _blend(part: U8, cover: F32, colour: tuple[int, int, int]) -> None:
    planes = part if part.ndim == 3 else part[..., None]
    for channel in range(planes.shape[2]):
        plane = planes[..., channel].astype(np.float32)
        planes[..., channel] = np.rint(plane + cover * (colour[channel] - plane)).astype(np.uint8)


def _pour(result: U8, touch_up: TouchUp, colour: tuple[int, int, int], sheet: SheetMap) -> None:
    """Recolour the region around a place, or everywhere that colour is; soft edges keep their share of it."""
    x, y = sheet.to_sheet(np.array(touch_up.points[:1], dtype=np.float64))[0]
    row, column = int(np.floor(y)), int(np.floor(x))
    if not (0 <= row < result.shape[0] and 0 <= column < result.shape[1]):
        return  # the place lies outside the crop
    planes = result if result.ndim == 3 else result[..., None]
    old = planes[row, column].astype(np.float32)
    away = np.abs(planes.astype(np.int16) - planes[row, column].astype(np.int16)).max(axis=2)
    region = (away <= touch_up.tolerance).astype(np.uint8)
    if not touch_up.everywhere:
        _, labels = cv2.connectedComponents(region, connectivity=4)
        region = (labels == labels[row, column]).astype(np.uint8)
    share = region.astype(np.float32)
    share = np.maximum(share, _edge_share(planes, region, old))
    moved = planes + share[..., None] * (np.array(colour[: planes.shape[2]], dtype=np.float32) - old)
    # within the region everything becomes the new colour; at its edge only the old colour's share does
    planes[...] = np.clip(np.rint(moved), 0, 255).astype(np.uint8)
    planes[region > 0] = colour[: planes.shape[2]]


def _edge_share(planes: U8, region: U8, old: F32) -> F32:
    """How much of the old colour there is in the pixels just outside a region, 0–1.

    Such a pixel is a mixture of the old colour and of what lies beyond: the colour least like the old one
    within reach of it.
    """
    size = 2 * EDGE_REACH_PX + 1
    ring = (cv2.dilate(region, np.ones((size, size), np.uint8)) > 0) & (region == 0)
    away = np.abs(planes.astype(np.float32) - old).sum(axis=2)
    furthest = cv2.dilate(away, np.ones((size, size), np.uint8))
    share = np.where(ring, 1.0 - away / np.maximum(furthest, 1.0), 0.0)
    return np.clip(share, 0.0, 1.0).astype(np.float32)
