"""Slants undone: scenes with a sheet of known corners and proportions, as `bench/cleanup.py` measures them."""

from __future__ import annotations

import numpy as np
import pytest
from skimage import data

from cleanup_scenes import drawn_sheet, photographed
from sobercrow.core.cleanup.find_sheet import find_sheet
from sobercrow.core.cleanup.slant import proportions, rectified_size
from sobercrow.core.picture.decode import read_picture
from sobercrow.core.settings import Corners
from sobercrow.demo.make import PICTURES


def as_corners(points: np.ndarray) -> Corners:
    return Corners(*((float(x), float(y)) for x, y in points))


@pytest.mark.parametrize(("seed", "ratio"), [(31, 2**0.5), (32, 2**-0.5), (33, 1.0), (34, 1.5)])
def test_the_sheet_in_a_photo_is_found_with_its_corners_and_proportions(seed: int, ratio: float) -> None:
    photo, true = photographed(drawn_sheet(seed, ratio), seed)
    found = find_sheet(photo)
    assert found is not None
    diagonal = np.hypot(*(true[2] - true[0]))
    off = [np.hypot(*(np.roll(found.points, k, axis=0) - true).T).max() for k in range(4)]
    assert min(off) <= 0.005 * diagonal
    seen = as_corners(np.roll(found.points, int(np.argmin(off)), axis=0))
    assert proportions(seen, photo.shape[1], photo.shape[0]) == pytest.approx(ratio, rel=0.01)


@pytest.mark.parametrize("tilt", [0.0, 0.1, 0.3, 0.6])
@pytest.mark.parametrize("ratio", [0.5, 1.0, 2.0])
def test_proportions_follow_from_a_pinhole_camera(tilt: float, ratio: float) -> None:
    # the picture of a rectangle under the pinhole model (Hartley & Zisserman 2004, "Multiple View Geometry", 6.1)
    focal, distance = 1500.0, 4000.0
    flat = np.array([(-ratio, -1.0), (ratio, -1.0), (ratio, 1.0), (-ratio, 1.0)]) * 300.0
    a, b = np.radians(tilt * 50), np.radians(tilt * 30)
    about_x = np.array([[1, 0, 0], [0, np.cos(a), -np.sin(a)], [0, np.sin(a), np.cos(a)]])
    about_y = np.array([[np.cos(b), 0, np.sin(b)], [0, 1, 0], [-np.sin(b), 0, np.cos(b)]])
    placed = np.column_stack([flat, np.zeros(4)]) @ (about_y @ about_x).T + (0, 0, distance)
    seen = as_corners(placed[:, :2] / placed[:, 2:] * focal + (600, 450))
    assert proportions(seen, 1200, 900) == pytest.approx(ratio, rel=0.005)
    width, height = rectified_size(seen, 1200, 900)
    assert width / height == pytest.approx(ratio, rel=0.01)
    assert rectified_size(seen, 1200, 900, 3.0)[0] == pytest.approx(3 * rectified_size(seen, 1200, 900, 3.0)[1], abs=3)


@pytest.mark.parametrize("name", ["pen-lettering.png", "kite-drawing.png", "pencil-sketch.png", "tints.png"])
def test_a_scan_without_surroundings_has_no_sheet_to_be_found(name: str) -> None:
    assert find_sheet(read_picture(PICTURES / name).pixels) is None


def test_a_frame_drawn_on_a_sheet_and_a_cat_are_no_sheets() -> None:
    framed = np.full((600, 800, 3), 240, np.uint8)
    for inner, tone in ((60, 30), (66, 240)):
        framed[inner : 600 - inner, inner : 800 - inner] = tone
    assert find_sheet(framed) is None
    assert find_sheet(data.chelsea()) is None  # a sample photo that scikit-image carries
