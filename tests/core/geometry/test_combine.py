"""Areas of curves combined: random letters against Shapely, winding against skia-pathops, borders shared to the bit."""

from __future__ import annotations

import functools
from collections import Counter

import numpy as np
import pathops
import pytest
import shapely
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from drawings import glyph_contours
from sobercrow.core.errors import Cancelled
from sobercrow.core.geometry._crossing_kernels import first_crossing
from sobercrow.core.geometry.combine import How, area_of_rings, areas_alone, areas_of_rings, combine_all, divide_all
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle
from sobercrow.core.geometry.winding import wound

LETTERS = {name: tuple(sorted(glyph_contours(name, 100), key=lambda c: -abs(c.area()))) for name in "ABOSg8"}
WAYS = {
    How.UNITE: shapely.union,
    How.SUBTRACT: shapely.difference,
    How.INTERSECT: shapely.intersection,
    How.EXCLUDE: shapely.symmetric_difference,
}


def area_of(contours, spacing: float = 0.05) -> shapely.Geometry:
    rings = [shapely.Polygon(c.sampled(spacing)).buffer(0) for c in contours]
    return functools.reduce(shapely.symmetric_difference, rings, shapely.Polygon())


def moved(contours, dx: float, dy: float):
    return tuple(contour.moved(dx, dy) for contour in contours)


def square(x: float, y: float, size: float, clockwise: bool = True) -> Contour:
    made = Contour(Rectangle(x + size / 2, y + size / 2, size, size).anchors(), np.zeros(4, np.uint8))
    return made if (made.area() > 0) is clockwise else made.reversed()


