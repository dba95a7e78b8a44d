"""Which ink every pixel belongs to, and how strongly."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, partial

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, I64, U8, U64
from sobercrow.core.inks._colour_kernels import mark_cells, steps_between, two_nearest
from sobercrow.core.inks._label_kernels import first_labels, mark_crumbs, spread_across, spread_down
from sobercrow.core.inks._mixture_kernels import calm, shares, unmix
from sobercrow.core.inks._ridge_kernels import find_ridges
from sobercrow.core.inks.colour import lab_of
from sobercrow.core.inks.mixer import Mixer
from sobercrow.core.inks.regions import surroundings
from sobercrow.core.parallel import in_strips

CELLS = 32**3
LEAST_NOISE = 3.0
APART_SHARE = 0.3
"""A pixel is surely an ink's if it is nearer to it than this share of the distance to the next ink."""
PULL = 0.6
"""What a neighbour of another ink weighs, in units of the colour's likelihood."""
SWEEPS = 3
GRAIN_PX = 5
CRUMB_PX = 9
"""Smaller regions in a dirty picture are left over from compression."""
SHORTEST_STROKE_PX = 3
STROKE_REACH = 3
LEAST_STROKE_PX = 6
COLOUR_VOTE = 6.0
"""What the summed colour of a stroke weighs against the votes of its pixels."""
RIDGE_CONTRAST = 20.0
"""What a thin stroke differs from its surroundings at least, in weighed sRGB values."""


@dataclass(frozen=True, slots=True, eq=False)
class Labels:
    """A partition of the pixels among inks.

    Attributes
    ----------
    own : (h, w) uint8
        The ink each pixel belongs to.
    second : (h, w) uint8
        The ink it is mixed with; its own where it is pure.
    share : (h, w) uint8
        The share of its own ink, 128–255 for 0.5–1.
    """

    own: U8
    second: U8
    share: U8


@cache
def _cell_labs() -> F64:
    """The middle colour of each of the 32768 cells of 8 × 8 × 8 sRGB values, as L*a*b*."""
    axis = np.arange(32) * 8.0 + 3.5
    r, g, b = np.meshgrid(axis, axis, axis, indexing="ij")
    return lab_of(np.stack([r, g, b], axis=-1).reshape(-1, 3))


