from __future__ import annotations

import numpy as np
import pytest
from skimage.filters import threshold_otsu

from drawings import disc, picture, separation
from sobercrow.core.inks.separation import separate
from sobercrow.core.settings import Inks, SettingError


def test_automatic_threshold_is_otsus() -> None:
    grey = disc(60, 30, 30, 20)
    found = separation(grey)
    assert found.threshold == found.neutral == threshold_otsu(grey)


def test_coverage_is_the_share_of_tones_up_to_the_threshold() -> None:
    grey = disc(60, 30, 30, 20)
    found = separate(picture(grey), Inks(threshold=200))
    assert found.coverage[0] == pytest.approx((grey <= 200).mean())
    assert found.neutral != found.threshold


def test_an_even_sheet_has_no_ink() -> None:
    assert separation(np.full((20, 20), 250, np.uint8)).coverage[0] == 0.0


@pytest.mark.parametrize("threshold", [-1, 256, 999])
def test_threshold_outside_the_tones_is_refused(threshold: int) -> None:
    with pytest.raises(SettingError, match="Threshold must lie between 0 and 255"):
        Inks(threshold=threshold)
