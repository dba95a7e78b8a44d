from __future__ import annotations

import numpy as np
import pytest

from drawings import lettering
from sobercrow.core.cleanup.clean import clean
from sobercrow.core.cleanup.grey_mix import automatic_mix, mixed
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import NEUTRAL, CleanUp, GreyMix

PAPER = (246, 243, 236)


def sheet(ink: tuple[int, int, int], pencil: tuple[int, int, int]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Lettering in ink over broad strokes of coloured pencil; returns it with the masks of both."""
    word = lettering("Fetlock", 90)
    pixels = np.full((*word.shape, 3), PAPER, float)
    drawn = np.zeros(word.shape, bool)
    drawn[::14] = drawn[1::14] = drawn[2::14] = True
    pixels[drawn] = pencil
    share = word[..., None] / 255.0
    pixels = share * pixels + (1 - share) * ink
    pixels += np.random.default_rng(2).normal(0, 1.5, pixels.shape)
    return np.clip(np.rint(pixels), 0, 255).astype(np.uint8), word < 20, drawn & (word == 255)


@pytest.mark.parametrize(
    ("ink", "pencil"),
    [((30, 30, 34), (150, 190, 238)), ((196, 44, 40), (150, 190, 238)), ((34, 60, 40), (240, 160, 150))],
)
def test_the_automatic_mix_keeps_the_ink_and_loses_the_pencil(ink: tuple, pencil: tuple) -> None:
    pixels, written, drawn = sheet(ink, pencil)
    plain, mix = mixed(pixels, GreyMix()).astype(float), mixed(pixels, automatic_mix(pixels)).astype(float)
    paper = ~written & ~drawn & (lettering("Fetlock", 90) == 255)

    def left(grey: np.ndarray) -> float:
        return (grey[paper].mean() - grey[drawn].mean()) / (grey[paper].mean() - grey[written].mean())

    assert left(mix) < 0.12
    assert left(mix) < 0.4 * left(plain)
    assert mix[paper].mean() - mix[written].mean() > 90


def test_a_mix_counts_its_proportions_alone_and_makes_the_cleaned_picture_grey() -> None:
    pixels, _, _ = sheet((30, 30, 34), (150, 190, 238))
    assert np.array_equal(mixed(pixels, GreyMix(30, 60, 10)), mixed(pixels, GreyMix(60, 120, 20)))
    made = clean(Picture(pixels, 300.0), CleanUp(**{**NEUTRAL, "mix": GreyMix(0, 0, 100)}))
    assert np.array_equal(made.pixels, np.repeat(pixels[..., 2:], 3, axis=2))


def test_a_sheet_of_one_tone_gives_the_usual_mix() -> None:
    assert automatic_mix(np.full((40, 40, 3), 200, np.uint8)) == GreyMix()
