from __future__ import annotations

import numpy as np
import pytest
from matplotlib import font_manager

from cleanup_scenes import line_drawing, text_page, turned
from drawings import disc
from sobercrow.core.cleanup.straighten import find_turn

FACES = ["DejaVu Serif", "DejaVu Sans:italic", "STIXGeneral:italic"]


@pytest.mark.parametrize("face", FACES)
@pytest.mark.parametrize("angle", [-14.2, -1.8, 0.0, 6.3])
def test_a_page_of_writing_is_straightened_by_its_lines(face: str, angle: float) -> None:
    page = text_page(font_manager.findfont(face, fallback_to_default=False), 7)
    found = find_turn(turned(page, angle))
    assert found is not None
    assert found.angle_deg == pytest.approx(-angle, abs=0.1)


@pytest.mark.parametrize("seed", [41, 42, 43, 44])
def test_a_drawing_is_straightened_by_its_straight_lines(seed: int) -> None:
    found = find_turn(turned(line_drawing(seed), 4.4))
    assert found is not None
    assert found.angle_deg == pytest.approx(-4.4, abs=0.15)


def test_a_drawing_without_straight_lines_tells_nothing() -> None:
    assert find_turn(disc(300, 150, 150, 90)) is None
    assert find_turn(np.full((100, 100), 240, np.uint8)) is None


def test_a_lone_upright_line_is_enough_but_the_stems_of_sloped_letters_are_not() -> None:
    spar = np.full((500, 400), 255, np.uint8)
    spar[20:480, 198:203] = 20
    found = find_turn(turned(spar, 2.5))
    assert found is not None
    assert found.angle_deg == pytest.approx(-2.5, abs=0.1)
    stems = np.full((200, 900), 255, np.uint8)
    for k in range(9):
        for y in range(60, 140):
            x = round(60 + 90 * k + (140 - y) * 0.2)
            stems[y, x : x + 7] = 20
    assert find_turn(stems) is None or abs(find_turn(stems).angle_deg) < 1.0
