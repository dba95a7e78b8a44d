"""Dialogs in the look in use, and what is remembered of the user."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QSettings, QTimer
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication, QMessageBox

from sobercrow.desktop import tokens
from sobercrow.desktop.dialogs import Buttons, ask
from sobercrow.desktop.preferences import MOST_RECENT, prefers_dark, recent_files, remember_file
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow


def test_a_question_has_the_look_in_use_and_returns_its_answer(empty_window: MainWindow) -> None:
    for look in (tokens.LIGHT, tokens.DARK):
        seen: list[QMessageBox] = []

        def answer(look: tokens.Palette = look, seen: list[QMessageBox] = seen) -> None:
            box = QApplication.activeModalWidget()
            assert isinstance(box, QMessageBox)
            seen.append(box)
            assert look.panel in box.styleSheet()
            assert box.text() == "Go on?"
            box.button(Buttons.No).click()

        QTimer.singleShot(50, answer)
        assert ask(empty_window, "A question", "Go on?", Buttons.Yes | Buttons.No, Buttons.Yes) == Buttons.No
        assert len(seen) == 1
        empty_window.toggle_dark()


def test_marks_of_anchors_shrink_before_they_cover_the_letters(window: MainWindow) -> None:
    def pixels() -> np.ndarray:
        image = window.canvas.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
        data = np.frombuffer(image.constBits(), np.uint8).copy()
        return data.reshape(image.height(), image.bytesPerLine())[:, : 4 * image.width()].reshape(image.height(), -1, 4)

    def covered(zoom: float) -> tuple[float, int]:
        """How much of the ink in view marks cover, and how many pixels one anchor's covers."""
        shape = window.document.artwork.shapes[2]
        x, y = shape.contours[0].anchors[0]
        window.canvas.set_camera(replace(window.canvas.camera, x=float(x), y=float(y), zoom=zoom))
        window.use_tool("choose")
        plain = pixels()
        window.use_tool("anchors")
        changed = np.abs(plain.astype(int) - pixels()).max(axis=2) > 40
        middle = changed[changed.shape[0] // 2 - 14 :, changed.shape[1] // 2 - 14 :][:28, :28]
        dark = plain[..., :3].max(axis=2) < 80
        return float(changed[dark].mean()), int(middle.sum())

    window.go_to(Step.REFINE)
    window.show_as(Showing.FILLED)
    far, near = covered(0.42), covered(6.0)
    assert far[0] < 0.2
    assert far[1] > 0
    assert near[1] > 30


def test_recent_files_are_remembered_newest_first_and_once(tmp_path: Path) -> None:
    preferences = QSettings(str(tmp_path / "preferences.ini"), QSettings.Format.IniFormat)
    assert recent_files(preferences) == []
    assert not prefers_dark(preferences)
    names = [tmp_path / f"{k}.png" for k in range(MOST_RECENT + 3)]
    for path in (*names, names[4]):
        remember_file(preferences, path)
    kept = recent_files(preferences)
    assert kept[:2] == [names[4], names[-1]]
    assert len(kept) == len(set(kept)) == MOST_RECENT
    assert preferences.value("folder") == str(tmp_path)


def test_a_copy_that_cannot_be_written_is_told_and_the_window_goes_on(
    empty_window: MainWindow, tmp_path: Path, qtbot, monkeypatch: pytest.MonkeyPatch
) -> None:
    from sobercrow.demo.make import PICTURES
    from sobercrow.demo.tour import wait_until_done

    window = empty_window
    window.files.open_path(PICTURES / "tints.png")
    wait_until_done(window)
    window.use_tool("choose")
    window.choose_all()
    window.document.edit("Nothing", lambda artwork: artwork)
    (tmp_path / "in-the-way").write_text("a file where a folder should be")
    monkeypatch.setattr(window.files.recovery, "_folder", lambda: tmp_path / "in-the-way" / "folder")
    with qtbot.waitSignal(window.document.failed, timeout=10_000) as told:
        window.files.autosave()
    assert told.args[0].startswith("Unsaved work could not be kept safe")
    window.files.end_autosave()
    window.document._saved = window.document.state
