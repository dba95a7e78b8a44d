"""Maps of the plane: against svgelements' matrices (W3C, SVG 2), and true shapes against their mapped edges."""

from __future__ import annotations

import numpy as np
import pytest
import svgelements
from hypothesis import given
from hypothesis import strategies as st

from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle, from_rectangle

ABOUT = (12.0, -7.0)
angles = st.floats(-180, 180)


@pytest.mark.parametrize(
    ("way", "written"),
    [
        (Affine.moved(3.0, -4.0), "translate(3 -4)"),
        (Affine.turned(30.0, ABOUT), "rotate(30 12 -7)"),
        (Affine.turned(90.0, ABOUT), "rotate(90 12 -7)"),
        (Affine.scaled(2.0, -0.5, ABOUT), "translate(12 -7) scale(2 -0.5) translate(-12 7)"),
        (Affine.leaned(20.0, ABOUT), "translate(12 -7) skewX(-20) translate(-12 7)"),
        (Affine.leaned(20.0, ABOUT, upright=True), "translate(12 -7) skewY(20) translate(-12 7)"),
        (Affine.mirrored(0.0, ABOUT), "translate(12 -7) scale(1 -1) translate(-12 7)"),
        (Affine.mirrored(25.0, ABOUT), "translate(12 -7) rotate(25) scale(1 -1) rotate(-25) translate(-12 7)"),
        (Affine.turned(30.0, ABOUT).then(Affine.moved(1.0, 2.0)), "translate(1 2) rotate(30 12 -7)"),
    ],
)
def test_they_are_those_of_svg(way: Affine, written: str) -> None:
    theirs = svgelements.Matrix(written)
    own = (way.a, way.b, way.c, way.d, way.e, way.f)
    assert own == pytest.approx((theirs.a, theirs.b, theirs.c, theirs.d, theirs.e, theirs.f), abs=1e-6)


@given(angles, st.floats(0.2, 5.0), st.floats(-3.0, 3.0).filter(lambda v: abs(v) > 0.2), angles)
def test_an_ellipse_is_an_ellipse_after_any_of_them(turn: float, across: float, down: float, own: float) -> None:
    way = Affine.scaled(across, down, ABOUT).then(Affine.turned(turn, ABOUT)).then(Affine.leaned(15.0, ABOUT))
    form = Ellipse(4.0, 5.0, 9.0, 3.0, own)
    made = way.form(form)
    edge = Contour(way(form.anchors()), np.ones(4, np.uint8)).sampled(0.2)
    angle = np.radians(made.angle_deg)
    turned = (edge - (made.x, made.y)) @ np.array([(np.cos(angle), -np.sin(angle)), (np.sin(angle), np.cos(angle))])
    assert np.hypot(*(turned / (made.rx, made.ry)).T) == pytest.approx(1.0, abs=2e-3)


@pytest.mark.parametrize(
    "way",
    [Affine.turned(37.0, ABOUT), Affine.mirrored(20.0, ABOUT), Affine.scaled(1.5, -1.5, ABOUT), Affine.moved(2, 3)],
)
@pytest.mark.parametrize("radius", [0.0, 2.0])
def test_a_rectangle_stays_one_where_all_lengths_keep_their_ratio(way: Affine, radius: float) -> None:
    form = Rectangle(4.0, 5.0, 20.0, 8.0, radius, 12.0)
    edge = Contour(way(form.anchors()), np.ones(len(form.anchors()), np.uint8)).sampled(0.2)
    assert np.abs(from_rectangle(edge, way.form(form))).max() < 2e-3


def test_a_rectangle_stretched_along_its_sides_stays_one_and_else_is_free() -> None:
    stretched = Affine.scaled(2.0, 3.0, (0.0, 0.0))
    assert stretched.form(Rectangle(1, 1, 10, 4)) == Rectangle(2, 3, 20, 12)
    assert stretched.form(Rectangle(1, 1, 10, 4, 0.0, 90.0)) == Rectangle(2, 3, 30, 8, 0.0, 90.0)
    assert stretched.form(Rectangle(1, 1, 10, 4, 1.0)) is None, "its corners are no quarters of circles any more"
    assert stretched.form(Rectangle(1, 1, 10, 4, 0.0, 30.0)) is None
    assert Affine.leaned(10.0, ABOUT).form(Rectangle(1, 1, 10, 4)) is None
    circle = Affine.turned(45.0, ABOUT).form(Ellipse(1, 2, 5, 5))
    assert circle.is_circle
