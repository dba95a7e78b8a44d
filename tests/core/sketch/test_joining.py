"""Ends of lines: which of them meet, where, and how."""

from __future__ import annotations

import math

import numpy as np
import pytest

from sketch_scenes import dense
from sobercrow.core.arrays import F64
from sobercrow.core.sketch.ends import Drawn
from sobercrow.core.sketch.joining import joined
from sobercrow.core.sketch.lifted import Traced
from sobercrow.core.sketch.meeting import ends_on_curves
from sobercrow.core.sketch.one_line import contour_of

SPREAD = 4.0


def line(*points: tuple[float, float]) -> Traced:
    return Traced(dense(np.array(points)), False)


def arc(radius: float, first_deg: float, last_deg: float) -> Traced:
    t = np.radians(np.linspace(first_deg, last_deg, 200))
    return Traced(dense(200.0 + radius * np.column_stack([np.cos(t), np.sin(t)])), False)


def ink_of(*lines: Traced) -> F64:
    return np.concatenate([one.points for one in lines])


def meet(*lines: Traced) -> list[Drawn]:
    return joined(lines, ink_of(*lines), SPREAD)


@pytest.mark.parametrize(("short", "over"), [(0.0, 8.0), (5.0, 0.0), (-6.0, 6.0)], ids=["one", "gap", "both"])
def test_two_sides_meet_in_a_corner_whatever_they_overshoot_or_lack(short: float, over: float) -> None:
    level = line((0.0, 100.0), (100.0 - short, 100.0))
    upright = line((100.0, 100.0 - over), (100.0, 220.0))
    (made,) = meet(level, upright)
    assert len(made.corners) == 1
    assert made.points[made.corners[0]] == pytest.approx((100.0, 100.0), abs=0.5)
    # nothing runs on beyond
    assert made.points[:, 0].max() < 101.0
    assert made.points[:, 1].min() > 99.0
    assert len(contour_of(made, SPREAD, 1.5)) == 3


def test_four_sides_make_a_closed_shape_with_four_corners() -> None:
    sides = [line((-6, 0), (106, 0)), line((100, -6), (100, 86)), line((106, 80), (-6, 80)), line((0, 86), (0, -6))]
    (made,) = meet(*sides)
    assert made.closed
    assert len(made.corners) == 4
    contour = contour_of(made, SPREAD, 1.5)
    assert len(contour) == 4
    assert abs(contour.area()) == pytest.approx(100 * 80, rel=0.03)


def test_lines_that_run_straight_on_are_one_and_those_side_by_side_are_two() -> None:
    (made,) = meet(line((0, 50), (100, 50)), line((112, 51), (220, 51)))
    assert made.corners == ()
    assert np.abs(made.points[:, 1] - 50.5).max() < 1.0
    assert np.ptp(made.points[:, 0]) == pytest.approx(220.0, abs=0.5)
    beside = meet(line((0, 50), (200, 50)), line((0, 60), (200, 60)))
    assert len(beside) == 2


def test_pieces_that_overlap_are_led_over_without_a_step() -> None:
    (made,) = meet(line((0, 50), (120, 50)), line((100, 53), (220, 53)))
    assert np.ptp(made.points[:, 0]) == pytest.approx(220.0, abs=0.5)
    turn = np.diff(np.unwrap(np.arctan2(*np.diff(dense(made.points), axis=0).T[::-1])))
    assert np.abs(turn).max() < math.radians(40.0)
    assert (np.diff(made.points[:, 0]) > -0.5).all()


def test_a_ring_that_lacks_a_little_closes_rather_than_meets_another_line() -> None:
    ring, other = arc(60.0, 4.0, 356.0), line((262.0, 203.0), (340.0, 203.0))
    made = meet(ring, other)
    (closed,) = (one for one in made if one.closed)
    assert closed.corners == ()
    assert np.abs(np.hypot(*(closed.points - 200.0).T) - 60.0).max() < 1.5
    (led,) = (one for one in made if not one.closed)
    # the other line is led to the ring
    assert np.abs(np.hypot(*(led.points[[0, -1]] - 200.0).T) - 60.0).min() < 1.0


