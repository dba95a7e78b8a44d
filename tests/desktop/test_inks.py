from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from lxml import etree
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from sobercrow.core.inks.separation import OneInk, SeveralInks
from sobercrow.core.settings import InkKind, InkTool, Mixing, Role
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import open_window, pause, wait_until_done
from sobercrow.desktop.canvas.layers import Showing
from sobercrow.desktop.steps import Step, key_figure
from sobercrow.desktop.window import MainWindow


@pytest.fixture
def badge(qapp):
    window = open_window(PICTURES / "badge-200.jpg")
    window.go_to(Step.INKS)
    window.canvas.fit()
    pause(0.3)
    yield window
    window.document.close()
    window.deleteLater()
    pause(0)


def at(window: MainWindow, x: float, y: float) -> QPoint:
    canvas = window.canvas
    place = canvas.camera.to_screen(x, y, canvas.width(), canvas.height())
    return QPoint(round(place[0]), round(place[1]))


def click(window: MainWindow, x: float, y: float) -> None:
    none = Qt.KeyboardModifier.NoModifier
    QTest.mouseClick(window.canvas, Qt.MouseButton.LeftButton, none, at(window, x, y))
    wait_until_done(window)


def press(button) -> None:
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def colours(window: MainWindow) -> list[str]:
    return [ink.name for ink in window.document.presentation.results.separation.inks]


def test_from_the_small_dirty_badge_to_an_svg_with_as_many_colours_as_inks(badge: MainWindow, tmp_path: Path) -> None:
    window, document, panel = badge, badge.document, badge.inks_panel
    assert colours(window) == ["White", "Yellow", "Black", "Red"]
    assert key_figure(Step.INKS, window.document) == "3 inks and paper"

    # five are asked for on the curve, and the one too many is merged with what it came from
    curve = panel.several.curve
    QTest.mouseClick(curve, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, curve._at(4).toPoint())
    wait_until_done(window)
    assert len(colours(window)) == 5
    document.undo()
    wait_until_done(window)
    assert len(colours(window)) == 4
    click(window, 100, 9.5)  # the black rim
    assert panel.several.one() == 2
    panel.several.list.select(3, also=True)
    press(panel.several.merge_button)
    wait_until_done(window)
    assert len(colours(window)) == 3
    assert document.undo_name == "Merge inks"
    document.undo()
    wait_until_done(window)
    assert colours(window) == ["White", "Yellow", "Black", "Red"]

    # yellow is made the paper, then white again
    panel.several.list.select(1)
    press(panel.several.roles[Role.PAPER])
    wait_until_done(window)
    assert "Yellow" not in [layer.name for layer in document.artwork.layers]
    panel.several.list.select(0)
    press(panel.several.roles[Role.PAPER])
    wait_until_done(window)

    # a red rivet is clicked away, and an area ringed in which only black and yellow may be
    before = document.presentation.results.separation.own.copy()
    assert before[int(200 * 0.86), int(200 * 0.37)] == 3
    window.use_tool("spot")
    click(window, 74, 172)
    now = document.presentation.results.separation.own
    assert now[172, 74] == 1
    panel.several.list.select(1)
    panel.several.list.select(2, also=True)
    window.use_tool("ring")
    ring = [(88, 34), (60, 44), (66, 64), (100, 52), (88, 34)]
    QTest.mousePress(window.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at(window, *ring[0]))
    for place in ring[1:]:
        QTest.mouseMove(window.canvas, at(window, *place))
    QTest.mouseRelease(window.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at(window, *ring[0]))
    wait_until_done(window)
    assert [t.tool for t in document.state.settings.inks.touch_ups] == [InkTool.SPOT, InkTool.RING]
    assert panel.touch.list.count() == 2

    document.export_svg(tmp_path / "badge.svg")
    fills = {p.get("fill") for p in etree.parse(tmp_path / "badge.svg").getroot().iter("{*}path")}
    drawn = [ink.colour for ink in document.presentation.results.separation.inks if ink.role is Role.INK]
    assert fills == set(drawn)
    assert len(fills) == 3


def test_specks_are_hatched_with_their_count_before_they_go(badge: MainWindow) -> None:
    window, panel = badge, badge.inks_panel.specks
    badge.inks_panel.folds[panel].head.setChecked(True)
    own = window.document.presentation.results.separation.own.copy()
    panel.specks.changed.emit(120.0)
    wait_until_done(window)
    assert min(len(window.canvas.specks), panel.found.specks) > 4
    assert f"{panel.found.specks} specks under 120 px²" in panel.told.text()
    assert np.array_equal(window.document.presentation.results.separation.own, own)
    press(panel.clear)
    wait_until_done(window)
    assert window.canvas.specks == []
    assert window.document.state.settings.inks.speck_px2 == 120.0
    assert not np.array_equal(window.document.presentation.results.separation.own, own)
    press(panel.restore)
    wait_until_done(window)
    assert np.array_equal(window.document.presentation.results.separation.own, own)


