"""The compiled loops against plain NumPy and SciPy written down a second time."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar

from drawings import lettering, separation
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._piece_kernels import feet, fit_piece
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.tracing._adjust_kernels import settle
from sobercrow.core.tracing._corner_kernels import local_maxima, place_corner, side_line, turn_strengths
from sobercrow.core.tracing._joint_kernels import arc_lengths, place_at
from sobercrow.core.tracing._mirror_kernels import mirror_differences
from sobercrow.core.tracing._ring_kernels import solve_ring
from sobercrow.core.tracing._row_kernels import place_all
from sobercrow.core.tracing._search_kernels import candidate_joints, cheapest_chain, gather
from sobercrow.core.tracing.borders import find_borders


def square_border(side: float, spacing: float = 0.5) -> np.ndarray:
    """Points along a square, clockwise on screen from its top left corner."""
    t = np.arange(0, side, spacing)
    zero, full = np.zeros_like(t), np.full_like(t, side)
    return np.concatenate([np.column_stack(p) for p in ((t, zero), (full, t), (side - t, full), (zero, side - t))])


def ring_border(radius: float, count: int) -> np.ndarray:
    angle = np.arange(count) * 2 * np.pi / count
    return radius * np.column_stack([np.cos(angle), np.sin(angle)])


def test_arc_lengths_are_cumulative_and_close_the_ring() -> None:
    points = np.random.default_rng(1).normal(size=(40, 2))
    steps = np.linalg.norm(np.roll(points, -1, axis=0) - points, axis=1)
    assert np.allclose(arc_lengths(points), np.concatenate([[0], np.cumsum(steps)]))


@given(st.floats(0, 6.28), st.integers(-1, 1).filter(bool))
def test_side_lines_are_total_least_squares(angle: float, way: int) -> None:
    random = np.random.default_rng(7)
    along = np.arange(30) * 0.7
    line = np.column_stack([along, random.normal(0, 0.05, 30)])
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    points = np.concatenate([line @ turn.T, (line[::-1] + np.array((0, 9))) @ turn.T])
    lengths = arc_lengths(points)
    out = np.zeros(5)
    at = 12
    assert side_line(points, lengths, at, way, 0.6, 3.0, 2, out)
    away = way * (lengths[:-1] - lengths[at])
    taken = points[(away >= 0.6) & (away <= 3.6)]
    _, singular, axes = np.linalg.svd(taken - taken.mean(axis=0))
    assert np.allclose(out[:2], taken.mean(axis=0))
    assert abs(axes[0] @ out[2:4]) == pytest.approx(1.0, abs=1e-9)
    assert out[4] == pytest.approx(singular[1] / np.sqrt(len(taken)), abs=1e-9)
    assert out[2:4] @ turn[:, 0] > 0.9  # along the path on both sides


def test_the_turns_of_a_square_are_right_angles_at_its_corners() -> None:
    points = square_border(20.0)
    lengths = arc_lengths(points)
    turns = turn_strengths(points, lengths)
    found = local_maxima(points, lengths, turns, np.radians(48), 2.5)
    assert sorted(map(tuple, np.rint(points[found] / 20).tolist())) == [(0, 0), (0, 1), (1, 0), (1, 1)]
    assert np.abs(points[found] - np.rint(points[found] / 20) * 20).max() <= 1.0
    assert np.degrees(turns[found]) == pytest.approx([90] * 4, abs=1e-6)
    middle = np.abs(points - 10).max(axis=1) < 10.01
    straight = (np.abs(points - 10).min(axis=1) < 5) & middle
    assert np.abs(turns[straight]).max() < 1e-9


def test_a_circle_turns_evenly_and_less_the_larger_it_is() -> None:
    for radius in (12.0, 30.0):
        points = ring_border(radius, int(2 * np.pi * radius))
        turns = turn_strengths(points, arc_lengths(points))
        assert np.ptp(turns) < 0.02
        assert turns.mean() == pytest.approx(2 * (0.6 + 1.5) / radius, rel=0.25)


def test_a_corner_is_placed_where_its_sides_meet() -> None:
    points = square_border(20.0)
    rounded = points[np.abs(points - (0, 0)).sum(axis=1) > 0.8]  # the pixel has eaten the tip
    lengths = arc_lengths(rounded)
    at = int(np.argmin(np.linalg.norm(rounded, axis=1)))
    out = np.zeros((2, 4))
    assert place_corner(rounded, lengths, at, 19.0, 19.0, 0.5, out) == 1
    assert np.allclose(out[0, 1:3], 0.0, atol=1e-6)


def test_a_blunt_end_gets_two_corners_at_its_own_corners() -> None:
    # a bar two pixels wide: its end turns by 180 degrees
    t = np.arange(0, 20, 0.5)
    points = np.concatenate(
        [np.column_stack([t, 0 * t]), [(20, 0.5), (20, 1.0), (20, 1.5)], np.column_stack([20 - t, 0 * t + 2])]
    )
    lengths = arc_lengths(points)
    at = int(np.argmin(np.linalg.norm(points - (20, 1), axis=1)))
    out = np.zeros((2, 4))
    assert place_corner(points, lengths, at, 19.0, 19.0, 0.4, out) == 2
    assert np.allclose(sorted(out[:, 2]), [0, 2], atol=0.05)
    assert np.allclose(out[:, 1], 20, atol=0.2)
    assert out[0, 0] < out[1, 0]


@given(st.floats(0.0, 60.0))
def test_places_on_a_parabola_are_exact(s: float) -> None:
    # the local fit is a parabola in arc length, so a gentle parabola comes back with its tangent
    x = np.linspace(-40, 40, 160)
    points = np.column_stack([x, 0.002 * x**2])
    lengths = arc_lengths(points)
    out = np.empty(4)
    place_at(points, lengths, s, 3.0, -1e18, 1e18, out)
    true_x = np.interp(s, lengths[:-1], x)
    assert np.allclose(out[:2], (true_x, 0.002 * true_x**2), atol=2e-3)
    slope = np.array([1.0, 0.004 * true_x])
    assert out[2:] @ slope / np.linalg.norm(slope) == pytest.approx(1.0, abs=1e-4)


CONTROL = np.array([(0.0, 0.0), (12.0, 18.0), (40.0, 20.0), (60.0, 2.0)])


@given(st.floats(0.05, 0.95), st.floats(-3, 3))
def test_feet_are_those_of_a_minimiser(t: float, off: float) -> None:
    at, along = bezier.evaluate(CONTROL, np.array([t]))[0], bezier.derivative(CONTROL, np.array([t]))[0]
    normal = np.array([-along[1], along[0]]) / np.linalg.norm(along)
    point = at + off * normal
    us = np.array([min(max(t + 0.03, 0.0), 1.0)])
    for _ in range(12):
        distance = feet(point[None], us, CONTROL.ravel())[0]
    u = us[0]
    best = minimize_scalar(
        lambda v: np.linalg.norm(bezier.evaluate(CONTROL, np.array([v]))[0] - point),
        bounds=(max(t - 0.1, 0), min(t + 0.1, 1)),
        method="bounded",
        options={"xatol": 1e-9},
    )
    assert u == pytest.approx(best.x, abs=1e-4)
    assert abs(distance) == pytest.approx(best.fun, abs=1e-4)
    assert distance == pytest.approx(-off, abs=1e-4)  # seen from the point


@pytest.mark.parametrize(("free_out", "free_in"), [(True, True), (True, False), (False, True), (False, False)])
def test_handles_are_the_least_squares_ones(free_out: bool, free_in: bool) -> None:
    us = np.linspace(0.02, 0.98, 40)
    random = np.random.default_rng(3)
    points = bezier.evaluate(CONTROL, us) + random.normal(0, 0.05, (40, 2))
    out, into = CONTROL[1] - CONTROL[0], CONTROL[3] - CONTROL[2]
    out, into = out / np.linalg.norm(out), into / np.linalg.norm(into)
    ends = np.concatenate([CONTROL[0], out, CONTROL[3], into])
    handles = np.empty(4)
    fit_piece(points[:, 0].copy(), points[:, 1].copy(), us.copy(), 40, ends, free_out, free_in, handles, 1)

    b1, b2 = 3 * us * (1 - us) ** 2, 3 * us**2 * (1 - us)
    rest = points - ((1 - us) ** 3 + b1)[:, None] * CONTROL[0] - (us**3 + b2)[:, None] * CONTROL[3]
    columns = [np.outer(b1, e).ravel() for e in (np.eye(2) if free_out else [out])]
    columns += [np.outer(b2, e).ravel() for e in (np.eye(2) if free_in else [-into])]
    solved = np.linalg.lstsq(np.column_stack(columns), rest.ravel(), rcond=None)[0]
    first = solved[:2] if free_out else solved[0] * out
    second = solved[-2:] if free_in else -solved[-1] * into
    # a weak pull to the thirds is the only difference
    assert np.allclose(handles[:2], CONTROL[0] + first, atol=0.5)
    assert np.allclose(handles[2:], CONTROL[3] + second, atol=0.5)


def test_a_piece_with_the_right_ends_fits_its_own_samples() -> None:
    us = np.linspace(0.03, 0.97, 16)
    points = bezier.evaluate(CONTROL, us)
    out, into = CONTROL[1] - CONTROL[0], CONTROL[3] - CONTROL[2]
    ends = np.concatenate([CONTROL[0], out / np.linalg.norm(out), CONTROL[3], into / np.linalg.norm(into)])
    guess = np.linspace(0.03, 0.97, 16) ** 1.1
    handles = np.empty(4)
    squares, worst = fit_piece(points[:, 0].copy(), points[:, 1].copy(), guess, 16, ends, False, False, handles, 8)
    assert worst < 0.25
    assert squares < 16 * 0.25**2


@settings(max_examples=30)
@given(st.floats(0, 200), st.floats(2, 120))
def test_gathered_points_lie_between_their_ends_and_in_order(low: float, length: float) -> None:
    points = ring_border(25.0, 157)
    lengths = arc_lengths(points)
    high = low + min(length, lengths[-1] - 1)
    xs, ys, us = np.empty(32), np.empty(32), np.empty(32)
    count = gather(points, lengths, low, high, xs, ys, us)
    assert 1 <= count <= 32
    assert (np.diff(us[:count]) > 0).all()
    assert us[0] >= 0
    assert us[count - 1] <= 1
    at = (np.arctan2(ys[:count], xs[:count]) * 25 - low) % (2 * np.pi * 25)
    assert np.allclose(at, us[:count] * (high - low), atol=0.2)


def test_candidates_of_a_circle_include_its_four_extremes() -> None:
    points = ring_border(40.0, 251)
    lengths = arc_lengths(points)
    joints, extreme = np.empty((300, 5)), np.zeros(300, dtype=np.uint8)
    count = candidate_joints(points, lengths, 0.0, lengths[-1], False, joints, extreme)
    at = joints[:count][extreme[:count] == 1]
    assert 3 <= len(at) <= 4  # the start itself is one of them
    assert np.abs(np.abs(at[:, 1:3]).max(axis=1) - 40).max() < 0.05
    assert set(np.abs(at[:, 3:]).ravel()) == {0.0, 1.0}


def test_the_cheapest_chain_of_a_straight_stretch_is_one_line() -> None:
    points = square_border(40.0)
    lengths = arc_lengths(points)
    nodes = np.array([(s, s, 0.0, 1.0, 0.0) for s in (0.0, 8.0, 16.0, 24.0, 32.0, 40.0)])
    corner = np.array([1, 0, 0, 0, 0, 1], dtype=np.uint8)
    chosen, straight = np.empty(6, dtype=np.int64), np.empty(6, dtype=np.uint8)
    pieces, cost = cheapest_chain(
        points, lengths, nodes, np.zeros(6, np.uint8), corner, np.zeros(6), 0.3, 1.0, chosen, straight
    )
    assert (pieces, straight[0]) == (1, 1)
    assert chosen[:2].tolist() == [0, 5]
    assert cost == pytest.approx(0.8)


@pytest.mark.parametrize("joints", [1, 2, 3, 9])
def test_rings_of_equations_are_solved_as_by_numpy(joints: int) -> None:
    random = np.random.default_rng(joints)
    side = random.normal(0, 1, (joints, 6, 6))
    diagonal = np.array([a @ a.T for a in random.normal(0, 1, (joints, 6, 6))]) + 12 * np.eye(6)
    whole = np.zeros((joints, 6, joints, 6))
    for i in range(joints):
        whole[i, :, i] += diagonal[i]
        whole[i, :, (i + 1) % joints] += side[i]
        whole[(i + 1) % joints, :, i] += side[i].T
    right, step = random.normal(0, 1, (joints, 6)), np.empty((joints, 6))
    solve_ring(diagonal, side, right, step)
    square = whole.reshape(6 * joints, 6 * joints)
    assert np.linalg.eigvalsh(square).min() > 0
    assert step.ravel() == pytest.approx(np.linalg.solve(square, right.ravel()))


def test_adjustment_brings_a_disturbed_circle_back() -> None:
    radius = 30.0
    points = ring_border(radius, 240)
    angle = np.array([0, 0.5, 1.0, 1.5]) * np.pi
    state = np.zeros((4, 6))
    state[:, :2] = (radius + np.array([0.4, -0.3, 0.5, -0.4]))[:, None] * np.column_stack(
        [np.cos(angle), np.sin(angle)]
    )
    state[:, 2] = angle + np.pi / 2 + np.array([0.1, -0.08, 0.05, -0.1])
    state[:, 3:5] = 14.0
    none = np.zeros(4, dtype=np.uint8)
    owner = np.repeat(np.arange(4), 60)
    us = np.tile(np.arange(60) / 60, 4)
    controls = np.empty((4, 8))
    for _ in range(4):
        settle(
            points[:, 0].copy(),
            points[:, 1].copy(),
            us,
            np.ones(240),
            owner,
            state,
            none,
            none,
            none,
            controls,
            state[:, :2].copy(),
        )
    place_all(np.array([0, len(state)]), state, none, none, controls)
    dense = bezier.evaluate(controls.reshape(4, 4, 2), np.linspace(0, 1, 50)).reshape(-1, 2)
    assert np.abs(np.linalg.norm(dense, axis=1) - radius).max() < 0.05


def test_borders_of_letters_close_without_crossing_themselves() -> None:
    # the area by the polygon's formula equals the number of ink pixels, weighted by their coverage
    grey = lettering("Q8&", 120)
    found = find_borders(separation(grey).field)
    covered = (255.0 - grey).sum() / 255.0
    assert sum(polygon_area(line) for line in found.lines) == pytest.approx(covered, rel=4e-3)


def test_mirror_differences_are_distances_from_the_border() -> None:
    random = np.random.default_rng(4)
    angle = np.sort(random.uniform(0, 2 * np.pi, 60))
    radius = 20 + 3 * np.cos(3 * angle)
    points = np.column_stack([radius * np.cos(angle), radius * np.sin(angle)])
    seen = points * (1.0, -1.0) + random.normal(0, 0.3, points.shape)
    off, normals = np.empty(60), np.empty((60, 2))
    mirror_differences(points, seen, 0, 30, off, normals)
    ring = shapely.LinearRing(points)
    assert np.allclose(np.abs(off), shapely.distance(ring, shapely.points(seen)))
    inside = shapely.contains(shapely.Polygon(points), shapely.points(seen))
    assert (inside == (off > 0)).all()  # left of a way that runs anticlockwise
    assert np.allclose(np.hypot(*normals.T), 1.0)
