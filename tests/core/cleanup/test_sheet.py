from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage import transform

from drawings import disc, lettering, picture
from sobercrow.core.cleanup.clean import clean
from sobercrow.core.cleanup.sheet import crop_around, crop_within, lay_out, mirror, reshape, sheet_map, turn
from sobercrow.core.errors import SettingError
from sobercrow.core.settings import NEUTRAL, CleanUp, Corners, Crop

REST = CleanUp(**NEUTRAL)
SHEET = picture(np.arange(60 * 40, dtype=np.uint32).astype(np.uint8).reshape(40, 60))
CORNERS = Corners((4.0, 3.0), (52.0, 6.0), (56.0, 36.0), (2.0, 33.0))
SHAPES = st.builds(
    lambda slant, turns, mirrored, angle: replace(
        REST, slant=slant, quarter_turns=turns, mirrored=mirrored, angle_deg=angle
    ),
    st.sampled_from([None, CORNERS]),
    st.integers(0, 3),
    st.booleans(),
    st.sampled_from([0.0, -7.5, 12.0]),
)


@pytest.mark.parametrize("turns", range(4))
@pytest.mark.parametrize("mirrored", [False, True])
def test_quarter_turns_are_clockwise_after_mirroring_and_mix_no_pixels(turns: int, mirrored: bool) -> None:
    made = clean(SHEET, replace(REST, quarter_turns=turns, mirrored=mirrored))
    flipped = SHEET.pixels[:, ::-1] if mirrored else SHEET.pixels
    assert np.array_equal(made.pixels, np.rot90(flipped, -turns))


@given(SHAPES, st.integers(0, 3), st.tuples(*[st.integers(0, 14)] * 2), st.tuples(*[st.integers(2, 14)] * 2))
def test_turning_and_mirroring_keep_the_crop_on_the_same_part(shape, more: int, corner: tuple, size: tuple) -> None:
    cropped = replace(shape, crop=Crop(corner[0], corner[1], corner[0] + size[0], corner[1] + size[1]))
    before = sheet_map(60, 40, cropped)
    corners = np.array([(0, 0), (before.width, 0), (before.width, before.height), (0, before.height)], float)
    for changed in (turn(cropped, 60, 40, more), mirror(cropped, 60, 40)):
        after = sheet_map(60, 40, changed)
        back = after.to_sheet(before.to_source(corners))
        assert sorted(map(tuple, np.rint(back).astype(int))) == sorted(
            [(0, 0), (after.width, 0), (0, after.height), (after.width, after.height)]
        )


def test_mirroring_exchanges_left_and_right_of_what_is_seen() -> None:
    turned = replace(REST, quarter_turns=1)
    before, after = clean(SHEET, turned).pixels, clean(SHEET, mirror(turned, 60, 40)).pixels
    assert np.array_equal(after, before[:, ::-1])


@given(SHAPES, st.lists(st.tuples(st.floats(5, 50), st.floats(5, 35)), min_size=1, max_size=5))
def test_a_sheet_map_leads_there_and_back_and_knows_its_scale(shape: CleanUp, places: list) -> None:
    sheet = sheet_map(60, 40, shape).enlarged(3)
    points = np.array(places)
    assert sheet.to_source(sheet.to_sheet(points)) == pytest.approx(points, abs=1e-6)
    step = 1e-4
    square = points[0] + np.array([(0, 0), (step, 0), (step, step), (0, step)])
    x, y = sheet.to_sheet(square).T
    area = abs(0.5 * (np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))))
    assert sheet.scale_at(places[0]) == pytest.approx(np.sqrt(area) / step, rel=1e-3)


@pytest.mark.parametrize(
    "shape",
    [
        replace(REST, angle_deg=9.0),
        replace(REST, slant=Corners((20.0, 12.0), (260.0, 30.0), (280.0, 120.0), (8.0, 110.0))),
    ],
)
def test_pixels_lie_where_scikit_image_puts_them(shape: CleanUp) -> None:
    grey = lettering("Keel", 96)
    sheet = sheet_map(grey.shape[1], grey.shape[0], shape)
    ours = lay_out(grey, sheet).astype(float)
    half = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1.0]])  # scikit-image, too, counts from pixel centres
    inverse = np.linalg.inv(np.linalg.inv(half) @ sheet.matrix @ half)
    theirs = transform.warp(grey, transform.ProjectiveTransform(inverse), output_shape=ours.shape, order=3, cval=1.0)
    assert np.abs(ours - 255.0 * theirs)[8:-8, 8:-8].mean() < 1.5


