from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from sobercrow.core.picture.picture import Picture

PIXELS = arrays(np.uint8, st.tuples(st.integers(4, 20), st.integers(4, 20), st.just(3)))


@given(PIXELS)
def test_grey_is_the_luma_of_bt_601(pixels: np.ndarray) -> None:
    # ITU-R BT.601: Y = 0.299 R + 0.587 G + 0.114 B
    luma = pixels.astype(float) @ (0.299, 0.587, 0.114)
    assert np.abs(Picture(pixels, 300).grey() - luma).max() <= 1.0


@given(arrays(np.uint8, (6, 7)))
def test_grey_of_a_grey_picture_is_itself(tones: np.ndarray) -> None:
    assert np.array_equal(Picture(np.repeat(tones[..., None], 3, axis=2), 300).grey(), tones)


@given(PIXELS, st.floats(1.0, 4.0))
def test_a_reduced_picture_has_the_same_true_size_and_mean_tone(pixels: np.ndarray, factor: float) -> None:
    whole = Picture(pixels, 300)
    small = whole.reduced(factor)
    assert small.dpi == pytest.approx(300 / factor)
    assert small.width == max(1, round(whole.width / factor))
    assert small.size_mm[0] == pytest.approx(whole.size_mm[0], abs=0.5 * 25.4 / small.dpi + 1e-9)
    assert np.abs(small.pixels.mean(axis=(0, 1)) - pixels.mean(axis=(0, 1))).max() < 45


def test_reducing_by_a_whole_number_averages_blocks() -> None:
    pixels = np.random.default_rng(4).integers(0, 256, (12, 8, 3), dtype=np.uint8)
    blocks = pixels.reshape(6, 2, 4, 2, 3).mean(axis=(1, 3))
    assert np.abs(Picture(pixels, 300).reduced(2.0).pixels - blocks).max() <= 1.0


def test_pixels_are_read_only() -> None:
    made = Picture(np.zeros((3, 3, 3), np.uint8), 300)
    with pytest.raises(ValueError, match="read-only"):
        made.pixels[0, 0] = 9
    assert cv2.countNonZero(made.grey()) == 0


@pytest.mark.parametrize("wrong", [np.zeros((3, 3), np.uint8), np.zeros((3, 3, 3)), np.zeros((3, 3, 4), np.uint8)])
def test_other_arrays_are_no_pictures(wrong: np.ndarray) -> None:
    with pytest.raises(ValueError, match="pixels must be"):
        Picture(wrong, 300)
