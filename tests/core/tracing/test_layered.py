"""Curves of several inks, laid over each other, moved until they give back the picture."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from drawings import circle, compressed, disc
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.inks.palette import read_colours
from sobercrow.core.inks.separation import InkField, SeveralInks, separate
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Ink, Inks, Role
from sobercrow.core.tracing.layered import Pile, settled_in

SIZE, CORNER, PIXEL_EDGE = 80, np.radians(48), 0.41
GROUND, RED, BLUE = (255, 255, 255), (208, 64, 48), (32, 64, 144)
DISCS = ((33.4, 40.2, 22.3), (52.7, 38.6, 15.1))
"""Red, and blue lying upon it."""


def picture(blur: float = 0.0, quality: int | None = None) -> np.ndarray:
    """Two discs upon each other, as resampled and compressed by OpenCV (4:2:0)."""
    pixels = np.full((SIZE, SIZE, 3), GROUND, dtype=np.float64)
    for colour, place in zip((RED, BLUE), DISCS, strict=True):
        share = 1.0 - disc(SIZE, *place)[..., None] / 255.0
        pixels += share * (np.array(colour) - pixels)
    made = np.rint(cv2.GaussianBlur(pixels, (0, 0), blur) if blur else pixels).astype(np.uint8)
    return made if quality is None else compressed(made, quality)


def parted(pixels: np.ndarray) -> SeveralInks:
    palette = (Ink("#d04030", "Red"), Ink("#204090", "Blue"), Ink("#ffffff", "Paper", Role.PAPER))
    found = separate(Picture(pixels, 300.0), Inks(palette=palette), None, read_colours(pixels, True, True))
    assert isinstance(found, SeveralInks)
    return found


def fields_of(separation: SeveralInks) -> list[InkField]:
    return [separation.field_of(ink, 2.0) for ink in separation.drawn]


def off(contour: Contour, place: tuple[float, float, float]) -> np.ndarray:
    """How far a contour is off its disc."""
    return np.abs(np.hypot(*(contour.sampled(0.25) - place[:2]).T) - place[2])


@pytest.mark.parametrize(("blur", "quality", "near"), [(0.0, None, 0.04), (0.8, None, 0.05), (0.8, 60, 0.15)])
def test_discs_drawn_off_their_places_come_back_where_they_are_seen(
    blur: float, quality: int | None, near: float
) -> None:
    separation = parted(picture(blur, quality))
    astray = [[circle(x + 0.25, y - 0.2, r - 0.15)] for x, y, r in DISCS]
    edges = [float(np.hypot(PIXEL_EDGE, blur))] * 2
    (red,), (blue,) = settled_in(Pile.of(separation, astray, fields_of(separation), edges), astray, CORNER)
    assert np.percentile(off(blue, DISCS[1]), 95) < near
    hidden = np.hypot(*(red.sampled(0.25) - DISCS[1][:2]).T) < DISCS[1][2] + 1.5
    assert np.percentile(off(red, DISCS[0])[~hidden], 95) < near
    assert hidden.any()


def test_what_was_given_by_hand_does_not_go_back_to_the_picture() -> None:
    separation = parted(picture())
    touched = replace(separation, given=np.ones_like(separation.given))
    astray = [[circle(x + 0.3, y, r)] for x, y, r in DISCS]
    found = settled_in(Pile.of(touched, astray, fields_of(touched), [PIXEL_EDGE] * 2), astray, CORNER)
    for before, after in zip(astray, found, strict=True):
        assert after[0].points == pytest.approx(before[0].points, abs=0.05)
