"""Corners sharpened and rounded, stretches made straight and arcs, anchors aligned: against SciPy and Shapely."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
import shapely
from scipy.optimize import least_squares

from drawings import artwork_of, distance, glyph_contours
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.corners import round_corners, sharpen
from sobercrow.core.artwork.lines import By, Way, align, make_arc, space_evenly, straighten
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.arcs import arc_through, arcs_of
from sobercrow.core.geometry.contour import AnchorKind, Contour


def chosen(*places: int, shape: int = 0) -> Choice:
    return Choice(anchors=frozenset(AnchorRef(shape, 0, k) for k in places))


def polygon(*points: tuple[float, float], closed: bool = True) -> Contour:
    at = np.array(points, float)
    return Contour(np.repeat(at[:, None], 3, axis=1), np.zeros(len(at), np.uint8), closed)


def outline(contour: Contour) -> shapely.Polygon:
    return shapely.Polygon(contour.sampled(0.02))


@pytest.mark.parametrize("degrees", [30, 60, 90, 120, 150])
@pytest.mark.parametrize("radius", [1.0, 2.5, 4.0])
def test_a_rounded_wedge_is_sharpened_to_its_tip(degrees: float, radius: float) -> None:
    half = math.radians(degrees) / 2
    ends = [(60 * math.cos(half), 60 * math.sin(half)), (60 * math.cos(half), -60 * math.sin(half))]
    wedge = polygon((0, 0), *ends)
    rounded = round_corners(artwork_of(wedge), chosen(0), radius)
    contour = rounded.artwork.shapes[0].contours[0]
    (first, *_), pieces = sorted(ref.anchor for ref in rounded.choice.anchors), len(rounded.choice.anchors) - 1
    (count, arc), *_ = arcs_of(contour.curves()[first : first + pieces])
    assert (count, arc.radius) == (pieces, pytest.approx(radius)), "one circular arc, in as few pieces as it needs"
    # the arc is that of Shapely's opening by a disc, but for the corners left sharp
    drawn = outline(rounded.artwork.shapes[0].contours[0])
    opened = shapely.Polygon(wedge.anchors).buffer(-radius).buffer(radius, quad_segs=64)
    assert opened.difference(drawn.buffer(2e-3)).area < 1e-3 * radius**2
    again = sharpen(rounded.artwork, rounded.choice).artwork.shapes[0].contours[0]
    assert len(again) == 3
    assert np.hypot(*again.anchors.T).min() < 1e-6


def test_a_cut_off_corner_between_bent_sides_is_sharpened_where_they_meet() -> None:
    # two circles of radius 80 meet at (0, 0); the tip is cut off at the height 3
    def side(sign: float) -> np.ndarray:
        a = np.linspace(0, 0.6, 40)
        return np.column_stack([sign * 80 * (1 - np.cos(a)) + sign * 0.4 * 80 * np.sin(a), 80 * np.sin(a)])

    found = []
    for cut in (2.0, 3.0):
        left, right = (s[s[:, 1] >= cut] for s in (side(-1.0), side(1.0)))
        line = np.vstack([left[::-1], right])
        tangent = np.gradient(line, axis=0)
        points = np.stack([line - tangent / 3, line, line + tangent / 3], axis=1)
        kinds = np.ones(len(line), np.uint8)
        n = len(left)
        kinds[[n - 1, n]] = AnchorKind.CORNER
        points[n - 1, 2], points[n, 0] = line[n - 1], line[n]
        points[n - 1, 0] = line[n - 1] + (line[n - 2] - line[n - 1]) / 3
        points[n, 2] = line[n] + (line[n + 1] - line[n]) / 3
        contour = Contour(points, kinds, closed=False)
        made = sharpen(artwork_of(contour), chosen(n - 1, n)).artwork.shapes[0].contours[0]
        found.append(np.hypot(*made.anchors.T).min())
    assert max(found) < 0.15


def test_several_corners_are_sharpened_at_once_and_stay_chosen() -> None:
    box = polygon((0, 0), (60, 0), (60, 40), (0, 40))
    rounded = round_corners(artwork_of(box), chosen(0, 1, 2, 3), 4.0)
    assert outline(rounded.artwork.shapes[0].contours[0]).area == pytest.approx(2400 - (4 - math.pi) * 16, abs=0.1)
    pairs = [sharpen(rounded.artwork, chosen(2 * k, 2 * k + 1)).artwork for k in range(4)]
    assert all(one.anchor_count == 7 for one in pairs)
    made = rounded
    for k in range(4):
        made = sharpen(made.artwork, chosen(k, k + 1))
        assert len(made.choice.anchors) == 1
    assert sorted(map(tuple, made.artwork.shapes[0].contours[0].anchors.round(6).tolist())) == [
        (0, 0),
        (0, 40),
        (60, 0),
        (60, 40),
    ]


@pytest.mark.parametrize("turn_deg", [25, 70, 130, 200, 330])
def test_an_arc_is_scipys_least_squares_arc(turn_deg: float) -> None:
    random = np.random.default_rng(int(turn_deg))
    angle = 0.3 + np.linspace(0, math.radians(turn_deg), 120)
    points = np.array([20.0, 30.0]) + 55 * np.column_stack([np.cos(angle), np.sin(angle)])
    points[1:-1] += random.normal(0, 0.2, (118, 2))
    arc = arc_through(points)
    half = 0.5 * (points[-1] - points[0])
    across = np.array((-half[1], half[0])) / np.hypot(*half)

    def off(p: np.ndarray) -> np.ndarray:
        middle = points[0] + half + p[0] * across
        return np.hypot(*(points - middle).T) - np.hypot(*(points[0] - middle))

    theirs = points[0] + half + across * least_squares(off, [0.0], xtol=1e-15, ftol=1e-15, gtol=1e-15).x[0]
    assert arc.middle == pytest.approx(theirs, abs=1e-4)
    assert math.degrees(arc.turn) == pytest.approx(turn_deg, abs=1.5)


def test_a_stretch_becomes_an_arc_of_its_form_of_a_radius_or_through_a_point() -> None:
    glyph = next(c for c in glyph_contours("O", 120) if c.area() > 0)
    before = artwork_of(glyph)
    made = make_arc(before, chosen(0, 1, 2))
    assert distance(glyph, made.artwork.shapes[0].contours[0]) < 6.0
    line = polygon((0, 0), (10, 8), (20, 10), (30, 8), (40, 0), closed=False)
    sized = make_arc(artwork_of(line), chosen(*range(5)), radius_px=25.0).artwork.shapes[0].contours[0]
    off = np.hypot(*(sized.sampled(0.2) - (20.0, -15.0)).T) - 25.0
    assert np.abs(off).max() < 0.02
    below = make_arc(artwork_of(line), chosen(*range(5)), through=np.array([20.0, -20.0])).artwork.shapes[0].contours[0]
    assert np.abs(np.hypot(*(below.sampled(0.2) - (20.0, 0.0)).T) - 20.0).max() < 0.02


def test_a_stretch_becomes_straight_and_level_if_it_nearly_is() -> None:
    line = polygon((0, 0), (10, 3), (20, -2), (40, 1), (60, 30), closed=False)
    made = straighten(artwork_of(line), chosen(0, 1, 2, 3))
    contour = made.artwork.shapes[0].contours[0]
    assert made.told == "The stretch is straight and level now."
    assert contour.anchors.tolist() == [[0, 0.5], [40, 0.5], [60, 30]]
    assert straighten(artwork_of(line), chosen(3, 4)).told == "The stretch is straight at 124.6°."


@pytest.mark.parametrize(("by", "at"), [(By.MEAN, 2.0), (By.FIRST, 1.0), (By.LAST, 3.0)])
def test_anchors_are_aligned_with_their_handles(by: By, at: float) -> None:
    line = polygon((0, 1), (10, 2), (20, 3), closed=False)
    made = align(artwork_of(line), chosen(0, 1, 2), Way.LEVEL, by).artwork.shapes[0].contours[0]
    assert (made.points[:, :, 1] == at).all()
    assert made.anchors[:, 0].tolist() == [0, 10, 20]


def test_spaced_anchors_lie_evenly_and_the_line_holds() -> None:
    glyph = next(c for c in glyph_contours("S", 200) if c.area() != 0)
    runs = np.flatnonzero(glyph.kinds == AnchorKind.CORNER)
    first, last = max(pairwise(runs), key=lambda ends: ends[1] - ends[0])
    places = tuple(range(int(first), int(last) + 1))
    made = space_evenly(artwork_of(glyph), chosen(*places)).artwork.shapes[0].contours[0]
    assert distance(glyph, made) < 0.4
    gaps = []
    for k in places[:-1]:
        curve = Contour(made.points[[k, k + 1]], made.kinds[[k, k + 1]], closed=False)
        gaps.append(shapely.LineString(curve.sampled(0.02)).length)
    assert max(gaps) / min(gaps) < 1.01


def test_what_makes_no_sense_is_refused_in_a_sentence() -> None:
    bar = polygon((0, 0), (50, 0), (50, 8), (0, 8))
    line = polygon((0, 0), (10, 0), (20, 0), (30, 0), closed=False)
    artwork = artwork_of(bar, line)
    every = chosen(0, 1, 2, 3)
    for edit, words in (
        (lambda: sharpen(artwork, chosen(1, 2)), "parallel"),
        (lambda: sharpen(artwork, Choice()), "Choose the anchors"),
        (lambda: sharpen(artwork, chosen(0, shape=1)), "end of an open line"),
        (lambda: round_corners(artwork, Choice(), 3.0), "Choose corners"),
        (lambda: round_corners(artwork, chosen(0), 0.0), "radius"),
        (lambda: make_arc(artwork, chosen(0, 1, 2, 3, shape=1)), "straight"),
        (lambda: make_arc(artwork, every), "whole contour"),
        (lambda: straighten(artwork, chosen(0, 2)), "Choose a stretch"),
        (lambda: align(artwork, chosen(0), Way.LEVEL), "two or more"),
        (lambda: space_evenly(artwork, every), "stretch of three"),
    ):
        with pytest.raises(EditError, match=words):
            edit()
