from __future__ import annotations

from dataclasses import asdict, fields

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sobercrow.core.settings import (
    BringIn,
    CleanUp,
    Inks,
    Levels,
    SettingError,
    Settings,
    Tracing,
    dpi_of_length,
    meaning_of,
    px2_to_mm2,
    px_to_mm,
)

MEANT = [
    (kind, entry.name)
    for kind in (BringIn, Levels, CleanUp, Inks, Tracing)
    for entry in fields(kind)
    if "meaning" in entry.metadata
]


@pytest.mark.parametrize(("kind", "name"), MEANT)
def test_every_setting_says_what_it_is_and_refuses_what_lies_outside(kind: type, name: str) -> None:
    meaning = meaning_of(kind, name)
    assert meaning.label[0].isupper()
    assert meaning.help.endswith(".")
    assert meaning.low < meaning.high
    for wrong in (meaning.low - 1, meaning.high + 1, float("nan")):
        with pytest.raises(SettingError, match=rf"^{meaning.label} must lie between .*\.$"):
            kind(**{name: wrong})


@given(st.floats(0, 99), st.floats(0.1, 1))
def test_more_detail_means_a_closer_line_more_corners_and_smaller_specks(detail: float, more: float) -> None:
    calm, faithful = Tracing(detail), Tracing(min(detail + more, 100))
    assert faithful.effective_tolerance_px < calm.effective_tolerance_px
    assert faithful.effective_corner_angle_deg < calm.effective_corner_angle_deg
    assert faithful.effective_speck_px2 < calm.effective_speck_px2


def test_what_is_set_by_itself_does_not_follow_the_detail() -> None:
    for detail in (0, 50, 100):
        fixed = Tracing(detail, 0.7, 33.0, 9.0)
        assert fixed.effective_tolerance_px == 0.7
        assert fixed.effective_corner_angle_deg == 33.0
        assert fixed.effective_speck_px2 == 9.0


def test_three_hundred_pixels_at_300_dpi_are_an_inch() -> None:
    # ISO 31 and NIST SP 811: an inch is 25.4 mm exactly
    assert px_to_mm(300, 300) == 25.4
    assert px2_to_mm2(300 * 300, 300) == pytest.approx(25.4**2)


@pytest.mark.parametrize(
    "spoil",
    [
        lambda plain: plain.pop("inks"),
        lambda plain: plain["tracing"].update(colour="red"),
        lambda plain: plain["inks"].update(threshold="dark"),
        lambda plain: plain["clean_up"].update(quarter_turns=9),
        lambda plain: plain["clean_up"].update(levels={"black": 1}) or plain["clean_up"]["levels"].update(grey=3),
    ],
)
def test_spoiled_plain_settings_are_refused(spoil) -> None:
    plain = asdict(Settings())
    spoil(plain)
    with pytest.raises(SettingError):
        Settings.from_plain(plain)


def test_what_is_switched_off_is_at_rest_and_comes_back() -> None:
    settings = CleanUp(angle_deg=3.0, light=40.0, enlarge=3)
    off = settings.switched("angle", False).switched("enlarge", False)
    assert (off.in_force().angle_deg, off.in_force().enlarge, off.in_force().light) == (0.0, 1, 40.0)
    assert off.in_force().off == ()
    assert off.switched("enlarge", True).switched("angle", True) == settings
    assert Settings.from_plain(asdict(Settings(clean_up=off))).clean_up == off


def test_a_known_length_gives_the_resolution() -> None:
    # an inch is 25.4 mm exactly: 600 px along an inch are 600 dpi
    assert dpi_of_length(600, 25.4) == pytest.approx(600)
    for px, mm in ((0.0, 10.0), (10.0, 0.0), (10.0, float("nan"))):
        with pytest.raises(SettingError, match=r"length.*\.$"):
            dpi_of_length(px, mm)


@pytest.mark.parametrize("factor", [1, 2, 8])
def test_on_an_enlarged_picture_what_follows_detail_grows_and_what_is_set_stays(factor: int) -> None:
    followed, fixed = Tracing(70).on_enlarged(factor), Tracing(70, 0.4, None, 9.0).on_enlarged(factor)
    assert followed.effective_tolerance_px == pytest.approx(factor * Tracing(70).effective_tolerance_px)
    assert followed.effective_speck_px2 == pytest.approx(factor**2 * Tracing(70).effective_speck_px2)
    assert followed.effective_corner_angle_deg == Tracing(70).effective_corner_angle_deg
    assert (fixed.effective_tolerance_px, fixed.effective_speck_px2) == (0.4, 9.0)
