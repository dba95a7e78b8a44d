from __future__ import annotations

import numpy as np
import pytest

from cleanup_scenes import through_jpeg
from drawings import lettering, polygon
from sobercrow.core.cleanup import dirt
from sobercrow.core.cleanup.clean import clean
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import NEUTRAL, CleanUp


def noisy(grey: np.ndarray, sigma: float) -> np.ndarray:
    noise = np.random.default_rng(9).normal(0, sigma, grey.shape)
    return np.clip(np.rint(grey * 0.8 + 20 + noise), 0, 255).astype(np.uint8)


@pytest.mark.parametrize("sigma", [1.5, 3.0, 6.0])
def test_noise_is_measured_on_the_paper_whatever_is_drawn_on_it(sigma: float) -> None:
    assert dirt.noise_level(noisy(np.full((300, 300), 220.0), sigma)) == pytest.approx(sigma, rel=0.12)
    assert dirt.noise_level(noisy(lettering("Spar", 120), sigma)) == pytest.approx(sigma, rel=0.25)


@pytest.mark.parametrize("quality", [20, 35, 60])
def test_compression_shows_beside_edges(quality: int) -> None:
    word = lettering("Regatta", 110)
    spoilt = through_jpeg(np.repeat(word[..., None], 3, axis=2), quality)[..., 0]
    assert dirt.edge_noise(spoilt) > dirt.CLEAN_EDGES > 2 * dirt.edge_noise(word)
    assert dirt.automatic_smoothing(spoilt) > 0.0
    assert dirt.automatic_smoothing(word) == 0.0


def test_smoothing_calms_the_paper_and_rounds_no_corner() -> None:
    square = polygon(80, [(20.3, 20.6), (60.3, 20.6), (60.3, 60.6), (20.3, 60.6)])
    spoilt = noisy(square, 4.0)
    calm = dirt.smooth(spoilt, 0.6).astype(float)
    paper = np.s_[2:16, 2:76]
    assert calm[paper].std() < 0.6 * spoilt[paper].std()
    clean_square = square * 0.8 + 20
    assert np.abs(calm - clean_square)[17:26, 17:26].mean() < np.abs(spoilt - clean_square)[17:26, 17:26].mean() + 0.5
    ink = (calm < 122).sum()
    assert ink == pytest.approx((clean_square < 122).sum(), abs=12)


@pytest.mark.parametrize("colour", [False, True])
def test_a_stain_is_lifted_and_ink_on_it_stays(colour: bool) -> None:
    word = lettering("Fetlock", 90)
    share = word / 255.0
    y, x = np.mgrid[: word.shape[0], : word.shape[1]]
    blot = 1.0 - 0.3 * (np.hypot(x - 140, y - 60) < 45)
    sheet = (share * 236 + (1 - share) * 30) * blot
    pixels = np.rint(np.repeat(sheet[..., None], 3, axis=2) * ((1.0, 0.97, 0.9) if colour else 1.0)).astype(np.uint8)
    rest = CleanUp(**NEUTRAL)
    lifted = clean(Picture(pixels, 300.0), CleanUp(**{**NEUTRAL, "stains": 100.0})).grey().astype(float)
    before = clean(Picture(pixels, 300.0), rest).grey().astype(float)
    inside = (np.hypot(x - 140, y - 60) < 38) & (share == 1.0)
    outside = (np.hypot(x - 140, y - 60) > 60) & (share == 1.0)
    assert before[outside].mean() - before[inside].mean() > 60
    assert abs(lifted[outside].mean() - lifted[inside].mean()) < 12
    ink = (share < 0.1) & (np.hypot(x - 140, y - 60) < 38)
    assert (lifted[ink] < 90).mean() > 0.98
