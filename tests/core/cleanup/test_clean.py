from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from drawings import lettering, picture
from sobercrow.core.cleanup.clean import STAGES, automatic_levels, clean, tone_curve
from sobercrow.core.errors import SettingError
from sobercrow.core.picture.picture import Picture
from sobercrow.core.picture.tones import histogram
from sobercrow.core.settings import (
    NEUTRAL,
    RESTORING,
    SWITCHES,
    CleanUp,
    Corners,
    Crop,
    GreyMix,
    Levels,
    PictureKind,
    TouchForm,
    TouchTool,
    TouchUp,
)

STROKE = TouchUp(TouchTool.NIB, TouchForm.LINE, ((20.0, 20.0), (80.0, 30.0)), 6.0, "#a33e2e")
EVERYTHING = CleanUp(
    slant=Corners((3.0, 4.0), (160.0, 2.0), (166.0, 120.0), (2.0, 118.0)),
    ratio=1.4,
    quarter_turns=1,
    mirrored=True,
    angle_deg=3.0,
    crop=Crop(5, 5, 100, 120),
    light=100.0,
    stains=50.0,
    smooth=60.0,
    guides=50.0,
    pencils=("#a94a3b",),
    mix=GreyMix(10, 20, 70),
    levels=Levels(60, 1.2, 200),
    enlarge=2,
    touch_ups=(STROKE,),
)


def coloured() -> Picture:
    """Blue-black writing on a reddish sheet that lies in falling light, with a pale line across."""
    share = lettering("Spar", 70)[..., None] / 255.0
    sheet = share * (238, 226, 214) + (1 - share) * (40, 44, 90)
    sheet[88:90] *= 0.8
    light = np.linspace(1.0, 0.6, sheet.shape[1])[None, :, None]
    return Picture(np.rint(sheet * light).astype(np.uint8), 300.0)


def test_with_everything_at_rest_a_picture_stays_as_it_is() -> None:
    source = coloured()
    assert np.array_equal(clean(source, CleanUp(**NEUTRAL)).pixels, source.pixels)
    off = replace(EVERYTHING, off=tuple(SWITCHES))
    assert np.array_equal(clean(source, off).pixels, source.pixels)


@pytest.mark.parametrize("name", [name for name in SWITCHES if name not in RESTORING])
def test_every_part_can_be_switched_off_by_itself_and_keeps_its_value(name: str) -> None:
    source = coloured()
    on = clean(source, EVERYTHING)
    off = EVERYTHING.switched(name, False)
    without = clean(source, off)
    assert without.pixels.shape != on.pixels.shape or not np.array_equal(without.pixels, on.pixels)
    assert off.switched(name, True) == EVERYTHING


def test_every_field_belongs_to_a_switch_and_to_a_stage() -> None:
    fields = {f for names in SWITCHES.values() for f in names}
    assert fields == set(NEUTRAL) == {f for stage in STAGES for f in stage.fields} | set(RESTORING)
    assert set(SWITCHES) == {s for stage in STAGES for s in stage.switches} | set(RESTORING)
    with pytest.raises(SettingError, match="cannot be switched off"):
        CleanUp(off=("gravity",))


def test_hues_stay_when_light_is_evened_out_and_tones_are_smoothed() -> None:
    # hue after HSV: the ratio of the differences of the channels (Smith 1978, "Color gamut transform pairs")
    random = np.random.default_rng(3)
    sheet = np.full((160, 220, 3), (238.0, 226.0, 214.0))
    sheet[40:110, 30:90] = (180, 60, 50)
    sheet[60:140, 120:190] = (60, 90, 170)
    light = np.linspace(1.0, 0.55, 220)[None, :, None]
    noisy = sheet * light + random.normal(0, 2, (160, 220, 1))
    source = Picture(np.clip(np.rint(noisy), 0, 255).astype(np.uint8), 300.0)
    cleaned = clean(source, CleanUp(light=100.0, smooth=60.0, levels=Levels()))
    for rows, columns in ((slice(50, 100), slice(40, 80)), (slice(80, 130), slice(130, 180))):
        before, after = (p.pixels[rows, columns].reshape(-1, 3).mean(axis=0) for p in (source, cleaned))
        hue = [(np.median(c) - c.min()) / np.ptp(c) for c in (before, after)]
        assert np.array_equal(np.argsort(before), np.argsort(after))
        assert hue[0] == pytest.approx(hue[1], abs=0.02)
    paper = cleaned.pixels[5:30].astype(float)
    assert np.ptp(paper.mean(axis=(0, 2))) < 6


