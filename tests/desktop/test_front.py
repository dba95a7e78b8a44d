"""The empty desk that is painted first, and the full window put in its place."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPointF, QSettings, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest

from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import wait_until_done
from sobercrow.desktop.front import Front


@pytest.fixture
def front(qtbot, tmp_path: Path) -> Front:
    made = Front(QSettings(str(tmp_path / "preferences.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made)
    made.show()
    yield made
    if made.window_in_place is not None:
        made.window_in_place.end_work()


def test_the_empty_desk_needs_no_numbers() -> None:
    code = "import sys, sobercrow.desktop.application; print({'numpy', 'cv2'} & set(sys.modules))"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "set()"


def test_a_picture_wished_for_early_is_opened_in_the_full_window(front: Front, qtbot) -> None:
    assert not front.menuBar().actions()[0].isEnabled()
    paths = QMimeData()
    paths.setUrls([QUrl.fromLocalFile(str(PICTURES / "tints.png"))])
    actions, buttons = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    front.dropEvent(QDropEvent(QPointF(9, 9), actions, paths, buttons, Qt.KeyboardModifier.NoModifier))
    with qtbot.waitSignal(front.ready, timeout=60_000):
        front.bring_in()
    window = front.window_in_place
    assert window is not None
    wait_until_done(window)
    assert window.document.source.name == "tints.png"
    assert "tints.png" in front.windowTitle()
    assert window.size().width() == front.width()
    assert front.menuBar().isHidden()
    assert window.menuBar().isVisible()
    front.activateWindow()
    window.canvas.setFocus()
    QTest.keyClick(window.canvas, Qt.Key.Key_A)  # keys of commands reach a window within a window
    assert window.tool == "anchors"


def test_closing_the_front_asks_the_window_in_it(front: Front, qtbot, monkeypatch) -> None:
    with qtbot.waitSignal(front.ready, timeout=60_000):
        front.bring_in()
    window = front.window_in_place
    monkeypatch.setattr(window.files, "may_leave", lambda: False)
    assert not front.close()
    monkeypatch.setattr(window.files, "may_leave", lambda: True)
    assert front.close()
