"""The tree of an artwork: layers and groups, whatever is done to them in whatever order."""

from __future__ import annotations

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sobercrow.core.artwork import tree
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.edits import fill_shapes
from sobercrow.core.artwork.hit import anchors_in, shape_at, shapes_in
from sobercrow.core.artwork.model import Artwork, Group, Layer, Shape
from sobercrow.core.artwork.paint import Gradient, Spread, Stop, Stroke
from sobercrow.core.artwork.tree import Order
from sobercrow.core.errors import EditError
from sobercrow.core.formats.plain import artwork_of, plain_artwork
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.offset import Ends, Joins


def box(x: float, y: float = 10.0, fill: str = "#000000", size: float = 8.0) -> Shape:
    at = np.array([(x, y), (x + size, y), (x + size, y + size), (x, y + size)], float)
    return Shape((Contour(np.repeat(at[:, None], 3, axis=1), np.zeros(4, np.uint8)),), fill)


def artwork(count: int = 6) -> Artwork:
    boxes = [box(10.0 * k, fill=f"#00000{k}") for k in range(count)]
    return Artwork((Layer("Low", tuple(boxes[: count // 2])), Layer("High", tuple(boxes[count // 2 :]))), 200, 100, 300)


def chosen(*places: int) -> Choice:
    return Choice(shapes=frozenset(places))


STEPS = st.lists(
    st.tuples(
        st.sampled_from(["group", "ungroup", *(o.value for o in Order), "own", "low"]), st.sets(st.integers(0, 7))
    ),
    max_size=12,
)


@given(STEPS)
@settings(max_examples=80, deadline=None)
def test_whatever_is_grouped_and_reordered_no_shape_is_lost_and_the_choice_follows(steps) -> None:
    whole = artwork(8)
    kept = sorted(shape.colour for shape in whole.shapes)
    ways = {
        "group": tree.group,
        "ungroup": tree.ungroup,
        "own": tree.to_layer,
        "low": lambda a, c: tree.to_layer(a, c, 0),
        **{o.value: lambda a, c, o=o: tree.reorder(a, c, o) for o in Order},
    }
    for name, places in steps:
        before = {whole.shapes[k].colour for k in places}
        try:
            made = ways[name](whole, Choice(shapes=frozenset(places)))
        except EditError:
            continue
        whole = made.artwork
        assert sorted(shape.colour for shape in whole.shapes) == kept
        assert {whole.shapes[k].colour for k in made.choice.shapes} == before
        assert artwork_of(json.loads(json.dumps(plain_artwork(whole)))) == whole


def test_a_group_lies_where_its_uppermost_was_is_chosen_as_one_and_taken_apart_again() -> None:
    whole = artwork()
    made = tree.group(whole, chosen(0, 2))
    assert [type(item).__name__ for item in made.artwork.layers[0].items] == ["Shape", "Group"]
    assert made.choice.shapes == {1, 2}
    assert tree.together(made.artwork, [1]) == {1, 2}
    nested = tree.group(made.artwork, chosen(0, 1, 2)).artwork
    assert isinstance(nested.layers[0].items[0].items[1], Group)
    assert tree.together(nested, [0]) == {0, 1, 2}
    apart = tree.ungroup(nested, chosen(0)).artwork
    assert tree.together(apart, [1]) == {1, 2}
    for refused, words in ((chosen(0), "two shapes"), (chosen(1, 2), "one group already")):
        with pytest.raises(EditError, match=words):
            tree.group(made.artwork, refused)
    with pytest.raises(EditError, match="nothing to take apart"):
        tree.ungroup(whole, chosen(0))
    deep = box(0.0)
    for _ in range(tree.MOST_NESTED):
        deep = Group((deep, box(20.0)))
    with pytest.raises(EditError, match="no deeper"):
        tree.group(Artwork((Layer("Low", (deep, box(99.0))),), 200, 100, 300), chosen(*range(tree.MOST_NESTED + 2)))


@pytest.mark.parametrize(
    ("order", "wanted"), [(Order.TOP, "120"), (Order.UP, "102"), (Order.DOWN, "012"), (Order.BOTTOM, "012")]
)
def test_order_is_within_the_layer(order: Order, wanted: str) -> None:
    made = tree.reorder(artwork(), chosen(0), order)
    assert "".join(shape.colour[-1] for shape in made.artwork.layers[0].shapes) == wanted
    assert made.artwork.layers[1] == artwork().layers[1]


def test_layers_are_moved_renamed_added_deleted_and_sorted_by_colour() -> None:
    whole = artwork()
    moved = tree.move_layer(whole, 0, 1, chosen(1))
    assert [layer.name for layer in moved.artwork.layers] == ["High", "Low"]
    assert moved.choice.shapes == {4}
    assert tree.rename_layer(whole, 1, " Sky ").layers[1].name == "Sky"
    for name, words in (("", "needs a name"), ("Low", "already")):
        with pytest.raises(EditError, match=words):
            tree.rename_layer(whole, 1, name)
    assert [layer.name for layer in tree.add_layer(tree.add_layer(whole)).layers[2:]] == ["Layer", "Layer 2"]
    assert len(tree.delete_layer(whole, 0).artwork.shapes) == 3
    with pytest.raises(EditError, match="no longer there"):
        tree.delete_layer(whole, 7)
    own = tree.to_layer(whole, chosen(0, 4), name="Picked")
    assert own.artwork.layers[-1].name == "Picked"
    assert own.choice.shapes == {4, 5}
    red = fill_shapes(whole, [0, 3], "#a33e2e")
    by_colour = tree.layers_by_colour(red).artwork
    assert [len(layer.shapes) for layer in by_colour.layers] == [2, 1, 1, 1, 1]
    with pytest.raises(EditError, match="locked"):
        tree.to_layer(tree.lock_layer(whole, 1, True), chosen(0), 1)


def test_what_is_locked_or_not_seen_cannot_be_chosen() -> None:
    whole = artwork()
    x, y = 35.0, 14.0
    assert shape_at(whole, x, y) == 3
    for made in (tree.lock_layer(whole, 1, True), tree.show_layer(whole, 1, False)):
        assert shape_at(made, x, y) is None
        assert shapes_in(made, (-1, -1, 200, 100)) == {0, 1, 2}
        assert {ref.shape for ref in anchors_in(made, (-1, -1, 200, 100))} == {0, 1, 2}
    alone = tree.show_alone(whole, 0)
    assert [layer.seen for layer in alone.layers] == [True, False]
    assert alone.out_of_sight == {3, 4, 5}
    assert all(layer.seen for layer in tree.show_alone(alone, 0).layers)


def test_the_whole_tree_is_saved_and_what_older_projects_held_is_read() -> None:
    way = Affine.turned(30.0, (5.0, 5.0)).then(Affine.scaled(20.0, 10.0, (0.0, 0.0)))
    shaded = Gradient(Spread.RADIAL, (Stop(0.0, "#ffffff"), Stop(1.0, "#1d4f79")), way)
    (contour,) = box(0).contours
    items = (
        Group((box(20), Group((box(40),), "Inner"))),
        Shape((contour,), shaded, Stroke("#a33e2e", 2.5, Ends.FLAT, Joins.MITRE)),
    )
    whole = Artwork(
        (Layer("Low", items, seen=False, locked=True), Layer("High", (Shape((contour,), None),))), 90, 80, 300
    )
    assert artwork_of(json.loads(json.dumps(plain_artwork(whole)))) == whole
    plain = plain_artwork(artwork())
    old = {
        **plain,
        "layers": [
            {
                "name": "Ink",
                "shapes": [
                    {"fill": "#112233", "contours": plain["layers"][0]["items"][0]["contours"]},
                    {"fill": "#445566", "stroke_px": 3.0, "contours": plain["layers"][0]["items"][1]["contours"]},
                ],
            }
        ],
    }
    filled, line = artwork_of(old).shapes
    assert (filled.fill, filled.stroke) == ("#112233", None)
    assert (line.fill, line.stroke) == (None, Stroke("#445566", 3.0))


@pytest.mark.parametrize(
    "work",
    [
        lambda: Stop(1.5, "#000000"),
        lambda: Stop(0.5, "red"),
        lambda: Gradient(Spread.LINEAR, (Stop(0.0, "#000000"),), Affine()),
        lambda: Gradient(Spread.LINEAR, (Stop(1.0, "#000000"), Stop(0.0, "#ffffff")), Affine()),
        lambda: Gradient(Spread.LINEAR, (Stop(0.0, "#000000"), Stop(1.0, "#ffffff")), Affine(a=0.0)),
        lambda: Stroke("#000000", 0.0),
    ],
)
def test_paint_that_makes_no_sense_is_refused(work) -> None:
    with pytest.raises(ValueError, match=r"stop|colour|gradient|stroke"):
        work()
