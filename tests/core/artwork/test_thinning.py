"""Fewer anchors, measured on outlines of open typefaces."""

from __future__ import annotations

import numpy as np
import pytest
from fontTools.misc.bezierTools import calcCubicBounds

from drawings import artwork_of, dense, distance, glyph_contours
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.mending import find_mending
from sobercrow.core.artwork.model import Shape
from sobercrow.core.artwork.thinning import crowded, join_crowded, thin_out
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._crossing_kernels import first_crossing
from sobercrow.core.geometry.contour import AnchorKind, Contour

GLYPHS = glyph_contours("gS&3")
DENSE = [dense(contour, 1.5) for contour in GLYPHS]


def crosses(contour: Contour) -> bool:
    return bool(first_crossing(np.ascontiguousarray(contour.curves().reshape(-1, 8)), contour.closed, np.empty(4)))


@pytest.mark.parametrize("tolerance", [0.1, 0.25, 0.5, 1.0])
def test_a_thinned_line_keeps_its_corners_and_its_tolerance(tolerance: float) -> None:
    before = artwork_of(*DENSE)
    after = thin_out(before, Choice(), tolerance).artwork
    # the type designer's own anchors hold it exactly, so no more than those are needed
    assert after.anchor_count <= sum(map(len, GLYPHS))
    assert after.corner_count == before.corner_count
    for old, new in zip(before.shapes, after.shapes, strict=True):
        assert distance(old.contours[0], new.contours[0]) <= tolerance + 0.02
        assert not crosses(new.contours[0])


def test_a_looser_tolerance_never_needs_more_anchors() -> None:
    counts = [thin_out(artwork_of(*DENSE), Choice(), t).artwork.anchor_count for t in (0.05, 0.2, 0.8, 3.0)]
    assert counts == sorted(counts, reverse=True)
    assert counts[-1] < 0.65 * counts[0]


def test_a_circle_of_many_anchors_becomes_few() -> None:
    angle = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    at = 100 + 40 * np.column_stack([np.cos(angle), np.sin(angle)])
    arm = 40 * 4 / 3 * np.tan(np.pi / 120) * np.column_stack([-np.sin(angle), np.cos(angle)])
    contour = Contour(np.stack([at - arm, at, at + arm], axis=1), np.ones(60, np.uint8))
    thinned = thin_out(artwork_of(contour), Choice(), 0.1).artwork.shapes[0].contours[0]
    assert len(thinned) <= 4
    off = np.abs(np.hypot(*(thinned.sampled(0.2) - 100).T) - 40)
    assert off.max() < 0.12


def test_of_a_stretch_only_that_is_thinned_and_chosen_afterwards() -> None:
    contour = DENSE[0]
    smooth = np.flatnonzero(contour.kinds != AnchorKind.CORNER)
    first = next(k for k in smooth if all((k + j) in smooth for j in range(12)))
    chosen = frozenset(AnchorRef(0, 0, int(first) + j) for j in range(12))
    made = thin_out(artwork_of(contour), Choice(anchors=chosen), 0.25)
    after = made.artwork.shapes[0].contours[0]
    gone = len(contour) - len(after)
    assert gone > 5
    assert len(made.choice.anchors) == 12 - gone
    assert np.array_equal(after.points[:first], contour.points[:first])
    assert np.array_equal(after.points[first + 13 - gone :], contour.points[first + 13 :])


def test_chosen_anchors_stay_where_they_are() -> None:
    contour = DENSE[1]
    held = {5, 30, 61}
    made = thin_out(artwork_of(contour), Choice(anchors=frozenset(AnchorRef(0, 0, k) for k in held)), 0.5)
    after = made.artwork.shapes[0].contours[0]
    assert {tuple(after.anchors[ref.anchor]) for ref in made.choice.anchors} == {
        tuple(contour.anchors[k]) for k in held
    }


def test_anchors_come_to_lie_at_all_tops_and_bottoms() -> None:
    after = thin_out(artwork_of(*DENSE), Choice(), 0.2, at_extremes=True).artwork
    for shape in after.shapes:
        for curve in shape.contours[0].curves():
            # fontTools: a curve between anchors reaches no further than its ends
            left, top, right, bottom = calcCubicBounds(*map(tuple, curve))
            ends = curve[[0, 3]]
            assert ends.min(axis=0) == pytest.approx((left, top), abs=0.05)
            assert ends.max(axis=0) == pytest.approx((right, bottom), abs=0.05)


def test_turns_of_the_bend_are_where_it_is_none() -> None:
    curve = np.array([[(0, 0), (10, 20), (20, -20), (30, 3)]], float)
    (t,) = [t for t in bezier.bend_turns(curve).ravel() if not np.isnan(t)]
    d = bezier.derivative(curve[0], np.array([t - 1e-6, t, t + 1e-6]))
    second = d[2] - d[0]
    assert abs(d[1][0] * second[1] - d[1][1] * second[0]) / np.hypot(*d[1]) ** 3 < 1e-9


def test_crowded_anchors_are_found_joined_and_listed_to_be_mended() -> None:
    spoiled = dense(GLYPHS[1], 12.0)
    points, kinds = spoiled.points, spoiled.kinds
    twin = points[4] + 0.3
    contour = Contour(np.insert(points, 5, twin, axis=0), np.insert(kinds, 5, kinds[4]))
    artwork = artwork_of(contour, Shape((GLYPHS[0].scaled(0.01),)))
    assert [len(crowd) for crowd in crowded(artwork, Choice(shapes=frozenset({0})), 1.0)] == [2]
    joined = join_crowded(artwork, Choice(shapes=frozenset({0})), 1.0).artwork
    assert joined.anchor_count == artwork.anchor_count - 1
    found = find_mending(artwork, 4.0, 1.0)
    assert [place.choice.shapes for place in found.stragglers] == [{1}]
    assert (found.crossings, found.open_ends) == ((), ())
    eight = np.array([(0, 0), (40, 40), (40, 0), (0, 40)], float)
    crossing = Contour(np.repeat(eight[:, None], 3, axis=1), np.zeros(4, np.uint8))
    left_open = Contour(crossing.points[:3], crossing.kinds[:3], closed=False)
    found = find_mending(artwork_of(crossing, left_open), 4.0, 1.0)
    assert (len(found.crossings), len(found.open_ends)) == (1, 1)


@pytest.mark.parametrize("tolerance", [0.0, -1.0, 50.0])
def test_senseless_tolerances_are_refused(tolerance: float) -> None:
    with pytest.raises(EditError, match="Thin out within"):
        thin_out(artwork_of(*GLYPHS), Choice(), tolerance)
    with pytest.raises(EditError, match="nearer"):
        join_crowded(artwork_of(*GLYPHS), Choice(), 1e-6)
