from __future__ import annotations

from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from sobercrow.core.artwork.anchors import whole_shapes
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.hit import anchor_at, anchors_in, handle_at
from sobercrow.core.artwork.model import Artwork, Layer, Shape, stroked
from sobercrow.core.artwork.table import anchor_table, table_of
from sobercrow.core.geometry.contour import AnchorKind, Contour

FRAME = (20.0, 15.0, 70.0, 60.0)


def drawn(seed: int, shapes: int = 7) -> Artwork:
    """Some shapes of one to three contours, handles here and there, one contour open."""
    random = np.random.default_rng(seed)

    def contour(closed: bool = True) -> Contour:
        anchors = random.uniform(0, 100, (int(random.integers(2, 9)), 1, 2))
        arms = random.normal(0, 4, (len(anchors), 3, 2)) * (random.random((len(anchors), 3, 1)) < 0.6)
        arms[:, 1] = 0.0
        return Contour(anchors + arms, random.integers(0, 3, len(anchors)), closed)

    made = [Shape(tuple(contour() for _ in range(int(random.integers(1, 4))))) for _ in range(shapes)]
    return Artwork((Layer("Ink", (*made, stroked((contour(closed=False),), "#000000", 2.0))),), 100.0, 100.0, 300.0)


def every_anchor(artwork: Artwork) -> list[tuple[AnchorRef, np.ndarray]]:
    return [
        (AnchorRef(s, c, k), contour.points[k])
        for s, shape in enumerate(artwork.shapes)
        for c, contour in enumerate(shape.contours)
        for k in range(len(contour))
    ]


@settings(max_examples=20)
@given(st.integers(0, 99))
def test_the_table_says_what_the_shapes_say(seed: int) -> None:
    artwork = drawn(seed)
    table, one_by_one = anchor_table(artwork), every_anchor(artwork)
    assert [AnchorRef(*name) for name in table.names.tolist()] == [ref for ref, _ in one_by_one]
    assert np.array_equal(table.points, [points for _, points in one_by_one])
    left, top, right, bottom = FRAME
    inside = {ref for ref, p in one_by_one if left <= p[1, 0] <= right and top <= p[1, 1] <= bottom}
    assert anchors_in(artwork, FRAME) == inside
    assert {AnchorRef(*n) for n in table.names[table.rows([*inside, AnchorRef(0, 0, 99)])].tolist()} == inside
    part = table_of(artwork.shapes[2:5], 2)
    assert np.array_equal(part.out, table.out[(table.names[:, 0] >= 2) & (table.names[:, 0] < 5)])
    away = [np.hypot(*(p[1] - (50, 50))) for _, p in one_by_one]
    assert anchor_at(artwork, 50.0, 50.0, 200.0) == one_by_one[int(np.argmin(away))][0]
    handles = [(np.hypot(*(p[s] - (50, 50))), ref, s) for ref, p in one_by_one for s in (0, 2) if (p[s] != p[1]).any()]
    found = handle_at(artwork, frozenset(ref for ref, _ in one_by_one), 50.0, 50.0, 200.0)
    assert found == min(handles, key=lambda handle: handle[0])[1:]


def test_ways_are_those_of_the_curve_even_without_handles() -> None:
    square = np.repeat(np.array([(0.0, 0), (10, 0), (10, 10), (0, 10)])[:, None], 3, axis=1)
    table = table_of([Shape((Contour(square, np.full(4, AnchorKind.CORNER)),))])
    assert np.array_equal(table.out, [(1, 0), (0, 1), (-1, 0), (0, -1)])
    assert np.array_equal(table.into, [(0, -1), (1, 0), (0, 1), (-1, 0)])


def test_boxes_follow_a_move_and_whole_shapes_are_known() -> None:
    artwork = drawn(3)
    for shape in artwork.shapes:
        shape.bounds()
        moved = shape.moved(3.5, -2.25)
        fresh = replace(shape, contours=tuple(Contour(c.points, c.kinds, c.closed) for c in moved.contours))
        assert np.allclose(moved.bounds(), fresh.bounds())
        assert not moved.contours[0].points.flags.writeable
    anchors = {ref for ref, _ in every_anchor(artwork) if ref.shape in (1, 4)}
    assert whole_shapes(artwork, anchors) == {1, 4}
    assert whole_shapes(artwork, anchors - {AnchorRef(4, 0, 0)}) is None
    assert whole_shapes(artwork, ()) is None
