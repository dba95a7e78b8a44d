"""Starting the window."""

from __future__ import annotations

import signal
from pathlib import Path
from typing import cast

from PySide6.QtCore import QSettings, QTimer
from PySide6.QtWidgets import QApplication

from sobercrow.desktop.devices import Devices
from sobercrow.desktop.theme import apply_theme
from sobercrow.desktop.window import MainWindow, prefers_dark
from sobercrow.stand_ins.camera import SimulatedCamera
from sobercrow.stand_ins.scanner import SimulatedScanner


def make_application() -> QApplication:
    """Return the application object, made and themed if need be."""
    application = cast("QApplication | None", QApplication.instance())
    if application is None:
        application = QApplication(["sober-crow"])
    application.setApplicationName("sober-crow")
    application.setApplicationDisplayName("Sober Crow")
    return application


def use_theme(dark: bool) -> None:
    """Give the running application the light or the dark look."""
    apply_theme(make_application(), dark)


def stand_in_devices() -> Devices:
    """Return the simulated scanner and camera; real ones take their place here."""
    return Devices(SimulatedScanner(), SimulatedCamera())


def run(arguments: list[str]) -> int:
    """Open the window, on a file if one is named; return the exit code."""
    application = make_application()
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    preferences = QSettings("sober-crow", "sober-crow")
    use_theme(prefers_dark(preferences))
    window = MainWindow(preferences, stand_in_devices())
    window.show()
    if arguments:
        QTimer.singleShot(0, lambda: window.files.open_path(Path(arguments[0])))
    else:
        QTimer.singleShot(0, window.files.offer_recovery)
    return application.exec()
