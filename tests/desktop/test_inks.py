from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from desk import at
from lxml import etree
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from sobercrow.core.inks.separation import OneInk, SeveralInks
from sobercrow.core.settings import InkKind, InkTool, Mixing, Role, TouchForm
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.steps import Step, key_figure
from sobercrow.desktop.window import MainWindow


@pytest.fixture
def badge(opened) -> MainWindow:
    window = opened(PICTURES / "badge-200.jpg")
    settings = window.document.state.settings
    freely = replace(settings, tracing=replace(settings.tracing, true_shapes=False))
    window.document.change_settings("Draw freely", freely)  # it is about inks here
    window.go_to(Step.INKS)
    window.canvas.fit()
    pause(0.1)
    return window


def click(window: MainWindow, x: float, y: float) -> None:
    none = Qt.KeyboardModifier.NoModifier
    QTest.mouseClick(window.canvas, Qt.MouseButton.LeftButton, none, at(window, x, y))
    wait_until_done(window)


def press(button) -> None:
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def click_tick(tick) -> None:
    QTest.mouseClick(tick, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(8, tick.height() // 2))


def drag_ring(window: MainWindow, ring: list[tuple[float, float]]) -> None:
    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QTest.mousePress(window.canvas, left, none, at(window, *ring[0]))
    for place in ring[1:]:
        QTest.mouseMove(window.canvas, at(window, *place))
    QTest.mouseRelease(window.canvas, left, none, at(window, *ring[0]))
    wait_until_done(window)


def colours(window: MainWindow) -> list[str]:
    return [ink.name for ink in window.document.presentation.results.separation.inks]


def test_from_the_small_dirty_badge_to_an_svg_with_as_many_colours_as_inks(badge: MainWindow, tmp_path: Path) -> None:
    window, document, panel = badge, badge.document, badge.inks_panel
    assert colours(window) == ["White", "Yellow", "Black", "Red"]
    assert key_figure(Step.INKS, window.document) == "3 inks and paper"

    # compressed it has more colours than inks: five are asked for on the curve, and the one too many is merged
    # with what it came from
    document.take_clean_up("Leave it", replace(document.state.settings.clean_up, compression=False))
    wait_until_done(window)
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

    # a red rivet is clicked away, and an area is ringed in which there is to be no paper
    before = document.presentation.results.separation.own.copy()
    assert before[int(200 * 0.86), int(200 * 0.37)] == 3
    window.use_tool("spot")
    click(window, 74, 172)
    now = document.presentation.results.separation.own
    assert now[172, 74] == 1
    window.use_tool("ring")
    ring = [(88, 34), (60, 44), (66, 64), (100, 52), (88, 34)]
    drag_ring(window, ring)
    card, undone = window.ring_card, document.undo_name
    assert card.isVisible()
    assert len(card.ticks) >= 2
    paper = next(row for ink, row in card.ticks if ink.role is Role.PAPER)
    white = next(k for k, ink in enumerate(document.presentation.results.separation.inks) if ink.role is Role.PAPER)
    middle = np.s_[45:53, 76:84]
    before = document.presentation.results.separation.own.copy()
    for expected in (False, True, False):  # unticked it goes at once, ticked again it is back
        click_tick(paper)
        wait_until_done(window)
        now = document.presentation.results.separation.own
        assert np.array_equal(now, before) == expected
    assert (before[middle] == white).any()
    assert not (now[middle] == white).any()
    for _, row in card.ticks:  # one has to stay
        if row.isChecked():
            click_tick(row)
    wait_until_done(window)
    assert sum(row.isChecked() for _, row in card.ticks) == 1 == len(document.state.settings.inks.touch_ups[-1].inks)
    QTest.keyClick(window.canvas, Qt.Key.Key_Escape)  # all of it is one change, taken back
    wait_until_done(window)
    assert card.isHidden()
    assert (document.undo_name, "ring" in window.canvas.marks) == (undone, False)
    assert np.array_equal(document.presentation.results.separation.own, before)

    drag_ring(window, ring)
    click_tick(next(row for ink, row in card.ticks if ink.role is Role.PAPER))
    wait_until_done(window)
    QTest.keyClick(card, Qt.Key.Key_Return)
    assert card.isHidden()
    assert document.undo_name == "Ring an area"
    assert [t.tool for t in document.state.settings.inks.touch_ups] == [InkTool.SPOT, InkTool.RING]
    assert panel.touch.list.count() == 2

    window.files.writing.save_to(tmp_path / "badge.svg")
    wait_until_done(window)
    fills = {p.get("fill") for p in etree.parse(tmp_path / "badge.svg").getroot().iter() if p.get("fill")}
    drawn = [ink.colour for ink in document.presentation.results.separation.inks if ink.role is Role.INK]
    assert fills == set(drawn)
    assert len(fills) == 3


def test_specks_are_hatched_with_their_count_before_they_go(badge: MainWindow) -> None:
    window, panel = badge, badge.inks_panel.specks
    badge.inks_panel.folds[panel].head.setChecked(True)
    own = window.document.presentation.results.separation.own.copy()
    panel.specks.changed.emit(120.0)
    wait_until_done(window)
    assert min(len(window.canvas.marks["specks"].outlines), panel.found.specks) > 4
    assert f"{panel.found.specks} specks under 120 px²" in panel.told.text()
    assert np.array_equal(window.document.presentation.results.separation.own, own)
    press(panel.clear)
    wait_until_done(window)
    assert "specks" not in window.canvas.marks
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


def test_a_threshold_is_dragged_on_the_tones_and_limits_keep_their_order(badge: MainWindow) -> None:
    window, one = badge, badge.inks_panel.one
    press(badge.inks_panel.kinds[InkKind.ONE])
    wait_until_done(window)
    automatic = window.document.presentation.results.separation.threshold
    histogram, none = one.histogram, Qt.KeyboardModifier.NoModifier
    start, end = (QPoint(round(histogram._x(tone)), 60) for tone in (automatic, 60))
    QTest.mousePress(histogram, Qt.MouseButton.LeftButton, none, start)
    QTest.mouseMove(histogram, end)
    QTest.mouseRelease(histogram, Qt.MouseButton.LeftButton, none, end)
    wait_until_done(window)
    assert window.document.state.settings.inks.threshold == pytest.approx(60, abs=1)
    assert window.document.undo_name == "Move threshold"
    covered = window.document.presentation.results.separation.coverage[0]
    assert f"{100 * covered:.1f} %" in one.coverage.text()
    one.threshold.reset.emit()
    wait_until_done(window)
    assert window.document.presentation.results.separation.threshold == automatic
    press(one.ways["limits"])
    wait_until_done(window)
    one._dragged("light_limit", 10.0)
    wait_until_done(window)
    one._dragged("dark_limit", 200.0)
    wait_until_done(window)
    inks = window.document.state.settings.inks
    assert (inks.dark_limit, inks.light_limit) == (10, 10)


def test_repairs_are_hidden_shown_and_drawn_as_boxes_lines_and_polygons(badge: MainWindow, drag) -> None:
    window, touch = badge, badge.inks_panel.touch
    whole = window.document.presentation.results.separation.own.copy()
    badge.inks_panel.several.list.select(3)
    press(touch.tools[InkTool.NIB])
    press(touch.forms[TouchForm.BOX])
    drag(window.canvas, (4, 4), (24, 14))
    wait_until_done(window)
    assert (window.document.presentation.results.separation.own[5:13, 6:23] == 3).all()
    press(touch.forms[TouchForm.LINE])
    touch.width.changed.emit(5.0)
    drag(window.canvas, (176, 5), (176, 30))
    wait_until_done(window)
    assert (window.document.presentation.results.separation.own[8:28, 175:177] == 3).all()
    press(touch.forms[TouchForm.POLYGON])
    for x, y in ((4, 190), (20, 190), (12, 176)):
        click(window, x, y)
    QTest.keyClick(window.canvas, Qt.Key.Key_Return)
    wait_until_done(window)
    assert window.document.presentation.results.separation.own[186, 12] == 3
    assert touch.list.count() == 3
    for row in range(3):
        touch.list.item(row).setCheckState(Qt.CheckState.Unchecked)
        wait_until_done(window)
    assert np.array_equal(window.document.presentation.results.separation.own, whole)
    assert [t.shown for t in window.document.state.settings.inks.touch_ups] == [False] * 3


def test_pouring_everywhere_and_paper_only_at_the_edge(badge: MainWindow) -> None:
    window, panel = badge, badge.inks_panel
    panel.several.at_edge.click()
    wait_until_done(window)
    inside = [ink for ink in window.document.presentation.results.separation.inks if ink.name.endswith("inside")]
    panel.several.at_edge.click()
    wait_until_done(window)
    panel.several.list.select(2)
    press(panel.touch.tools[InkTool.POUR])
    panel.touch.everywhere.click()
    before = window.document.presentation.results.separation.own
    red = before == 3
    y, x = np.argwhere(red)[len(np.argwhere(red)) // 2]
    click(window, float(x) + 0.5, float(y) + 0.5)
    after = window.document.presentation.results.separation.own
    assert not (after == 3).any()
    assert (after[red] == 2).all()
    assert len(inside) <= 1
    window.document.undo()
    wait_until_done(window)
    assert np.array_equal(window.document.presentation.results.separation.own, before)


def test_inks_saved_are_loaded_again_with_names_roles_and_locks(badge: MainWindow, tmp_path: Path, monkeypatch) -> None:
    several = badge.inks_panel.several
    several.list.select(1)
    several.name.setText("Straw")
    several.name.editingFinished.emit()
    several.lock.click()
    several.list.select(3)
    press(several.roles[Role.LEFT_OUT])
    wait_until_done(badge)
    inks = badge.document.presentation.results.separation.inks
    monkeypatch.setattr(badge.files, "_ask_name", lambda *_words: tmp_path / "badge.json")
    press(several.save)
    several.set_count(2)
    wait_until_done(badge)
    badge.files.load_inks_from(tmp_path / "badge.json")
    wait_until_done(badge)
    again = badge.document.presentation.results.separation.inks
    assert [(i.name, i.colour, i.role, i.locked) for i in again] == [(i.name, i.colour, i.role, i.locked) for i in inks]
    assert "Red" not in [layer.name for layer in badge.document.artwork.layers]


def test_inks_chosen_on_the_canvas_are_removed_and_edits_without_sense_are_told(badge: MainWindow) -> None:
    window, several = badge, badge.inks_panel.several
    window.use_tool("point")
    click(window, 100, 9.5)
    QTest.mouseClick(window.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, at(window, 74, 172))
    assert several.list.rows() == [2, 3]
    several.merge(2, [2])
    assert "cannot be merged with itself" in window.gauge.message.text()
    press(several.remove_button)
    wait_until_done(window)
    assert colours(window) == ["White", "Yellow", "Red"]
    for row in range(3):
        several.list.select(row, also=row > 0)
    press(several.remove_button)
    assert "At least one ink has to stay" in window.gauge.message.text()
    assert colours(window) == ["White", "Yellow", "Red"]
