"""Choosing shapes by what they are, and laying them out: against what they were made as."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest

from drawings import artwork_of, glyph_contours
from sobercrow.core.artwork import alike, arranging
from sobercrow.core.artwork.alike import Alike
from sobercrow.core.artwork.arranging import Edge, Spread, To
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.artwork.placing import placed_shape
from sobercrow.core.artwork.tree import group, lock_layer
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Rectangle

LETTERS = {name: Shape(tuple(sorted(glyph_contours(name, 100), key=lambda c: -abs(c.area())))) for name in "BSKo"}


def many() -> tuple[Artwork, list[str]]:
    """Letters turned, scaled and mirrored at random, and which each is."""
    random, shapes, names = np.random.default_rng(3), [], []
    for n in range(60):
        name = "BSKo"[n % 4]
        way = Affine.scaled(*random.choice([0.3, 1.0, 2.0], 1).repeat(2), (0, 0)).then(
            Affine.turned(random.uniform(0, 360), (0, 0))
        )
        way = way.then(Affine.mirrored(90.0, (0, 0))) if n % 3 == 0 else way
        shapes.append(placed_shape(LETTERS[name], way.then(Affine.moved(200.0 * (n % 8), 200.0 * (n // 8)))))
        names.append(name)
    return artwork_of(*shapes), names


@pytest.mark.parametrize("name", list("BSKo"))
def test_of_the_same_form_are_all_copies_however_turned_scaled_and_mirrored(name: str) -> None:
    artwork, names = many()
    found = alike.alike(artwork, [names.index(name)], Alike.FORM)
    assert found == {k for k, other in enumerate(names) if other == name}


def test_alike_by_colour_size_and_layer() -> None:
    shapes = [Shape(LETTERS["S"].contours, fill) for fill in ("#000000", "#a33e2e", "#000000")]
    shapes.append(placed_shape(shapes[0], Affine.scaled(3.0, 3.0, (0, 0))))
    artwork = Artwork((Layer("One", tuple(shapes[:2])), Layer("Two", tuple(shapes[2:]))), 900, 900, 300)
    assert alike.alike(artwork, [0], Alike.COLOUR) == {0, 2, 3}
    assert alike.alike(artwork, [0], Alike.SIZE) == {0, 1, 2}
    assert alike.alike(artwork, [3], Alike.LAYER) == {2, 3}
    assert alike.alike(lock_layer(artwork, 1, True), [0], Alike.COLOUR) == {0}
    assert alike.inverted(artwork, [0, 3]) == {1, 2}


def test_small_ones_those_inside_beneath_at_the_edge_and_under_the_pointer() -> None:
    def box(x: float, y: float, size: float) -> Shape:
        form = Rectangle(x + size / 2, y + size / 2, size, size)
        return Shape((Contour(form.anchors(), np.zeros(4, np.uint8)),))

    artwork = Artwork(
        (Layer("Ink", (box(20, 20, 100), box(40, 40, 10), box(60, 60, 50), box(-3, 300, 20), box(300, 300, 4))),),
        400,
        400,
        300,
    )
    assert alike.smaller_than(artwork, 50.0) == {4}
    assert alike.inside(artwork, [0]) == {1, 2}
    assert alike.beneath(artwork, [2]) == {0}
    assert alike.at_the_edge(artwork) == {3}
    assert alike.open_ones(artwork) == frozenset()
    assert alike.next_under(artwork, [], 70, 70, 1.0) == 2
    assert alike.next_under(artwork, [2], 70, 70, 1.0) == 0
    assert alike.next_under(artwork, [0], 70, 70, 1.0) == 2
    assert alike.next_under(artwork, [], 200, 200, 1.0) is None
    ring = np.array([(35, 35), (115, 35), (115, 115), (35, 115)], float)
    assert alike.within(artwork, ring) == {1, 2}


ROW = artwork_of(
    *(
        placed_shape(LETTERS[n], Affine.moved(x, y))
        for n, x, y in (("B", 0, 5), ("S", 90, 40), ("K", 250, 0), ("o", 400, 9))
    )
)
ALL = Choice(shapes=frozenset(range(4)), first=2)


@pytest.mark.parametrize("edge", list(Edge))
@pytest.mark.parametrize("to", list(To))
def test_shapes_are_aligned_to_each_other_to_the_first_and_to_the_page(edge: Edge, to: To) -> None:
    made = arranging.align_shapes(ROW, ALL, edge, to, ALL.first)
    axis, share = edge.value

    def place(box) -> float:
        return box[axis] + share * (box[axis + 2] - box[axis])

    places = [place(shape.bounds()) for shape in made.shapes]
    before = [shape.bounds() for shape in ROW.shapes]
    around = (*np.min(before, axis=0)[:2], *np.max(before, axis=0)[2:])
    wanted = {To.PAGE: (0, 0, ROW.width_px, ROW.height_px), To.FIRST: before[2], To.CHOICE: around}[to]
    assert places == pytest.approx([place(wanted)] * 4)
    other = 1 - axis
    assert [s.bounds()[other] for s in made.shapes] == pytest.approx([b[other] for b in before])


@pytest.mark.parametrize("by", list(Spread))
def test_shapes_are_spread_evenly_and_the_outermost_stay(by: Spread) -> None:
    made = arranging.spread_shapes(ROW, ALL, across=True, by=by)
    boxes = [shape.bounds() for shape in made.shapes]
    gaps = [b[0] - a[2] for a, b in itertools.pairwise(boxes)]
    ways = np.diff([(b[0] + b[2]) / 2 for b in boxes])
    assert np.ptp(gaps if by is Spread.GAPS else ways) < 1e-9
    assert (made.shapes[0], made.shapes[3]) == (ROW.shapes[0], ROW.shapes[3])


def test_groups_are_moved_as_one() -> None:
    grouped = group(ROW, Choice(shapes=frozenset({0, 1}))).artwork
    made = arranging.align_shapes(grouped, ALL, Edge.BOTTOM)
    one, other = ({s.anchor_count: s.bounds()[1] for s in a.layers[0].items[0].shapes} for a in (grouped, made))
    assert len({round(other[k] - one[k], 9) for k in one}) == 1


def test_columns_and_rows_and_copies_around_a_middle_lie_as_far_apart_as_said() -> None:
    one = Choice(shapes=frozenset({0}))
    made = arranging.in_rows(ROW, one, 3, 2, (10.0, 20.0))
    assert len(made.choice.shapes) == 6
    left, top, right, bottom = ROW.shapes[0].bounds()
    lefts = sorted({round(made.artwork.shapes[k].bounds()[0], 6) for k in made.choice.shapes})
    tops = sorted({round(made.artwork.shapes[k].bounds()[1], 6) for k in made.choice.shapes})
    assert np.diff(lefts) == pytest.approx([right - left + 10.0] * 2)
    assert np.diff(tops) == pytest.approx([bottom - top + 20.0])
    ring = arranging.around(ROW, one, 5, (0.0, 0.0))
    starts = [
        made_at.contours[0].anchors[0] for made_at in (ring.artwork.shapes[k] for k in sorted(ring.choice.shapes))
    ]
    angles = np.sort([math.degrees(math.atan2(y, x)) % 360 for x, y in starts])
    assert np.diff(angles) == pytest.approx([72.0] * 4)
    copy = arranging.duplicate(ROW, one, 7.0, 8.0)
    (place,) = copy.choice.shapes
    assert copy.artwork.shapes[place].bounds()[:2] == pytest.approx((left + 7.0, top + 8.0))


@pytest.mark.parametrize(
    ("work", "words"),
    [
        (lambda: arranging.align_shapes(ROW, Choice(shapes=frozenset({0})), Edge.LEFT), "two shapes"),
        (lambda: arranging.spread_shapes(ROW, Choice(shapes=frozenset({0, 1})), True), "three shapes"),
        (lambda: arranging.duplicate(ROW, Choice(), 1, 1), "Choose shapes"),
        (lambda: arranging.in_rows(ROW, ALL, 1, 1, (0, 0)), "two columns"),
        (lambda: arranging.in_rows(ROW, ALL, 200, 200, (0, 0)), "copies"),
        (lambda: arranging.around(ROW, ALL, 1, (0, 0)), "two or more"),
    ],
)
def test_what_cannot_be_arranged_says_why(work, words: str) -> None:
    with pytest.raises(EditError, match=words):
        work()
