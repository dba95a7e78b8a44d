from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.color import deltaE_ciede2000, rgb2lab

from sobercrow.core.inks.colour import (
    ciede2000,
    hex_of_rgb,
    lab_of,
    linear_light,
    name_of,
    pairwise_ciede2000,
    rgb_of_hex,
    rgb_of_lab,
    srgb_values,
)
from sobercrow.core.settings import SettingError, checked_colour

# Sharma, Wu & Dalal 2005, "The CIEDE2000 color-difference formula", table 1 (from memory)
PAIRS = np.array(
    [
        (50, 2.6772, -79.7751, 50, 0, -82.7485, 2.0425),
        (50, 3.1571, -77.2803, 50, 0, -82.7485, 2.8615),
        (50, 2.8361, -74.0200, 50, 0, -82.7485, 3.4412),
        (50, -1.3802, -84.2814, 50, 0, -82.7485, 1.0000),
        (50, -1.1848, -84.8006, 50, 0, -82.7485, 1.0000),
        (50, -0.9009, -85.5211, 50, 0, -82.7485, 1.0000),
        (50, 0, 0, 50, -1, 2, 2.3669),
        (50, -1, 2, 50, 0, 0, 2.3669),
        (50, 2.49, -0.001, 50, -2.49, 0.0009, 7.1792),
        (50, 2.49, -0.001, 50, -2.49, 0.0010, 7.1792),
        (50, 2.49, -0.001, 50, -2.49, 0.0011, 7.2195),
        (50, 2.49, -0.001, 50, -2.49, 0.0012, 7.2195),
        (50, -0.001, 2.49, 50, 0.0009, -2.49, 4.8045),
        (50, -0.001, 2.49, 50, 0.0010, -2.49, 4.8045),
        (50, -0.001, 2.49, 50, 0.0011, -2.49, 4.7461),
        (50, 2.5, 0, 50, 0, -2.5, 4.3065),
        (50, 2.5, 0, 73, 25, -18, 27.1492),
        (50, 2.5, 0, 61, -5, 29, 22.8977),
        (50, 2.5, 0, 56, -27, -3, 31.9030),
        (50, 2.5, 0, 58, 24, 15, 19.4535),
        (50, 2.5, 0, 50, 3.1736, 0.5854, 1.0000),
        (50, 2.5, 0, 50, 3.2972, 0, 1.0000),
        (50, 2.5, 0, 50, 1.8634, 0.5757, 1.0000),
        (50, 2.5, 0, 50, 3.2592, 0.3350, 1.0000),
        (60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644),
        (63.0109, -31.0961, -5.8663, 62.8187, -29.7946, -4.0864, 1.2630),
        (61.2901, 3.7196, -5.3901, 61.4292, 2.2480, -4.9620, 1.8731),
        (35.0831, -44.1164, 3.7933, 35.0232, -40.0716, 1.5901, 1.8645),
        (22.7233, 20.0904, -46.6940, 23.0331, 14.9730, -42.5619, 2.0373),
        (36.4612, 47.8580, 18.3852, 36.2715, 50.5065, 21.2231, 1.4146),
        (90.8027, -2.0831, 1.4410, 91.1528, -1.6435, 0.0447, 1.4441),
        (90.9257, -0.5406, -0.9208, 88.6381, -0.8985, -0.7239, 1.5381),
        (6.7747, -0.2908, -2.4247, 5.8714, -0.0985, -2.2286, 0.6377),
        (2.0776, 0.0795, -1.1350, 0.9033, -0.0636, -0.5514, 0.9082),
    ]
)


@pytest.mark.parametrize("pair", PAIRS)
def test_colour_differences_are_those_of_the_published_pairs(pair: np.ndarray) -> None:
    assert ciede2000(pair[:3], pair[3:6]) == pytest.approx(pair[6], abs=5e-5)
    assert ciede2000(pair[3:6], pair[:3]) == pytest.approx(pair[6], abs=5e-5)


def test_lab_and_differences_are_scikit_images() -> None:
    rgb = np.random.default_rng(4).integers(0, 256, (200, 3)).astype(np.float64)
    lab = lab_of(rgb)
    assert np.abs(lab - rgb2lab(rgb / 255.0)).max() < 0.05  # its matrix has two digits more
    assert np.allclose(pairwise_ciede2000(lab, lab), deltaE_ciede2000(lab[:, None], lab[None]))
    assert np.allclose(rgb_of_lab(lab), rgb, atol=1e-6)


def test_the_middle_of_black_and_white_is_188_in_linear_light() -> None:
    assert srgb_values(np.array(0.5)) == pytest.approx(187.5, abs=0.2)
    assert np.allclose(srgb_values(linear_light(np.arange(256.0))), np.arange(256.0))


@given(st.tuples(*[st.integers(0, 255)] * 3))
def test_colours_in_hex_come_back(rgb: tuple[int, int, int]) -> None:
    assert rgb_of_hex(hex_of_rgb(np.array(rgb, dtype=float))) == rgb


@pytest.mark.parametrize(
    ("rgb", "name"),
    [((0, 0, 0), "black"), ((255, 255, 255), "white"), ((200, 30, 30), "red"), ((20, 40, 150), "dark violet")],
)
def test_colours_have_plain_names(rgb: tuple[int, int, int], name: str) -> None:
    assert name_of(np.array(rgb, dtype=float)) == name


def test_colours_are_read_in_the_usual_ways_of_writing_them() -> None:
    assert [checked_colour(t) for t in ("#A33E2E", " a33e2e", "#fff")] == ["#a33e2e", "#a33e2e", "#ffffff"]
    with pytest.raises(SettingError, match="“rust”"):
        checked_colour("rust")
