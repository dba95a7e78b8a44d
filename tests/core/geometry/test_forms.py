"""Axes of mirror symmetry as geometry."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sobercrow.core.geometry.forms import Mirror

angles = st.floats(0, 180)
places = st.floats(-50, 50)


@given(places, places, angles)
def test_seen_from_the_axis_and_back_is_where_it_was(x: float, y: float, degrees: float) -> None:
    axis = Mirror(x, y, 30.0, degrees)
    points = np.random.default_rng(5).normal(0, 40, (6, 3, 2))
    assert np.allclose(axis.back(axis.seen(points)), points, atol=1e-10)
    assert np.allclose(axis.mirrored(axis.mirrored(points)), points, atol=1e-10)


@given(places, places, angles)
def test_mirroring_is_the_reflection_of_the_textbook(x: float, y: float, degrees: float) -> None:
    # Householder: p - 2 n (n . (p - c)), n across the axis
    axis, points = Mirror(x, y, 30.0, degrees), np.random.default_rng(6).normal(0, 40, (9, 2))
    across = np.array([-math.sin(math.radians(degrees)), math.cos(math.radians(degrees))])
    expected = points - 2.0 * ((points - (x, y)) @ across)[:, None] * across
    assert np.allclose(axis.mirrored(points), expected, atol=1e-9)
    assert abs(axis.across() @ across) == pytest.approx(1.0)


def test_equal_points_are_seen_equal_and_the_axis_across_stands_upright() -> None:
    axis = Mirror(3.3, 4.7, 20.0, 37.0)
    points = np.repeat(np.random.default_rng(7).normal(0, 9, (40, 1, 2)), 3, axis=1)
    seen = axis.seen(points)
    assert (seen[:, 0] == seen[:, 1]).all()
    assert axis.across() @ axis.upright().across() == pytest.approx(0.0, abs=1e-12)
    assert axis.scaled(2.0).seen(2.0 * points) == pytest.approx(2.0 * seen)
