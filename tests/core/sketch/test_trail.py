"""Trails: the cheapest way follows what is dark, as `skimage.graph` finds it too."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from skimage.graph import route_through_array

from sketch_scenes import Hand, ellipse, polygon, sketched
from sobercrow.core.sketch.trail import trail_field, ways_from

RING = ellipse(300.0, 300.0, 120.0, 120.0)


def test_a_way_runs_round_a_ring_the_shorter_way_and_costs_what_skimage_says() -> None:
    sketch = sketched([RING], Hand(0.5), 4)
    field = trail_field(sketch.grey, 1.0)
    ways = ways_from(field, 420.0, 300.0)
    path = ways.path_to(300.0, 180.0)
    assert np.abs(np.hypot(*(path - 300.0).T) - 120.0).max() < 4.0
    assert path[:, 1].max() < 305.0  # up, not down
    assert path[0] == pytest.approx((420.0, 300.0))
    assert path[-1] == pytest.approx((300.0, 180.0))
    _, least = route_through_array(field.cost, (300, 420), (180, 300), fully_connected=True, geometric=True)
    before, at = ways.before, (180 - ways.top) * ways.before.shape[1] + 300 - ways.left
    own = []
    while at >= 0:
        own.append(at)
        at = int(before.ravel()[at])
    cells = [(n // before.shape[1] + ways.top, n % before.shape[1] + ways.left) for n in own]
    cost = sum(0.5 * (field.cost[a] + field.cost[b]) * math.dist(a, b) for a, b in pairwise(cells))
    assert cost == pytest.approx(least, rel=1e-5)


def test_where_lines_cross_it_keeps_to_the_one_that_leads_there_and_beyond_its_window_it_is_straight() -> None:
    cross = [polygon((100, 100), (400, 400), closed=False), polygon((100, 400), (400, 100), closed=False)]
    sketch = sketched(cross, Hand(0.5), 6)
    ways = ways_from(trail_field(sketch.grey, 1.0), 150.0, 150.0)
    path = ways.path_to(340.0, 340.0)
    assert np.abs(path[:, 0] - path[:, 1]).max() < 5.0
    assert ways.path_to(800.0, 700.0).tolist() == [[150.0, 150.0], [800.0, 700.0]]


def test_a_large_picture_is_followed_at_a_smaller_size_in_pixels_of_the_artwork() -> None:
    sketch = sketched([RING], Hand(0.5), 4)
    large = np.kron(sketch.grey, np.ones((3, 3), np.uint8))
    field = trail_field(large, 1.0)
    assert field.cost.size <= 1_500_000
    path = ways_from(field, 3 * 420.0, 3 * 300.0).path_to(3 * 300.0, 3 * 180.0)
    assert np.abs(np.hypot(*(path - 900.0).T) - 360.0).max() < 15.0