def noise_of(pixels: U8) -> float:
    """Return how much flat colour wavers, as a standard deviation in sRGB values: by the smaller half of the steps."""
    counts = np.zeros(256)
    steps_between(pixels, max(1, pixels.shape[0] // 400), counts)
    total = counts.sum()
    if total == 0:
        return LEAST_NOISE
    middle = float(np.searchsorted(np.cumsum(counts), 0.6 * total))
    return max(LEAST_NOISE, middle)


def part(pixels: U8, members: F64, owner: U8, linear: bool, noise: float, shaded: bool = False) -> Labels:
    """Give every pixel of (h, w, 3) to one of the inks, soft edges unmixed.

    An ink may have several members among the colours (n, 3), at most 64; `owner` (n,) says whose each is. Where tones
    run into each other (`shaded`) nothing is unmixed: every pixel is taken as it is, its grain smoothed.
    """
    if len(members) < 2:
        own = np.zeros(pixels.shape[:2], dtype=np.uint8)
        return Labels(own, own.copy(), np.full_like(own, 255))
    mixer = Mixer.of(members, linear)
    if shaded:
        pixels = np.asarray(cv2.medianBlur(pixels, GRAIN_PX), dtype=np.uint8)
    own, _near, sure = nearest_members(pixels, mixer, members, noise, shaded=shaded)
    if not shaded:
        own = with_strokes(pixels, own, sure, mixer, noise)
    second, share = np.empty_like(own), np.empty_like(own)
    in_strips(len(own), lambda a, b: shares(pixels, mixer, owner, a, b, own, second, share))
    return Labels(owner[own], second, share)


def nearest_members(
    pixels: U8, mixer: Mixer, members: F64, noise: float, sweeps: int = SWEEPS, shaded: bool = False
) -> tuple[U8, U64, U64]:
    """Return which member explains each pixel best, and bits for members surely near it, and for what it surely is."""
    height, width = pixels.shape[:2]
    own = np.empty((height, width), dtype=np.uint8)
    bits, across = np.empty((height, width), np.uint64), np.empty((height, width), np.uint64)
    near: U64 = np.empty((height, width), np.uint64)
    nearest, runner = _cell_owners(pixels, members)
    sure, limit = _surely_near(members, noise), int(3 * max(2.5 * noise, 8))
    in_strips(height, lambda a, b: first_labels(pixels, nearest, runner, mixer.plain, sure, limit, a, b, own, bits))
    if shaded:
        near[:] = 0
    else:
        in_strips(height, lambda a, b: spread_across(bits, a, b, across))
        in_strips(height, lambda a, b: spread_down(across, a, b, near))
        in_strips(height, lambda a, b: unmix(pixels, near, bits, mixer, noise, a, b, own))
    for _ in range(1 if shaded else sweeps):
        before, own = own, np.empty_like(own)
        in_strips(height, partial(_sweep, pixels, near, mixer, noise, before, own))
    return own, near, bits


def with_strokes(pixels: U8, own: U8, sure: U64, mixer: Mixer, noise: float) -> U8:
    """Return which member each pixel belongs to, thin strokes kept whole and of one ink each.

    Blur and compression may leave a stroke less than half of its ink and smear its colour, but they keep the sum: what
    the stroke and its surroundings differ from the ink around, added up, points to the stroke's ink.
    """
    around, likely = np.empty_like(own), np.empty_like(own)
    contrast = max(RIDGE_CONTRAST, 4.0 * noise)
    in_strips(len(own), lambda a, b: find_ridges(pixels, mixer, contrast, a, b, sure, own, around, likely))
    result = own.copy()
    rows, columns = np.nonzero((around < 255) & (likely != around))
    if len(rows):
        _settle_strokes(pixels, own, around, likely, mixer, (rows, columns), result)
    if noise > LEAST_NOISE:  # ringing leaves crumbs beside edges
        crumbs = np.zeros_like(own)
        mark_crumbs(result, CRUMB_PX, crumbs)
        mask = (crumbs > 0) & (around == 255)
        result[mask] = surroundings(result, mask)
    return result


def _settle_strokes(
    pixels: U8, own: U8, around: U8, likely: U8, mixer: Mixer, places: tuple[I64, I64], result: U8
) -> None:
    """Write the ink of each stroke long enough to be one into `result`."""
    colours = mixer.plain.astype(np.float64)
    rows, columns = places
    ridge = np.zeros_like(own)
    ridge[rows, columns] = 1
    _, joined = cv2.connectedComponents(ridge, connectivity=8)
    parts = joined[rows, columns].astype(np.int64) * len(colours) + around[rows, columns]
    names, stroke, sizes = np.unique(parts, return_inverse=True, return_counts=True)
    ground, count = names % len(colours), len(names)
    votes = np.zeros((count, len(colours)))
    np.add.at(votes, (stroke, likely[rows, columns]), 1.0)
    zone = np.zeros(own.shape, dtype=np.float32)
    zone[rows, columns] = stroke + 1.0
    side = 2 * STROKE_REACH + 1
    near = cv2.dilate(zone, np.ones((side, side), np.uint8)).astype(np.int64)
    zone_rows, zone_columns = np.nonzero(near)
    which = near[zone_rows, zone_columns] - 1
    beneath = ground[which]
    counted = (own[zone_rows, zone_columns] == beneath) | (around[zone_rows, zone_columns] == beneath)
    which, beneath = which[counted], beneath[counted]
    away = pixels[zone_rows[counted], zone_columns[counted]] - colours[beneath]
    total = np.stack([np.bincount(which, away[:, k], count) for k in range(3)], axis=1)
    towards = colours[None] - colours[ground][:, None]
    length = np.maximum(np.linalg.norm(towards, axis=2), 1e-9)
    alike = np.einsum("ik,ijk->ij", total, towards) / (
        np.maximum(np.linalg.norm(total, axis=1), 1e-9)[:, None] * length
    )
    alike[np.arange(count), ground] = -1.0
    score = votes / sizes[:, None] + np.where(sizes[:, None] >= LEAST_STROKE_PX, COLOUR_VOTE * alike, 0.0)
    kept = sizes[stroke] >= SHORTEST_STROKE_PX
    result[rows[kept], columns[kept]] = score.argmax(axis=1)[stroke[kept]]


def _sweep(pixels: U8, near: U64, mixer: Mixer, noise: float, before: U8, after: U8, first: int, last: int) -> None:
    calm(pixels, near, mixer, noise, PULL, first, last, before, after)


def _surely_near(inks: F64, noise: float) -> F32:
    apart = np.linalg.norm(inks[:, None] - inks[None], axis=2)
    np.fill_diagonal(apart, np.inf)
    return np.asarray(np.maximum(APART_SHARE * apart.min(axis=1), noise).astype(np.float32) ** 2)


def _cell_owners(pixels: U8, inks: F64) -> tuple[U8, U8]:
    """The inks most and second most like the colours of each cell that occurs, as people see them."""
    used = np.zeros(CELLS, np.uint8)
    in_strips(pixels.shape[0], lambda a, b: mark_cells(pixels, a, b, used))
    nearest, runner = np.zeros(CELLS, np.uint8), np.zeros(CELLS, np.uint8)
    two_nearest(_cell_labs(), lab_of(inks), used, nearest, runner)
    return nearest, runner