def test_an_ink_is_named_coloured_locked_sampled_shown_alone_and_dropped_on_another(badge: MainWindow) -> None:
    window, several = badge, badge.inks_panel.several
    several.list.select(3)
    several.name.setText("Sail")
    several.name.editingFinished.emit()
    several.colour.setText("b33")
    several.colour.editingFinished.emit()
    several.lock.click()
    wait_until_done(window)
    ink = window.document.presentation.results.separation.inks[3]
    assert (ink.name, ink.colour, ink.locked) == ("Sail", "#bb3333", True)
    assert {s.fill for s in window.document.artwork.shapes} >= {"#bb3333"}
    several.colour.setText("rust")
    several.colour.editingFinished.emit()
    assert "like #a33e2e" in window.gauge.message.text()
    assert window.document.presentation.results.separation.inks[3].colour == "#bb3333"

    several.solo.click()
    assert window.canvas.showing is Showing.SOLO
    assert window.canvas.solo == 3
    window.show_as(Showing.ERROR)
    assert not several.solo.isChecked()
    window.grab()

    several.set_count(2)
    wait_until_done(window)
    assert "Sail" in colours(window)
    several.set_count(None)
    wait_until_done(window)
    count = len(colours(window))
    assert (count, "Sail" in colours(window)) == (4, True)
    QTest.mouseClick(several.sample_button, Qt.MouseButton.LeftButton)
    click(window, 103, 140)  # where black and red meet
    assert len(colours(window)) == count + 1
    assert window.tool == "point"
    count += 1
    several.list.dropped.emit(0, [count - 1])
    wait_until_done(window)
    assert len(colours(window)) == count - 1


def test_kinds_mixings_and_limits_change_how_ink_is_found(badge: MainWindow) -> None:
    window, panel = badge, badge.inks_panel
    press(panel.several.mixing[Mixing.LINEAR])
    wait_until_done(window)
    assert window.document.presentation.results.separation.linear
    press(panel.kinds[InkKind.GREYS])
    wait_until_done(window)
    assert len(colours(window)) == 4
    press(panel.kinds[InkKind.ONE])
    wait_until_done(window)
    assert isinstance(window.document.presentation.results.separation, OneInk)
    whole = window.document.presentation.results.separation.coverage[0]
    press(panel.one.ways["limits"])
    panel.one.light.changed.emit(200.0)
    panel.one.dark.changed.emit(120.0)
    wait_until_done(window)
    assert 0.1 < window.document.presentation.results.separation.coverage[0] < whole
    press(panel.one.ways["local"])
    panel.one.window.changed.emit(3.0)
    wait_until_done(window)
    assert key_figure(Step.INKS, window.document).endswith("local")
    press(panel.kinds[InkKind.SEVERAL])
    wait_until_done(window)
    assert isinstance(window.document.presentation.results.separation, SeveralInks)


def test_inks_are_loaded_from_a_list_and_a_wrong_line_loses_nothing(badge: MainWindow, tmp_path: Path) -> None:
    (tmp_path / "wrong.txt").write_text("#ffffff\nsail\n")
    before = badge.document.state
    badge.files.load_inks_from(tmp_path / "wrong.txt")
    assert "Line 2 of “wrong.txt”" in badge.gauge.message.text()
    assert badge.document.state is before
    (tmp_path / "three.txt").write_text("#ffffff Sheet\n#c9a24b Straw\n#23262b Ink\n")
    badge.files.load_inks_from(tmp_path / "three.txt")
    wait_until_done(badge)
    assert colours(badge) == ["Sheet", "Straw", "Ink"]
    assert badge.document.presentation.results.separation.inks[0].role is Role.PAPER


def test_nib_pour_and_bridge_work_on_inks_in_this_step_by_the_usual_keys(badge: MainWindow, drag) -> None:
    window = badge
    window.inks_panel.several.list.select(3)
    QTest.keyClick(window, Qt.Key.Key_N)
    assert (window.step, window.tool) == (Step.INKS, "ink-nib")
    drag(window.canvas, (20, 190), (60, 190))
    wait_until_done(window)
    assert window.document.presentation.results.separation.own[190, 40] == 3
    QTest.keyClick(window, Qt.Key.Key_P)
    click(window, 5, 5)
    assert window.document.presentation.results.separation.own[5, 5] == 3
    QTest.keyClick(window, Qt.Key.Key_B)
    assert window.tool == "bridge"
    drag(window.canvas, (100, 12), (100, 16))
    wait_until_done(window)
    assert len(window.document.state.settings.inks.touch_ups) == 3
    window.inks_panel.touch.list.setCurrentRow(0)
    press(window.inks_panel.touch.remove)
    wait_until_done(window)
    assert (
        window.document.presentation.results.separation.own[190, 40] != 3
        or len(window.document.state.settings.inks.touch_ups) == 2
    )
