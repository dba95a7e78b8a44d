"""What a dragged anchor is snapped to."""

from __future__ import annotations

import numpy as np
import pytest

from drawings import artwork_of, disc, glyph_contours, separation
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.snapping import Guide, Lies, snapped, snapped_handle
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.outlines import trace

CONTOURS = glyph_contours("HE", 120)
ARTWORK = artwork_of(*CONTOURS)
MOVED = [AnchorRef(0, 0, 0)]


def test_near_another_anchor_it_lies_on_it() -> None:
    x, y = CONTOURS[1].anchors[2]
    snap = snapped(ARTWORK, MOVED, x + 1.0, y - 1.5, 3.0)
    assert (snap.x, snap.y, snap.words) == (x, y, ("on an anchor",))
    assert snapped(ARTWORK, MOVED, x + 1.0, y - 1.5, 1.0).words != ("on an anchor",)


def test_it_is_not_snapped_to_itself_or_what_goes_along() -> None:
    x, y = CONTOURS[0].anchors[0]
    alone = snapped(artwork_of(CONTOURS[0]), [AnchorRef(0, 0, k) for k in range(len(CONTOURS[0]))], x + 1, y + 1, 3.0)
    assert (alone.x, alone.y, alone.words) == (x + 1, y + 1, ())


def test_level_and_upright_with_others_each_by_itself_and_both_at_once() -> None:
    one, other = CONTOURS[1].anchors[0], CONTOURS[1].anchors[5]
    aside = snapped(ARTWORK, MOVED, 400.0, float(one[1]) + 1.2, 2.0)
    assert (aside.x, aside.y) == (400.0, pytest.approx(one[1]))
    assert aside.words == ("level with",)
    ((x0, y0, _, y1),) = aside.lines
    assert (x0, y0, y1) == (400.0, aside.y, aside.y)
    above = snapped(ARTWORK, MOVED, float(other[0]) - 0.5, -60.0, 2.0)
    assert (above.x, above.y, above.words) == (pytest.approx(other[0]), -60.0, ("upright with",))
    far = snapped(ARTWORK, MOVED, 400.0, -60.0, 2.0)
    assert (far.x, far.y, far.words) == (400.0, -60.0, ())


def test_of_several_as_level_the_nearest_along_the_line_is_told() -> None:
    y = float(CONTOURS[1].anchors[0, 1])
    level = [float(a[0]) for c in CONTOURS for a in c.anchors if abs(a[1] - y) < 1e-9]
    snap = snapped(ARTWORK, MOVED, max(level) + 30.0, y + 0.4, 1.0)
    assert snap.lines[0][2] == max(level)


def test_middles_and_quadrants_of_true_circles_draw_it() -> None:
    artwork = trace(separation(disc(100, 50.2, 49.6, 30.0)), Tracing()).artwork
    form = artwork.shapes[0].contours[0].form
    snap = snapped(artwork, [], 51.0, 49.0, 2.0)
    assert snap.words == ("middle of circle",)
    assert (snap.x, snap.y) == pytest.approx((50.2, 49.6), abs=0.05)
    right = snapped(artwork, [AnchorRef(0, 0, k) for k in range(4)], 81.0, 50.0, 2.0)
    assert right.words == ("quadrant of circle",)
    assert right.x == pytest.approx(form.x + form.rx)


def test_it_takes_no_longer_in_much_artwork() -> None:
    many = artwork_of(*(c.moved(150.0 * (k % 30), 150.0 * (k // 30)) for k in range(300) for c in CONTOURS[:1]))
    x, y = many.shapes[211].contours[0].anchors[3]
    snap = snapped(many, MOVED, x + 0.4, y - 0.3, 1.0)
    assert np.hypot(snap.x - x, snap.y - y) == 0.0


def test_guides_draw_it_before_what_it_is_level_with() -> None:
    y = float(CONTOURS[1].anchors[0, 1])
    guides = (Guide(Lies.LEVEL, y + 1.0), Guide(Lies.UPRIGHT, 401.0))
    snap = snapped(ARTWORK, MOVED, 400.0, y + 0.4, 2.0, guides)
    assert (snap.x, snap.y, snap.words) == (401.0, y + 1.0, ("on a guide", "on a guide"))
    assert snapped(ARTWORK, MOVED, 390.0, y + 0.4, 2.0, guides).x == 390.0


def test_tops_of_curves_are_lain_level_with_but_not_those_of_the_curve_that_is_moved() -> None:
    disc = Contour(Ellipse(50.0, 50.0, 30.0, 30.0, 45.0).anchors(), np.ones(4, np.uint8))
    artwork = artwork_of(disc, CONTOURS[0].moved(300.0, 300.0))  # its anchors lie at the diagonals, its top at 20
    snap = snapped(artwork, [AnchorRef(1, 0, 0)], 120.0, 20.6, 1.0)
    assert (snap.y, snap.words) == (pytest.approx(20.0, abs=0.02), ("level with",))
    assert snap.lines[0][2:] == pytest.approx((50.0, 20.0), abs=0.02)
    assert snapped(artwork, [AnchorRef(0, 0, k) for k in range(4)], 120.0, 20.6, 1.0).words == ()


def test_a_handle_snaps_in_line_with_the_other_side_level_and_upright() -> None:
    bent = Contour(
        np.array([[(0, 0), (0, 0), (0, 0)], [(20, 15), (30, 20), (40, 20)], [(60, 5), (60, 5), (60, 5)]], float),
        np.zeros(3, np.uint8),
        closed=False,
    )
    artwork, ref = artwork_of(bent), AnchorRef(0, 0, 1)
    inline = snapped_handle(artwork, ref, 2, 40.0, 25.4, 1.0)
    assert inline.words == ("in line",)
    assert (inline.x - 30) * 5 == pytest.approx((inline.y - 20) * 10)
    assert snapped_handle(artwork, ref, 2, 45.0, 20.6, 1.0).y == pytest.approx(20.0)
    assert snapped_handle(artwork, ref, 0, 30.5, 8.0, 1.0).words == ("upright",)
    assert snapped_handle(artwork, ref, 2, 41.0, 12.0, 1.0).words == ()