def test_tinted_paper_becomes_white_and_inks_keep_their_hue_and_all_their_tone() -> None:
    sheet = np.full((60, 90, 3), (240, 230, 205), np.uint8)
    sheet[10:50, 10:40] = (150, 60, 40)
    sheet[10:50, 50:80] = (30, 34, 60)
    made = clean(Picture(sheet, 300.0), CleanUp(PictureKind.SCAN, light=0.0, smooth=0.0)).pixels.astype(int)
    kept = clean(Picture(sheet, 300.0), CleanUp(light=0.0, smooth=0.0)).pixels  # without grain, a digital graphic
    assert np.array_equal(kept, sheet)
    assert np.ptp(made[2, 2]) <= 1
    assert made[2, 2].min() >= 248
    white = automatic_levels(histogram(Picture(sheet, 300.0).grey())).white
    plain = tone_curve(Levels(0, 1.0, white))
    assert np.array_equal(made[30, 25], plain[sheet[30, 25]])


def test_a_grey_drawing_on_tinted_paper_still_becomes_black_on_white() -> None:
    sheet = np.full((60, 90, 3), (240, 232, 215), np.uint8)
    sheet[10:50, 10:40] = (60, 58, 54)
    made = clean(Picture(sheet, 300.0), CleanUp(PictureKind.SCAN, light=0.0, smooth=0.0)).pixels
    assert made[30, 25].max() <= 6
    assert made[2, 2].min() >= 248


def test_a_coloured_ground_is_not_taken_for_paper() -> None:
    sheet = np.full((60, 90, 3), (250, 214, 40), np.uint8)
    sheet[10:50, 10:40] = (20, 60, 160)
    assert np.array_equal(clean(Picture(sheet, 300.0), CleanUp(light=0.0, smooth=0.0)).pixels, sheet)


def test_levels_send_black_and_white_points_to_the_ends() -> None:
    curve = tone_curve(Levels(50, 1.0, 200))
    assert (curve[:51] == 0).all()
    assert (curve[200:] == 255).all()
    assert curve[125] == 128


def test_midtone_above_one_lightens() -> None:
    assert tone_curve(Levels(0, 2.0, 255))[64] == round(255 * (64 / 255) ** 0.5)


def test_automatic_levels_send_ink_to_black_and_paper_to_white() -> None:
    faded = (90 + lettering("Spar").astype(float) * (215 - 90) / 255).astype(np.uint8)
    cleaned = clean(picture(faded), CleanUp(PictureKind.SCAN))
    counts = histogram(cleaned.grey())
    assert counts[0] > 0.8 * (faded == 90).sum()
    assert counts[255] >= (faded == 215).sum()


def test_automatic_levels_leave_an_even_sheet_alone() -> None:
    assert automatic_levels(histogram(np.full((5, 5), 200, np.uint8))) == Levels()


SQUARE = ((0.0, 0.0), (9.0, 0.0), (9.0, 9.0), (0.0, 9.0))
NONSENSE = {
    "crop of nothing": lambda: Crop(5, 5, 5, 9),
    "black over white": lambda: Levels(200, 1.0, 100),
    "midtone of nothing": lambda: Levels(midtone=0.0),
    "crop beyond": lambda: clean(coloured(), CleanUp(crop=Crop(0, 0, 9999, 10))),
    "corners cross": lambda: Corners(SQUARE[0], SQUARE[2], SQUARE[1], SQUARE[3]),
    "corners turned over": lambda: Corners(*SQUARE[::-1]),
    "corners on a line": lambda: Corners((0.0, 0.0), (5.0, 0.0), (9.0, 0.01), (0.0, 9.0)),
    "corners in one place": lambda: Corners(*[(4.0, 4.0)] * 4),
    "corners nowhere": lambda: Corners((float("nan"), 0.0), *SQUARE[1:]),
    "mix of nothing": lambda: GreyMix(-40, 20, 20),
    "touch-up nowhere": lambda: TouchUp(TouchTool.NIB, TouchForm.LINE, ()),
    "touch-up's colour": lambda: TouchUp(TouchTool.NIB, TouchForm.LINE, ((1.0, 1.0),), colour="#12"),
    "touch-up's width": lambda: TouchUp(TouchTool.NIB, TouchForm.LINE, ((1.0, 1.0),), width_px=0.0),
}


@pytest.mark.parametrize("case", NONSENSE)
def test_settings_that_make_no_sense_are_refused_in_a_sentence(case: str) -> None:
    with pytest.raises(SettingError, match=r"^[A-Z].*\.$"):
        NONSENSE[case]()