@pytest.mark.parametrize("end", [192.0, 200.0, 209.0])
def test_an_end_near_another_line_ends_on_it(end: float) -> None:
    across = line((200.0, 0.0), (200.0, 300.0))
    made = meet(across, line((40.0, 150.0), (end, 150.0)))
    assert len(made) == 2
    (led,) = (one for one in made if np.ptp(one.points[:, 0]) > 100.0)
    assert led.points[:, 0].max() == pytest.approx(200.0, abs=0.6)
    free = meet(across, line((40.0, 150.0), (170.0, 150.0)))
    (short,) = (one for one in free if np.ptp(one.points[:, 0]) > 100.0)
    assert short.points[:, 0].max() == pytest.approx(170.0)


def test_round_ends_meet_round_where_the_ink_is_round() -> None:
    level, upright = line((80.0, 180.0), (212.0, 180.0)), line((220.0, 188.0), (220.0, 320.0))
    t = np.radians(np.linspace(-90.0, 0.0, 20))
    quarter = Traced(np.array((212.0, 188.0)) + 8.0 * np.column_stack([np.cos(t), np.sin(t)]), False)
    (made,) = joined([level, upright], ink_of(level, quarter, upright), SPREAD)
    (sharp,) = joined([level, upright], ink_of(line((80, 180), (220, 180)), line((220, 180), (220, 320))), SPREAD)
    assert (len(made.corners), len(sharp.corners)) == (0, 1)
    assert sharp.points[sharp.corners[0]] == pytest.approx((220.0, 180.0), abs=0.5)


def test_the_last_of_a_line_beside_another_is_left_out_and_it_ends_on_the_other() -> None:
    side = line((200.0, 0.0), (200.0, 400.0))
    label = line((0.0, 100.0), (190.0, 100.0), (191.0, 180.0))  # it turns and runs 2.3 spreads beside the side
    made = sorted(meet(side, label), key=lambda one: len(one.points))
    assert len(made) == 2
    assert made[0].points[:, 1].max() < 104.0
    ends = made[0].points[[0, -1]]
    assert ends[ends[:, 0].argmax()] == pytest.approx((200.0, 100.0), abs=2.0)


def test_a_line_may_end_on_itself_and_scraps_beside_a_longer_line_go() -> None:
    stalk = [(0.0, 0.0), (100.0, 0.0)]
    t = np.radians(np.linspace(180.0, 530.0, 120))
    loop = [(160.0 + 60.0 * math.cos(a), 60.0 * math.sin(a) * 0.8) for a in t.tolist()]
    nine = line(*stalk, *loop[1:])
    scrap = line((30.0, 6.0), (52.0, 6.0))
    (made,) = meet(nine, scrap)
    points = made.points if np.hypot(*(made.points[0])) < 5.0 else made.points[::-1]
    assert np.hypot(*(points[: -round(12 * SPREAD)] - points[-1]).T).min() < 1.0


def test_ends_of_curves_lie_exactly_on_the_curves_they_meet() -> None:
    level, upright = line((0.0, 100.0), (300.0, 100.0)), line((150.0, 100.0 + 1.2 * SPREAD), (150.0, 300.0))
    contours = [contour_of(one, SPREAD, 1.5) for one in meet(level, upright)]
    moved = [contours[0], contours[1].moved(0.0, 0.6 * SPREAD)]  # as far as fitting may take curves apart
    made = ends_on_curves(moved, SPREAD)
    foot = min(made, key=lambda one: np.ptp(one.anchors[:, 0]))
    assert foot.anchors[foot.anchors[:, 1].argmin()] == pytest.approx((150.0, 100.0), abs=1e-6)


@pytest.mark.parametrize("overshoot", [-14.0, -6.0, 20.0])
def test_a_ring_closes_in_a_corner_both_ends_lead_to(overshoot: float) -> None:
    way = np.array((-100.0, -150.0)) / math.hypot(100.0, 150.0)
    first, last = way * overshoot, np.array((-way[0], way[1])) * overshoot
    ring = line(tuple(first), (100.0, 150.0), (-100.0, 150.0), tuple(last))
    (made,) = joined([ring], ink_of(ring, line((-100.0, 150.0), (0.0, 0.0), (100.0, 150.0))), SPREAD)
    assert made.closed
    assert np.hypot(*made.points[list(made.corners)].T).min() < 2.0
