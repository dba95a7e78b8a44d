"""The real window for the tests of the desktop."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from desk import desk
from PIL import Image
from PySide6.QtCore import QCoreApplication, QEvent, QPoint, QSettings, Qt
from PySide6.QtTest import QTest

from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import wait_until_done
from sobercrow.desktop.application import use_theme
from sobercrow.desktop.canvas.view import Canvas
from sobercrow.desktop.launch import stand_in_devices
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow


@pytest.fixture
def empty_window(qtbot, tmp_path: Path, monkeypatch) -> Iterator[MainWindow]:
    """The window on an empty desk, with preferences and a recovery folder of its own."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    use_theme(dark=False)
    window = MainWindow(QSettings(str(tmp_path / "preferences.ini"), QSettings.Format.IniFormat), stand_in_devices())
    window.resize(1280, 800)
    window.show()
    yield window
    window.end_work()
    window.hide()
    window.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)  # gone before the next one is dressed


@pytest.fixture
def window(empty_window: MainWindow) -> MainWindow:
    """The window on the pen lettering, its full result shown."""
    empty_window.files.open_path(PICTURES / "pen-lettering.png")
    wait_until_done(empty_window)
    return empty_window


@pytest.fixture
def drag() -> Callable[..., None]:
    """A drag of the left button over a canvas, from one picture point to another."""

    def pull(
        canvas: Canvas, start: tuple[float, float], end: tuple[float, float], keys=Qt.KeyboardModifier.NoModifier
    ) -> None:
        a, b = (QPoint(*map(round, canvas.camera.to_screen(*p, canvas.width(), canvas.height()))) for p in (start, end))
        QTest.mousePress(canvas, Qt.MouseButton.LeftButton, keys, a)
        for step in range(1, 6):
            QTest.mouseMove(canvas, a + (b - a) * step / 5)
        QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, keys, b)

    return pull


@pytest.fixture
def refining(empty_window: MainWindow, tmp_path: Path) -> MainWindow:
    """The window in Refine with artwork made for the purpose, on a sheet with a single black square."""
    window, sheet = empty_window, Image.new("L", (1000, 700), 255)
    sheet.paste(0, (940, 640, 970, 670))
    sheet.save(tmp_path / "sheet.png", dpi=(150, 150))
    window.files.open_path(tmp_path / "sheet.png")
    wait_until_done(window)
    window.go_to(Step.REFINE)
    window.use_tool("anchors")
    window.document.refine("Take", desk(window.document.artwork))
    wait_until_done(window)
    return window
