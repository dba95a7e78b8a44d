"""Stretches: taken out and put back, run along with the pointer, chosen by a lasso, told in words."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drawings import artwork_of, glyph_contours
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.choosing import anchors_within, grown, next_anchor, of_kind, shrunk, told, whole_contours
from sobercrow.core.artwork.stretches import Stretch, Track, part_of, stretch_of, with_part
from sobercrow.core.geometry.contour import AnchorKind

CONTOURS = glyph_contours("Rg&")


def refs(places: list[int], shape: int = 0) -> frozenset[AnchorRef]:
    return frozenset(AnchorRef(shape, 0, k) for k in places)


@settings(deadline=None, max_examples=30)
@given(st.integers(0, len(CONTOURS) - 1), st.integers(0, 200), st.integers(1, 200))
def test_a_part_put_back_leaves_the_contour_as_it_was(which: int, first: int, pieces: int) -> None:
    contour = CONTOURS[which]
    first, pieces = first % len(contour), 1 + pieces % len(contour)
    again, begin = with_part(contour, first, pieces, part_of(contour, first, pieces))
    shift = first - begin
    assert np.array_equal(np.roll(again.points, shift, axis=0), contour.points)
    assert again.closed
    corners = np.roll(again.kinds, shift) == AnchorKind.CORNER
    assert np.array_equal(corners, contour.kinds == AnchorKind.CORNER)


def test_anchors_in_a_row_are_a_stretch_also_over_the_first_one() -> None:
    artwork, count = artwork_of(CONTOURS[0]), len(CONTOURS[0])
    assert stretch_of(artwork, refs([3, 4, 5])) == Stretch(0, 0, 3, 2)
    assert stretch_of(artwork, refs([0, 1, count - 1])) == Stretch(0, 0, count - 1, 2)
    assert stretch_of(artwork, refs(list(range(count)))) == Stretch(0, 0, 0, count)
    assert stretch_of(artwork, refs([3, 5])) is None
    assert stretch_of(artwork, refs([3])) is None
    assert stretch_of(artwork, refs([3]) | refs([4], 1)) is None


def walk(track: Track, line: np.ndarray, now: float) -> float:
    for x, y in line.tolist():
        now = track.follow(now, x, y, 8.0)
    return now


def test_running_along_a_line_passes_its_anchors_on_that_side_and_no_other() -> None:
    contour = CONTOURS[0]
    track = Track.of(contour)
    start = 0.5 * (track.stops[2] + track.stops[3])
    line = np.column_stack(
        [np.interp(np.arange(start, track.stops[8] + 3.0, 2.0), track.along, v) for v in track.points.T]
    )
    jitter = np.random.default_rng(3).normal(0, 0.7, line.shape)
    end = walk(track, line + jitter, start)
    assert track.passed(start, end, 1.0) == (3, 5)
    # on over the first anchor, nearly round, and back again
    long = np.arange(start, start + 0.9 * track.length, 2.0)
    far = np.column_stack([np.interp(long % track.length, track.along, v) for v in track.points.T])
    end = walk(track, far, start)
    assert end == pytest.approx(start + 0.9 * track.length, abs=3.0)
    first, pieces = track.passed(start, end, 0.0)
    assert first == 3
    assert 0 < pieces < len(contour)
    assert walk(track, far[::-1], end) == pytest.approx(start, abs=1.0)


def test_growing_and_shrinking_are_each_others_undoing() -> None:
    artwork = artwork_of(*CONTOURS)
    row = refs([4, 5, 6])
    assert grown(artwork, row) == refs([3, 4, 5, 6, 7])
    assert shrunk(artwork, grown(artwork, row)) == row
    assert shrunk(artwork, refs([4])) == refs([4])
    assert whole_contours(artwork, row) == refs(list(range(len(CONTOURS[0]))))
    corners = of_kind(artwork, frozenset(), AnchorKind.CORNER)
    assert len(corners) == artwork.corner_count
    count = len(CONTOURS[0])
    seen = refs([0])
    for _ in range(count):
        seen = next_anchor(artwork, seen)
    assert seen == refs([0])
    assert next_anchor(artwork, seen, step=-1) == refs([count - 1])


def test_a_lasso_chooses_what_shapely_finds_in_it() -> None:
    artwork = artwork_of(*CONTOURS)
    random = np.random.default_rng(5)
    angle = np.sort(random.uniform(0, 2 * np.pi, 24))
    ring = np.array([60.0, 60.0]) + random.uniform(10, 70, 24)[:, None] * np.column_stack(
        [np.cos(angle), np.sin(angle)]
    )
    area = shapely.Polygon(ring).buffer(0)
    found = anchors_within(artwork, ring)
    expected = {
        AnchorRef(s, 0, k)
        for s, contour in enumerate(CONTOURS)
        for k, (x, y) in enumerate(contour.anchors)
        if area.contains(shapely.Point(x, y))
    }
    assert found == expected
    assert 0 < len(found) < artwork.anchor_count


def test_what_is_chosen_is_told_in_words() -> None:
    artwork = artwork_of(*CONTOURS)
    assert told(artwork, Choice()) == "Nothing chosen"
    part = part_of(CONTOURS[0], 2, 4)
    length = shapely.LineString(part.sampled(0.02)).length * 25.4 / 300
    assert told(artwork, Choice(anchors=refs([2, 3, 4, 5, 6]))) == f"Stretch of 5 anchors, {length:.1f} mm"
    assert told(artwork, Choice(anchors=refs([2, 4]))) == f"2 anchors of {artwork.anchor_count}"
    assert told(artwork, Choice(shapes=frozenset({1}))) == f"1 of {len(CONTOURS)} shapes"
