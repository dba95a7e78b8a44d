"""Curves drawn with exact coverage, and moved until they give back the picture."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import cv2
import numpy as np
import pytest
import shapely
from scipy import ndimage

from drawings import circle, disc, lettering, polygon, separation
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.inks.separation import InkField
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing._settle_kernels import difference
from sobercrow.core.tracing.band import Band, blur_taps
from sobercrow.core.tracing.borders import find_borders
from sobercrow.core.tracing.fitting import Fitter
from sobercrow.core.tracing.outlines import fit_borders
from sobercrow.core.tracing.rendering import Likeness, settled_on_tones
from sobercrow.core.tracing.rings import Rings

CORNER = np.radians(48)
PIXEL_EDGE = 0.41
"""Width of the edges of a picture without blur."""


def field(grey: np.ndarray) -> InkField:
    return InkField(grey, 127.5, 127.5, 0.0, 255.0)


def straight(*corners: tuple[float, float]) -> Contour:
    return Contour(np.repeat(np.array(corners)[:, None], 3, axis=1), np.zeros(len(corners)))


def drawn(contours: list[Contour], size: int, blur: float) -> np.ndarray:
    """The picture of contours as our own loops draw it, (size, size)."""
    rings, taps = Rings.of(contours), blur_taps(blur)
    band = Band.of(rings, (size, size), len(taps) - 1)
    whole = np.zeros((size, size))
    band.draw(rings, np.ones(len(contours), dtype=bool))
    nothing = Likeness.of_ink(np.zeros(len(band.rows), dtype=np.float32), taps, 1.0)
    room = nothing.room()
    room[0] = band.cover()
    difference(band, nothing, room, np.zeros(len(contours)))
    whole[band.rows, band.columns] = room[4]  # by how much more is drawn than nothing
    return whole


def off_circle(contour: Contour, x: float, y: float, r: float) -> np.ndarray:
    return np.abs(np.hypot(*(contour.sampled(0.25) - (x, y)).T) - r)


@pytest.mark.parametrize("seed", range(4))
def test_every_pixel_is_covered_as_shapely_says(seed: int) -> None:
    random = np.random.default_rng(seed)
    angles = np.sort(random.uniform(0, 2 * np.pi, 7))
    corners = [(16 + r * np.cos(a), 16 + r * np.sin(a)) for a, r in zip(angles, random.uniform(4, 14, 7), strict=True)]
    true = shapely.Polygon(corners)
    found = drawn([straight(*corners)], 32, 0.0)
    near = np.argwhere(found != 0.0)
    areas = [true.intersection(shapely.box(x, y, x + 1, y + 1)).area for y, x in near]
    assert found[tuple(near.T)] == pytest.approx(areas, abs=1e-5)


@pytest.mark.parametrize("reach", [0, 4])
def test_parts_of_a_band_are_those_scipy_labels_and_rings_may_be_anywhere(reach: int) -> None:
    random = np.random.default_rng(3)
    rings = Rings.of([circle(*random.uniform(-5, 105, 2), random.uniform(2, 9)) for _ in range(25)])
    band = Band.of(rings, (100, 100), reach)
    marked = np.zeros((100, 100), dtype=int)
    marked[band.rows, band.columns] = 1
    labels, count = ndimage.label(marked)
    parts = np.repeat(np.arange(len(band.parts) - 1), np.diff(band.parts))
    of_label = {(int(part), int(label)) for part, label in zip(parts, labels[band.rows, band.columns], strict=True)}
    assert len(of_label) == count, "what touches is in one part"
    assert len(parts) == len({*zip(band.rows.tolist(), band.columns.tolist(), strict=True)}) == marked.sum()
    assert sorted(band.members.tolist()) == list(range(25))
    for part, (first, last) in enumerate(pairwise(band.member_starts.tolist())):
        assert set(band.owner[parts == part].tolist()) <= set(band.members[first:last].tolist())
    by_row = list(zip(band.rows[band.by_row].tolist(), band.columns[band.by_row].tolist(), strict=True))
    assert by_row == sorted(by_row)
    assert (band.place[band.rows - band.top, band.columns - band.left] == np.arange(len(parts))).all()


def test_softened_tones_are_those_of_opencv() -> None:
    ring = circle(20.3, 19.8, 11.0)
    hard, soft = drawn([ring], 40, 0.0), drawn([ring], 40, 0.9)
    inside = np.hypot(*(np.mgrid[:40, :40] + 0.5 - np.array([19.8, 20.3])[:, None, None])) < 9
    wanted = cv2.GaussianBlur(np.where(inside, 1.0, hard), (7, 7), 0.9)
    edge = np.abs(np.hypot(*(np.mgrid[:40, :40] + 0.5 - np.array([19.8, 20.3])[:, None, None])) - 11.0) < 2
    assert soft[edge] == pytest.approx(wanted[edge], abs=0.01)


@pytest.mark.parametrize("blur", [0.0, 0.8])
def test_a_circle_drawn_off_its_place_comes_back_to_it(blur: float) -> None:
    grey = disc(60, 30.2, 29.7, 14.3)
    if blur:
        grey = cv2.GaussianBlur(grey, (0, 0), blur)
    astray = circle(30.3, 29.6, 14.2)
    (found,) = settled_on_tones([astray], field(grey), np.hypot(PIXEL_EDGE, blur), CORNER)
    assert off_circle(found, 30.2, 29.7, 14.3).max() < 0.03 < off_circle(astray, 30.2, 29.7, 14.3).max()


def test_corners_go_where_their_sides_meet_and_false_ones_become_smooth() -> None:
    corners = [(10.3, 10.6), (40.7, 14.1), (36.2, 44.8), (12.4, 38.3)]
    placed = straight(
        *[
            (x + dx, y + dy)
            for (x, y), (dx, dy) in zip(corners, ((0.2, 0.1), (-0.2, 0.1), (-0.1, -0.2), (0.1, -0.2)), strict=True)
        ]
    )
    (found,) = settled_on_tones([placed], field(polygon(52, corners)), PIXEL_EDGE, CORNER)
    assert found.anchors == pytest.approx(np.array(corners), abs=0.06)
    assert (found.kinds == AnchorKind.CORNER).all()
    (round_one,) = settled_on_tones([circle(30, 30, 14, corners=True)], field(disc(60, 30, 30, 14)), PIXEL_EDGE, CORNER)
    assert (round_one.kinds == AnchorKind.SMOOTH).all()
    assert off_circle(round_one, 30, 30, 14).max() < 0.03


def test_both_sides_of_a_thin_stroke_settle_together() -> None:
    grey = cv2.GaussianBlur(polygon(60, [(8, 20.4), (52, 30.4), (52, 32.4), (8, 22.4)]), (0, 0), 0.8)
    wide = straight((8, 20.0), (52, 30.0), (52, 32.8), (8, 22.8))
    (found,) = settled_on_tones([wide], field(grey), np.hypot(PIXEL_EDGE, 0.8), CORNER)
    assert found.area() == pytest.approx(88.0, rel=0.02)


def test_another_threshold_and_ink_of_other_tones_are_left_as_they_were() -> None:
    grey, contour = disc(60, 30, 30, 14), circle(30.3, 30, 13.8)
    assert settled_on_tones([contour], replace(field(grey), iso=90.0), PIXEL_EDGE, CORNER) == [contour]
    pale = np.maximum(grey, 110)
    assert settled_on_tones([contour], field(pale), PIXEL_EDGE, CORNER) == [contour]
    assert settled_on_tones([], field(grey), PIXEL_EDGE, CORNER) == []


@pytest.mark.parametrize("face", ["DejaVu Serif", "STIXGeneral:italic", "cmr10"])
def test_letters_do_not_begin_to_cross_themselves(face: str) -> None:
    found = separation(cv2.GaussianBlur(lettering("Regatta&4680", 48, face), (0, 0), 0.7))
    borders = find_borders(found.field_of(0), 2.0)
    fitted = fit_borders(borders, Fitter.of(Tracing(), borders.blur_px))
    moved = settled_on_tones(fitted, found.field_of(0), borders.blur_px, CORNER)
    crossing = [[not shapely.LinearRing(c.sampled(0.1)).is_simple for c in part] for part in (fitted, moved)]
    assert sum(m is not f for m, f in zip(moved, fitted, strict=True)) > 0.7 * len(fitted)
    assert not any(after and not before for before, after in zip(*crossing, strict=True))
