"""The empty desk as it is painted first, before the rest of the product has been brought in."""

from __future__ import annotations

import gc
import importlib
import threading
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QSettings, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QMainWindow, QVBoxLayout, QWidget

from sobercrow.desktop.commands import MENUS
from sobercrow.desktop.controls import label
from sobercrow.desktop.preferences import recent_files
from sobercrow.desktop.start import StartPage
from sobercrow.desktop.theme import dress

if TYPE_CHECKING:
    from sobercrow.desktop.window import MainWindow

FULL_WINDOW = "sobercrow.desktop.launch"


class Front(QMainWindow):
    """Shows the empty desk at once and takes one wish; the full window is put in its place when it is there.

    The libraries come in on a thread of their own; the full window is built in pieces between the events.
    """

    ready = Signal()
    _imported = Signal()

    def __init__(self, preferences: QSettings) -> None:
        """Lay out the empty desk."""
        super().__init__()
        self.setWindowTitle("Sober Crow")
        self.setMinimumSize(1100, 700)
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.window_in_place: MainWindow | None = None
        self._preferences = preferences
        self._wish: Callable[[MainWindow], object] | None = None
        for name in MENUS:
            self.menuBar().addAction(name).setEnabled(False)
        self.start = StartPage()
        self.start.show_recent(recent_files(preferences))
        self.start.open_wanted.connect(partial(self._wait_for, lambda window: window.files.open()))
        self.start.paste_wanted.connect(partial(self._wait_for, lambda window: window.files.paste()))
        self.start.scan_wanted.connect(partial(self._wait_for, lambda window: window.files.scan()))
        self.start.photo_wanted.connect(partial(self._wait_for, lambda window: window.files.shoot()))
        self.start.path_wanted.connect(self.open_path)
        self._line = QWidget()
        self._line.setObjectName("gauge")
        self._line.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._line.setFixedHeight(30)
        self._said = label(muted=True)
        inner = QVBoxLayout(self._line)
        inner.setContentsMargins(14, 0, 14, 0)
        inner.addWidget(self._said)
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.start, 1)
        layout.addWidget(self._line)
        self.setCentralWidget(whole)
        for part in (self.menuBar(), self.start, self._line):
            dress(part)
        self._imported.connect(self._build)

    def bring_in(self) -> None:
        """Have the rest of the product brought in, once the desk has been painted."""
        threading.Thread(target=self._import, name="libraries", daemon=True).start()

    def open_path(self, path: Path) -> None:
        """Open a file as soon as that can be done."""
        self._wait_for(lambda window: window.files.open_path(path), f"Opening {path.name}")

    def _wait_for(self, wish: Callable[[MainWindow], object], said: str = "One moment") -> None:
        if self.window_in_place is None:
            self._wish = wish
            self._said.setText(said)

    def _import(self) -> None:
        importlib.import_module(FULL_WINDOW)
        gc.freeze()  # the libraries stay: looking through them for garbage would take a frame or two each time
        self._imported.emit()

    def _build(self) -> None:
        from sobercrow.desktop.launch import full_window

        window = full_window(self._preferences, self.start)
        pieces = QTimer(self, interval=0)
        pieces.timeout.connect(partial(self._go_on, window, pieces))
        pieces.start()

    def _go_on(self, window: MainWindow, pieces: QTimer) -> None:
        if next(window.building, self) is not self:
            return
        pieces.stop()
        self.window_in_place = window
        window.setWindowFlags(Qt.WindowType.Widget)
        window.windowTitleChanged.connect(self.setWindowTitle)
        self.setWindowTitle(window.windowTitle())
        self.menuBar().hide()  # the full window has its own
        self.setCentralWidget(window)
        self.setAcceptDrops(False)
        window.canvas.setFocus()
        self.ready.emit()
        window.files.complete_left_over()
        if self._wish is not None:
            self._wish(window)
            window.files.tell_of_recovery()
        else:
            window.files.offer_recovery()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take files; pictures that are no files must wait until they can be read."""
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Open what was dropped."""
        event.acceptProposedAction()
        self.open_path(Path(event.mimeData().urls()[0].toLocalFile()))

    def closeEvent(self, event: QCloseEvent) -> None:
        """Ask about unsaved changes."""
        event.setAccepted(self.window_in_place is None or self.window_in_place.close())
