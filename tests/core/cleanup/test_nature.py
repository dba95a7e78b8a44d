"""What kind of picture it is: on made-up extremes, words in an open typeface, and photographs that scikit-image has."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
import pytest
from skimage import data

from cleanup_scenes import line_drawing, on_dim_paper, through_jpeg
from drawings import lettering
from sobercrow.core.arrays import U8
from sobercrow.core.cleanup.nature import read_nature
from sobercrow.core.inks.separation import OneInk, SeveralInks
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, PictureKind, Settings

BLUE, NEAR_BLUE, PALE, ORANGE = (28, 79, 122), (52, 98, 138), (228, 230, 231), (226, 120, 30)


def grained(grey: U8, seed: int = 3) -> U8:
    """A drawing as a scanner of little noise has it."""
    noise = np.random.default_rng(seed).normal(0.0, 1.6, grey.shape)
    return np.clip(cv2.GaussianBlur(grey, (0, 0), 0.8) * 0.9 + 14 + noise, 0, 255).astype(np.uint8)


def flag(side: int = 160) -> U8:
    """A flat mark: two near blues, a pale grey, an orange, on white; dark at the bottom, as falling light is."""
    mark = np.full((side, side, 3), 255, np.uint8)
    mark[side // 8 : side // 2, side // 8 : -side // 8] = PALE
    mark[side // 2 : -side // 8, side // 8 : side // 2] = BLUE
    mark[side // 2 : -side // 8, side // 2 : -side // 8] = NEAR_BLUE
    cv2.circle(mark, (side // 2, side // 3), side // 9, ORANGE, -1, cv2.LINE_AA)
    return mark


def pale(side: int = 160) -> U8:
    """Strokes and a dot in tones that differ by little from that of the shape beneath, on white."""
    mark = np.full((side, side, 3), 255, np.uint8)
    cv2.circle(mark, (side // 2, side // 2), side // 3, (255, 211, 182), -1, cv2.LINE_AA)
    for k in range(4, 11):
        across = side * k // 14
        cv2.line(mark, (across, side // 3), (across, 2 * side // 3), (242, 200, 171), 3, cv2.LINE_AA)
    return mark


def soft(pixels: U8, quality: int) -> U8:
    return through_jpeg(cv2.GaussianBlur(pixels, (0, 0), 0.8), quality)


DIGITAL, SCAN, PHOTO, SHADED = PictureKind.DIGITAL, PictureKind.SCAN, PictureKind.PHOTO, PictureKind.SHADED
PICTURES: dict[str, tuple[Callable[[], U8], set[PictureKind], bool]] = {
    "blank": (lambda: np.full((90, 120), 255, np.uint8), {DIGITAL}, True),
    "one colour": (lambda: np.full((90, 120, 3), BLUE, np.uint8), {DIGITAL}, False),
    "two pixels wide": (lambda: np.full((40, 2, 3), 255, np.uint8), {DIGITAL}, True),
    "a pixel": (lambda: np.zeros((1, 1), np.uint8), {DIGITAL}, True),
    "grey ramp": (lambda: np.tile(np.arange(256, dtype=np.uint8), (90, 1)), {SHADED, PHOTO, SCAN}, True),
    "word": (lambda: lettering("Fen kites", 60), {DIGITAL}, True),
    "small word": (lambda: lettering("Fen kites", 40), {DIGITAL}, True),
    "compressed word": (lambda: soft(np.repeat(lettering("Fen kites", 48)[..., None], 3, 2), 35), {DIGITAL}, True),
    "flag": (flag, {DIGITAL}, False),
    "pale": (pale, {DIGITAL}, False),
    "compressed flag": (lambda: soft(flag(), 45), {DIGITAL}, False),
    "enlarged flag": (lambda: cv2.resize(flag(), (410, 410), interpolation=cv2.INTER_LANCZOS4), {DIGITAL}, False),
    "two greys": (lambda: cv2.cvtColor(flag(), cv2.COLOR_RGB2GRAY), {DIGITAL}, False),
    "scan": (lambda: grained(line_drawing(4, 420, 300)), {SCAN}, True),
    "photo of a word": (lambda: on_dim_paper(lettering("Fen kites", 48), 5), {PHOTO}, True),
    "photo of a small word": (lambda: on_dim_paper(lettering("windvane", 40), 8), {PHOTO}, True),
    "photo of a drawing": (lambda: on_dim_paper(line_drawing(9, 420, 300), 2), {PHOTO}, True),
    "photograph": (lambda: data.coffee()[::2, ::2], {SHADED, PHOTO}, False),
}


@pytest.mark.parametrize("name", PICTURES)
def test_kind_and_inks_are_seen(name: str) -> None:
    make, kinds, one_ink = PICTURES[name]
    nature = read_nature(make())
    assert nature.kind in kinds
    assert nature.one_ink == one_ink
    assert not (nature.compressed and nature.kind is not PictureKind.DIGITAL)


def test_a_digital_graphic_keeps_the_colours_of_its_file() -> None:
    job = Job(Picture(flag(), 300.0))
    results = job.run(Settings())
    assert np.array_equal(results.cleaned.pixels, flag())
    assert isinstance(results.separation, SeveralInks)
    wanted = {"#{:02x}{:02x}{:02x}".format(*c) for c in (BLUE, NEAR_BLUE, PALE, ORANGE, (255, 255, 255))}
    assert {ink.colour for ink in results.separation.inks} == wanted
    dim = Picture(np.minimum(flag(), 238), 300.0)
    assert np.array_equal(Job(dim).run(Settings()).cleaned.pixels, dim.pixels)
    assert Job(dim).run(Settings(clean_up=CleanUp(PictureKind.SCAN))).cleaned.pixels[0, 0].min() > 250


@pytest.mark.parametrize(("em", "seed"), [(40, 1), (48, 2), (48, 3), (64, 4)])
def test_small_photos_of_lettering_are_one_ink_and_one_outline_a_letter(em: int, seed: int) -> None:
    results = Job(Picture(on_dim_paper(lettering("Lxmnz", em), seed), 300.0)).run(Settings())
    assert isinstance(results.separation, OneInk)
    assert len(results.artwork.shapes) == 5
