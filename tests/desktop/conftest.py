"""The real window for the tests of the desktop."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator
from pathlib import Path
from typing import Any, ClassVar

import pytest
from desk import desk
from PIL import Image
from PySide6.QtCore import QCoreApplication, QEvent, QObject, QPoint, QPointF, QSettings, Qt
from PySide6.QtGui import QCursor, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import wait_until_done
from sobercrow.desktop import requests, state
from sobercrow.desktop.application import use_theme
from sobercrow.desktop.canvas.view import Canvas
from sobercrow.desktop.launch import stand_in_devices
from sobercrow.desktop.lettering_offer import LetteringOffer
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tools.table import FIRST_TOOLS
from sobercrow.desktop.window import MainWindow

KEPT_OF_A_PICTURE = 24
"""So many results of a step are kept of a picture: what tests of a file have in common is computed once."""


class RememberingJob(Job):
    """A job that begins with what earlier ones on the same picture have kept, as if the window had stayed open."""

    _of_pictures: ClassVar[dict[Hashable, Job]] = {}

    def __init__(self, source: Picture) -> None:
        super().__init__(source)
        first = self._of_pictures.setdefault((source.pixels.tobytes(), source.width, source.dpi), self)
        self._kept, self._seconds = first._kept, first._seconds

    def _step(self, name: str, key: Hashable, compute: Callable[[], Any], most: int = 0) -> Any:
        return super()._step(name, key, compute, max(most, KEPT_OF_A_PICTURE))


@pytest.fixture(autouse=True)
def remembered(monkeypatch) -> None:
    """Have pictures that many tests open traced with the default settings only once."""
    for module in (requests, state):
        monkeypatch.setattr(module, "Job", RememberingJob)
    monkeypatch.setattr(LetteringOffer, "looks", False)  # it would compare typefaces behind every picture opened


def make_window(folder: Path) -> MainWindow:
    """A window on an empty desk, with preferences in a folder of its own."""
    use_theme(dark=False)
    window = MainWindow(QSettings(str(folder / "preferences.ini"), QSettings.Format.IniFormat), stand_in_devices())
    window.resize(1280, 800)
    window.show()
    QTest.qWaitForWindowExposed(window)
    return window


@pytest.fixture
def window_in() -> Callable[[Path], MainWindow]:
    """Make a window whose preferences are in a folder."""
    return make_window


def done_with(window: MainWindow) -> None:
    """Have a window gone before the next one is dressed."""
    window.end_work()
    window.hide()
    window.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)


@pytest.fixture
def empty_window(qtbot, tmp_path: Path, monkeypatch) -> Iterator[MainWindow]:
    """A new window on an empty desk, with a recovery folder of its own."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    window = make_window(tmp_path)
    yield window
    done_with(window)


@pytest.fixture(scope="module")
def kept_window(qapp, tmp_path_factory) -> Iterator[MainWindow]:
    """A window kept for all tests of a file."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("XDG_DATA_HOME", str(tmp_path_factory.mktemp("data")))
        window = make_window(tmp_path_factory.mktemp("window"))
        yield window
        done_with(window)


@pytest.fixture(autouse=True)
def pointer_away(qapp) -> None:
    """Put the pointer into the corner of the screen: a move to where it is already would not be told."""
    QCursor.setPos(0, 0)
    qapp.processEvents()


class SeesMoves(QObject):
    """Notes whether a widget it filters was told of the pointer's move."""

    told = False

    def eventFilter(self, _widget: QObject, event: QEvent) -> bool:
        self.told |= event.type() == QEvent.Type.MouseMove
        return False


@pytest.fixture(autouse=True)
def every_move_is_told(monkeypatch) -> None:
    """Have each move reach its widget: Qt moves the cursor, and tells nothing where it is already or covered."""
    by_cursor = QTest.mouseMove

    def move(widget: QWidget, place: QPoint) -> None:
        sees = SeesMoves()
        widget.installEventFilter(sees)
        by_cursor(widget, place)
        widget.removeEventFilter(sees)
        if not sees.told:
            there, none = QPointF(widget.mapToGlobal(place)), Qt.MouseButton.NoButton
            keys = Qt.KeyboardModifier.NoModifier
            event = QMouseEvent(QEvent.Type.MouseMove, QPointF(place), there, none, none, keys)
            QCoreApplication.sendEvent(widget, event)

    monkeypatch.setattr(QTest, "mouseMove", staticmethod(move))


@pytest.fixture
def lasting_window(kept_window: MainWindow, tmp_path: Path, monkeypatch) -> Iterator[MainWindow]:
    """The window tests of a file share, on screen for this one, with a recovery folder of its own."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    kept_window.show()
    kept_window.activateWindow()
    QTest.qWaitForWindowExposed(kept_window)  # or the pointer is nowhere
    yield kept_window
    kept_window.hide()


@pytest.fixture
def opened(lasting_window: MainWindow) -> Callable[[Path], MainWindow]:
    """Opens a picture in the window tests share, as it would be in a new one, and waits for its full result."""
    window = lasting_window

    def open_(path: Path) -> MainWindow:
        window.document._saved = window.document.state  # nothing to be asked about
        window.canvas.drag.give_up()
        window.in_hand = dict(FIRST_TOOLS)
        window.chosen_views.clear()
        window.resize(1280, 800)
        window.go_to(Step.TRACE)
        window.files.open_path(path)
        wait_until_done(window)
        window.canvas.fit()
        return window

    return open_


@pytest.fixture
def window(opened: Callable[[Path], MainWindow]) -> MainWindow:
    """The window on the pen lettering, its full result shown."""
    return opened(PICTURES / "pen-lettering.png")


@pytest.fixture
def own_window(empty_window: MainWindow) -> MainWindow:
    """A window of the test's own on the pen lettering."""
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
def refining(opened: Callable[[Path], MainWindow], tmp_path: Path) -> MainWindow:
    """The window in Refine with artwork made for the purpose, on a sheet with a single black square."""
    sheet = Image.new("L", (1000, 700), 255)
    sheet.paste(0, (940, 640, 970, 670))
    sheet.save(tmp_path / "sheet.png", dpi=(150, 150))
    window = opened(tmp_path / "sheet.png")
    window.go_to(Step.REFINE)
    window.use_tool("anchors")
    window.document.refine("Take", desk(window.document.artwork))
    wait_until_done(window)
    return window
