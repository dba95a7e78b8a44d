from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.distance import cdist

from sobercrow.core.artwork.edits import delete_shapes, move_shapes
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.inspect.deviation import Figures, deviation
from sobercrow.core.results import Results
from sobercrow.core.tracing.borders import Borders


def measure(artwork: Artwork, borders: Borders) -> Figures:
    return deviation(artwork, borders).figures(artwork)


def test_deviation_is_that_of_brute_force(traced: Results) -> None:
    away = deviation(traced.artwork, traced.borders).away
    dense = np.concatenate([c.sampled(0.02) for s in traced.artwork.shapes for c in s.contours])
    points = np.concatenate(traced.borders.lines)
    brute = np.concatenate([cdist(part, dense).min(axis=1) for part in np.array_split(points, 20)])
    assert len(away) == len(points)
    assert np.abs(away - brute).max() < 0.02


def test_moved_artwork_deviates_by_as_much(traced: Results) -> None:
    before = traced.figures
    moved = measure(move_shapes(traced.artwork, range(len(traced.artwork.shapes)), 1.0, 0.0), traced.borders)
    assert before.deviation_mean_px < 0.1
    assert 0.4 < moved.deviation_mean_px < 1.0
    assert moved.deviation_max_px == pytest.approx(1.0, abs=0.6)


def test_deleted_shapes_do_not_count_as_astray(traced: Results) -> None:
    left = measure(delete_shapes(traced.artwork, {0}).artwork, traced.borders)
    assert left.shapes == traced.figures.shapes - 1
    assert left.deviation_mean_px < 1.0
    nothing = measure(delete_shapes(traced.artwork, range(traced.figures.shapes)).artwork, traced.borders)
    assert (nothing.anchors, nothing.deviation_max_px) == (0, 0.0)


def test_figures_of_shapes_make_those_of_all_and_the_worst_lie_apart(traced: Results) -> None:
    found = deviation(traced.artwork, traced.borders)
    every = range(len(traced.artwork.shapes))
    parts = [found.figures(traced.artwork, [k]) for k in every]
    assert sum(p.anchors for p in parts) == traced.figures.anchors
    assert sum(p.corners for p in parts) == traced.figures.corners
    assert max(p.deviation_max_px for p in parts) == traced.figures.deviation_max_px
    assert found.figures(traced.artwork) == traced.figures
    worst = found.worst(5, 8.0)
    assert [w[2] for w in worst] == sorted((w[2] for w in worst), reverse=True)
    assert worst[0][2] == traced.figures.deviation_max_px
    places = np.array([w[:2] for w in worst])
    assert cdist(places, places)[~np.eye(len(places), dtype=bool)].min() > 8.0
    for x, y, away in worst:
        assert away in found.away[np.hypot(*(found.points - (x, y)).T) < 1e-9]


def test_every_border_keeps_its_points(traced: Results) -> None:
    found = deviation(traced.artwork, traced.borders)
    assert len(found.starts) == len(traced.borders.lines) + 1
    for line, a, b in zip(traced.borders.lines, found.starts, found.starts[1:], strict=False):
        assert np.array_equal(found.points[a:b], line)
    assert found.scaled(2.0).figures(traced.artwork).deviation_max_px == 2 * traced.figures.deviation_max_px
