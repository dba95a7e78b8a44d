"""Rings that are meant to be symmetric are drawn exactly so; others are left alone."""

import numpy as np
import pytest

from sketch_scenes import MEASURED, TUNED, Hand, curve, sketched
from sobercrow.core.geometry.forms import Mirror
from sobercrow.core.settings import Tracing
from sobercrow.core.sketch.one_line import meant_lines, usual_tolerance
from sobercrow.core.sketch.reading import SketchReading, read_sketch
from sobercrow.core.sketch.symmetry import mirrored
from sobercrow.core.sketch.trace import contours_of

HEART = ((430, 300), (300, 170), (170, 320), (430, 640), (690, 320), (560, 170))


def read(lines: list, seed: int) -> tuple[SketchReading, float]:
    reading = read_sketch(sketched(lines, Hand(3.0), seed).grey)
    return reading, reading.strays_px


@pytest.mark.parametrize(
    ("lines", "corners"),
    [(MEASURED["bottle"](), 2), (MEASURED["star"](), 10), ([curve(*HEART, closed=True, corners=(0, 3))], 2)],
    ids=["bottle", "star", "heart"],
)
def test_a_symmetric_ring_is_drawn_exactly_alike_on_both_sides(lines: list, corners: int) -> None:
    reading, strays = read(lines, 7)
    tolerance = usual_tolerance(strays, reading.width_px)
    made, told = contours_of(meant_lines(reading, strays), strays, tolerance, Tracing(), 1.0)
    (axis,) = [one.form for one in told if isinstance(one.form, Mirror) and one.form.length > 300]
    ring = max((contour for contour in made if contour.closed), key=len)
    assert abs(axis.angle_deg - 90.0) < 1.0
    assert abs(axis.x - 430.0) < 2.0 * strays
    image = axis.mirrored(ring.anchors)
    away = np.hypot(*(image[:, None] - ring.anchors[None]).transpose(2, 0, 1)).min(axis=1)
    assert away.max() < 1e-6
    assert (ring.kinds == 0).sum() >= corners
    # refused, it is as it was drawn
    free, again = contours_of(
        meant_lines(reading, strays), strays, tolerance, Tracing(refused=((axis.x, axis.y, -0.5 * axis.length),)), 1.0
    )
    assert any(one.refused for one in again)
    crooked = max((contour for contour in free if contour.closed), key=len)
    image = axis.mirrored(crooked.anchors)
    assert np.hypot(*(image[:, None] - crooked.anchors[None]).transpose(2, 0, 1)).min(axis=1).max() > 0.1


@pytest.mark.parametrize("drawing", ["boat", "leaf"])
def test_what_is_not_symmetric_stays_so(drawing: str) -> None:
    reading, strays = read(TUNED[drawing](), 8)
    rings = [line for line in meant_lines(reading, strays) if line.closed and len(line.points) > 900]
    assert rings
    assert all(mirrored(line, strays, 1.0) is None for line in rings)
