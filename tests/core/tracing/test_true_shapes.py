"""Circles, ellipses and rectangles: fits against scikit-image's and SciPy's, and what is found and what is not."""

from __future__ import annotations

import io
import math
import warnings

import numpy as np
import pytest
import resvg_py
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree
from PIL import Image
from scipy.optimize import least_squares
from skimage.measure import EllipseModel

from drawings import FINE, coverage, disc, lettering, polygon, separation
from sobercrow.core.artwork.anchors import move_anchors
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import (
    Ellipse,
    Form,
    Mirror,
    Rectangle,
    Related,
    ellipse_of_moments,
    fit_circle,
    fit_ellipse,
    in_axes,
    kind_of,
)
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.outlines import trace
from sobercrow.core.tracing.true_shapes import as_contour

FORMS = [
    Rectangle(50.3, 40.2, 78.0, 6.4, 0.0, 17.0),
    Rectangle(50.3, 40.2, 5.0, 60.5),
    Ellipse(50.3, 40.7, 20.0, 20.0),
    Ellipse(50.0, 40.0, 24.0, 12.5, 27.0),
    Rectangle(50.0, 40.0, 40.0, 22.0),
    Rectangle(50.0, 40.0, 40.0, 22.0, 0.0, -18.0),
    Rectangle(50.5, 40.0, 44.0, 30.0, 8.0, 12.0),
]


def drawn(form: Form, width: int = 100, height: int = 80) -> np.ndarray:
    """A form in black on white, by exact coverage."""
    y, x = (np.mgrid[: height * FINE, : width * FINE] + 0.5) / FINE
    u, v = in_axes(np.column_stack([x.ravel(), y.ravel()]), form).T
    if isinstance(form, Ellipse):
        inside = (u / form.rx) ** 2 + (v / form.ry) ** 2 <= 1.0
    else:
        r = form.radius
        across = np.maximum(np.abs(u) - 0.5 * form.width + r, 0.0)
        down = np.maximum(np.abs(v) - 0.5 * form.height + r, 0.0)
        inside = np.hypot(across, down) <= r if r else (across == 0.0) & (down == 0.0)
    return coverage(inside.reshape(x.shape))


def ring_of(form: Ellipse, count: int, noise: float) -> np.ndarray:
    t = np.linspace(0.0, 2 * math.pi, count, endpoint=False)
    c, s = math.cos(math.radians(form.angle_deg)), math.sin(math.radians(form.angle_deg))
    plain = np.column_stack([form.rx * np.cos(t), form.ry * np.sin(t)]) @ np.array([(c, s), (-s, c)])
    return np.add(plain, (form.x, form.y)) + np.random.default_rng(2).normal(0, noise, plain.shape)


@given(st.floats(3, 60), st.floats(0.0, 0.3))
def test_circles_are_scipys_least_squares(radius: float, noise: float) -> None:
    points = ring_of(Ellipse(12.0, -7.0, radius, radius), 90, noise)[:70]
    found, distance = fit_circle(points)
    best = least_squares(lambda p: np.hypot(*(points - p[:2]).T) - p[2], (12.0, -7.0, radius)).x
    assert (found.x, found.y, found.rx) == pytest.approx(tuple(best), abs=2e-4)
    assert np.allclose(distance, np.hypot(*(points - (found.x, found.y)).T) - found.rx)


@pytest.mark.parametrize("angle", [0.0, 33.0, 120.0])
def test_ellipses_are_scikit_images(angle: float) -> None:
    true = Ellipse(40.0, 31.0, 22.0, 9.0, angle)
    points = ring_of(true, 150, 0.05)
    found, distance = fit_ellipse(points, ellipse_of_moments(points))
    model = EllipseModel.from_estimate(points) if hasattr(EllipseModel, "from_estimate") else EllipseModel()
    assert hasattr(EllipseModel, "from_estimate") or model.estimate(points)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", FutureWarning)
        x, y, a, b, _ = model.params
    assert sorted((found.rx, found.ry)) == pytest.approx(sorted((a, b)), abs=0.03)
    assert (found.x, found.y) == pytest.approx((x, y), abs=0.02)
    assert np.sqrt((distance**2).mean()) <= np.sqrt((model.residuals(points) ** 2).mean()) + 1e-6


