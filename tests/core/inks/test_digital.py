"""Digital graphics: the file's own colours, no slivers of a third ink, no holes beneath what covers them wholly."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from cleanup_scenes import through_jpeg
from sobercrow.core.inks.flat import flat_colours
from sobercrow.core.inks.labels import Labels
from sobercrow.core.inks.slivers import dissolve_slivers
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Settings

YELLOW, BLUE, GREEN = (250, 210, 40), (30, 70, 150), (140, 140, 95)


def disc_on(ground: tuple[int, int, int], disc: tuple[int, int, int], size: int = 120) -> np.ndarray:
    """A disc in a square on white, drawn 8 × as large and made smaller."""
    large = np.full((8 * size, 8 * size, 3), 255, np.uint8)
    large[80 : 8 * size - 80, 80 : 8 * size - 80] = ground
    cv2.circle(large, (4 * size, 4 * size), 2 * size, disc, -1)
    return np.asarray(cv2.resize(large, (size, size), interpolation=cv2.INTER_AREA), dtype=np.uint8)


@pytest.mark.parametrize("compressed", [False, True])
def test_flat_places_have_the_colours_of_the_file_and_no_mixtures(compressed: bool) -> None:
    pixels = disc_on(BLUE, YELLOW)
    found = flat_colours(through_jpeg(pixels, 60) if compressed else pixels, compressed)
    assert len(found) == 3
    for colour in (BLUE, YELLOW, (255, 255, 255)):
        assert np.abs(found - colour).max(axis=1).min() <= (5 if compressed else 0)


def test_a_ring_that_is_a_mixture_dissolves_and_one_of_its_own_colour_stays() -> None:
    pixels = disc_on(BLUE, YELLOW)
    own = np.where(np.abs(pixels - np.array(BLUE)).max(axis=2) < 60, 0, 1).astype(np.uint8)
    soft = (np.abs(pixels.astype(int) - BLUE).max(axis=2) > 20) & (np.abs(pixels.astype(int) - YELLOW).max(axis=2) > 20)
    soft[:20] = soft[-20:] = soft[:, :20] = soft[:, -20:] = False
    own[soft] = 2
    colours = np.array([BLUE, YELLOW, GREEN], np.float64)
    labels = Labels(own.copy(), own.copy(), np.full(own.shape, 255, np.uint8))
    assert dissolve_slivers(pixels, labels, colours)
    assert not (labels.own == 2).any()
    assert (labels.share >= 127).all()
    red = pixels.copy()
    red[soft] = (200, 20, 30)
    kept = Labels(own.copy(), own.copy(), np.full(own.shape, 255, np.uint8))
    assert not dissolve_slivers(red, kept, np.array([BLUE, YELLOW, (200, 20, 30)], np.float64))
    assert np.array_equal(kept.own, own)


def test_an_ink_has_no_hole_beneath_what_covers_it_wholly() -> None:
    artwork = Job(Picture(disc_on(BLUE, YELLOW), 300.0)).run(Settings()).artwork
    assert sorted(len(shape.contours) for shape in artwork.shapes) == [1, 1]
    pierced = disc_on(BLUE, (255, 255, 255))
    assert [len(shape.contours) for shape in Job(Picture(pierced, 300.0)).run(Settings()).artwork.shapes] == [2]
