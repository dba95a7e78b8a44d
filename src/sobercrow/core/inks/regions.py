"""Regions of labels: specks, holes, what surrounds a place."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, U8

Mask = NDArray[np.bool_]


@dataclass(frozen=True, slots=True, eq=False)
class Specks:
    """Regions too small to count: a mask (h, w) of them and how many there are."""

    mask: Mask
    count: int


def small_regions(own: U8, chosen: list[int], least_px2: float, inside_only: bool = False) -> Specks:
    """Return the regions of the chosen labels smaller than a size; `inside_only` spares those at the picture's edge."""
    mask = np.zeros(own.shape, dtype=bool)
    count = 0
    if least_px2 <= 0:
        return Specks(mask, count)
    for label in chosen:
        found, regions, stats, _ = cv2.connectedComponentsWithStats((own == label).astype(np.uint8), connectivity=8)
        small = stats[:, cv2.CC_STAT_AREA] < least_px2
        small[0] = False
        if inside_only:
            small &= ~_at_edge(regions, found)
        if small.any():
            mask |= small[regions]
            count += int(small.sum())
    return Specks(mask, count)


def _at_edge(regions: NDArray[np.int32], count: int) -> Mask:
    touched = np.zeros(count, dtype=bool)
    for side in (regions[0], regions[-1], regions[:, 0], regions[:, -1]):
        touched[side] = True
    return touched


def outlines_of(mask: Mask) -> list[F64]:
    """Return the outlines of the regions of a mask, each (n, 2) in pixels, along the edges of its pixels."""
    found, _, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    outlines = []
    for left, top, width, height, _area in stats[1 : found + 1]:
        part = np.pad(mask[top : top + height, left : left + width].astype(np.uint8), 1)
        large = np.kron(part, np.ones((4, 4), np.uint8))
        lines, _ = cv2.findContours(large, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        outlines += [(line.reshape(-1, 2) + 0.5) / 4.0 - 1.0 + (left, top) for line in lines]
    return outlines


def region_at(own: U8, row: int, column: int) -> Mask:
    """Return the region of like labels around a pixel, (h, w)."""
    _, regions = cv2.connectedComponents((own == own[row, column]).astype(np.uint8), connectivity=8)
    return np.asarray(regions == regions[row, column])


def inner_regions(own: U8, label: int) -> Mask:
    """Return where a label does not touch the picture's edge, region by region."""
    count, regions = cv2.connectedComponents((own == label).astype(np.uint8), connectivity=4)
    inner = ~_at_edge(regions, count)
    inner[0] = False
    return np.asarray(inner[regions])


def surroundings(own: U8, mask: Mask) -> U8:
    """Return for every pixel in a mask the label of the nearest pixel outside it, in order of the mask's pixels."""
    rows, columns = np.nonzero(mask)
    if not len(rows) or mask.all():
        return own[mask]
    margin = 1
    top, bottom = max(rows.min() - margin, 0), rows.max() + 1 + margin
    left, right = max(columns.min() - margin, 0), columns.max() + 1 + margin
    inside = mask[top:bottom, left:right]
    _, nearest = cv2.distanceTransformWithLabels(
        inside.astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    outside = ~inside
    labels = np.zeros(int(nearest.max()) + 1, dtype=np.uint8)
    labels[nearest[outside]] = own[top:bottom, left:right][outside]
    return np.asarray(labels[nearest[inside]])
