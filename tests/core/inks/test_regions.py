from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage
from shapely.geometry import Polygon

from sobercrow.core.inks.regions import inner_regions, outlines_of, region_at, small_regions, surroundings

RANDOM = np.random.default_rng(6)
LABELS = np.kron(RANDOM.integers(0, 3, (12, 16)), np.ones((3, 3), int)).astype(np.uint8)
LABELS[RANDOM.random(LABELS.shape) < 0.06] = 1


@pytest.mark.parametrize("inside_only", [False, True])
@pytest.mark.parametrize("least", [0.0, 2.0, 30.0])
def test_small_regions_are_counted_as_scipy_labels_them(least: float, inside_only: bool) -> None:
    found = small_regions(LABELS, [1, 2], least, inside_only)
    expected, total = np.zeros(LABELS.shape, bool), 0
    for label in (1, 2):
        regions, count = ndimage.label(label == LABELS, np.ones((3, 3)))
        at_edge = set(np.concatenate([regions[0], regions[-1], regions[:, 0], regions[:, -1]]).tolist())
        for k in range(1, count + 1):
            if (regions == k).sum() < least and not (inside_only and k in at_edge):
                expected |= regions == k
                total += 1
    assert found.count == total
    assert np.array_equal(found.mask, expected)


def test_outlines_enclose_what_the_mask_covers() -> None:
    mask = ndimage.binary_fill_holes(LABELS == 2)
    areas = [Polygon(line).area for line in outlines_of(mask)]
    assert sum(areas) == pytest.approx(mask.sum(), rel=0.12)  # a quarter of a pixel is lost around each
    lone = np.zeros((9, 9), bool)
    lone[4, 6] = True
    (outline,) = outlines_of(lone)
    assert np.allclose((outline.min(axis=0) + outline.max(axis=0)) / 2, (6.5, 4.5), atol=0.13)


def test_a_region_is_what_joins_and_inner_ones_touch_no_edge() -> None:
    regions, _ = ndimage.label(LABELS[18, 24] == LABELS, np.ones((3, 3)))
    assert np.array_equal(region_at(LABELS, 18, 24), regions == regions[18, 24])
    for label in range(3):
        joined, count = ndimage.label(label == LABELS)
        outer = np.unique(np.concatenate([joined[0], joined[-1], joined[:, 0], joined[:, -1]]))
        expected = np.isin(joined, np.setdiff1d(np.arange(1, count + 1), outer))
        assert np.array_equal(inner_regions(LABELS, label), expected)


def test_surroundings_are_the_label_of_a_nearest_pixel_outside() -> None:
    mask = ndimage.binary_dilation(RANDOM.random(LABELS.shape) < 0.01, iterations=2)
    taken = surroundings(LABELS, mask)
    away, (rows, columns) = ndimage.distance_transform_edt(mask, return_indices=True)
    nearest = LABELS[rows, columns][mask]
    assert (taken == nearest).mean() > 0.8  # where two are as near, either will do
    outside = np.argwhere(~mask)
    for (row, column), label in zip(np.argwhere(mask), taken, strict=True):
        distance = np.hypot(*(outside - (row, column)).T)
        near = outside[distance <= away[row, column] + 0.7]  # the chamfer distance is that exact
        assert label in LABELS[tuple(near.T)]
