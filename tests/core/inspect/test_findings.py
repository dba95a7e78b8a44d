"""The check before handing over: faults planted in clean artwork are found where they are, and nothing else."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from planted import CELL_MM, PLANTS, box, disc, planted, px
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.handover.purpose import CheckSettings, Purpose
from sobercrow.core.inspect.hand_over import KINDS, check

FOLLOW = {("doubled", "hidden"), ("stragglers", "narrow")}
"""What is doubled lies hidden, too, and a straggler is narrow."""


@pytest.mark.parametrize("purpose", [Purpose.CUT, Purpose.PLATES])
def test_planted_faults_are_found_where_they_are_and_hardly_anything_else(purpose: Purpose) -> None:
    counted = {kind.id for kind in KINDS if purpose in kind.purposes}
    told = wrong = 0
    met = set()
    for seed in range(2000, 2014):
        artwork, faults = planted(seed)
        found = [(f.kind.id, spot) for f in check(artwork, CheckSettings(purpose)) for spot in f.spots]
        for fault in faults:
            near = {kind for kind, s in found if np.hypot(s.x - fault.x, s.y - fault.y) < 0.6 * px(CELL_MM)}
            assert fault.kind not in counted or fault.kind in near, f"{fault.kind} in {seed}"
            met.add(fault.kind)
        for kind, spot in found:
            told += 1
            wrong += not any(
                (fault.kind == kind or (fault.kind, kind) in FOLLOW)
                and np.hypot(spot.x - fault.x, spot.y - fault.y) < 0.6 * px(CELL_MM)
                for fault in faults
            )
    assert wrong <= 0.03 * told
    assert len(met) >= len(PLANTS) - 2


def test_more_inks_than_plates_and_only_what_counts_for_the_purpose() -> None:
    inks = [disc(60.0 + 80.0 * k, 60.0, 30.0, colour) for k, colour in enumerate(("#23262b", "#a33e2e", "#1d4f79"))]
    artwork = Artwork((Layer("All", (*inks, replace(inks[0], fill="#ffffff"))),), 300.0, 120.0, 300.0)
    plates = {f.kind.id: f for f in check(artwork, CheckSettings(Purpose.PLATES, plates=3.0))}
    assert len(plates["inks"].spots) == 1
    assert plates["inks"].text == "1 ink too many"
    assert "hidden" in plates
    assert {f.kind.id for f in check(artwork, CheckSettings(Purpose.WEB))} == {"hidden"}


def test_a_gap_that_another_ink_fills_is_none_and_finer_tools_find_less() -> None:
    sides = [box(100.0, 100.0, 80.0, 80.0, "#23262b"), box(182.5, 100.0, 80.0, 80.0, "#23262b")]
    below = box(141.0, 100.0, 100.0, 100.0, "#a33e2e")
    for shapes, tool, count in ((sides, 0.3, 1), (sides, 0.1, 0), ([*sides, replace(below, fill="#23262b")], 0.3, 0)):
        artwork = Artwork((Layer("All", tuple(shapes)),), 300.0, 200.0, 300.0)
        found = {f.kind.id: f.spots for f in check(artwork, CheckSettings(Purpose.PRINT, tool_mm=tool))}
        assert len(found.get("gaps", ())) == count
    (spot,) = next(
        f.spots for f in check(Artwork((Layer("All", tuple(sides)),), 300.0, 200.0, 300.0)) if f.kind.id == "gaps"
    )
    assert spot.figure_mm == pytest.approx(2.5 * 25.4 / 300.0, rel=0.02)


@pytest.mark.parametrize(("turn_deg", "begin"), [(0.0, 5), (0.0, 10), (33.0, 3)])
def test_parts_too_narrow_are_told_in_the_middle_of_where_they_are_narrowest(turn_deg: float, begin: int) -> None:
    """Two blocks on a neck: its width is told, and its middle, wherever the outline begins."""
    points = np.array(
        [
            (0, 0),
            (60, 0),
            (60, 28),
            (140, 28),
            (140, 0),
            (200, 0),
            (200, 60),
            (140, 60),
            (140, 30),
            (60, 30),
            (60, 60),
            (0, 60),
        ],
        dtype=np.float64,
    )
    turn = np.radians(turn_deg)
    points = np.roll(points, begin, axis=0) @ np.array([(np.cos(turn), np.sin(turn)), (-np.sin(turn), np.cos(turn))])
    points += 150.0
    ring = Contour(np.repeat(points[:, None], 3, axis=1), np.zeros(len(points), np.uint8))
    artwork = Artwork((Layer("Ink", (Shape((ring,)),)),), 500.0, 500.0, 300.0)
    settings = CheckSettings(Purpose.CUT, tool_mm=0.5)
    (spot,) = next(f.spots for f in check(artwork, settings) if f.kind.id == "narrow")
    assert spot.figure_mm == pytest.approx(2.0 * 25.4 / 300.0, rel=0.02)
    middle = points.mean(axis=0)
    assert np.hypot(spot.x - middle[0], spot.y - middle[1]) < 3.0
