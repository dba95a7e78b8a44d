"""Contours taken apart into rows of unknowns, and put together again."""

from __future__ import annotations

import numpy as np
import pytest

from drawings import circle
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.tracing.rings import Rings


def random_contour(seed: int) -> Contour:
    """Anchors in a ring, corners and smooth ones, some pieces straight between corners."""
    random = np.random.default_rng(seed)
    count = int(random.integers(3, 9))
    angles = np.sort(random.uniform(0, 2 * np.pi, count))
    anchors = np.column_stack([np.cos(angles), np.sin(angles)]) * random.uniform(10, 20) + random.uniform(20, 40, 2)
    ways = np.column_stack([-np.sin(angles), np.cos(angles)])
    lengths = random.uniform(1, 4, (2, count, 1))
    points = np.stack([anchors - lengths[0] * ways, anchors, anchors + lengths[1] * ways], axis=1)
    kinds = random.choice([AnchorKind.CORNER, AnchorKind.SMOOTH], count).astype(np.uint8)
    bent = kinds == AnchorKind.CORNER
    points[bent, 0] += random.uniform(-1, 1, (bent.sum(), 2))
    for k in range(count):
        after = (k + 1) % count
        if bent[k] and bent[after] and random.random() < 0.6:
            points[k, 2], points[after, 0] = points[k, 1], points[after, 1]
    return Contour(points, kinds)


@pytest.mark.parametrize("seed", range(8))
def test_put_together_again_they_are_what_they_were(seed: int) -> None:
    contours = [random_contour(10 * seed + k) for k in range(5)]
    rings = Rings.of(contours)
    assert np.array_equal(rings.ring_of, np.repeat(np.arange(5), [len(c) for c in contours]))
    for k, contour in enumerate(contours):
        made = rings.contour(k)
        assert made.points == pytest.approx(contour.points, abs=1e-9)
        assert np.array_equal(made.kinds == AnchorKind.CORNER, contour.kinds == AnchorKind.CORNER)
        own = rings.controls[rings.starts[k] : rings.starts[k + 1]].reshape(-1, 4, 2)
        straight = rings.straight[rings.starts[k] : rings.starts[k + 1]] == 1
        assert own[~straight] == pytest.approx(contour.curves()[~straight], abs=1e-9)
        ends = contour.curves()[straight]
        assert own[straight, 1] == pytest.approx(ends[:, 0] + (ends[:, 3] - ends[:, 0]) / 3.0, abs=1e-9)


def test_level_and_upright_tangents_are_held_and_no_others() -> None:
    rings = Rings.of([circle(20.0, 20.0, 9.0)])
    assert rings.held.tolist() == [1, 1, 1, 1], "a circle's anchors lie at its extremes"
    turn = np.radians(17.0)
    matrix = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    turned = Contour(circle(20.0, 20.0, 9.0).points @ matrix, circle(20.0, 20.0, 9.0).kinds)
    assert not Rings.of([turned]).held.any()


def test_corners_that_hardly_turn_are_eased_and_sharp_ones_stay() -> None:
    rings = Rings.of([circle(20.0, 20.0, 9.0, corners=True), random_contour(3)])
    eased, changed = rings.eased(np.radians(19.0))
    assert changed.tolist()[0] is True
    assert not eased.is_corner[: rings.starts[1]].any()
    assert eased.contour(0).points == pytest.approx(circle(20.0, 20.0, 9.0).points, abs=0.1)
    nothing, none = rings.eased(0.0)
    assert not none.any()
    assert np.array_equal(nothing.is_corner, rings.is_corner)


@pytest.mark.parametrize("seed", range(4))
def test_rings_near_a_box_are_those_whose_bounds_meet_it(seed: int) -> None:
    random = np.random.default_rng(seed)
    contours = [circle(*random.uniform(0, 100, 2), random.uniform(2, 20)) for _ in range(40)]
    top, left, height, width = (int(v) for v in random.integers(5, 60, 4))
    near = Rings.of(contours).near(top, left, height, width)
    for flag, contour in zip(near.tolist(), contours, strict=True):
        x0, y0, x1, y1 = contour.bounds()
        assert flag or not (x0 < left + width and x1 > left and y0 < top + height and y1 > top)
    assert near.any()
    assert not near.all()
