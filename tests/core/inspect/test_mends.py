"""What mends a finding takes it away, and leaves everything else as it was."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from planted import CELL_MM, INKS, PLANTS, box, clean, disc, px
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.geometry.combine import region
from sobercrow.core.handover.page import Page, Sheet, laid
from sobercrow.core.handover.purpose import CheckSettings, Purpose
from sobercrow.core.inspect.hand_over import KINDS, check
from sobercrow.core.inspect.mends import ACTIONS

CUT = CheckSettings(Purpose.CUT)


def with_fault(kind: str, seed: int) -> Artwork:
    """Clean figures, and one fault in the last cell."""
    random = np.random.default_rng(seed)
    shapes = [shape for shape in clean(random) if shape.colour == INKS[0][1]][:4]
    x = px(CELL_MM * 3.5)
    shapes += PLANTS[kind](random, x, x, INKS[0][1])
    side = px(CELL_MM * 4)
    return Artwork((Layer("All", tuple(shapes)),), side, side, 300.0)


@pytest.mark.parametrize("seed", [1, 2])
@pytest.mark.parametrize("kind", [kind for kind in ACTIONS if kind != "crossings"])
def test_its_action_takes_a_finding_away_and_leaves_the_rest(kind: str, seed: int) -> None:
    artwork = with_fault(kind, seed)
    found = {finding.kind.id: finding for finding in check(artwork, CUT)}
    assert kind in found
    made = ACTIONS[kind].mend(artwork, found[kind].spots)
    left = {finding.kind.id for finding in check(made.artwork, CUT)}
    assert kind not in left
    assert left <= {*found, "anchors"}  # where sides were joined their anchors are left
    touched = {k for spot in found[kind].spots for k in (*spot.choice.shapes, *(a.shape for a in spot.choice.anchors))}
    untouched = [shape for k, shape in enumerate(artwork.shapes) if k not in touched]
    kept = {id(shape) for shape in made.artwork.shapes}
    assert sum(id(shape) in kept for shape in untouched) >= len(untouched) - 1
    assert not made.choice


def test_shapes_of_one_ink_that_cross_each_other_are_joined() -> None:
    crossing = (box(100.0, 100.0, 120.0, 40.0, "#23262b"), box(100.0, 100.0, 40.0, 120.0, "#23262b"))
    artwork = Artwork((Layer("Black", crossing),), 200.0, 200.0, 300.0)
    (finding,) = [f for f in check(artwork, CUT) if f.kind.id == "crossings"]
    assert not [f for f in check(artwork, CheckSettings(Purpose.WEB)) if f.kind.id == "crossings"]
    made = ACTIONS["crossings"].mend(artwork, finding.spots).artwork
    assert check(made, CUT) == []
    wanted = shapely.box(40, 80, 160, 120).union(shapely.box(80, 40, 120, 160))
    assert region(made.shapes[0].contours, 0.01).symmetric_difference(wanted).area < 1e-3 * wanted.area


def test_a_double_in_a_layer_of_its_own_is_deleted() -> None:
    one = disc(60.0, 60.0, 30.0, "#23262b")
    artwork = Artwork((Layer("Low", (one,)), Layer("High", (Shape(one.contours, one.fill),))), 120.0, 120.0, 300.0)
    (finding,) = [f for f in check(artwork, CUT) if f.kind.id == "doubled"]
    made = ACTIONS["doubled"].mend(artwork, finding.spots).artwork
    assert [len(layer.items) for layer in made.layers] == [1, 0]


def test_every_kind_counts_somewhere_and_says_what_it_means() -> None:
    assert len({kind.id for kind in KINDS}) == len(KINDS)
    assert all(kind.purposes and kind.help.endswith(".") and kind.one != kind.many for kind in KINDS)
    assert set(ACTIONS) <= {kind.id for kind in KINDS}


def test_findings_are_places_on_the_page() -> None:
    artwork = with_fault("narrow", 3)
    page = laid(artwork, Sheet(page=Page("A4")))
    spots = {f.kind.id: f.spots for f in check(page, CUT)}["narrow"]
    before = {f.kind.id: f.spots for f in check(artwork, CUT)}["narrow"]
    shift = page.shapes[0].bounds()[0] - artwork.shapes[0].bounds()[0]
    assert len(spots) == len(before)
    assert min(abs(spots[0].x - spot.x - shift) for spot in before) < 12.0  # along the neck
    assert sorted(s.figure_mm for s in spots) == pytest.approx(sorted(s.figure_mm for s in before), rel=0.1)
    assert spots[0].line.shape[1:] == (2, 2)
