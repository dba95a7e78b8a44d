"""What was printed in four screened colours comes back in the flat colours it was drawn in; photographs do not."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image
from skimage import data

from drawings import parted_disc, spots
from sobercrow.core.cleanup.restore import restored
from sobercrow.core.cleanup.screened import read_screened_nature
from sobercrow.core.history.history import read_history
from sobercrow.core.history.screens import Dots, find_screen
from sobercrow.core.settings import CleanUp, PictureKind

ANGLES_DEG = {"cyan": 15, "magenta": 75, "yellow": 0, "black": 45}
"""The usual angles of four-colour screens (ISO 12647-2:2013, 4.2.2.2, asks for 30° between all but yellow)."""


def printed(drawing: np.ndarray, period_px: float) -> np.ndarray:
    """A drawing in round dots of four inks: the least of three inks is black, as C = (1 − R − K) / (1 − K)."""
    light = np.maximum(drawing.max(axis=2) / 255.0, 1e-3)
    shares = [*(1.0 - np.moveaxis(drawing / 255.0, 2, 0) / light), 1.0 - light]
    seen = np.ones(drawing.shape)
    inks = (0, 1, 1), (1, 0, 1), (1, 1, 0), (0, 0, 0)
    for share, angle, ink in zip(shares, ANGLES_DEG.values(), inks, strict=True):
        spot = spots(*share.shape, period_px, angle)
        rank = np.argsort(np.argsort(spot.ravel())).reshape(spot.shape) / spot.size
        seen *= np.where((rank > 1.0 - share)[..., None], np.array(ink), 1.0)
    return np.asarray(np.rint(255.0 * seen), dtype=np.uint8)


@pytest.mark.parametrize("period", [4.6, 6.4])
def test_flat_colours_come_back_with_their_borders(period: float) -> None:
    drawing = parted_disc(640)
    pixels = printed(drawing, period)
    history = read_history(pixels, None)
    assert history.screen is not None
    nature = read_screened_nature(pixels, history.screen)
    assert (nature.kind, nature.one_ink) == (PictureKind.DIGITAL, False)
    made, evidence = restored(pixels, history, CleanUp(), nature.kind, nature)
    assert evidence is None
    true = np.asarray(Image.fromarray(drawing).resize(made.shape[1::-1], Image.Resampling.BOX)).astype(int)
    off = np.abs(made.astype(int) - true).max(axis=2)
    assert np.median(off) <= 3
    assert np.mean(off > 40) < 0.02  # of all pixels; averaged dots alone leave the borders soft and rippled


def test_photographs_in_dots_are_not_taken_for_flat() -> None:
    photo = printed(np.asarray(Image.fromarray(data.astronaut()).resize((800, 800))), 5.0)
    screen = find_screen(photo)
    assert screen is not None
    assert screen.dots is Dots.HALFTONE
    nature = read_screened_nature(photo, screen)
    assert nature.kind is PictureKind.SHADED
