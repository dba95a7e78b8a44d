"""Find: typed into, done by Enter, or led to where it is."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from sobercrow.core.lookup import Lookup
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import wait_until_done
from sobercrow.desktop.find.entries import found_in
from sobercrow.desktop.find.find_list import FOUND, FindList
from sobercrow.desktop.find.pointing import PointingRing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow

Open = Callable[[Path], MainWindow]


def asked(window: MainWindow, typed: str) -> FindList:
    """Press the key and type."""
    window.activateWindow()
    QTest.qWait(20)
    QTest.keyClick(window, Qt.Key.Key_F3)
    shown = next(one for one in window.findChildren(FindList) if one.isVisible())
    QTest.keyClicks(shown.line, typed)
    return shown


@pytest.fixture
def window(opened: Open) -> MainWindow:
    return opened(PICTURES / "kite-drawing.png")


def test_a_command_is_done_by_enter_and_keys_walk_the_list(window: MainWindow) -> None:
    shown = asked(window, "rotate")
    titles = [shown.list.item(k).data(FOUND).entry.title for k in range(shown.list.count())]
    for _ in range(titles.index("Turn right")):
        QTest.keyClick(shown.line, Qt.Key.Key_Down)
    QTest.keyClick(shown.line, Qt.Key.Key_Return)
    wait_until_done(window)
    assert window.document.state.settings.clean_up.quarter_turns == 1
    assert not window.findChildren(FindList) or not window.findChildren(FindList)[0].isVisible()


def test_a_setting_is_led_to_unfolded_and_ringed(window: MainWindow) -> None:
    part = window.clean_panel.dirt
    assert not window.clean_panel.folds[part].head.isChecked()
    shown = asked(window, "denoise")
    QTest.keyClick(shown.line, Qt.Key.Key_Return)
    QTest.qWait(300)
    assert window.step is Step.CLEAN_UP
    assert window.clean_panel.folds[part].head.isChecked()
    box = part.fields["smooth"].box
    (ring,) = (one for one in window.clean_panel.column.findChildren(PointingRing) if one.control is box)
    assert ring.geometry().contains(box.mapTo(window.clean_panel.column, box.rect().center()))
    assert part.fields["smooth"].box.hasFocus() or not window.isActiveWindow()


def test_a_recipe_is_chosen_and_what_cannot_be_done_says_so(window: MainWindow) -> None:
    shown = asked(window, "vinyl")
    QTest.keyClick(shown.line, Qt.Key.Key_Return)
    assert window.trace_panel.recipes.chosen.name == "Cut-out"
    shown = asked(window, "ungroup")
    QTest.keyClick(shown.line, Qt.Key.Key_Return)
    assert "cannot be done now" in shown.note.text()
    shown.line.setText("zzzz")
    assert shown.list.count() == 0
    assert "Nothing fits" in shown.note.text()
    QTest.keyClick(shown.line, Qt.Key.Key_Escape)


def test_every_command_and_every_control_with_a_name_is_there_once(window: MainWindow) -> None:
    found = found_in(window)
    told = [(one.entry.title.casefold(), one.entry.where, one.entry.help) for one in found]
    assert len(told) == len(set(told))
    titles = {one.entry.title for one in found if not one.entry.where.startswith("Guide")}
    assert {command.title for command in window.menus.commands.values()} - titles == {"Find"}
    assert {"Detail", "Keep apart", "Black point", "Runs under by", "Pen lettering"} <= titles
    assert all(Lookup([one.entry for one in found]).best(title) for title in titles)
