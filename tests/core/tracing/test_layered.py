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
from sobercrow.core.tracing.settling import Settling

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


def other_discs(by: float) -> list[list[Contour]]:
    return [[circle(x + by, y - by, r)] for x, y, r in DISCS]


def test_a_pile_drawn_anew_where_it_changed_is_covered_as_its_curves_say() -> None:
    separation = parted(picture(0.8))
    edges = [float(np.hypot(PIXEL_EDGE, 0.8))] * 2
    before, after = other_discs(0.0), other_discs(1.3)
    pile = Pile.of(separation, before, fields_of(separation), edges)
    kept = [cover.copy() for cover in pile.covers]
    redrawn, bands = pile, []
    for number in range(2):
        redrawn, band = redrawn.redrawn(number, before[number], after[number])
        assert band is not None
        bands.append(band)
    for made, (x, y, r), band in zip(redrawn.covers, DISCS, bands, strict=True):
        wanted = 255.0 - disc(SIZE, x + 1.3, y - 1.3, r)
        assert np.abs(made - wanted)[band.rows, band.columns].max() <= 8, "what the curve covers, where it was too"
    assert all(np.array_equal(a, b) for a, b in zip(pile.covers, kept, strict=True)), "the first stays as it was"
    assert redrawn.redrawn(0, after[0], after[0])[0] is redrawn
    for box in ((0, 0, SIZE, SIZE), (20, 30, 55, 71), (0, 0, 9, SIZE)):
        top, left, bottom, right = box
        part = redrawn.shown(0.8, box)
        assert part == pytest.approx(redrawn.shown(0.8)[top:bottom, left:right], abs=0.2), "blurred as the whole"


def test_what_is_kept_of_what_was_drawn_changes_no_cost_and_no_contour() -> None:
    separation = parted(picture(0.8, 60))
    edges = [float(np.hypot(PIXEL_EDGE, 0.8))] * 2
    everything = [np.ones(1, dtype=np.bool_)] * 2
    keeping = Settling(separation, fields_of(separation), edges, CORNER, lambda: None)
    for by in (0.0, 0.4, 0.0, -0.3):
        found = other_discs(by)
        fresh = Settling(separation, fields_of(separation), edges, CORNER, lambda: None)
        tried = [found, other_discs(by + 0.1)]
        costs = [np.concatenate(way) for way in keeping.costs(found, tried, everything)]
        wanted = [np.concatenate(way) for way in fresh.costs(found, tried, everything)]
        assert np.array(costs) == pytest.approx(np.array(wanted), rel=0.02, abs=0.02)
        for made, other in zip(keeping.settled(found), fresh.settled(found), strict=True):
            assert made[0].points == pytest.approx(other[0].points, abs=0.02)
    assert len(keeping.piles) <= 2