def test_straightening_turns_clockwise_about_the_middle_and_cuts_nothing_off() -> None:
    grey = disc(200, 150.0, 100.0, 12.0)
    made = clean(picture(grey), replace(REST, angle_deg=30.0))
    y, x = np.nonzero(made.grey() < 128)
    middle = np.array([made.width / 2, made.height / 2])
    turned = 50.0 * np.array([np.cos(np.radians(30)), np.sin(np.radians(30))])
    assert np.array([x.mean() + 0.5, y.mean() + 0.5]) - middle == pytest.approx(turned, abs=0.1)
    assert made.width == pytest.approx(200 * (np.cos(np.radians(30)) + 0.5), abs=1)
    assert made.grey().min() < 10
    assert made.grey()[0, 0] > 240  # beyond the picture lies paper


def test_beyond_the_picture_lies_paper_as_bright_as_it_is_there() -> None:
    light = np.tile(np.linspace(240, 120, 300).astype(np.uint8), (200, 1))
    light[60:140, 100:200] = 20
    made = clean(picture(light), replace(REST, angle_deg=10.0)).grey().astype(float)
    assert made[-3, 3] == pytest.approx(238, abs=14)  # beyond the bright side
    assert made[3, -3] == pytest.approx(124, abs=20)  # beyond the dim one


@pytest.mark.parametrize("change", [{"angle_deg": 8.0}, {"slant": CORNERS}])
def test_a_change_of_shape_keeps_the_crop_about_the_same_part(change: dict) -> None:
    cropped = replace(REST, crop=Crop(20, 10, 40, 30))
    changed = reshape(cropped, 60, 40, **change)
    after = sheet_map(60, 40, changed)
    middle = after.to_source(np.array([[after.width / 2, after.height / 2]]))[0]
    assert middle == pytest.approx((30, 20), abs=2.0)


def test_cropping_to_the_drawing_leaves_the_margin_around_it() -> None:
    settings = replace(REST, quarter_turns=1, crop=Crop(5, 5, 38, 55), enlarge=2)
    crop = crop_around(settings, 60, 40, (10.0, 12.0, 30.0, 40.0), 4.0, (2.0, 2.0))
    assert (crop.left, crop.top, crop.right, crop.bottom) == (5 + 3, 5 + 4, 5 + 17, 5 + 22)
    with pytest.raises(SettingError, match="no drawing to crop to"):
        crop_around(settings, 60, 40, None, 4.0)
    with pytest.raises(SettingError, match="leaves nothing"):
        crop_within(sheet_map(60, 40, REST), 80.0, 5.0, 90.0, 10.0)


def test_corners_that_make_a_giant_sheet_are_refused() -> None:
    far = Corners((0.0, 0.0), (9e5, 0.0), (9e5, 9e5), (0.0, 9e5))
    with pytest.raises(SettingError, match="too large"):
        sheet_map(60, 40, replace(REST, slant=far))


def test_a_slant_undone_gives_the_sheet_back() -> None:
    flat = np.repeat(lettering("Fen", 150)[..., None], 3, axis=2)
    h, w = flat.shape[:2]
    seen = np.array([(60, 40), (330, 70), (360, 290), (30, 250)], np.float32)
    warp = cv2.getPerspectiveTransform(np.array([(0, 0), (w, 0), (w, h), (0, h)], np.float32) - 0.5, seen - 0.5)
    photo = cv2.warpPerspective(flat, warp, (400, 330), flags=cv2.INTER_AREA, borderValue=(90, 80, 70))
    corners = Corners(*((float(x), float(y)) for x, y in seen))
    made = clean(picture(photo[..., 0]), replace(REST, slant=corners, ratio=w / h)).grey()
    assert made.shape[1] / made.shape[0] == pytest.approx(w / h, rel=0.01)
    again = cv2.resize(made, (w, h), interpolation=cv2.INTER_CUBIC).astype(float)
    assert np.abs(again - flat[..., 0])[4:-4, 4:-4].mean() < 8