@given(
    st.sampled_from(sorted(LETTERS)),
    st.sampled_from(sorted(LETTERS)),
    st.floats(-60, 60),
    st.floats(-40, 40),
    st.sampled_from(list(How)),
)
@settings(max_examples=15, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_two_letters_come_to_shapelys_area_and_no_outline_crosses_itself(one, other, dx, dy, how) -> None:
    first, second = LETTERS[one], moved(LETTERS[other], dx, dy)
    wanted = WAYS[how](area_of(first), area_of(second))
    parts = combine_all([first, second], how)
    own = shapely.union_all([area_of(part) for part in parts])
    assert own.symmetric_difference(wanted).area < 2e-3 * wanted.area + 1.0
    for part in parts:
        assert part[0].area() > 0
        assert all(hole.area() < 0 for hole in part[1:])
        for contour in part:
            assert not first_crossing(np.ascontiguousarray(contour.curves().reshape(-1, 8)), True, np.empty(4))


def test_what_nothing_crosses_is_given_back_as_it_was_true_shapes_too() -> None:
    form = Ellipse(300.0, 50.0, 20.0, 20.0)
    apart = Contour(form.anchors(), np.ones(4, np.uint8), form=form)
    parts = combine_all([LETTERS["B"], moved(LETTERS["S"], 20, 5), [apart]], How.UNITE)
    assert any(part == (apart,) and part[0].form == form for part in parts)
    hole = combine_all(
        [
            [square(0, 0, 90)],
            [Contour(Ellipse(45, 45, 20, 20).anchors(), np.ones(4, np.uint8), form=Ellipse(45, 45, 20, 20))],
        ],
        How.SUBTRACT,
    )
    assert hole[0][1].form == Ellipse(45, 45, 20, 20)


def test_many_squares_in_a_row_are_one_with_few_anchors() -> None:
    row = [[square(10.0 * k, 0.0, 10.0)] for k in range(70)]
    ((whole,),) = combine_all(row, How.UNITE)
    assert whole.area() == pytest.approx(7000.0)
    left, top, right, bottom = whole.bounds()
    assert (left, top, right, bottom) == (0.0, 0.0, 700.0, 10.0)


def test_parted_areas_share_every_inner_border_with_one_neighbour() -> None:
    parts = divide_all([LETTERS["O"], moved(LETTERS["8"], 25, 4), [square(10, 40, 60)]])
    whole = shapely.union_all([area_of(part) for _, part in parts])
    wanted = shapely.union_all(
        [area_of(LETTERS["O"]), area_of(moved(LETTERS["8"], 25, 4)), area_of([square(10, 40, 60)])]
    )
    assert whole.symmetric_difference(wanted).area < 2e-3 * wanted.area
    assert sum(area_of(part).area for _, part in parts) == pytest.approx(whole.area, rel=1e-3)
    ends = Counter(
        frozenset((tuple(curve[0].round(6)), tuple(curve[3].round(6))))
        for _, part in parts
        for contour in part
        for curve in contour.curves()
    )
    assert max(ends.values()) == 2
    assert sum(count == 2 for count in ends.values()) >= 8


@pytest.mark.parametrize(
    "contours",
    [
        (square(0, 0, 60), square(20, 20, 60)),
        (square(0, 0, 90), square(30, 30, 30)),
        (square(0, 0, 90), square(30, 30, 30, clockwise=False)),
        (square(0, 0, 60), square(20, 20, 60, clockwise=False)),
        (square(0, 0, 90), square(10, 10, 70, clockwise=False), square(30, 30, 20)),
        (*LETTERS["B"], *moved(LETTERS["O"], 15, 0)),
    ],
)
def test_the_rule_of_winding_is_skias(contours) -> None:
    path = pathops.Path(fillType=pathops.FillType.WINDING)
    for contour in contours:
        path.moveTo(*contour.anchors[0])
        for _, first, second, end in contour.curves().tolist():
            path.cubicTo(*first, *second, *end)
        path.close()
    path.simplify(fix_winding=True, keep_starting_points=False)
    (made,) = wound([contours])
    own = area_of(made)
    assert own.area == pytest.approx(abs(path.area), rel=2e-3)


@pytest.mark.parametrize("seed", range(4))
def test_many_outlines_that_lie_apart_within_and_across_each_other_wind_as_skias_do(seed: int) -> None:
    random = np.random.default_rng(seed)
    contours = []
    for _ in range(120):
        x, y, size = *random.uniform(0, 300, 2), random.choice([4, 15, 40])
        made = Contour(Ellipse(float(x), float(y), float(size), 0.7 * float(size)).anchors(), np.ones(4, np.uint8))
        contours.append(made if random.random() < 0.5 else made.reversed())
    frame = square(-60, -60, 420)
    alone = square(500, 500, 10)
    (made,) = wound([(frame, *contours, alone)])
    path = pathops.Path(fillType=pathops.FillType.WINDING)
    for contour in (frame, *contours, alone):
        path.moveTo(*contour.anchors[0])
        for _, first, second, end in contour.curves().tolist():
            path.cubicTo(*first, *second, *end)
        path.close()
    path.simplify(fix_winding=True, keep_starting_points=False)
    assert area_of(made).area == pytest.approx(abs(path.area), rel=2e-3)
    assert sum(own is alone or own is frame for own in made) == 2  # what nothing crosses stays


def test_open_contours_are_closed_as_filling_does() -> None:
    half = Contour(square(0, 0, 20).points[:3], np.zeros(3, np.uint8), closed=False)
    spot = Contour(np.full((1, 3, 2), 5.0), np.zeros(1, np.uint8), closed=False)
    ((united,),) = combine_all([[half, spot], [square(5, -5, 10)], [square(50, 0, 10)]], How.UNITE)[:1]
    whole = area_of([half.filled()]).union(area_of([square(5, -5, 10)]))
    assert united.closed
    assert area_of([united]).symmetric_difference(whole).area < 1e-3 * whole.area


def test_rings_that_touch_themselves_leave_areas_alone() -> None:
    spike = np.array([(0, 0), (10, 0), (10, 10), (20, 10), (10, 10), (0, 10)], dtype=float)
    area = area_of_rings([spike, spike[:2], np.array([(30, 0), (40, 0), (35, 0)], dtype=float)])
    assert area.geom_type in ("Polygon", "MultiPolygon")
    assert area.area == 100.0
    near = areas_alone(shapely.GeometryCollection([area, shapely.Point(3, 3), shapely.LineString([(0, 0), (1, 1)])]))
    assert (near.geom_type, near.area) == ("MultiPolygon", 100.0)


def test_areas_of_many_groups_at_once_are_those_of_each() -> None:
    random = np.random.default_rng(4)
    bow = np.array([(0.0, 0.0), (4.0, 4.0), (4.0, 0.0), (0.0, 4.0)])
    groups = [[random.uniform(0, 50, (3, 2)) for _ in range(k % 4)] for k in range(12)]
    groups += [[bow], [bow[:2]], [bow[:2], bow + 10.0], []]
    for made, group in zip(areas_of_rings(groups), groups, strict=True):
        rings = [shapely.Polygon(ring).buffer(0) for ring in group if len(ring) > 2 and ring is not bow]
        wanted = functools.reduce(shapely.symmetric_difference, rings, shapely.Polygon())
        assert made.is_valid
        if not any(ring is bow or len(ring) == 4 for ring in group):
            assert made.area == pytest.approx(wanted.area, abs=1e-9)
    assert area_of_rings([bow]).area == pytest.approx(8.0), "both halves of a bow"
    assert areas_of_rings([]) == []


def test_many_areas_are_united_to_what_shapely_unites_and_can_be_stopped() -> None:
    random = np.random.default_rng(6)
    squares = [square(*random.uniform(0, 160, 2), 12.0) for _ in range(90)]
    told: list[float] = []
    made = combine_all([[one] for one in squares], How.UNITE, told.append)
    whole = shapely.union_all([area_of([one]) for one in squares])
    assert sum(area_of(shape).area for shape in made) == pytest.approx(whole.area, rel=1e-3)
    assert len(made) == len(shapely.get_parts(whole))
    assert told
    assert max(told) <= 1.0

    def stop(_share: float) -> None:
        raise Cancelled

    with pytest.raises(Cancelled):
        combine_all([[one] for one in squares], How.UNITE, stop)
