"""The trace step: from a separation to artwork."""

from __future__ import annotations

import math
import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.errors import Cancelled
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.inks.separation import Separation
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing._contour_kernels import fit_contour
from sobercrow.core.tracing._nesting_kernels import enclosing
from sobercrow.core.tracing.borders import Borders, all_borders, find_borders

NOISE_PX = 0.12
"""Usual error of a border point. Below a tolerance of about twice this the fit would follow noise."""

Progress = Callable[[float], None]
"""Called with the share done, 0-1; may raise `Cancelled` to stop the work."""


@dataclass(frozen=True, slots=True, eq=False)
class Trace:
    """Artwork and the drawn borders it was fitted to."""

    artwork: Artwork
    borders: Borders


def trace(separation: Separation, settings: Tracing, progress: Progress | None = None, grain_px: float = 1.0) -> Trace:
    """Fit outlines with the fewest anchors within the tolerance to the inks of a separation, a layer for each.

    `grain_px` is how many pixels what was one pixel of the drawing takes up: more than 1 once it was enlarged. Turns
    finer than that are no part of the drawing.

    Every outer contour becomes a shape with the holes in it; paper is never traced. Layers lie in the order of the
    separation, each running on a little beneath those above it. In a layer shapes are ordered from top to bottom, then
    left to right, by their bounds' corner.

    Raises
    ------
    Cancelled
        If `progress` raised it.
    """
    layers: list[Layer] = []
    found: list[Borders] = []
    drawn = separation.drawn
    for number, ink in enumerate(drawn):
        borders = find_borders(separation.field_of(ink), settings.effective_speck_px2)

        def tell(share: float, number: int = number) -> None:
            if progress is not None:
                progress((number + share) / len(drawn))

        tell(0.0)
        contours = fit_borders(borders, settings, tell, grain_px)
        layers.append(Layer(separation.inks[ink].name, _shapes(borders, contours, separation.inks[ink].colour)))
        found.append(borders)
    height, width = separation.own.shape
    return Trace(Artwork(tuple(layers), float(width), float(height), separation.dpi), all_borders(found))


def fit_borders(
    borders: Borders, settings: Tracing, progress: Progress | None = None, grain_px: float = 1.0
) -> list[Contour]:
    """Return one closed contour for each border, in the same order; both processor cores are used."""
    grain = max(grain_px, 1.0)
    tolerance = settings.effective_tolerance_px / grain
    corner = math.radians(settings.effective_corner_angle_deg)
    # a looser tolerance also says that less is wanted of the mean distance
    smoothness = 1.0 / max(tolerance, NOISE_PX) ** 2 * 0.125
    longest_first = sorted(range(len(borders.lines)), key=lambda i: -len(borders.lines[i]))
    contours: list[Contour | None] = [None] * len(borders.lines)
    total = sum(map(len, borders.lines)) or 1
    workers = max(1, min(os.cpu_count() or 1, 8))
    stopped = False

    def fit_some(indices: Iterable[int]) -> int:
        done = 0
        for index in indices:
            if stopped:
                break
            line = borders.lines[index]
            if grain > 1.0:
                every = round(grain) if len(line) > 16 * grain else 1
                line = np.ascontiguousarray(line[::every] / grain)
            room = 4 * len(line) + 64
            anchors, kinds = np.empty((room, 6)), np.zeros(room, dtype=np.uint8)
            count = fit_contour(line, tolerance, corner, smoothness, borders.blur_px / grain, anchors, kinds)
            contours[index] = Contour(anchors[:count].reshape(count, 3, 2) * grain, kinds[:count])
            done += len(borders.lines[index])
        return done

    batches = _batches(longest_first, [len(line) for line in borders.lines])
    with ThreadPoolExecutor(workers) as pool:
        done = 0
        try:
            for count in pool.map(fit_some, batches):
                done += count
                if progress is not None:
                    progress(done / total)
        except Cancelled:
            stopped = True
            raise
    return [c for c in contours if c is not None]


def _batches(order: list[int], sizes: list[int], batch_points: int = 6000) -> list[list[int]]:
    batches: list[list[int]] = [[]]
    weight = 0
    for index in order:
        if weight >= batch_points:
            batches.append([])
            weight = 0
        batches[-1].append(index)
        weight += sizes[index]
    return batches


def _shapes(borders: Borders, contours: list[Contour], fill: str) -> tuple[Shape, ...]:
    outers = [i for i, area in enumerate(borders.areas_px2) if area > 0]
    holes = [i for i, area in enumerate(borders.areas_px2) if area <= 0]
    parts: dict[int, list[Contour]] = {i: [contours[i]] for i in outers}
    for hole, outer in zip(holes, _owners(borders, outers, holes), strict=True):
        if outer is not None:
            parts[outer].append(contours[hole])
    tops = {i: (borders.lines[i][:, 1].min(), borders.lines[i][:, 0].min()) for i in outers}
    return tuple(Shape(tuple(parts[i]), fill) for i in sorted(outers, key=lambda i: tops[i]))


def _owners(borders: Borders, outers: list[int], holes: list[int]) -> list[int | None]:
    """For each hole the smallest outer border around it."""
    if not holes or not outers:
        return [None] * len(holes)
    smallest_first = sorted(outers, key=lambda i: borders.areas_px2[i])
    lines = [borders.lines[i] for i in smallest_first]
    starts = np.concatenate([[0], np.cumsum([len(line) for line in lines])]).astype(np.int64)
    boxes: F64 = np.array([(*line.min(axis=0), *line.max(axis=0)) for line in lines])
    probes: F64 = np.array([borders.lines[i][0] for i in holes])
    found = enclosing(np.concatenate(lines), starts, boxes, probes)
    return [smallest_first[k] if k >= 0 else None for k in found]
