"""Sharpening undone: the picture Pillow sharpened, before that."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from PIL import Image, ImageFilter

from drawings import parted_disc
from sobercrow.core.cleanup.sharpened import without_sharpening
from sobercrow.core.errors import Cancelled
from sobercrow.core.history.sharpening import Sharpening, find_sharpening
from sobercrow.core.inspect.decisions import Decided, decisions
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, Settings


def drawing(ground: int) -> np.ndarray:
    """A parted disc with a dark ring, on white or a grey ground."""
    pixels = np.minimum(parted_disc(192), ground)
    large = cv2.resize(pixels, None, fx=8, fy=8, interpolation=cv2.INTER_LINEAR)
    cv2.circle(large, (768, 768), 690, (72, 60, 54), 80, cv2.LINE_AA)
    return cv2.resize(large, (192, 192), interpolation=cv2.INTER_AREA)


def sharpened(pixels: np.ndarray) -> np.ndarray:
    """Return pixels sharpened by Pillow, dark tones cut off."""
    return np.asarray(Image.fromarray(pixels).filter(ImageFilter.UnsharpMask(1.4, 150, 0)))


@pytest.mark.parametrize("ground", [255, 230])
def test_flat_colours_come_back_where_they_were_cut_off_too(ground: int) -> None:
    true = drawing(ground)
    seen = sharpened(true)
    rough = find_sharpening(seen)
    assert rough is not None
    off = np.abs(without_sharpening(seen, rough, flat=True).astype(float) - true)
    assert off.mean() < 0.2 * np.abs(seen.astype(float) - true).mean()
    assert (off.max(axis=2) > 60).mean() < 0.002


def test_tones_that_no_flat_colours_explain_are_led_back_plainly() -> None:
    down, across = np.mgrid[0:96, 0:96]
    true = (128 + 60 * np.sin(down / 5.0) * np.cos(across / 7.0)).astype(np.float32)
    mask = Sharpening(1.0, 1.3)
    seen = mask.applied(true).astype(np.uint8)
    for flat in (False, True):
        assert np.abs(without_sharpening(seen, mask, flat) - true).max() < 3.0


def test_it_can_be_stopped() -> None:
    def stop(share: float) -> None:
        raise Cancelled

    seen = sharpened(drawing(230))
    with pytest.raises(Cancelled):
        without_sharpening(seen, Sharpening(1.0, 1.3), True, stop)


def test_a_sharpened_mark_has_the_inks_it_was_drawn_in_and_can_be_kept_sharp() -> None:
    job = Job(Picture(sharpened(drawing(230)), 96.0))
    results = job.run(Settings())
    assert len(results.separation.inks) == 5
    told = decisions(results.nature, results.history, results.separation, results.settings, (192, 192))
    assert Decided.COMPRESSION not in [decision.what for decision in told]
    sharp = next(decision for decision in told if decision.what is Decided.SHARPENING)
    assert sharp.sentence.endswith("undone.")
    assert sharp.settings.clean_up == CleanUp(sharpening=False)
    kept = job.run(sharp.settings)
    assert np.array_equal(kept.sheet.pixels, job.source.pixels)
    again = decisions(kept.nature, kept.history, kept.separation, kept.settings, (192, 192))
    assert next(d for d in again if d.what is Decided.SHARPENING).settings == Settings()
