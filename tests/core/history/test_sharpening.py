"""Sharpening: told from edges that overshoot, as published for the unsharp mask and as a known library does it."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from PIL import Image, ImageFilter

from drawings import compressed, lettering, parted_disc
from sobercrow.core.history.history import read_history
from sobercrow.core.history.sharpening import Sharpening, find_sharpening


def tinted_disc() -> np.ndarray:
    """A disc of two inks on a grey ground, on which edges can overshoot."""
    return (40 + 0.75 * parted_disc(192)).astype(np.uint8)


def masked(pixels: np.ndarray, amount: float, radius_px: float) -> np.ndarray:
    """Return pixels sharpened by Pillow."""
    mask = ImageFilter.UnsharpMask(radius_px, round(100 * amount), 0)
    return np.asarray(Image.fromarray(pixels).filter(mask))


def test_it_is_the_mask_that_pillow_lays_on() -> None:
    pixels = tinted_disc()
    ours = Sharpening(1.2, 1.5).applied(pixels.astype(np.float32))
    assert np.abs(ours - masked(pixels, 1.2, 1.5)).mean() < 0.2


@pytest.mark.parametrize(("amount", "radius_px"), [(0.6, 1.8), (1.0, 1.0), (1.7, 1.3)])
def test_amount_and_radius_are_found_about(amount: float, radius_px: float) -> None:
    found = find_sharpening(masked(tinted_disc(), amount, radius_px))
    assert found is not None
    assert found.amount == pytest.approx(amount, rel=0.45)
    assert found.radius_px == pytest.approx(radius_px, rel=0.35)


def test_what_was_sharpened_is_led_back() -> None:
    pixels = 60 + np.rint(tinted_disc() / 2).astype(np.float32)  # nothing is cut off
    mask = Sharpening(0.8, 1.2)
    seen = mask.applied(pixels)
    assert seen.min() > 0
    assert seen.max() < 255
    assert np.abs(mask.undone(seen) - pixels).mean() < 0.1 * np.abs(seen - pixels).mean()


@pytest.mark.parametrize("pixels", [tinted_disc(), 255 - lettering("Kites")], ids=["disc", "lettering"])
def test_clean_pictures_are_none(pixels: np.ndarray) -> None:
    assert find_sharpening(pixels) is None


def test_rims_that_were_drawn_are_none() -> None:
    pixels = np.full((160, 160), 128, np.uint8)
    for left in range(10, 150, 20):
        pixels[10:150, left : left + 12] = 255
        pixels[12:148, left + 2 : left + 10] = 0
    assert find_sharpening(pixels) is None


@pytest.mark.parametrize("quality", [40, 60, 75])
def test_rims_of_compression_are_none(quality: int) -> None:
    grey = cv2.GaussianBlur(255 - lettering("Harbour"), (0, 0), 0.8)
    for pixels in (tinted_disc(), 30 + (0.8 * np.repeat(grey[..., None], 3, axis=2)).astype(np.uint8)):
        assert find_sharpening(compressed(pixels, quality)) is None
    assert read_history(compressed(tinted_disc(), quality), None).compression is not None
