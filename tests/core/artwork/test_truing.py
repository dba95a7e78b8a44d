"""True shapes by hand: known forms drawn in pixels and traced, found again."""

from __future__ import annotations

import math

import numpy as np
import pytest

from drawings import FINE, artwork_of, coverage, glyph_contours, separation
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Shape
from sobercrow.core.artwork.truing import candidates, made_true, make_true, same_size
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.outlines import trace

SIZE = 120
NAMES = {3: "triangle", 4: "square", 5: "pentagon", 6: "hexagon", 7: "heptagon", 8: "octagon"}


def traced(inside) -> Contour:
    """What is traced of where a function of x and y is not positive, freely drawn."""
    at = (np.arange(SIZE * FINE) + 0.5) / FINE
    tones = coverage(inside(at[None, :], at[:, None]) <= 0)
    return trace(separation(tones), Tracing(true_shapes=False)).artwork.shapes[0].contours[0]


def convex(corners: np.ndarray):
    def inside(x, y):
        worst = np.full(np.broadcast(x, y).shape, -np.inf)
        for (ax, ay), (bx, by) in zip(corners, np.roll(corners, -1, axis=0), strict=True):
            size = math.hypot(bx - ax, by - ay)
            worst = np.maximum(worst, -((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / size)
        return worst

    return inside


@pytest.mark.parametrize("sides", list(NAMES))
@pytest.mark.parametrize("turn", [0.0, 13.0])
def test_regular_polygons_are_found_from_their_pixels(sides: int, turn: float) -> None:
    angle = np.radians(turn - 90.0) + 2 * np.pi * np.arange(sides) / sides + (np.pi / 4 if sides == 4 else 0.0)
    wanted = np.array([60.3, 58.8]) + 41.0 * np.column_stack([np.cos(angle), np.sin(angle)])
    best = candidates(traced(convex(wanted)))[0]
    assert best.name == NAMES[sides]
    own = best.contour.anchors
    away = np.hypot(*(own[:, None] - wanted[None]).transpose(2, 0, 1)).min(axis=1)
    assert away.max() < 0.35, "corners, which blur rounds"
    assert own.mean(axis=0) == pytest.approx(wanted.mean(axis=0), abs=0.1)


@pytest.mark.parametrize(("angle", "level"), [(0.0, True), (0.1, True), (24.0, False)])
def test_rectangles_are_level_unless_a_turned_one_is_definitely_nearer(angle: float, level: bool) -> None:
    wanted = Rectangle(58.4, 61.2, 70.0, 33.0, 0.0, angle)
    best = candidates(traced(convex(wanted.anchors()[:, 1])))[0]
    form = best.contour.form
    assert (best.name, form.angle_deg == 0.0) == ("rectangle", level)
    assert (form.x, form.y, form.width, form.height) == pytest.approx(
        (58.4, 61.2, 70.0, 33.0), abs=0.1 if not level else 0.4
    )


@pytest.mark.parametrize("angle", [0.0, 30.0])
def test_ellipses_and_circles_are_found_within_a_tenth_of_a_pixel(angle: float) -> None:
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))

    def oval(x, y):
        u, v = (x - 60.2) * c + (y - 59.4) * s, -(x - 60.2) * s + (y - 59.4) * c
        return (u / 44.0) ** 2 + (v / 27.0) ** 2 - 1.0

    best = candidates(traced(oval))[0]
    form = best.contour.form
    assert best.name == "ellipse"
    assert sorted((form.rx, form.ry)) == pytest.approx([27.0, 44.0], abs=0.1)
    assert (form.x, form.y) == pytest.approx((60.2, 59.4), abs=0.1)
    disc = candidates(traced(lambda x, y: np.hypot(x - 60.2, y - 59.4) - 37.0))[0]
    assert disc.name == "circle"
    assert all(one.name != "rounded rectangle" for one in candidates(disc.contour)), "nor is one offered for a circle"
    assert disc.contour.form.rx == pytest.approx(37.0, abs=0.1)


def test_round_corners_and_bars_are_known_and_the_nearest_comes_first() -> None:
    def rounded(x, y):
        dx, dy = np.abs(x - 60.0) - 28.0, np.abs(y - 60.0) - 14.0
        return np.hypot(np.maximum(dx, 0), np.maximum(dy, 0)) + np.minimum(np.maximum(dx, dy), 0) - 10.0

    found = candidates(traced(rounded))
    assert found[0].name == "rounded rectangle"
    assert found[0].contour.form.radius == pytest.approx(10.0, abs=0.3)
    assert np.diff([one.rms_px for one in found]).min() > -0.021, "the nearest first, of about as near ones the plainer"
    bar = candidates(traced(lambda x, y: np.maximum(np.abs(x - 60.0) - 50.0, np.abs(y - 60.0) - 4.0)))
    assert bar[0].name == "bar"


def test_several_shapes_become_each_their_nearest_holes_too_or_one_size() -> None:
    ring = Shape(
        (
            Contour(Ellipse(60, 60, 40, 40).anchors() + 0.05, np.ones(4, np.uint8)),
            Contour(Ellipse(60, 60, 20, 19.9).anchors(), np.ones(4, np.uint8)).reversed(),
        )
    )
    box = Shape((Contour(Rectangle(160, 60, 30, 20).anchors(), np.zeros(4, np.uint8)),))
    artwork = artwork_of(ring, box)
    made = make_true(artwork, Choice(shapes=frozenset({0, 1}))).artwork
    assert [type(c.form).__name__ for s in made.shapes for c in s.contours] == ["Ellipse", "Ellipse", "Rectangle"]
    assert made.shapes[0].contours[1].area() < 0
    sized = same_size(made, Choice(shapes=frozenset({0, 1}))).artwork
    boxes = np.array([shape.bounds() for shape in sized.shapes])
    assert boxes[0, 2:] - boxes[0, :2] == pytest.approx(boxes[1, 2:] - boxes[1, :2])
    assert sized.shapes[1].contours[0].form is not None
    outer = candidates(box.contours[0])[0]
    assert made_true(artwork, 0, outer).shapes[0].contours[1] is artwork.shapes[0].contours[1]


def test_what_has_no_area_is_made_nothing_of() -> None:
    letter = glyph_contours("S", 90)[0]
    line = Contour(letter.points, letter.kinds, closed=False)
    with pytest.raises(EditError, match="closed"):
        candidates(line)
    with pytest.raises(EditError, match="closed shapes"):
        make_true(artwork_of(line), Choice(shapes=frozenset({0})))
    with pytest.raises(EditError, match="two shapes"):
        same_size(artwork_of(letter), Choice(shapes=frozenset({0})))
