"""Lines through strokes, in place and direction together."""

from __future__ import annotations

import math

import numpy as np
import pytest

from sketch_scenes import dense
from sobercrow.core.arrays import F64
from sobercrow.core.sketch.lifted import lines_through
from sobercrow.core.sketch.refit import drawn_to_strokes, is_told, told_once
from sobercrow.core.sketch.rings import find_rings
from sobercrow.core.strokes.strokes import Strokes, ways_along

SPREAD = 4.0


def strokes_of(*paths: F64) -> Strokes:
    points = np.concatenate(paths)
    own = np.repeat(np.arange(len(paths)), [len(path) for path in paths])
    return Strokes(points, np.concatenate([ways_along(path) for path in paths]), np.ones(len(points)), own)


def straight(a: tuple[float, float], b: tuple[float, float]) -> F64:
    return dense(np.array([a, b]))


def circle(x: float, y: float, radius: float) -> F64:
    t = np.linspace(0.0, 2.0 * math.pi, 200)
    return dense(np.column_stack([x + radius * np.cos(t), y + radius * np.sin(t)]))


def test_three_strokes_that_stray_make_one_line_at_their_mean() -> None:
    strokes = strokes_of(*(straight((50.0, 100.0 + d), (300.0, 100.0 + d)) for d in (-3.0, 0.5, 2.5)))
    found = lines_through(strokes, np.ones(len(strokes)), SPREAD)
    (line,) = told_once(drawn_to_strokes(found, strokes, np.ones(len(strokes)), SPREAD), SPREAD, 4.0)
    inner = line.points[10:-10]
    assert inner[:, 1] == pytest.approx(np.full(len(inner), 100.0), abs=0.3)
    assert np.ptp(line.points[:, 0]) == pytest.approx(250.0, abs=6.0)
    assert is_told(strokes, [line], SPREAD).all()
    assert not is_told(strokes, [], SPREAD).any()


@pytest.mark.parametrize("angle_deg", [35.0, 60.0, 90.0])
def test_lines_that_cross_run_straight_on(angle_deg: float) -> None:
    way = np.array([math.cos(math.radians(angle_deg)), math.sin(math.radians(angle_deg))])
    middle = np.array([200.0, 200.0])
    strokes = strokes_of(straight((60, 200), (340, 200)), dense(np.array([middle - 140 * way, middle + 140 * way])))
    found = lines_through(strokes, np.ones(len(strokes)), SPREAD)
    assert len(found) == 2
    for line in found:
        off = line.points - line.points.mean(axis=0)
        assert np.linalg.svd(off, compute_uv=False)[1] / math.sqrt(len(off)) < 0.6


def test_a_ring_is_followed_round_and_a_small_one_is_voted_for() -> None:
    large = strokes_of(circle(200, 200, 80))
    (line,) = lines_through(large, np.ones(len(large)), SPREAD)
    assert line.closed
    assert np.abs(np.hypot(*(line.points - 200.0).T) - 80.0).max() < 1.5
    both = strokes_of(circle(200, 200, 80), circle(60, 60, 13))
    rings, on = find_rings(both, SPREAD)
    (ring,) = rings
    assert ring.points.mean(axis=0) == pytest.approx((60.0, 60.0), abs=0.5)
    assert np.hypot(*(ring.points - 60.0).T) == pytest.approx(np.full(len(ring.points), 13.0), abs=0.7)
    assert on.sum() == (both.stroke == 1).sum()
