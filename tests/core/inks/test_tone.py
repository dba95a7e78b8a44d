from __future__ import annotations

import numpy as np
import pytest
from skimage.filters import threshold_sauvola

from drawings import disc, lettering, picture
from sobercrow.core.inks.separation import OneInk, separate
from sobercrow.core.inks.tone import limited_tones, local_thresholds
from sobercrow.core.settings import Inks
from sobercrow.core.tracing.borders import find_borders


@pytest.mark.parametrize(("window", "contrast"), [(15, 0.2), (41, 0.4)])
def test_local_thresholds_are_scikit_images(window: int, contrast: float) -> None:
    grey = lettering("kite", 60)
    theirs = threshold_sauvola(grey, window_size=window, k=contrast, r=128)
    inner = (
        np.s_[window:-window, window:-window] if window < 30 else np.s_[21:-21, 21:-21]
    )  # borders are mirrored otherwise
    assert np.allclose(local_thresholds(grey, window, contrast)[inner], theirs[inner], atol=0.01)


def test_a_local_threshold_finds_ink_in_shade_and_in_light() -> None:
    word = lettering("kite kite", 60)
    shade = np.linspace(1.0, 0.3, word.shape[1])
    shaded = np.rint((90 + word * (165 / 255)) * shade).astype(np.uint8)
    local = separate(picture(shaded), Inks(local=True, window_mm=4.0))
    whole = separate(picture(shaded), Inks())
    truth = word < 128
    assert ((local.own == 0) == truth).mean() > 0.985 > ((whole.own == 0) == truth).mean()


def test_limits_catch_a_tint_without_the_paper_and_place_its_border() -> None:
    tint = (235 + disc(60, 30, 30, 18).astype(float) * (20 / 255)).astype(np.uint8)
    found = separate(picture(tint), Inks(limited=True, light_limit=248))
    assert isinstance(found, OneInk)
    points = find_borders(found.field).lines[0]
    assert np.abs(np.hypot(*(points - 30).T) - 18).mean() < 0.15
    assert not (limited_tones(np.array([[10, 100, 250]], np.uint8), 50, 200) < 128)[0, [0, 2]].any()
