"""The small parts of the Hand over step: forms made of settings, the file dragged out, sets of one's own, faults."""

from __future__ import annotations

import errno
import os
from dataclasses import dataclass, field
from enum import StrEnum
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QDrag
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from sobercrow.core.artwork.choice import Choice
from sobercrow.core.formats import files
from sobercrow.core.formats.sets import SETS, read_set
from sobercrow.core.handover.page import Lie
from sobercrow.core.inspect.looked import Spot
from sobercrow.core.settings import Checked, Meaning, setting
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop import writing
from sobercrow.desktop.dialogs import Buttons
from sobercrow.desktop.page_marks import BladeMark, FindingMarks, PageMark, rgba_image
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.settings_form import SettingsForm
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow
from sobercrow.stand_ins.cutter import SimulatedCutter

LEFT = Qt.MouseButton.LeftButton


class Kind(StrEnum):
    ONE = "one"
    OTHER = "other"


@dataclass(frozen=True, slots=True)
class Example(Checked):
    size: float = setting(3.0, Meaning("Size", "How large.", 1.0, 9.0, "mm", 0.5, 1))
    on: bool = field(default=True, metadata={"label": "On", "help": "Or off."})
    kind: Kind = field(default=Kind.ONE, metadata={"label": "Kind", "help": "Which."})
    behind: str = field(default="none", metadata={"label": "Behind", "help": "None or a colour."})
    title: str = field(default="", metadata={"label": "Title", "help": "Any text."})
    hidden: int = 7


def test_a_form_has_a_control_for_every_field_with_a_meaning(qtbot) -> None:
    held = [Example()]
    form = SettingsForm(lambda: held[-1], held.append)
    qtbot.addWidget(form)
    form.show()
    form.fields["size"].box.setValue(4.5)
    form.ticks["on"].setChecked(False)
    form.lists["kind"].activated.emit(1)
    form.texts["title"].setText(" Kite ")
    form.texts["title"].editingFinished.emit()
    form.texts["behind"].setText("#F2D096")
    form.texts["behind"].editingFinished.emit()
    assert held[-1] == Example(4.5, False, Kind.OTHER, "#f2d096", "Kite")
    form.texts["behind"].setText("nonsense")
    form.texts["behind"].editingFinished.emit()
    assert (held[-1].behind, form.texts["behind"].text()) == ("#f2d096", "#f2d096")
    form.texts["behind"].setText("none")
    form.texts["behind"].editingFinished.emit()
    assert held[-1].behind == "none"
    form.fields["size"].reset.emit()
    assert held[-1].size == 3.0
    held.append(Example(8.0, True, Kind.ONE, "#000000", "New"))
    form.refresh()
    assert form.fields["size"].box.value() == 8.0
    assert (form.ticks["on"].isChecked(), form.lists["kind"].currentText()) == (True, "one")
    assert "hidden" not in form.fields


@pytest.fixture
def ready(refining: MainWindow) -> MainWindow:
    """A window with artwork made for the purpose, in Hand over, its file made."""
    window = refining
    window.go_to(Step.HAND_OVER)
    wait_until_done(window)
    for _ in range(500):
        if window.hand_over_panel.format.present is not None:
            break
        pause(0.02)
    return window


def test_the_thumbnail_drags_the_file_itself_out_of_the_window(ready: MainWindow, monkeypatch) -> None:
    part, dragged = ready.hand_over_panel.format, []
    monkeypatch.setattr(QDrag, "exec", lambda self, *_: dragged.append(self.mimeData().urls()[0].toLocalFile()))
    QTest.mousePress(part.thumb, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(10, 20))
    QTest.mouseMove(part.thumb, QPoint(40, 20))
    assert len(dragged) == 1
    assert Path(dragged[0]).read_bytes() == part.present.data
    assert Path(dragged[0]).name == "sheet.svg"
    assert part.thumb.pixmap().width() > 0
    assert "bytes" in part.told.text() or "kB" in part.told.text()


def test_a_set_of_ones_own_is_made_named_shared_and_deleted(ready: MainWindow, tmp_path: Path, monkeypatch) -> None:
    panel, document = ready.hand_over_panel.sets, ready.document
    panel.add.click()
    assert "Type a name" in ready.gauge.message.text()
    panel.name.setText("for print")
    panel.add.click()
    assert "comes with Sober Crow" in ready.gauge.message.text()
    panel.name.setText("Workshop")
    for _ in range(2):
        panel.add.click()
    assert [part.name for part in panel.chosen.parts] == ["svg", "svg-2"]
    panel.page.setChecked(True)
    panel.pattern.setText("{name} {part}")
    panel.pattern.editingFinished.emit()
    panel.pattern.setText("{nobody}")
    panel.pattern.editingFinished.emit()
    assert "pattern of names" in ready.gauge.message.text()
    one = panel.chosen
    assert (one.pattern, one.client_page) == ("{name} {part}", True)
    assert panel.list.count() == 3
    monkeypatch.setattr(ready.files.writing, "_ask_name", lambda *_: tmp_path / "w.sobercrow-set")
    panel.share.click()
    assert read_set(tmp_path / "w.sobercrow-set") == one
    panel.drop.click()
    assert document.state.hand_over.sets == ()
    assert not panel.drop.isEnabled()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "w.sobercrow-set"), ""))
    panel.read.click()
    assert panel.chosen == one
    (tmp_path / "w.sobercrow-set").write_text("{}")
    panel.read.click()
    assert "no hand-over set" in ready.gauge.message.text()