@pytest.mark.parametrize("form", FORMS)
def test_a_form_drawn_is_found_and_written_as_what_it_is(form: Form) -> None:
    result = trace(separation(drawn(form)), Tracing())
    (found,) = result.forms
    assert type(found.form) is type(form)
    assert (found.form.x, found.form.y) == pytest.approx((form.x, form.y), abs=0.06)
    if isinstance(form, Ellipse) and isinstance(found.form, Ellipse):
        assert sorted((found.form.rx, found.form.ry)) == pytest.approx(sorted((form.rx, form.ry)), abs=0.05)
        assert found.form.is_circle == form.is_circle
    elif isinstance(form, Rectangle) and isinstance(found.form, Rectangle):
        sizes = sorted((found.form.width, found.form.height))
        assert sizes == pytest.approx(sorted((form.width, form.height)), abs=0.08)
        assert found.form.radius == pytest.approx(form.radius, abs=0.4)
    root = etree.fromstring(svg_bytes(result.artwork))
    name = {"rectangle": "rect", "bar": "line"}.get(kind_of(form), kind_of(form))
    assert len(root.findall(f".//{{*}}{name}")) == 1
    assert root.findall(".//{*}path") == []


@pytest.mark.parametrize("form", FORMS)
def test_element_and_path_of_a_form_are_rendered_alike(form: Form) -> None:
    contour = as_contour(form, Contour(np.zeros((1, 3, 2)), np.zeros(1, np.uint8)))
    contour = contour if contour.area() > 0 else contour.reversed()
    plain = Contour(contour.points, contour.kinds)
    pictures = []
    for made in (contour, plain):
        artwork = Artwork((Layer("Ink", (Shape((made,)),)),), 100.0, 80.0, 300.0)
        data = resvg_py.svg_to_bytes(svg_string=svg_bytes(artwork).decode(), background="#ffffff", dpi=1200.0)
        pictures.append(np.asarray(Image.open(io.BytesIO(bytes(data))).convert("L")).astype(int))
    assert np.abs(pictures[0] - pictures[1]).mean() < 0.05
    assert contour.reversed().form == form
    assert contour.moved(1, 2).form == form.moved(1, 2)
    assert contour.scaled(2).form == form.scaled(2)


def test_round_ones_are_found_wherever_they_lie_and_kept_level() -> None:
    random = np.random.default_rng(14)
    missed = 0
    for _ in range(30):
        x, y, radius = random.uniform(38, 42), random.uniform(38, 42), random.uniform(4, 34)
        (found,) = trace(separation(disc(80, x, y, radius)), Tracing()).forms or (None,)
        missed += found is None
        if found is not None:
            assert (found.form.x, found.form.y, found.form.rx) == pytest.approx((x, y, radius), abs=0.05)
    assert missed == 0
    (level,) = trace(separation(drawn(Ellipse(50.0, 40.0, 30.0, 14.0, 0.05))), Tracing()).forms
    assert level.form.angle_deg % 90 == 0.0


@pytest.mark.parametrize("face", ["DejaVu Sans", "DejaVu Serif", "cmr10", "STIXGeneral"])
@pytest.mark.parametrize("size", [40, 90, 180])
def test_letters_are_not_turned_into_shapes(face: str, size: int) -> None:
    found = trace(separation(lettering("aeoQ068&", size, face)), Tracing()).forms
    assert all(isinstance(shape.form, (Mirror, Related)) for shape in found)


def test_a_shape_refused_is_drawn_freely_and_still_told() -> None:
    grey = disc(80, 40, 40, 20)
    (told,) = trace(separation(grey), Tracing(refused=((40.2, 39.9, 20.0),))).forms
    assert told.refused
    (shape,) = trace(separation(grey), Tracing(refused=((40.2, 39.9, 20.0),))).artwork.shapes
    assert shape.contours[0].form is None
    assert trace(separation(grey), Tracing(true_shapes=False)).forms == ()


def test_a_ring_is_two_circles_and_a_slanted_box_no_rectangle() -> None:
    ring = 255 - np.abs(disc(80, 40, 40, 30).astype(int) - disc(80, 40, 40, 18)).astype(np.uint8)
    result = trace(separation(ring), Tracing())
    (shape,) = result.artwork.shapes
    assert [c.form.rx for c in shape.contours] == pytest.approx([30, 18], abs=0.05)
    assert shape.contours[1].area() < 0
    slanted = [(20.0, 20.0), (60.0, 20.0), (66.0, 60.0), (26.0, 60.0)]
    assert all(isinstance(f.form, Related) for f in trace(separation(polygon(80, slanted)), Tracing()).forms)


def test_a_form_that_is_edited_is_one_no_longer() -> None:
    artwork = trace(separation(disc(80, 40, 40, 20)), Tracing()).artwork
    moved = move_anchors(artwork, [AnchorRef(0, 0, 0)], 3.0, 0.0)
    assert artwork.shapes[0].contours[0].form is not None
    assert moved.shapes[0].contours[0].form is None
