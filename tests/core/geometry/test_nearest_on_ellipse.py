"""Places on ellipses nearest to others, against Shapely's distances from a fine polygon."""

import math

import numpy as np
import pytest
import shapely

from sobercrow.core.geometry.forms import Ellipse, nearest_on_ellipse


@pytest.mark.parametrize(
    "form",
    [Ellipse(10.0, 20.0, 30.0, 30.0), Ellipse(-5.0, 3.0, 80.0, 40.0, 25.0), Ellipse(0.0, 0.0, 50.0, 120.0, -70.0)],
    ids=["circle", "turned", "upright"],
)
def test_distances_are_those_of_shapely_and_angles_lead_to_the_foot(form: Ellipse) -> None:
    random = np.random.default_rng(3)
    t = np.linspace(0.0, 2.0 * math.pi, 20_000)
    turn = math.radians(form.angle_deg)
    u, v = form.rx * np.cos(t), form.ry * np.sin(t)
    ring = np.column_stack([u * math.cos(turn) - v * math.sin(turn), u * math.sin(turn) + v * math.cos(turn)])
    ring += (form.x, form.y)
    area = shapely.Polygon(ring)
    rows = random.integers(len(ring), size=200)
    points = ring[rows] + random.normal(0.0, 0.15 * min(form.rx, form.ry), (200, 2))
    angles, away = nearest_on_ellipse(points, form)
    wanted = shapely.distance(area.exterior, shapely.points(points))
    assert np.abs(away) == pytest.approx(wanted, abs=1e-3)
    inside = shapely.contains_xy(area, points)
    assert ((away < 0.0) == inside)[wanted > 1e-3].all()
    feet = ring[np.searchsorted(t, angles % (2.0 * math.pi)).clip(0, len(t) - 1)]
    assert np.hypot(*(points - feet).T) == pytest.approx(wanted, abs=0.1)
