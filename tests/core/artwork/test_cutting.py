"""Contours cut, joined, drawn: areas by Shapely, and what undoes each other does."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drawings import artwork_of, distance, glyph_contours
from sobercrow.core.artwork import cutting, drawing
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.cutting import Bridge
from sobercrow.core.artwork.model import Artwork, Layer, Shape, stroked
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.contour import AnchorKind, Contour

GLYPHS = glyph_contours("gB")


def line(*points: tuple[float, float]) -> Contour:
    at = np.array(points, float)
    return Contour(np.repeat(at[:, None], 3, axis=1), np.zeros(len(at), np.uint8), closed=False)


def area(artwork: Artwork) -> float:
    whole = shapely.Polygon()
    for shape in artwork.shapes:
        own = shapely.Polygon()
        for contour in shape.contours:
            own = own.symmetric_difference(shapely.Polygon(contour.sampled(0.05)).buffer(0))
        whole = whole.union(own)
    return float(whole.area)


@settings(deadline=None, max_examples=12)
@given(st.integers(0, len(GLYPHS) - 1), st.integers(0, 100), st.sampled_from([0.0, 0.3, 0.71]))
def test_a_contour_cut_and_joined_again_is_the_same(which: int, curve: int, t: float) -> None:
    contour = GLYPHS[which]
    cut = cutting.cut(artwork_of(contour), 0, 0, curve % len(contour), t).artwork
    opened = cut.shapes[0].contours[0]
    assert not opened.closed
    assert len(opened) == len(contour) + (2 if t else 1)
    ends = [AnchorRef(0, 0, 0), AnchorRef(0, 0, len(opened) - 1)]
    joined = cutting.join(cut, ends).artwork.shapes[0].contours[0]
    assert joined.closed
    assert len(joined) == len(contour) + bool(t)
    assert distance(joined, contour) < 1e-3  # of lines sampled finely
    assert joined.area() == pytest.approx(contour.area(), rel=1e-12)
    assert cutting.close(cut, Choice(shapes=frozenset({0}))).artwork.shapes[0].contours[0] == joined


def test_an_open_line_is_cut_in_two_and_its_ends_are_joined_as_they_run() -> None:
    whole = line((0, 0), (10, 0), (20, 0), (30, 0))
    parted = cutting.cut(artwork_of(stroked((whole,), "#000000", 2.0)), 0, 0, 1, 0.5).artwork
    assert [len(c) for c in parted.shapes[0].contours] == [3, 3]
    ends = [AnchorRef(0, 0, 2), AnchorRef(0, 1, 0)]
    again = cutting.join(parted, ends).artwork.shapes[0]
    assert again.stroke_px == 2.0
    assert again.contours[0].anchors.tolist() == [[0, 0], [10, 0], [15, 0], [20, 0], [30, 0]]

    apart = artwork_of(
        stroked((line((0, 0), (10, 0)),), "#000000", 1.0), stroked((line((30, 0), (20, 0)),), "#000000", 1.0)
    )
    led = cutting.join(apart, [AnchorRef(0, 0, 1), AnchorRef(1, 0, 1)], Bridge.SMOOTH).artwork
    (made,) = led.shapes[0].contours
    assert len(led.shapes) == 1
    assert made.anchors[:, 0].tolist() == [0, 10, 20, 30]
    assert made.points[1, 2] == pytest.approx((10 + 10 / 3, 0))


def test_reversing_twice_is_nothing_and_chosen_anchors_go_along() -> None:
    artwork = artwork_of(*GLYPHS)
    choice = Choice(anchors=frozenset({AnchorRef(0, 0, 2)}))
    once = cutting.reverse(artwork, choice)
    (ref,) = once.choice.anchors
    assert np.array_equal(once.artwork.shapes[0].contours[0].anchors[ref.anchor], GLYPHS[0].anchors[2])
    assert once.artwork.shapes[0].contours[0].area() == pytest.approx(-GLYPHS[0].area())
    assert cutting.reverse(once.artwork, once.choice).artwork.shapes == artwork.shapes


def test_a_hole_is_taken_out_and_put_in_again() -> None:
    outer, *holes = sorted(glyph_contours("B"), key=lambda c: -abs(c.area()))
    artwork = artwork_of(Shape((outer, *holes)))
    taken = cutting.take_out(artwork, Choice(anchors=frozenset({AnchorRef(0, 1, 0)})))
    assert len(taken.artwork.shapes) == 2
    assert taken.choice.shapes == {1}
    assert area(taken.artwork) == pytest.approx(area(artwork) + abs(holes[0].area()), rel=1e-3)
    back = cutting.put_in(taken.artwork, Choice(shapes=frozenset({0, 1}))).artwork
    assert area(back) == pytest.approx(area(artwork), rel=1e-6)
    assert back.shapes[0].contours[-1].area() * outer.area() < 0


def test_a_drawn_contour_is_added_and_an_open_end_led_on() -> None:
    artwork = artwork_of(*GLYPHS)
    new = line((200, 10), (240, 20), (230, 60))
    added = drawing.with_contour(artwork, new, drawing.Pen("#1d4f79", 3.0))
    assert added.artwork.shapes[-1] == stroked((new,), "#1d4f79", 3.0)
    (end,) = added.choice.anchors
    more = drawing.gone_on_from(added.artwork, end, line((230, 60), (200, 80))).artwork.shapes[-1].contours[0]
    assert more.anchors.tolist() == [[200, 10], [240, 20], [230, 60], [200, 80]]
    first = AnchorRef(end.shape, 0, 0)
    before = drawing.gone_on_from(added.artwork, first, line((200, 10), (180, 0))).artwork.shapes[-1].contours[0]
    assert before.anchors.tolist() == [[180, 0], [200, 10], [240, 20], [230, 60]]


@pytest.mark.parametrize("way", [1, -1])
@pytest.mark.parametrize("zoom", [1.0, 4.0])
def test_a_stretch_drawn_anew_takes_the_place_of_the_old_one(way: int, zoom: float) -> None:
    angle = np.linspace(0, 2 * np.pi, 8, endpoint=False)
    at = 100 + 60 * np.column_stack([np.cos(angle), np.sin(angle)])
    arm = 60 * 4 / 3 * np.tan(np.pi / 16) * np.column_stack([-np.sin(angle), np.cos(angle)])
    round_ = Contour(np.stack([at - arm, at, at + arm], axis=1), np.ones(8, np.uint8))
    # a dent by hand, from 20 to 70 degrees, trembling by a quarter of a screen pixel
    steps = np.linspace(np.radians(20), np.radians(70), 60)
    depth = 60 - 12 * np.sin(np.linspace(0, np.pi, 60)) ** 2
    drawn = 100 + depth[:, None] * np.column_stack([np.cos(steps), np.sin(steps)])
    hand = drawn + np.random.default_rng(7).normal(0, 0.25 / zoom, drawn.shape)
    made = drawing.redraw(artwork_of(round_), 0, 0, hand[::way].copy(), zoom)
    contour = made.artwork.shapes[0].contours[0]
    ring = shapely.LinearRing(contour.sampled(0.1))
    assert max(ring.distance(shapely.Point(p)) for p in drawn) < 1.2
    missing = np.trapezoid(0.5 * (60.0**2 - depth**2), steps)
    assert contour.area() == pytest.approx(np.pi * 3600 - missing, rel=0.003)
    assert len(contour) <= 14
    assert (contour.kinds != AnchorKind.CORNER).all()  # it was drawn to run on smoothly


def test_what_makes_no_sense_is_refused_in_a_sentence() -> None:
    artwork = artwork_of(*GLYPHS)
    lines = [Shape((line(*ends),)) for ends in (((0, 0), (9, 0)), ((20, 0), (30, 0)))]
    two_layers = Artwork((Layer("A", (lines[0],)), Layer("B", (lines[1],))), 50, 50, 300)
    aside, both = artwork_of(GLYPHS[0], GLYPHS[0].moved(500, 0)), Choice(shapes=frozenset({0, 1}))
    for edit, words in (
        (lambda: cutting.join(artwork, [AnchorRef(0, 0, 0), AnchorRef(0, 0, 1)]), "two open ends"),
        (lambda: cutting.join(two_layers, [AnchorRef(0, 0, 1), AnchorRef(1, 0, 0)]), "different layers"),
        (lambda: cutting.cut_at(two_layers, AnchorRef(0, 0, 0)), "end already"),
        (lambda: cutting.close(artwork, Choice(shapes=frozenset({0}))), "is open"),
        (lambda: cutting.take_out(artwork, Choice(anchors=frozenset({AnchorRef(0, 0, 0)}))), "hole"),
        (lambda: cutting.put_in(artwork, Choice(shapes=frozenset({0}))), "two shapes"),
        (lambda: cutting.put_in(aside, both), "within"),
        (lambda: drawing.with_contour(artwork, line((0, 0)), drawing.Pen()), "two anchors"),
        (lambda: drawing.redraw(artwork, 0, 0, GLYPHS[0].anchors[[0, 0]] + [[0, 0], [0.01, 0]], 1.0), "one place"),
    ):
        with pytest.raises(EditError, match=words):
            edit()
