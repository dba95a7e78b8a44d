from __future__ import annotations

import numpy as np
import pytest

from drawings import disc, lettering, separation
from sobercrow.core.artwork.anchors import move_anchors
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.combining import Backing, backing
from sobercrow.core.artwork.edits import delete_shapes, move_shapes
from sobercrow.core.artwork.handwork import handwork_of, with_handwork
from sobercrow.core.artwork.model import Artwork, Group
from sobercrow.core.artwork.tree import add_layer, group, lock_layer, show_layer
from sobercrow.core.formats.plain import artwork_of, handwork_from, plain_artwork, plain_handwork
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.outlines import trace


@pytest.fixture(scope="module")
def traces() -> tuple[Artwork, Artwork]:
    """The same words traced calmly and faithfully."""
    grey = lettering("Kite 7i")
    calm, faithful = (trace(separation(grey), Tracing(detail=d)).artwork for d in (30.0, 90.0))
    return calm, faithful


def test_a_shape_changed_by_hand_stays_and_the_rest_is_new(traces: tuple[Artwork, Artwork]) -> None:
    first, second = traces
    refined = move_anchors(first, [AnchorRef(2, 0, 1)], 3.0, 1.0)
    handwork = handwork_of(refined, first)
    assert handwork is not None
    assert (len(handwork.kept), len(handwork.gone)) == (1, 1)
    result = with_handwork(second, handwork)
    assert len(result.shapes) == len(second.shapes)
    assert refined.shapes[2] in result.shapes
    assert sum(shape in second.shapes for shape in result.shapes) == len(second.shapes) - 1


def test_what_was_moved_away_or_deleted_is_not_found_again(traces: tuple[Artwork, Artwork]) -> None:
    first, second = traces
    moved = move_shapes(first, [0], 0.0, 300.0)
    result = with_handwork(second, handwork_of(moved, first))
    assert len(result.shapes) == len(second.shapes)
    assert moved.shapes[0] in result.shapes
    deleted = delete_shapes(first, [1, 2]).artwork
    fewer = with_handwork(second, handwork_of(deleted, first))
    assert len(fewer.shapes) == len(second.shapes) - 2
    # and once more, from what was kept before
    again = delete_shapes(fewer, [0]).artwork
    both = handwork_of(again, second, handwork_of(deleted, first))
    assert len(with_handwork(first, both).shapes) == len(first.shapes) - 3


def test_nothing_done_is_no_handwork(traces: tuple[Artwork, Artwork]) -> None:
    first, second = traces
    assert handwork_of(first, first) is None
    assert with_handwork(second, None) is second


def test_handwork_and_true_shapes_come_back_from_plain_values(traces: tuple[Artwork, Artwork]) -> None:
    first, _ = traces
    handwork = handwork_of(move_shapes(first, [0], 5.0, 5.0), first)
    assert handwork is not None
    assert handwork_from(plain_handwork(handwork)) == handwork
    round_one = trace(separation(disc(80, 40, 40, 20)), Tracing()).artwork
    again = artwork_of(plain_artwork(round_one))
    assert again == round_one
    assert again.shapes[0].contours[0].form == round_one.shapes[0].contours[0].form
    with pytest.raises((KeyError, TypeError, ValueError)):
        handwork_from({"kept": [{"layer": "Ink"}], "gone": []})
    assert np.isfinite(again.shapes[0].contours[0].points).all()


def test_a_backing_stays_beneath_hidden_and_locked_layers_stay_so_and_nothing_traced_gives_way(
    traces: tuple[Artwork, Artwork],
) -> None:
    first, second = traces
    backed = backing(first, Backing()).artwork
    done = lock_layer(show_layer(add_layer(backed, "Above"), 1, seen=False), 0, locked=True)
    handwork = handwork_of(done, first)
    assert handwork_from(plain_handwork(handwork)) == handwork
    result = with_handwork(second, handwork)
    assert [(layer.name, layer.seen, layer.locked) for layer in result.layers] == [
        ("Backing", True, True),
        (first.layers[0].name, False, False),
    ]
    assert result.layers[1].shapes == second.layers[0].shapes
    assert result.layers[0].shapes == done.layers[0].shapes


def test_a_group_of_traced_and_changed_shapes_is_found_again(traces: tuple[Artwork, Artwork]) -> None:
    first, second = traces
    changed = move_shapes(first, [2], 0.0, 300.0)
    grouped = group(changed, Choice(shapes=frozenset({0, 1, 2}))).artwork
    handwork = handwork_of(grouped, first)
    assert handwork is not None
    assert (len(handwork.kept), len(handwork.followed)) == (1, 2)
    assert handwork_from(plain_handwork(handwork)) == handwork
    result = with_handwork(second, handwork)
    (found,) = (item for layer in result.layers for item in layer.items if isinstance(item, Group))
    assert set(found.shapes) == {second.shapes[0], second.shapes[1], changed.shapes[2]}
    assert len(result.shapes) == len(second.shapes)
