from __future__ import annotations

import numpy as np
import pytest
from fontTools.misc import bezierTools
from fontTools.pens.areaPen import AreaPen
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy.integrate import quad

from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.fit import fit_cubic

CURVES = arrays(np.float64, (4, 2), elements=st.floats(-100, 100, width=32))


@given(CURVES, st.floats(0.01, 0.99))
def test_split_keeps_the_curve(curve: np.ndarray, t: float) -> None:
    first, second = bezier.split(curve, t)
    u = np.linspace(0, 1, 9)
    assert np.allclose(bezier.evaluate(first, u), bezier.evaluate(curve, u * t), atol=1e-9)
    assert np.allclose(bezier.evaluate(second, u), bezier.evaluate(curve, t + u * (1 - t)), atol=1e-9)


@given(CURVES, st.floats(0.05, 0.95))
def test_split_is_that_of_fonttools(curve: np.ndarray, t: float) -> None:
    theirs = bezierTools.splitCubicAtT(*map(tuple, curve.tolist()), t)
    assert np.allclose(np.array(theirs), np.array(bezier.split(curve, t)), atol=1e-9)


@given(CURVES)
def test_bounds_are_those_of_fonttools(curve: np.ndarray) -> None:
    theirs = bezierTools.calcCubicBounds(*map(tuple, curve.tolist()))
    assert np.allclose(bezier.bounds(curve[None]), theirs, atol=1e-6)


@settings(max_examples=40)
@given(CURVES)
def test_length_is_the_integral_of_speed(curve: np.ndarray) -> None:
    # smooth curves only: at a cusp no fixed rule is exact
    speed = np.linalg.norm(bezier.derivative(curve, np.linspace(0, 1, 400)), axis=1)
    if speed.min() < 0.2 * speed.max() or speed.max() == 0:
        return
    length, _ = quad(lambda t: np.linalg.norm(bezier.derivative(curve, np.array([t]))), 0, 1)
    assert bezier.lengths(curve[None])[0] == pytest.approx(length, rel=1e-5)


@given(CURVES, st.floats(-100, 100), st.floats(-100, 100))
def test_nearest_is_as_near_as_brute_force(curve: np.ndarray, x: float, y: float) -> None:
    _, t, distance = bezier.nearest(curve[None], (x, y))
    dense = bezier.evaluate(curve, np.linspace(0, 1, 2001))
    brute = np.linalg.norm(dense - (x, y), axis=1).min()
    assert distance <= brute + 0.5
    assert distance == pytest.approx(np.linalg.norm(bezier.evaluate(curve, np.array([t]))[0] - (x, y)))


KAPPA = 4 / 3 * (np.sqrt(2) - 1)


def circle(radius: float) -> Contour:
    """Four arcs with handles of 4/3 (sqrt 2 - 1) radius."""
    anchors = radius * np.array([(1, 0), (0, 1), (-1, 0), (0, -1)], float)
    along = KAPPA * radius * np.array([(0, 1), (-1, 0), (0, -1), (1, 0)], float)
    return Contour(np.stack([anchors - along, anchors, anchors + along], axis=1), np.full(4, AnchorKind.EVEN))


def test_four_arc_circle_has_its_known_error() -> None:
    # the largest radial error of this well-known approximation is 0.0273 % of the radius, outwards
    points = circle(1000.0).sampled(0.2)
    radii = np.linalg.norm(points, axis=1)
    assert radii.max() - 1000 == pytest.approx(0.273, abs=0.002)
    assert radii.min() == pytest.approx(1000.0, abs=1e-3)


def test_area_is_that_of_fonttools() -> None:
    contour = circle(50.0)
    pen = AreaPen(None)
    curves = contour.curves()
    pen.moveTo(tuple(curves[0, 0]))
    for curve in curves:
        pen.curveTo(*map(tuple, curve[1:]))
    pen.closePath()
    assert contour.area() == pytest.approx(pen.value)
    assert contour.area() > 0  # clockwise on screen


def test_contours_refuse_what_is_no_contour() -> None:
    for points, kinds in (
        (np.zeros((0, 3, 2)), []),
        (np.zeros((2, 2, 2)), [0, 0]),
        (np.full((2, 3, 2), np.nan), [0, 0]),
    ):
        with pytest.raises(ValueError, match="contour"):
            Contour(points, np.array(kinds, np.uint8))
    contour = circle(1.0)
    with pytest.raises(ValueError, match="read-only"):
        contour.points[0] = 0


@settings(max_examples=30)
@given(st.floats(0.3, 1.0), st.floats(0.3, 1.0), st.floats(-0.9, 0.9), st.floats(-0.9, 0.9))
def test_fit_gives_back_the_cubic_that_was_sampled(a: float, b: float, up: float, down: float) -> None:
    true = np.array([(0, 0), (30 * a, 30 * up), (100 - 30 * b, 30 * down), (100, 0)])
    points = bezier.evaluate(true, np.linspace(0, 1, 80))
    for tangents in ((None, None), (true[1] - true[0], true[3] - true[2])):
        fitted = fit_cubic(points, *tangents)
        worst = max(bezier.nearest(fitted[None], tuple(p))[2] for p in points[::8])
        assert worst < 0.2  # of a chord of 100
