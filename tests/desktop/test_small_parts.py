"""Figures of a drag, the nine points, swatches and strengths, by keys and pointer."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from sobercrow.core.artwork.placing import Nine
from sobercrow.core.artwork.snapping import Snap
from sobercrow.desktop.small_fields import NineGrid, SmallField
from sobercrow.desktop.strengths import StrengthSlide
from sobercrow.desktop.swatches import GAP_PX, IN_A_ROW, SWATCH_PX, Swatches
from sobercrow.desktop.tool import Pointer
from sobercrow.desktop.tools.figures import ACROSS, ANGLE, DOWN, SCALE, Figures

LEFT, NO_KEYS = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def typed(text: str = "", key: Qt.Key | None = None) -> Pointer:
    return Pointer(QPointF(), 0.0, 0.0, key=key, text=text)


def test_figures_tell_what_was_dragged_and_take_what_is_typed() -> None:
    figures = Figures()
    assert figures.told == ""
    figures.begin(ACROSS, DOWN)
    assert figures.settle(1.234, -5.0, snap=Snap(0, 0, ("level with",))) == (1.234, -5.0)
    assert figures.told == "+1.23 mm, -5.00 mm, level with"
    for text in "-2,5":
        assert not figures.take(typed(text))
    assert figures.settle(9.0, 9.0) == (-2.5, 9.0)
    assert figures.told == "across -2.5▏mm, +9.00 mm"
    figures.take(typed(key=Qt.Key.Key_Backspace))
    assert figures.settle(9.0, 9.0)[0] == -2.0
    figures.take(typed(key=Qt.Key.Key_Tab))
    figures.take(typed("4"))
    assert figures.settle(0.0, 0.0) == (-2.0, 4.0)
    figures.take(typed(key=Qt.Key.Key_Tab))
    assert figures.take(typed(key=Qt.Key.Key_Return)), "Enter takes it all"
    figures.clear()
    assert (figures.told, figures.is_typed) == ("", False)
    figures.begin(SCALE, ANGLE)
    figures.settle(150.0, 30.0)
    assert figures.told == "150.0%, 30°"
    figures.take(typed("-"))
    assert figures.settle(150.0, 30.0) == (150.0, 30.0), "a sign alone is no number yet"


@pytest.mark.parametrize("point", list(Nine))
def test_each_of_the_nine_points_is_chosen_by_a_click(qtbot, point: Nine) -> None:
    grid = NineGrid("About", "Help.")
    qtbot.addWidget(grid)
    told: list[Nine] = []
    grid.chosen.connect(told.append)
    QTest.mouseClick(grid, LEFT, NO_KEYS, grid.place(point).toPoint())
    assert grid.point is point
    assert told == ([] if point is Nine.MIDDLE else [point])


def test_the_nine_points_are_walked_by_arrows_and_end_at_the_edges(qtbot) -> None:
    grid = NineGrid("About", "Help.")
    qtbot.addWidget(grid)
    for key in (Qt.Key.Key_Left, Qt.Key.Key_Left, Qt.Key.Key_Up, Qt.Key.Key_Up):
        QTest.keyClick(grid, key)
    assert grid.point is Nine.LEFT_TOP
    QTest.keyClick(grid, Qt.Key.Key_Right)
    QTest.keyClick(grid, Qt.Key.Key_Down)
    assert grid.point is Nine.MIDDLE
    assert Nine.TOP.across_from is Nine.BOTTOM
    assert Nine.RIGHT_TOP.of((10, 20, 30, 60)) == (30, 20)


def test_a_small_field_tells_what_is_typed_and_not_what_is_shown(qtbot) -> None:
    field = SmallField("Turn", "Help.", -360.0, 360.0, "°", 1)
    qtbot.addWidget(field)
    told: list[float] = []
    field.changed.connect(told.append)
    field.show_value(12.34)
    assert field.box.text() == "12.3°"
    assert told == []
    field.box.setValue(90.0)
    assert told == [90.0]


def test_swatches_are_laid_in_rows_clicked_and_clicked_twice(qtbot) -> None:
    swatches = Swatches("Colours", "Help.")
    qtbot.addWidget(swatches)
    colours = [f"#0000{k:02x}" for k in range(IN_A_ROW + 3)]
    swatches.show_colours(colours, colours[1])
    assert swatches.height() == 2 * (SWATCH_PX + GAP_PX)
    swatches.resize(swatches.sizeHint().width(), swatches.height())
    picked: list[str] = []
    changed: list[str] = []
    places: list[int] = []
    swatches.picked.connect(picked.append)
    swatches.changed.connect(changed.append)
    swatches.chosen_at.connect(places.append)
    QTest.mouseClick(swatches, LEFT, NO_KEYS, swatches.rect_of(IN_A_ROW + 1).center().toPoint())
    QTest.mouseDClick(swatches, LEFT, NO_KEYS, swatches.rect_of(2).center().toPoint())
    QTest.mouseClick(swatches, LEFT, NO_KEYS, swatches.rect_of(IN_A_ROW + 5).center().toPoint())
    assert (picked, places, changed) == ([colours[IN_A_ROW + 1]], [IN_A_ROW + 1], [colours[2]])
    image = swatches.grab().toImage()
    assert image.pixelColor(swatches.rect_of(5).center().toPoint()).name() == colours[5]


def test_both_grips_of_the_strengths_go_by_keys(qtbot) -> None:
    slide = StrengthSlide()
    qtbot.addWidget(slide)
    told: list[object] = []
    slide.changed.connect(told.append)
    QTest.keyClick(slide, Qt.Key.Key_Right)
    assert told == [], "the drawing shows wholly already"
    QTest.keyClick(slide, Qt.Key.Key_Down)
    for _ in range(3):
        QTest.keyClick(slide, Qt.Key.Key_Right)
    QTest.keyClick(slide, Qt.Key.Key_Up)
    QTest.keyClick(slide, Qt.Key.Key_Left)
    assert (slide.strengths.drawing, slide.strengths.fill) == (pytest.approx(0.95), pytest.approx(0.15))
    assert slide.place("fill") < slide.place("drawing")
