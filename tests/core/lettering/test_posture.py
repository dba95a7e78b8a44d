"""How letters stand, in words set by fontTools' outlines and moved by known amounts."""

from __future__ import annotations

import math
import warnings

import numpy as np
import pytest

from drawings import set_word
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.placing import placed_shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.lettering.evenness import Alike, Measured, What, bring_alike
from sobercrow.core.lettering.posture import standing_of

TEXT = "nihnmnini"
GAPS, LEVEL, UPRIGHT = [10.0] * 9, [0.0] * 9, [0.0] * 9


def alike(artwork: Artwork, what: What, percent: float = 100.0) -> Artwork:
    every = range(len(artwork.shapes))
    return bring_alike(artwork, every, Measured.of(artwork.shapes), Alike(what, percent)).artwork


@pytest.mark.parametrize("turn_deg", [0.0, 14.0])
def test_feet_off_the_line_are_read_and_moved_onto_it(turn_deg: float) -> None:
    falls = [0.0, 1.5, 0.0, -2.0, 0.0, 0.0, 1.0, 0.0, 0.0]
    artwork = set_word(TEXT, GAPS, falls, UPRIGHT, turn_deg)
    standing = standing_of(artwork.shapes)
    assert standing.line.angle_deg == pytest.approx(turn_deg, abs=0.3)
    feet = standing.feet()[1]
    assert feet.values == pytest.approx(falls, abs=0.4)
    assert set(feet.odd()[:2]) == {1, 3}
    for percent, left in ((100.0, 0.05), (50.0, 0.55)):
        assert standing_of(alike(artwork, What.BASELINE, percent).shapes).feet()[1].spread <= left * feet.spread + 0.02


def test_round_letters_keep_their_overshoot() -> None:
    artwork = set_word("nonomono", [10.0] * 8, [0.0] * 8, [0.0] * 8)
    made = alike(artwork, What.BASELINE)
    moved = [a.bounds()[3] - b.bounds()[3] for a, b in zip(made.shapes, artwork.shapes, strict=True)]
    assert np.abs(moved).max() < 0.05
    bottoms = [shape.bounds()[3] for shape in made.shapes]
    assert min(bottoms[1], bottoms[3]) - max(bottoms[0], bottoms[2]) > 0.5
    assert np.abs(standing_of(artwork.shapes).tops().values).max() < 0.05  # all are small letters, round ones higher
    risen = [
        placed_shape(s, Affine.scaled(1.0, 1.04, (0.0, 200.0))) if k == 3 else s for k, s in enumerate(artwork.shapes)
    ]
    tops = standing_of(risen).tops()
    assert tops.furthest()[0] == 3
    assert tops.values[3] == pytest.approx(0.04 * (200.0 - artwork.shapes[3].bounds()[1]), abs=0.15)


def test_gaps_come_out_alike_and_the_word_stays_where_it_was() -> None:
    gaps = [10.0, 14.0, 10.0, 7.0, 10.0, 10.0, 12.0, 10.0, 10.0]
    artwork = set_word(TEXT, gaps, LEVEL, UPRIGHT)
    before, made = standing_of(artwork.shapes).gaps(), alike(artwork, What.SPACING)
    assert set(before.furthest()[:2]) == {1, 3}
    assert standing_of(made.shapes).gaps().spread < 0.05 * before.spread
    ends = [
        [f(shape.bounds()[at] for shape in one.shapes) for f, at in ((min, 0), (max, 2))] for one in (artwork, made)
    ]
    assert np.mean(ends[0]) == pytest.approx(np.mean(ends[1]), abs=1e-6)


@pytest.mark.parametrize("percent", [100.0, 50.0, 0.0])
def test_stems_lean_alike_about_their_feet(percent: float) -> None:
    leans = [12.0, 12.0, 15.0, 12.0, 12.0, 10.0, 12.0, 12.0, 12.0]
    artwork = set_word(TEXT, GAPS, LEVEL, leans)
    slants = Measured.of(artwork.shapes).reading(What.SLANT)
    assert slants.usual == pytest.approx(78.0, abs=0.2)
    made = alike(artwork, What.SLANT, percent)
    after = Measured.of(made.shapes).reading(What.SLANT)
    assert after.spread == pytest.approx((1.0 - 0.01 * percent) * slants.spread, abs=0.03 * slants.spread + 0.02)
    assert [s.bounds()[3] for s in made.shapes] == pytest.approx([s.bounds()[3] for s in artwork.shapes], abs=1e-9)


def test_lettering_on_an_arc_and_single_letters_say_so() -> None:
    word = set_word("nihil", [10.0] * 5, [0.0] * 5, [0.0] * 5)
    with pytest.raises(LetteringError, match="two letters"):
        standing_of(word.shapes[:1])
    around = [
        placed_shape(shape, Affine.moved(250.0 - shape.bounds()[0], 0.0).then(Affine.turned(40.0 * k, (250.0, 330.0))))
        for k, shape in enumerate(word.shapes)
    ]
    with pytest.raises(LetteringError, match="arc"):
        standing_of(around)
    measured = Measured.of(around)
    assert len(measured.widths(measured.strokes.strokes[0].way).values)
    with pytest.raises(LetteringError, match="arc"):
        measured.reading(What.SPACING)
    assert math.isfinite(measured.strokes.slant_deg)


def test_two_letters_far_above_each_other_have_a_line_all_the_same() -> None:
    word = set_word("HI", [8.0] * 2, [0.0] * 2, [0.0] * 2)
    tall = max(shape.bounds()[3] - shape.bounds()[1] for shape in word.shapes)
    first, *rest = word.shapes
    below = [placed_shape(shape, Affine.moved(0.0, 0.9 * tall)) for shape in rest]
    with warnings.catch_warnings(action="error"):
        line = standing_of([first, *below]).line
    assert math.isfinite(line.angle_deg)
    assert all(math.isfinite(v) for v in line.at(0.0))
