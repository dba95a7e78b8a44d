"""What is regular among marks: kept where the picture agrees, told, and refused; tips led on to where sides meet."""

from __future__ import annotations

import math

import cv2
import numpy as np
import pytest

from drawings import compressed, disc, lettering, separation
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.geometry.forms import Ellipse, Related, Relation, kind_of
from sobercrow.core.inks.palette import read_colours
from sobercrow.core.inks.separation import SeveralInks, separate
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Ink, Inks, Role, Tracing
from sobercrow.core.tracing.outlines import Trace, trace
from sobercrow.core.tracing.regular import is_line
from sobercrow.core.tracing.true_shapes import size_of

DOTS = ((24.3, 30.6, 3.7), (60.8, 30.2, 3.7), (96.1, 31.1, 3.7))


def jpeg(grey: np.ndarray, colour: tuple[int, int, int], quality: int) -> np.ndarray:
    """An ink of a colour on white, compressed."""
    share = 1.0 - grey[..., None] / 255.0
    pixels = np.rint(255.0 + share * (np.array(colour) - 255.0)).astype(np.uint8)
    return compressed(pixels, quality)


def red_dots() -> SeveralInks:
    grey = np.full((60, 120), 255, dtype=np.uint8)
    for x, y, r in DOTS:
        grey = np.minimum(grey, disc(120, x, y, r)[:60])
    pixels = jpeg(cv2.GaussianBlur(grey, (0, 0), 0.7), (176, 56, 44), 50)
    palette = (Ink("#b0382c", "Red"), Ink("#ffffff", "Paper", Role.PAPER))
    found = separate(Picture(pixels, 300.0), Inks(palette=palette), None, read_colours(pixels, True, True))
    assert isinstance(found, SeveralInks)
    return found


def filled(size: int, corners: np.ndarray) -> np.ndarray:
    """Ink in a polygon, drawn 16 times as large by OpenCV and averaged."""
    large = np.full((16 * size, 16 * size), 255, dtype=np.uint8)
    cv2.fillPoly(large, [np.rint(16.0 * corners - 0.5).astype(np.int32)], 0)
    return cv2.resize(large, (size, size), interpolation=cv2.INTER_AREA)


def related(made: Trace, relation: Relation) -> list[Related]:
    return [f.form for f in made.forms if isinstance(f.form, Related) and f.form.relation is relation]


def sides(made: Trace) -> list[tuple[float, float]]:
    """Length and direction, in degrees, of every straight side."""
    found = []
    for contour in (c for shape in made.artwork.shapes for c in shape.contours):
        for i in range(len(contour)):
            j = (i + 1) % len(contour)
            way = contour.points[j, 1] - contour.points[i, 1]
            if is_line(contour.points, i, j):
                found.append((float(np.hypot(*way)), math.degrees(math.atan2(way[1], way[0]))))
    return found


def test_compressed_dots_are_circles_of_one_size_and_each_can_be_refused() -> None:
    separation_of_dots = red_dots()
    made = trace(separation_of_dots, Tracing())
    circles = [shape.contours[0].form for shape in made.artwork.shapes]
    assert all(isinstance(circle, Ellipse) and circle.is_circle for circle in circles)
    assert len({circle.rx for circle in circles}) == 1
    assert circles[0].rx == pytest.approx(3.7, abs=0.15)
    (alike,) = related(made, Relation.ALIKE)
    assert (alike.count, kind_of(alike)) == (3, "alike")
    for circle, (x, y, _) in zip(sorted(circles, key=lambda c: c.x), DOTS, strict=True):
        assert (circle.x, circle.y) == pytest.approx((x, y), abs=0.15)
    refused = Tracing(refused=((circles[0].x, circles[0].y, size_of(circles[0])), (alike.x, alike.y, size_of(alike))))
    freely = trace(separation_of_dots, refused)
    assert [shape.contours[0].form is None for shape in freely.artwork.shapes].count(True) == 1
    assert sum(found.refused for found in freely.forms) == 2


def test_circles_about_one_middle_have_one() -> None:
    ring = np.maximum(disc(90, 45.1, 44.9, 35), 255 - disc(90, 45.1, 44.9, 24)).astype(np.float64)
    noise = np.random.default_rng(5).normal(0.0, 9.0, ring.shape)
    made = trace(separation(np.clip(ring + noise, 0, 255).astype(np.uint8)), Tracing(speck_px2=9.0))
    (shape,) = made.artwork.shapes
    outer, inner = (contour.form for contour in shape.contours)
    assert (outer.x, outer.y) == (inner.x, inner.y)
    assert related(made, Relation.MIDDLE)[0].count == 2


@pytest.mark.parametrize("degrees", [0.0, 0.6, 11.0])
def test_sides_are_straight_and_at_right_angles_but_not_turned_from_where_they_are(degrees: float) -> None:
    """An L, its corners rounded by blur, level, a little off it as the tones well show, and turned."""
    turn = math.radians(degrees)
    corners = np.array([(20, 20), (60, 20), (60, 45), (95, 45), (95, 85), (20, 85)], dtype=float) - 57.0
    turned = corners @ np.array([(math.cos(turn), math.sin(turn)), (-math.sin(turn), math.cos(turn))]) + 57.0
    grey = cv2.GaussianBlur(filled(114, turned), (0, 0), 1.2)
    made = trace(separation(grey), Tracing())
    long = [(length, angle) for length, angle in sides(made) if length > 12]
    assert len(long) == 6
    assert max(abs(math.remainder(angle - degrees, 90.0)) for _, angle in long) < 0.25
    spread = [math.remainder(angle - long[0][1], 90.0) for _, angle in long]
    assert max(map(abs, spread)) < 1e-6
    free = trace(separation(grey), Tracing(true_shapes=False))
    assert not [f for f in free.forms if isinstance(f.form, Related)]


@pytest.mark.parametrize("half_angle_deg", [7.0, 12.0])
def test_a_notch_cut_off_by_the_pixels_is_led_on_to_its_tip(half_angle_deg: float) -> None:
    tip, reach = np.array((45.3, 62.4)), 45.0
    wide = reach * math.tan(math.radians(half_angle_deg))
    corners = [(5, 17.4), (tip[0] - wide, 17.4), tuple(tip), (tip[0] + wide, 17.4), (88, 17.4), (88, 85), (5, 85)]
    made = trace(separation(filled(95, np.array(corners))), Tracing())
    contour = made.artwork.shapes[0].contours[0]
    near = np.hypot(*(contour.anchors - tip).T)
    assert near.min() < 0.6
    assert (near < 6.0).sum() == 1
    assert contour.kinds[int(near.argmin())] == AnchorKind.CORNER


@pytest.mark.parametrize("face", ["DejaVu Serif", "STIXGeneral:italic"])
def test_letters_keep_their_curves(face: str) -> None:
    """No round letter becomes a circle, and what is regular lies as near to the letters as what is free."""
    found = separation(lettering("Sousaphone", 120, face))
    regular, free = (trace(found, Tracing(true_shapes=on)) for on in (True, False))
    assert not [f for f in regular.forms if isinstance(f.form, Ellipse)]
    assert regular.artwork.anchor_count < 1.3 * free.artwork.anchor_count
