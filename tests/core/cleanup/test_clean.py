from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drawings import lettering, picture
from sobercrow.core.cleanup.clean import automatic_levels, clean, shape_sheet, tone_curve, turn
from sobercrow.core.errors import SettingError
from sobercrow.core.picture.tones import histogram
from sobercrow.core.settings import CleanUp, Crop, Levels

SHEET = picture(np.arange(60 * 40, dtype=np.uint32).astype(np.uint8).reshape(40, 60))


@pytest.mark.parametrize("turns", range(4))
def test_quarter_turns_are_clockwise(turns: int) -> None:
    turned = shape_sheet(SHEET, CleanUp(quarter_turns=turns))
    assert np.array_equal(turned.pixels, np.rot90(SHEET.pixels, -turns))


@given(st.integers(0, 3), st.integers(0, 3), st.tuples(*[st.integers(0, 19)] * 2), st.tuples(*[st.integers(1, 20)] * 2))
def test_turning_keeps_the_crop_on_the_same_part(first: int, more: int, corner: tuple, size: tuple) -> None:
    cropped = CleanUp(first, Crop(corner[0], corner[1], corner[0] + size[0], corner[1] + size[1]))
    turned = turn(cropped, SHEET, more)
    assert np.array_equal(shape_sheet(SHEET, turned).pixels, np.rot90(shape_sheet(SHEET, cropped).pixels, -more))


def test_levels_send_black_and_white_points_to_the_ends() -> None:
    curve = tone_curve(Levels(50, 1.0, 200))
    assert (curve[:51] == 0).all()
    assert (curve[200:] == 255).all()
    assert curve[125] == 128


def test_midtone_above_one_lightens() -> None:
    assert tone_curve(Levels(0, 2.0, 255))[64] == round(255 * (64 / 255) ** 0.5)


def test_automatic_levels_send_ink_to_black_and_paper_to_white() -> None:
    faded = (90 + lettering("Spar").astype(float) * (215 - 90) / 255).astype(np.uint8)
    cleaned = clean(picture(faded), CleanUp())
    counts = histogram(cleaned.grey())
    assert counts[0] > 0.8 * (faded == 90).sum()
    assert counts[255] >= (faded == 215).sum()


def test_automatic_levels_leave_an_even_sheet_alone() -> None:
    assert automatic_levels(histogram(np.full((5, 5), 200, np.uint8))) == Levels()


@pytest.mark.parametrize(
    "make",
    [
        lambda: Crop(5, 5, 5, 9),
        lambda: Levels(200, 1.0, 100),
        lambda: Levels(midtone=0.0),
        lambda: shape_sheet(SHEET, CleanUp(crop=Crop(0, 0, 61, 10))),
    ],
)
def test_settings_that_make_no_sense_are_refused_in_a_sentence(make) -> None:
    with pytest.raises(SettingError, match=r"[A-Z].*\.$"):
        make()
