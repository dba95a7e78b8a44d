"""What an edit does, in figures: against Shapely."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely

from drawings import artwork_of, glyph_contours
from sobercrow.core.artwork.anchors import move_anchors
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.edits import delete_shapes
from sobercrow.core.artwork.model import Layer
from sobercrow.core.inspect.change import change_between


def test_the_furthest_move_is_that_of_the_line() -> None:
    before = artwork_of(*glyph_contours("Sg"))
    after = move_anchors(before, [AnchorRef(0, 0, 3)], 2.5, -1.0)
    change = change_between(before, after)
    old, new = (shapely.LinearRing(a.shapes[0].contours[0].sampled(0.05)) for a in (before, after))
    furthest = max(old.distance(shapely.Point(p)) for p in np.asarray(new.coords))
    assert change.furthest_px == pytest.approx(furthest, abs=0.05)
    assert len(change.contours) == 1
    assert (
        change.told()
        == f"{before.anchor_count} → {before.anchor_count} anchors, moved by {change.furthest_px:.2f} px at most"
    )


def test_what_goes_moves_nothing_and_what_is_new_is_new() -> None:
    before = artwork_of(*glyph_contours("Sg"))
    fewer = delete_shapes(before, {0}).artwork
    gone = change_between(before, fewer)
    assert gone.contours == ()
    assert gone.told() == f"{before.anchor_count} → {fewer.anchor_count} anchors"
    empty = replace(before, layers=(Layer("Ink", ()),))
    fresh = change_between(empty, before)
    assert len(fresh.contours) == len(before.shapes)
    assert fresh.furthest_px == 0.0
