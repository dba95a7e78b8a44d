"""Compression dirt, paper grain and stains: how much there is, and taking it out without touching the edges."""

from __future__ import annotations

import math

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.cleanup._tone_kernels import shift_tones
from sobercrow.core.parallel import in_strips
from sobercrow.core.picture.picture import grey_of

SAMPLE_SIDE, TILE_SIDE, TILES = 512, 128, 6
"""Noise is measured on the whole of a sheet of so many pixels a side, else on tiles of so many, so many across and
down, spread evenly over it: the same places of a drawing at any size."""
SMOOTHING_REACH_PX = 5
SMOOTHING_SPREAD_PX = 1.5
MOST_SMOOTHING = 50.0
"""Unlikeness of tones, 0–255, at which full smoothing still counts a neighbour half."""
CLEAN_NOISE = 1.6
"""Noise, as a standard deviation in tones, below which a picture is left alone by the automatic choice."""
CLEAN_EDGES = 1.0
"""Unrest beside the edges below which they count as clean. Scans have a quarter of it, middling JPEG has more."""


def noise_level(grey: U8) -> float:
    """Return the noise of the paper as a standard deviation in tones.

    The Laplacian of Immerkær 1996 ("Fast noise variance estimation"), taken robustly over the brighter half so that the
    drawing does not count.
    """
    if min(grey.shape) < 5:
        return 0.0
    tiles = _tiles(grey)
    middle = np.median(np.concatenate([tile.ravel() for tile in tiles]))
    paper = [np.abs(_laplacian(tile))[1:-1, 1:-1][tile[1:-1, 1:-1] >= middle] for tile in tiles]
    return float(1.4826 * np.median(np.concatenate(paper)) / 6.0)


def edge_noise(grey: U8) -> float:
    """Return the unrest beside the edges, as a standard deviation in tones: what compression leaves there.

    It is read in a ring 3 to 6 px away from strong edges, where a clean picture is flat.
    """
    if min(grey.shape) < 16:
        return 0.0
    tiles = _tiles(grey)
    span = float(max(tile.max() for tile in tiles)) - float(min(tile.min() for tile in tiles))
    found = []
    for tile in tiles:
        rise = cv2.morphologyEx(tile, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
        strong = (rise > 0.4 * span).astype(np.uint8)
        near = cv2.dilate(strong, np.ones((5, 5), np.uint8))
        ring = (cv2.dilate(strong, np.ones((13, 13), np.uint8)) > near) & (rise < 0.3 * span)
        found.append(np.abs(_laplacian(tile))[ring])
    response = np.concatenate(found)
    return float(math.sqrt(float(np.mean(np.minimum(response, 90.0) ** 2))) / 6.0) if response.size > 50 else 0.0


def _laplacian(tile: U8) -> F32:
    kernel = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], dtype=np.float32)
    return np.asarray(cv2.filter2D(tile, cv2.CV_32F, kernel))


def _tiles(grey: U8) -> list[U8]:
    """The parts of a sheet its noise is measured on."""
    height, width = grey.shape
    if max(height, width) <= SAMPLE_SIDE:
        return [np.ascontiguousarray(grey)]
    tops, lefts = (
        sorted({round((side - min(TILE_SIDE, side)) * k / (TILES - 1)) for k in range(TILES)}) for side in grey.shape
    )
    return [np.ascontiguousarray(grey[y : y + TILE_SIDE, x : x + TILE_SIDE]) for y in tops for x in lefts]


def is_dirty(noise: float, edges: float) -> bool:
    """Tell whether noise of the paper or beside the edges is worth smoothing."""
    return noise >= CLEAN_NOISE or edges >= CLEAN_EDGES


def automatic_smoothing(grey: U8) -> float:
    """Return the smoothing in per cent chosen for a sheet: as much as its noise asks for, none for a clean one."""
    noise, edges = noise_level(grey), edge_noise(grey)
    if not is_dirty(noise, edges):
        return 0.0
    return float(min(100.0, round(100.0 * 3.0 * max(noise, 0.8 * edges) / MOST_SMOOTHING)))


def smooth(pixels: U8, strength: float) -> U8:
    """Return pixels, (h, w) or (h, w, 3), with dirt calmed by a strength of 0–1.

    The bilateral filter (Tomasi & Manduchi 1998): neighbours count by nearness and by likeness, so that an edge
    much higher than the dirt stays as it is and corners are not rounded. In colours the tones are smoothed, and the
    channels follow alike, so that hues stay.
    """
    if strength <= 0.0:
        return pixels
    grey = grey_of(pixels)
    unlike = MOST_SMOOTHING * strength
    calm = np.asarray(cv2.bilateralFilter(grey, SMOOTHING_REACH_PX, unlike, SMOOTHING_SPREAD_PX), dtype=np.uint8)
    if pixels.ndim == 2:
        return calm
    result = np.empty_like(pixels)
    in_strips(pixels.shape[0], lambda first, last: shift_tones(pixels, grey, calm, first, last, result))
    return result


STAIN_SCALE = 4
DARKEST_STAIN = 0.5
"""A blot darker than this, relative to the paper, is taken for ink."""


def stain_gain(small: U8, paper: float, ink: float, strength: float, cells: tuple[int, int]) -> F64:
    """Return by how much tones are multiplied, in (rows, columns) cells, to lift stains by a strength of 0–1.

    `small` is the sheet reduced by `STAIN_SCALE`, in even light. A stain is paler than the ink and broader than its
    strokes: what a closing with a disc wider than the strokes leaves dark (Serra 1982, "Image Analysis and Mathematical
    Morphology"). Blots nearly as dark as ink are left alone.
    """
    reach = 2 * _stroke_reach(small, paper, ink) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach))
    closed = cv2.morphologyEx(small, cv2.MORPH_CLOSE, disc, borderType=cv2.BORDER_REPLICATE)
    closed = cv2.medianBlur(closed, 5)
    size = cells[1], cells[0]
    tones = np.minimum(cv2.resize(closed, size, interpolation=cv2.INTER_AREA).astype(np.float64), paper)
    limit = paper - DARKEST_STAIN * (paper - ink)
    # full lift for pale blots, fading out towards the tone where a blot may be ink
    share = np.clip((tones - limit) / (0.25 * (paper - limit) + 1e-9), 0.0, 1.0)
    return np.asarray((paper / np.maximum(tones, 1.0)) ** (strength * share))


def _stroke_reach(small: U8, paper: float, ink: float) -> int:
    """Half the width of nearly all strokes, in pixels of the reduced sheet."""
    drawn = (small < 0.5 * (paper + ink)).astype(np.uint8)
    if not drawn.any():
        return 3
    depth = cv2.distanceTransform(drawn, cv2.DIST_L2, 3)
    ridge = depth[(depth >= cv2.dilate(depth, np.ones((3, 3), np.uint8))) & (drawn > 0)]
    return int(min(max(math.ceil(1.5 * float(np.percentile(ridge, 95))) + 1, 3), 24))
