"""Arcs known by their handles, and written as such: read by svgelements."""

from __future__ import annotations

import math

import numpy as np
import pytest
import svgelements
from scipy.spatial import cKDTree

from drawings import glyph_contours
from sobercrow.core.formats.svg import path_data
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.arcs import Arc, arc_contour, arc_of, arcs_of
from sobercrow.core.geometry.contour import Contour


def drawn(middle: tuple[float, float], radius: float, first_deg: float, turn_deg: float) -> Contour:
    at = np.array(middle)
    start, end = (
        at + radius * np.array((math.cos(a), math.sin(a)))
        for a in (math.radians(first_deg), math.radians(first_deg + turn_deg))
    )
    return arc_contour(start, end, Arc(at, radius, math.radians(turn_deg)))


@pytest.mark.parametrize("turn_deg", [-300, -90, -5, 5, 40, 90, 179, 200, 340])
def test_an_arc_is_known_again_wherever_it_lies_and_svgelements_reads_it_so(turn_deg: float) -> None:
    contour = drawn((30.0, -12.0), 24.0, 17.0, turn_deg)
    way = Affine.turned(33.0, (5.0, 5.0)).then(Affine.scaled(2.5, 2.5, (1.0, 0.0)))
    moved = Contour(way(contour.points), contour.kinds, closed=False)
    ((pieces, arc),) = arcs_of(moved.curves())
    assert pieces == len(moved) - 1
    assert arc.radius == pytest.approx(60.0, abs=1e-6)
    assert arc.middle == pytest.approx(way(np.array((30.0, -12.0))), abs=1e-6)
    assert math.degrees(arc.turn) == pytest.approx(turn_deg, abs=1e-6)
    path = svgelements.Path(path_data(moved))
    # near a half, where an arc's middle hangs on the last decimal of its ends, none is written
    assert {type(part).__name__ for part in path} == {"Move", "Arc"}
    theirs = np.array([path.point(t) for t in np.linspace(0, 1, 400)])
    assert np.hypot(*(theirs - arc.middle).T) == pytest.approx(60.0, abs=0.02)
    assert cKDTree(theirs).query(moved.sampled(0.5))[0].max() < 0.6  # the same part of the circle


def test_what_is_no_arc_is_written_as_it_is() -> None:
    letter = glyph_contours("S", 120)[0]
    assert not any(arc for _, arc in arcs_of(letter.curves()))
    quarter = drawn((0, 0), 10.0, 0.0, 90.0).curves()[0]
    for k, by in ((1, 1e-3), (2, -1e-3)):
        bent = quarter.copy()
        bent[k] += by
        assert arc_of(bent) is None
    straight = np.array([(0, 0), (0, 0), (9, 3), (9, 3)], dtype=float)
    assert arc_of(straight) is None


def test_arcs_of_one_circle_go_together_but_never_all_round() -> None:
    one, other = drawn((0, 0), 10.0, 0.0, 80.0), drawn((0, 0), 10.0, 80.0, 200.0)
    led = other.points.copy()
    led[0, 0] = one.points[-1, 0]
    both = Contour(np.concatenate([one.points[:-1], led]), np.ones(len(one) + len(other) - 1, np.uint8), closed=False)
    ((_, arc),) = arcs_of(both.curves())
    assert math.degrees(arc.turn) == pytest.approx(280.0)
    whole = drawn((0, 0), 10.0, 0.0, 359.999)
    assert len(arcs_of(whole.curves())) == 2
