from __future__ import annotations

import cv2
import numpy as np
import pytest
from skimage import data
from skimage.measure import find_contours

from drawings import disc, lettering, polygon, separation
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.tracing._border_kernels import follow_borders
from sobercrow.core.tracing._nesting_kernels import enclosing
from sobercrow.core.tracing.borders import find_borders, run_starts


@pytest.mark.parametrize("grey", [lettering("&g"), data.coins()[:120, :160], np.eye(9, dtype=np.uint8) * 255])
def test_crossings_are_those_of_marching_squares(grey: np.ndarray) -> None:
    # scikit-image: one point wherever a row or column between pixel centres crosses the level
    crossings, starts = follow_borders(np.ascontiguousarray(grey), 127.5, run_starts(grey, 127.5))
    padded = np.pad(grey.astype(float), 1, constant_values=255)
    theirs = find_contours(padded, 127.5)
    assert starts[-1] == len(crossings) == sum(len(c) - 1 for c in theirs)


def test_ink_lies_on_the_right_of_the_path() -> None:
    grey = disc(60, 30, 30, 22)
    grey = np.maximum(grey, 255 - disc(60, 30, 30, 10))
    outer, hole = sorted(find_borders(separation(grey).field).lines, key=len, reverse=True)
    assert polygon_area(outer) == pytest.approx(np.pi * 22**2, rel=2e-3)
    assert polygon_area(hole) == pytest.approx(-np.pi * 10**2, rel=5e-3)


@pytest.mark.parametrize("shift", [0.0, 0.125, 0.25, 0.5, 0.8125])
@pytest.mark.parametrize("blur", [0.0, 0.7])
def test_straight_edges_are_located_to_a_hundredth_of_a_pixel(shift: float, blur: float) -> None:
    grey = polygon(40, [(10 + shift, 8), (30 + shift, 8), (30 + shift, 33), (10 + shift, 33)])
    if blur:
        grey = cv2.GaussianBlur(grey, (0, 0), blur)
    points = find_borders(separation(grey).field).lines[0]
    left = points[(points[:, 0] < 15) & (points[:, 1] > 14) & (points[:, 1] < 27), 0]
    assert np.abs(left - (10 + shift)).max() < 0.015


def test_circle_points_lie_on_the_circle_nearer_than_the_bare_iso_line() -> None:
    grey = disc(80, 40.3, 39.6, 27.2)
    points = find_borders(separation(grey).field).lines[0]
    ours = np.abs(np.hypot(points[:, 0] - 40.3, points[:, 1] - 39.6) - 27.2)
    bare = find_contours(grey.astype(float), 127.5)[0] + 0.5
    theirs = np.abs(np.hypot(bare[:, 1] - 40.3, bare[:, 0] - 39.6) - 27.2)
    assert ours.mean() < 0.025 < theirs.mean()


def test_a_higher_threshold_makes_the_drawing_heavier() -> None:
    grey = cv2.GaussianBlur(disc(80, 40, 40, 25), (0, 0), 1.5)
    areas = [find_borders(separation(grey, t).field).areas_px2[0] for t in (60, 127, 200)]
    assert areas[0] < areas[1] - 50 < areas[2] - 100


def test_specks_and_pinholes_are_left_out() -> None:
    grey = disc(60, 30, 30, 20)
    grey[5, 5] = 0
    grey[30, 30] = 255
    assert len(find_borders(separation(grey).field).lines) == 3
    assert len(find_borders(separation(grey).field, speck_px2=4.0).lines) == 1


def test_ink_that_touches_the_edge_ends_there() -> None:
    grey = np.zeros((20, 30), np.uint8)
    grey[0, 0] = 255
    points = find_borders(separation(grey).field).lines[0]
    assert points[:, 0].max() == pytest.approx(30, abs=0.01)
    assert points[:, 1].max() == pytest.approx(20, abs=0.01)


def test_at_the_highest_threshold_the_whole_sheet_is_ink() -> None:
    found = find_borders(separation(disc(40, 20, 20, 9), 255).field)
    assert found.areas_px2 == pytest.approx([1600], rel=0.05)


def test_saddles_join_what_their_mean_says() -> None:
    dark, light = np.array([[0, 200], [200, 0]], np.uint8), np.array([[100, 255], [255, 100]], np.uint8)
    assert len(follow_borders(dark, 127.5, run_starts(dark, 127.5))[1]) - 1 == 1
    assert len(follow_borders(light, 127.5, run_starts(light, 127.5))[1]) - 1 == 2


@pytest.mark.parametrize(("sigma", "low", "high"), [(0.0, 0.29, 0.55), (0.7, 0.65, 0.95), (1.5, 1.4, 1.8)])
def test_the_width_of_the_edges_is_measured(sigma: float, low: float, high: float) -> None:
    grey = lettering("Heron", 160)
    soft = cv2.GaussianBlur(grey, (0, 0), sigma) if sigma else grey
    assert low < find_borders(separation(soft).field).blur_px < high


def test_probes_find_the_smallest_polygon_around_them() -> None:
    def square(a: float, b: float) -> np.ndarray:
        return np.array([(a, a), (b, a), (b, b), (a, b)], float)

    polygons = [square(4, 6), square(2, 8), square(20, 30)]
    points = np.concatenate(polygons)
    boxes = np.array([(*p.min(0), *p.max(0)) for p in polygons])
    probes = np.array([(5.0, 5.0), (3.0, 3.0), (25.0, 25.0), (50.0, 50.0)])
    assert enclosing(points, np.array([0, 4, 8, 12]), boxes, probes).tolist() == [0, 1, 2, -1]
