"""Bending by pegs: the properties that Schaefer, McPhail & Warren 2006 state for rigid moving least squares."""

from __future__ import annotations

import numpy as np
import pytest

from drawings import artwork_of, glyph_contours
from sobercrow.core.artwork.bending import bend, rigid
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import AnchorKind

PEGS = [(10.0, 10.0), (90.0, 20.0), (50.0, 80.0)]
POINTS = np.random.default_rng(2).uniform(0, 100, (200, 2))
ONE = Choice(shapes=frozenset({0}))


def test_pegs_go_exactly_where_they_are_moved_and_nothing_moves_if_they_do_not() -> None:
    to = [(12.0, 30.0), (85.0, 5.0), (50.0, 80.0)]
    assert rigid(np.array(PEGS), PEGS, to) == pytest.approx(np.array(to), abs=1e-6)
    assert rigid(POINTS, PEGS, PEGS) == pytest.approx(POINTS)


def test_pegs_turned_and_moved_together_turn_and_move_all() -> None:
    way = Affine.turned(35.0, (40.0, 40.0)).then(Affine.moved(7.0, -3.0))
    to = [tuple(way(np.array(peg)).tolist()) for peg in PEGS]
    assert rigid(POINTS, PEGS, to) == pytest.approx(way(POINTS))
    assert rigid(POINTS, PEGS[:1], [(15.0, 12.0)]) == pytest.approx(POINTS + np.array((5.0, 2.0)))


def test_lengths_near_a_peg_are_kept_however_far_another_is_pulled() -> None:
    to = [PEGS[0], PEGS[1], (70.0, 140.0)]
    near = np.array(PEGS[0]) + np.array([(0.0, 0.0), (0.4, 0.0), (0.0, 0.4)])
    moved = rigid(near, PEGS, to)
    assert np.hypot(*(moved[1:] - moved[0]).T) == pytest.approx([0.4, 0.4], rel=0.02)


def test_a_letter_follows_with_few_more_anchors_corners_kept_and_joints_smooth() -> None:
    letter = glyph_contours("S", 160)[0]
    left, top, right, bottom = letter.bounds()
    pegs = [((left + right) / 2, bottom), ((left + right) / 2, top)]
    to = [pegs[0], (right + 20.0, top - 10.0)]
    (made,) = bend(artwork_of(letter), ONE, pegs, to).artwork.shapes[0].contours
    assert len(made) <= 2 * len(letter)
    assert (made.kinds == AnchorKind.CORNER).sum() == (letter.kinds == AnchorKind.CORNER).sum()
    wanted = rigid(letter.sampled(1.0), pegs, to)
    away = np.min(np.hypot(*(wanted[:, None] - made.sampled(0.2)[None]).transpose(2, 0, 1)), axis=1)
    assert away.max() < 0.4
    smooth = made.points[made.kinds == AnchorKind.SMOOTH]
    arms = smooth[:, 1] - smooth[:, 0], smooth[:, 2] - smooth[:, 1]
    cos = (arms[0] * arms[1]).sum(axis=1) / np.hypot(*arms[0].T) / np.hypot(*arms[1].T)
    assert cos.min() > 0.999


def test_without_pegs_or_shapes_it_says_what_to_do() -> None:
    artwork = artwork_of(glyph_contours("S", 90)[0])
    with pytest.raises(EditError, match="Set a peg"):
        bend(artwork, ONE, [], [])
    with pytest.raises(EditError, match="Choose the shapes"):
        bend(artwork, Choice(), PEGS, PEGS)
