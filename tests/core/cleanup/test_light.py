from __future__ import annotations

import numpy as np
import pytest
from matplotlib import font_manager
from skimage import data, filters

from cleanup_scenes import falling_light, on_dim_paper
from distances import both_ways
from drawings import lettering
from sobercrow.core.cleanup.light import automatic_strength, even_out, read_light
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.picture.tones import histogram, otsu
from sobercrow.core.settings import CleanUp, Settings
from words import render, set_word


@pytest.mark.parametrize("seed", range(4))
def test_paper_is_found_under_the_ink_in_falling_light(seed: int) -> None:
    word = lettering("Regatta", 90)
    share = word / 255.0
    light = falling_light(*word.shape, seed)
    grey = np.rint((share * 236 + (1 - share) * 40) * light).astype(np.uint8)
    found = read_light(grey)
    rows, columns = found.paper.shape
    y = ((np.arange(rows) + 0.5) / rows * word.shape[0]).astype(int)
    x = ((np.arange(columns) + 0.5) / columns * word.shape[1]).astype(int)
    ratio = found.paper / (236 * light[np.ix_(y, x)])
    assert np.abs(ratio - 1).max() < 0.04
    evened = even_out(grey, found.gain(1.0))
    assert np.std(evened[share == 1.0].astype(float)) < 3.0
    assert automatic_strength(found) == 100.0


@pytest.mark.parametrize("side", ["to the right", "to the left", "to the top", "to the bottom"])
def test_the_darker_side_is_named(side: str) -> None:
    ramp = np.tile(np.linspace(240, 130, 240), (180, 1))
    turned = {"to the right": ramp, "to the left": ramp[:, ::-1], "to the bottom": ramp.T, "to the top": ramp.T[::-1]}
    found = read_light(turned[side].astype(np.uint8))
    assert found.darkest_side == side
    assert found.fall_off == pytest.approx(0.44, abs=0.04)


def test_even_light_and_large_dark_shapes_are_left_alone() -> None:
    sheet = np.full((300, 400), 240, np.uint8)
    assert automatic_strength(read_light(sheet)) == 0.0
    sheet[60:240, 80:250] = 90  # a dark shape, not a shade
    assert automatic_strength(read_light(sheet)) == 0.0


def test_the_dim_page_of_scikit_image_is_parted_at_one_threshold_as_locally() -> None:
    # threshold_sauvola (Sauvola & Pietikäinen 2000) follows the light; one threshold does so after the light is even
    page = data.page()
    local = page < filters.threshold_sauvola(page, window_size=25)
    plain = page <= otsu(histogram(page))
    evened = even_out(page, read_light(page).gain(1.0))
    one = evened <= otsu(histogram(evened))
    assert (one ^ local).mean() < 0.05
    assert (one ^ local).mean() < 0.4 * (plain ^ local).mean()


@pytest.mark.parametrize(("size", "text"), [(48, "Hamburg"), (96, "kites28"), (192, "fog")])
@pytest.mark.parametrize("face", ["DejaVu Serif", "STIXGeneral:bold"])
def test_words_in_falling_light_keep_to_their_outline(size: int, text: str, face: str) -> None:
    word = set_word(font_manager.findfont(face, fallback_to_default=False), text, size)
    results = Job(Picture(on_dim_paper(render(word), size), 300.0)).run(Settings())
    contours = [c.curves() for s in results.artwork.shapes for c in s.contours]
    away = both_ways(contours, word.contours)
    assert away.mean() <= 0.25
    assert np.percentile(away, 99) <= 1.2
    assert len(contours) == len(word.contours)


def test_the_light_setting_is_kept_with_what_it_took_out() -> None:
    dim = on_dim_paper(lettering("Spar", 90), 5)
    lit = Job(Picture(dim, 300.0)).run(Settings())
    assert lit.sheet.shade is not None
    off = Job(Picture(dim, 300.0)).run(Settings(clean_up=CleanUp(light=0.0)))
    assert off.sheet.shade is None
