from __future__ import annotations

import cv2
import numpy as np
import pytest
from matplotlib import font_manager

from distances import both_ways
from drawings import disc, picture
from sobercrow.core.cleanup.enlarge import enlarge, suggested_factor
from sobercrow.core.job import Job
from sobercrow.core.settings import CleanUp, Settings
from words import render, set_word, spoil


@pytest.mark.parametrize("factor", [2, 3, 8])
def test_an_enlarged_disc_keeps_its_size_and_gains_keener_edges(factor: int) -> None:
    small = disc(60, 30.2, 29.7, 18.0)
    large = enlarge(small, 60 * factor, 60 * factor)
    covered = (255 - large.astype(float)).sum() / 255 / factor**2
    assert covered == pytest.approx(np.pi * 18**2, rel=0.01)
    plain = cv2.resize(small, (60 * factor, 60 * factor), interpolation=cv2.INTER_CUBIC)
    soft = [((p > 40) & (p < 215)).sum() for p in (large, plain)]
    assert soft[0] < 0.85 * soft[1]
    assert large.min() >= small.min()
    assert large.max() <= small.max()


@pytest.mark.parametrize(
    ("size", "factor"), [((200, 150), 4), ((399, 20), 2), ((400, 399), 1), ((90, 60), 8), ((2000, 90), 1)]
)
def test_enlarging_is_suggested_below_400_px(size: tuple[int, int], factor: int) -> None:
    assert suggested_factor(*size) == factor


def test_a_small_spoilt_word_is_traced_better_enlarged_with_no_more_anchors() -> None:
    word = set_word(font_manager.findfont("DejaVu Serif", fallback_to_default=False), "Regatta", 28)
    grey = spoil(render(word), 0.5, 50)
    away, anchors = {}, {}
    for factor in (1, 4):
        clean_up = CleanUp(enlarge=factor, compression=False)
        artwork = Job(picture(grey)).run(Settings(clean_up=clean_up)).artwork
        assert artwork.dpi == 300 * factor  # so that its millimetres stay
        assert artwork.width_px == grey.shape[1] * factor
        contours = [c.curves() / factor for s in artwork.shapes for c in s.contours]
        away[factor], anchors[factor] = np.percentile(both_ways(contours, word.contours), 99), artwork.anchor_count
    assert away[4] < away[1]
    assert anchors[4] <= 1.15 * anchors[1]
