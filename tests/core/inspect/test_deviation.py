from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.distance import cdist

from sobercrow.core.artwork.edits import delete_shapes, move_shapes
from sobercrow.core.inspect.deviation import deviations, measure
from sobercrow.core.job import Results


def test_deviation_is_that_of_brute_force(traced: Results) -> None:
    away = deviations(traced.artwork, traced.borders)
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
    left = measure(delete_shapes(traced.artwork, {0}), traced.borders)
    assert left.shapes == traced.figures.shapes - 1
    assert left.deviation_mean_px < 1.0
    nothing = measure(delete_shapes(traced.artwork, range(traced.figures.shapes)), traced.borders)
    assert (nothing.anchors, nothing.deviation_max_px) == (0, 0.0)
