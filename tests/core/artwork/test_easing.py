"""Easing: wobbles go, corners and all that was not stroked stay."""

from __future__ import annotations

import numpy as np
import pytest

from drawings import artwork_of, dense, distance, glyph_contours, line_of, off
from sobercrow.core.artwork.easing import Ease, ease, ease_stretch
from sobercrow.core.artwork.model import stroked
from sobercrow.core.artwork.stretches import Stretch, Track
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.contour import AnchorKind, Contour

GLYPHS = [c for c in glyph_contours("SU", 400) if len(c) > 4]


def wobbly(contour: Contour, size: float, length: float) -> Contour:
    fine = dense(contour, 1.5)
    line = fine.anchors
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    way = np.roll(line, -1, axis=0) - np.roll(line, 1, axis=0)
    normal = np.column_stack([-way[:, 1], way[:, 0]]) / np.hypot(*way.T)[:, None]
    corners = np.flatnonzero(fine.kinds == AnchorKind.CORNER)
    shift = size * np.sin(2 * np.pi * along / length)
    if len(corners):
        shift *= np.clip(np.abs(along[:, None] - along[corners]).min(axis=1) / 8.0, 0, 1)
    moved = line + shift[:, None] * normal
    arm = (np.roll(moved, -1, axis=0) - np.roll(moved, 1, axis=0)) / 6
    points = np.stack([moved - arm, moved, moved + arm], axis=1)
    points[corners, 0] = moved[corners] + (moved[corners - 1] - moved[corners]) / 3
    points[corners, 2] = moved[corners] + (moved[(corners + 1) % len(moved)] - moved[corners]) / 3
    return Contour(points, fine.kinds)


def rms(contour: Contour, true: Contour) -> float:
    return float(np.sqrt(np.mean(off(contour.sampled(1.0), line_of(true)) ** 2)))


@pytest.mark.parametrize(("size", "length"), [(0.3, 6.0), (0.6, 9.0), (1.0, 13.0)])
def test_a_wobble_goes_with_one_stroke_and_corners_stay(size: float, length: float) -> None:
    for true in GLYPHS:
        rough = wobbly(true, size, length)
        made = ease(artwork_of(rough), 0, 0, 0.0, Track.of(rough).length, Ease())
        calm = made.artwork.shapes[0].contours[0]
        assert rms(calm, true) < 0.3 * rms(rough, true)
        assert made.shift_px > 0.5 * size
        assert len(calm) < 0.5 * len(rough)
        corners = [c.anchors[c.kinds == AnchorKind.CORNER] for c in (rough, calm)]
        assert np.array_equal(np.sort(corners[0], axis=0), np.sort(corners[1], axis=0))


def test_a_clean_outline_loses_nothing() -> None:
    for true in GLYPHS:
        made = ease(artwork_of(true), 0, 0, 0.0, Track.of(true).length, Ease())
        assert rms(made.artwork.shapes[0].contours[0], true) < 0.05


def test_what_was_not_stroked_stays_to_the_last_bit() -> None:
    rough = wobbly(GLYPHS[0], 0.8, 8.0)
    track = Track.of(rough)
    low, high = float(track.stops[10]) + 0.3, float(track.stops[40]) + 0.3
    calm = ease(artwork_of(rough), 0, 0, low, high, Ease()).artwork.shapes[0].contours[0]
    gone = len(rough) - len(calm)
    assert gone > 0
    assert np.array_equal(calm.points[:10], rough.points[:10])
    assert np.array_equal(calm.points[42 - gone :], rough.points[42:])
    again = ease(artwork_of(rough), 0, 0, high, low, Ease()).artwork.shapes[0].contours[0]
    assert again == calm  # whichever way it was stroked


def test_over_the_first_anchor_and_at_half_strength() -> None:
    rough = wobbly(GLYPHS[0], 0.8, 8.0)
    length = Track.of(rough).length
    over = ease(artwork_of(rough), 0, 0, length - 40.0, length + 40.0, Ease()).shift_px
    half = ease(artwork_of(rough), 0, 0, length - 40.0, length + 40.0, Ease(strength=50.0)).shift_px
    assert half == pytest.approx(0.5 * over, rel=0.15)
    whole = ease_stretch(artwork_of(rough), Stretch(0, 0, 5, 30), Ease()).artwork.shapes[0].contours[0]
    assert distance(whole, rough) < 2.0
    with pytest.raises(EditError, match="Stroke along the edge"):
        ease(artwork_of(rough), 0, 0, 3.0, 3.5, Ease())


@pytest.mark.parametrize("whole", [True, False])
def test_an_open_stroke_is_eased_and_keeps_its_ends_and_its_width(whole: bool) -> None:
    closed = wobbly(GLYPHS[0], 0.8, 8.0)
    points = closed.points[5:95].copy()
    points[0, 0], points[-1, 2] = points[0, 1], points[-1, 1]
    rough = Contour(points, closed.kinds[5:95], closed=False)
    artwork = artwork_of(stroked((rough,), "#a33e2e", 5.0))
    track = Track.of(rough)
    high = track.length if whole else 0.5 * track.length
    made = ease(artwork, 0, 0, 0.0, high, Ease())
    (shape,) = made.artwork.shapes
    calm = shape.contours[0]
    assert not calm.closed
    assert shape.stroke == artwork.shapes[0].stroke
    assert np.array_equal(calm.anchors[[0, -1]], rough.anchors[[0, -1]])
    assert made.shift_px > 0.3
    if whole:
        before, after = (rms(contour, GLYPHS[0]) for contour in (rough, calm))
        assert after < 0.4 * before
    else:
        assert np.array_equal(calm.points[-20:], rough.points[-20:]), "what was not stroked stays"
