"""Opening, saving and recovery, with the dialogs answered for the user."""

from __future__ import annotations

import base64
from dataclasses import replace
from pathlib import Path

import pytest
from lxml import etree
from PySide6.QtCore import QSettings
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFileDialog, QMessageBox

from sobercrow.core.artwork.choice import Choice
from sobercrow.core.formats.recipes import write_recipe
from sobercrow.core.formats.sets import SETS, write_set
from sobercrow.core.settings.recipes import RECIPES
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop import files
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow

Buttons = QMessageBox.StandardButton


@pytest.fixture
def names(monkeypatch, tmp_path: Path):
    """Answer the next file dialog with a name in the test's folder; None cancels."""

    def answer(name: str | None) -> Path:
        path = tmp_path / (name or "")
        code = QFileDialog.DialogCode.Accepted if name else QFileDialog.DialogCode.Rejected
        monkeypatch.setattr(QFileDialog, "exec", lambda _self: code)
        monkeypatch.setattr(QFileDialog, "selectedFiles", lambda _self: [str(path)])
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a: (str(path) if name else "", ""))
        return path

    return answer


def delete_a_shape(window: MainWindow) -> None:
    window.use_tool("choose")
    window.document.choose(Choice(shapes=frozenset({0})))
    window.menus.actions["delete"].trigger()


def test_a_picture_is_opened_by_the_dialog(empty_window: MainWindow, names, tmp_path: Path) -> None:
    names(None)
    empty_window.menus.actions["open"].trigger()
    assert empty_window.document.source is None
    path = names("kite.png")
    path.write_bytes((PICTURES / "kite-drawing.png").read_bytes())
    empty_window.menus.actions["open"].trigger()
    wait_until_done(empty_window)
    assert empty_window.document.source.name == "kite.png"
    assert empty_window.windowTitle().startswith("kite.png")


def test_saving_again_asks_for_no_name(window: MainWindow, names) -> None:
    path = names("a.sobercrow")
    delete_a_shape(window)
    assert window.windowTitle().startswith("*")
    window.menus.actions["save"].trigger()
    first = path.read_bytes()
    assert window.windowTitle().startswith("a.sobercrow")
    names(None)  # a dialog would now be cancelled
    delete_a_shape(window)
    window.menus.actions["save"].trigger()
    assert path.read_bytes() != first
    assert not window.document.is_changed


def test_recipes_and_sets_are_taken_by_their_files(
    window: MainWindow, empty_window: MainWindow, tmp_path: Path
) -> None:
    recipe, one = tmp_path / "Woodcut.recipe", tmp_path / "order.sobercrow-set"
    write_recipe(replace(RECIPES[0], name="Woodcut of mine"), recipe)
    write_set(replace(SETS[0], name="For the printer"), one)
    window.files.open_path(recipe)
    assert window.trace_panel.recipes.chosen.name == "Woodcut of mine"
    window.files.open_path(one)
    assert window.step is Step.HAND_OVER
    assert [own.name for own in window.document.state.hand_over.sets] == ["For the printer"]
    empty_window.files.open_path(one)
    assert "Open a picture first" in empty_window.gauge.message.text()
    one.write_text("{}")
    window.files.open_path(one)
    assert "is no hand-over set" in window.gauge.message.text()
    assert len(window.document.state.hand_over.sets) == 1


def test_a_cancelled_or_impossible_save_changes_nothing(window: MainWindow, names, tmp_path: Path) -> None:
    delete_a_shape(window)
    names(None)
    assert not window.files.save()
    names("gone/a.sobercrow")
    assert not window.files.save()
    assert "folder does not exist" in window.gauge.message.text()
    assert window.document.is_changed
    names("gone/a.svg")
    wait_until_done(window)
    window.files.writing.save()
    wait_until_done(window)
    assert "folder does not exist" in window.gauge.message.text()
    assert list(tmp_path.rglob("*.svg")) == []


def test_saving_svg_waits_for_the_full_result(window: MainWindow, names) -> None:
    path = names("a.svg")
    window.panels[window.step].detail.changed.emit(15.0)
    window.files.writing.save()
    assert "still being worked out" in window.gauge.message.text()
    assert not path.exists()
    wait_until_done(window)
    window.files.writing.save()
    wait_until_done(window)
    assert len(etree.parse(path).findall(".//{*}path")) == len(window.document.artwork.shapes)


@pytest.mark.parametrize(("answer", "leaves"), [(Buttons.Cancel, False), (Buttons.Discard, True), (Buttons.Save, True)])
def test_closing_asks_about_unsaved_changes(own_window: MainWindow, names, monkeypatch, answer, leaves: bool) -> None:
    path = names("kept.sobercrow")
    delete_a_shape(own_window)
    monkeypatch.setattr(files, "ask", lambda *_a: answer)
    assert own_window.close() is leaves
    assert path.exists() is (answer == Buttons.Save)


def test_an_empty_clipboard_is_told(empty_window: MainWindow) -> None:
    QGuiApplication.clipboard().clear()
    empty_window.menus.actions["paste"].trigger()
    assert "no picture on the clipboard" in empty_window.gauge.message.text()
    empty_window.gauge.message.clear()
    empty_window.files.take(None, "the clipboard")  # what some platforms have for an empty one
    assert "no picture on the clipboard" in empty_window.gauge.message.text()


def test_files_that_are_gone_are_not_offered_again(empty_window: MainWindow, tmp_path: Path) -> None:
    here = tmp_path / "here.png"
    here.write_bytes(b"x")
    for path in (tmp_path / "gone.png", here, here):
        empty_window.files.remember(path)
    assert [p.name for p in empty_window.files.recent()] == ["here.png", "gone.png"]
    empty_window.start.show_recent(empty_window.files.recent())
    links = [b.text() for b in empty_window.start.findChildren(type(empty_window.pill.left)) if "here.png" in b.text()]
    assert len(links) == 1


def test_preferences_outlive_the_window(tmp_path: Path, qtbot) -> None:
    file = str(tmp_path / "p.ini")
    first = MainWindow(QSettings(file, QSettings.Format.IniFormat))
    first.files.remember(PICTURES / "tints.png")
    first.preferences.sync()
    first.end_work()
    second = MainWindow(QSettings(file, QSettings.Format.IniFormat))
    assert second.files.recent() == [PICTURES / "tints.png"]
    second.end_work()


def test_an_svg_that_holds_a_picture_is_brought_in_and_one_that_is_drawn_is_placed(
    empty_window: MainWindow, tmp_path: Path
) -> None:
    window, head = empty_window, '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40">'
    data = base64.b64encode((PICTURES / "tints.png").read_bytes()).decode()
    (tmp_path / "held.svg").write_text(f'{head}<image href="data:image/png;base64,{data}"/></svg>')
    (tmp_path / "drawn.svg").write_text(f'{head}<path d="M0 0H30V30Z"/></svg>')
    window.files.open_path(tmp_path / "held.svg")
    pause(0.2)
    wait_until_done(window)
    assert window.document.source is not None
    assert window.document.source.name == "held.png"
    shapes = len(window.document.artwork.shapes)
    window.files.open_path(tmp_path / "drawn.svg")
    pause(0.5)
    wait_until_done(window)
    assert len(window.document.artwork.shapes) == shapes + 1
    assert window.document.source.name == "held.png"
