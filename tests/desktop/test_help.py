"""Help: the key leads to the passage about what one is on, and the guide can be read and searched in its window."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt, QUrl
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from sobercrow.core.guide import read_guide
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause
from sobercrow.desktop.find.entries import found_in
from sobercrow.desktop.help.asking import trail_of
from sobercrow.desktop.help.dialog import HelpedDialog
from sobercrow.desktop.help.guide_window import GuideWindow, show_guide
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow

Open = Callable[[Path], MainWindow]


@pytest.fixture
def window(opened: Open) -> MainWindow:
    return opened(PICTURES / "badge-200.jpg")


def shown_by(window: QWidget) -> GuideWindow:
    return next(one for one in window.findChildren(GuideWindow) if one.isVisible())


def test_the_guide_names_everything_that_can_be_found(window: MainWindow) -> None:
    guide, unnamed = read_guide(), []
    for one in found_in(window):
        title = one.entry.title.casefold().partition(", like ")[0]
        passage = guide.about((*one.entry.where.split(" › "), one.entry.title))
        if title not in passage.names and title != passage.title.casefold():
            unnamed.append((one.entry.where, one.entry.title))
    assert unnamed == []


def test_keys_told_in_the_guide_are_those_of_the_commands(window: MainWindow) -> None:
    commands = window.menus.commands.values()
    known = {key for command in commands for key in command.keys}
    by_title: dict[str, set[str]] = {}
    for command in commands:
        by_title.setdefault(command.title, set()).update(command.keys)
    told = 0
    for text in read_guide().pages.values():
        for name, keys in re.findall(r"\*([^*]+)\* \((\S+?)[),:]", text):
            if re.fullmatch(r"(Ctrl\+|Shift\+|Alt\+)*(F\d+|[A-Z]|Tab|Home|Del|Esc|[.,\[\]+-])", keys):
                told += 1
                own = by_title.get(" ".join(name.split()))
                assert keys in (own or known), (name, keys)
    assert told > 50


def test_the_key_leads_to_what_has_the_focus_and_then_to_the_tool_in_hand(window: MainWindow) -> None:
    window.go_to(Step.CLEAN_UP)
    control = window.clean_panel.light.fields["stains"]
    window.clean_panel.folds[window.clean_panel.light].head.setChecked(True)
    control.box.setFocus()
    pause(0.1)
    assert trail_of(window, control.box) == ("Clean up", "Light", "Lift stains")
    QTest.keyClick(window, Qt.Key.Key_F1)
    guide = shown_by(window)
    assert guide.shown is not None
    assert guide.shown.title == "Light"
    window.use_tool("trail")
    window.canvas.setFocus()
    QTest.keyClick(window, Qt.Key.Key_F1)
    assert guide.shown.title == "Trail"
    (marked,) = guide.text.extraSelections()
    heading = marked.cursor  # type: ignore[attr-defined]
    assert heading.block().text() == "Trail"
    assert guide.text.viewport().rect().contains(guide.text.cursorRect(heading))
    guide.close()


@pytest.mark.parametrize(
    ("part", "title"),
    [
        (lambda w: w.rail.cards[Step.INKS], "Inks"),
        (lambda w: w.view_bar, "Views"),
        (lambda w: w.pill, "Seam and peek"),
        (lambda w: w.sheet, "Proofs"),
        (lambda w: w.tool_bar.buttons["bend"], "Bend"),
    ],
)
def test_parts_of_the_window_have_a_passage_each(
    window: MainWindow, part: Callable[[MainWindow], QWidget], title: str
) -> None:
    window.go_to(Step.REFINE)
    assert read_guide().about(trail_of(window, part(window))).title == title


def test_the_guide_is_searched_followed_and_gone_back_in(window: MainWindow) -> None:
    guide = show_guide(window, ())
    pictures = [guide.list.item(k).text().strip() for k in range(guide.list.count())]
    assert "Shirt in five colours" in pictures
    assert "Reference" in pictures
    QTest.keyClicks(guide.field, "overcut")
    assert guide.shown is not None
    assert guide.shown.title == "Plotter"
    guide.text.anchorClicked.emit(QUrl("icon.md"))
    assert guide.shown.title == "Icon"
    assert guide.text.document().toPlainText().startswith("Icon")
    guide.back.click()
    assert guide.shown.title == "Plotter"
    guide.field.setText("qqqq")
    assert guide.list.count() == 0
    assert "Nothing fits" in guide.note.text()
    guide.close()


def test_a_dialog_opens_the_guide_over_itself(window: MainWindow) -> None:
    dialog = HelpedDialog(window, "Scan")
    dialog.open()
    pause(0.1)
    QTest.keyClick(dialog, Qt.Key.Key_F1)
    guide = shown_by(dialog)
    assert guide.shown is not None
    assert (guide.shown.page, guide.shown.title) == ("bring-in", "Scan")
    dialog.close()
