"""Halftones, dither and black and white are told from pictures that have tones of their own."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image
from skimage import data

from drawings import parted_disc, spots
from sobercrow.core.history.screens import Dots, Screen, find_screen, without_dots


def screened(grey: np.ndarray, period_px: float, angle_deg: float) -> np.ndarray:
    """A picture in round dots: ink where the spot function exceeds the tone (Ulichney 1987, "Digital halftoning")."""
    return np.where(spots(*grey.shape, period_px, angle_deg) > grey / 255.0, 0, 255).astype(np.uint8)


@pytest.mark.parametrize(("period", "angle"), [(4.0, 45.0), (5.6, 15.0), (7.5, 30.0)])
def test_period_and_angle_of_a_screen_are_found_and_its_dots_averaged(period: float, angle: float) -> None:
    grey = data.camera().clip(40, 215)
    found = find_screen(screened(grey, period, angle))
    assert found is not None
    assert found.dots is Dots.HALFTONE
    assert found.period_px == pytest.approx(period, rel=0.05)
    assert min(abs(found.angle_deg - angle), 90 - abs(found.angle_deg - angle)) < 4
    averaged = without_dots(screened(grey, period, angle), found)
    assert averaged.shape[0] == pytest.approx(grey.shape[0] * 1.5 / period, abs=1)
    size = averaged.shape[1], averaged.shape[0]
    true = np.asarray(Image.fromarray(grey).resize(size, Image.Resampling.BOX), dtype=float)
    assert np.abs(averaged - true).mean() < 16


def test_dither_and_black_and_white_are_told_apart() -> None:
    # Pillow's quantiser diffuses errors after Floyd & Steinberg
    few = Image.fromarray(data.astronaut()).convert("P", palette=Image.Palette.WEB)
    assert find_screen(np.asarray(few.convert("RGB"))) == Screen(Dots.DITHER)
    line = np.where(data.page() > 110, 255, 0).astype(np.uint8)
    assert find_screen(line) == Screen(Dots.ONE_BIT)


@pytest.mark.parametrize("picture", [data.page(), data.coins(), data.coffee(), parted_disc(300), data.brick()])
def test_pictures_with_tones_of_their_own_have_no_screen(picture: np.ndarray) -> None:
    assert find_screen(picture) is None