def test_a_full_disk_leaves_the_files_of_a_set_as_they_were(ready: MainWindow, tmp_path: Path, monkeypatch) -> None:
    folder = tmp_path / "set"
    folder.mkdir()
    old = {folder / f"sheet-{name}": b"old" for name in ("web.svg", "small.png", "large.webp")}
    for path, data in old.items():
        path.write_bytes(data)
    monkeypatch.setattr(writing, "ask", lambda *_: Buttons.Yes)
    ready._autosave.stop()  # it would tell of the disk as well
    for fault in (errno.ENOSPC, errno.EROFS):

        def refuse(*_: object, fault: int = fault) -> None:
            raise OSError(fault, os.strerror(fault))

        with monkeypatch.context() as patched:
            patched.setattr(files.os, "fsync", refuse)
            ready.files.writing.save_set_to(next(one for one in SETS if one.name == "For the web"), folder)
            for _ in range(3):
                wait_until_done(ready)
                pause(0.05)
        assert "could not be saved" in ready.gauge.message.text()
        assert {path: path.read_bytes() for path in folder.iterdir()} == old
        ready.gauge.say("", warning=False)


def test_printing_colours_are_typed_by_ink_and_what_the_profile_gives_stands_beside(
    ready: MainWindow, tmp_path: Path, monkeypatch
) -> None:
    panel = ready.hand_over_panel.format
    panel.choose["pdf"].click()
    part = panel.printing
    part.on.click()
    pause(1.0)
    (colour, row), *_ = part.rows.items()
    through = [float(number) for number in row.placeholderText().split()]
    assert len(through) == 4
    assert sum(through) > 20.0
    QTest.keyClicks(row, "Kite black, 0 0 0 100")
    QTest.keyClick(row, Qt.Key.Key_Return)
    part.over.click()
    printing = ready.document.state.hand_over.printing
    assert printing is not None
    assert (printing.ink_of(colour).spot, printing.overprint_black) == ("Kite black", True)
    row.setText("1 2 3 400")
    row.editingFinished.emit()
    assert row.text() == "Kite black, 0 0 0 100"
    assert "100 %" in ready.gauge.message.text()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path), ""))
    part.choose.click()
    assert ready.document.state.hand_over.printing == printing
    ready.files.writing.save_to(tmp_path / "kite.pdf")
    wait_until_done(ready)
    pause(0.5)
    assert b"/GTS_PDFX" in (tmp_path / "kite.pdf").read_bytes()
    panel.choose["svg"].click()
    assert not part.group.isVisibleTo(panel.group)


def test_the_cutter_is_stopped_and_begun_again(ready: MainWindow, monkeypatch) -> None:
    part = ready.hand_over_panel.cutter
    monkeypatch.setattr(part, "_cutter", SimulatedCutter(hurry=20.0))
    part.cut()
    for _ in range(300):
        pause(0.02)
        if "blade" in ready.canvas.marks:
            break
    assert part.stop.isEnabled()
    part.stop.click()
    assert "blade is up" in part.told.text()
    pause(0.2)
    assert part.report is None
    assert "blade" not in ready.canvas.marks
    assert part.start.isEnabled()


def test_marks_are_painted_where_they_belong(ready: MainWindow) -> None:
    canvas = ready.canvas
    ready.show_as(Showing.OUTLINE)
    canvas.set_mark("findings", None)
    x, y = canvas.camera.x, canvas.camera.y
    lie = Lie(-x, -y, 60.0, 40.0, 300.0)
    spot = Spot(x + 5.0, y + 5.0, Choice(), 0.21, np.array([[(x, y + 30), (x + 30, y + 30)]]))
    marks = {
        "page": (PageMark(lie, 0.5, "5 × 3 mm"), "page"),
        "findings": (FindingMarks([spot], (0.0, 0.0), spot), "rust"),
        "blade": (BladeMark([np.array([(x, y), (x + 20, y + 9)])], 0, (x + 20.0, y + 9.0), True), "blade"),
    }
    plain = canvas.grab().toImage()
    for name, (mark, _) in marks.items():
        canvas.set_mark(name, mark)
        changed = canvas.grab().toImage()
        canvas.set_mark(name, None)
        places = [
            (i, j)
            for i in range(0, plain.width(), 2)
            for j in range(0, plain.height(), 2)
            if plain.pixel(i, j) != changed.pixel(i, j)
        ]
        assert places, name
        at = canvas.camera.to_screen(x, y, canvas.width(), canvas.height())
        away = min(abs(i - at[0]) + abs(j - at[1]) for i, j in places)
        assert away < 40.0 * max(canvas.camera.zoom, 1.0), name
    image = rgba_image(np.full((3, 5, 4), (10, 20, 30, 255), np.uint8))
    assert (image.width(), image.height(), image.pixelColor(4, 2)) == (5, 3, QColor(10, 20, 30))
