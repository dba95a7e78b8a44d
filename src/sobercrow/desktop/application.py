"""Starting the window."""

from __future__ import annotations

import signal
import sys
from pathlib import Path
from typing import cast

from PySide6.QtCore import QSettings, QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from sobercrow.desktop.front import Front
from sobercrow.desktop.preferences import prefers_dark
from sobercrow.desktop.theme import ASSETS, apply_theme

SWITCH_S = 5e-4
"""So soon the worker lets the window's thread go on; by itself Python has it wait ten times as long at every step."""


def make_application() -> QApplication:
    """Return the application object, made and themed if need be."""
    application = cast("QApplication | None", QApplication.instance())
    if application is None:
        application = QApplication(["sober-crow"])
    sys.setswitchinterval(SWITCH_S)
    application.setApplicationName("sober-crow")
    application.setApplicationDisplayName("Sober Crow")
    application.setDesktopFileName("sober-crow")
    application.setWindowIcon(QIcon(str(ASSETS / "marks" / "sober-crow.svg")))
    return application


def use_theme(dark: bool) -> None:
    """Give the running application the light or the dark look."""
    apply_theme(make_application(), dark)


def _take_faults(front: Front) -> None:
    if front.window_in_place is not None:
        front.window_in_place.faults.install()


def run(arguments: list[str]) -> int:
    """Open the window, on a file if one is named; return the exit code."""
    application = make_application()
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    preferences = QSettings("sober-crow", "sober-crow")
    use_theme(prefers_dark(preferences))
    front = Front(preferences)
    front.ready.connect(lambda: _take_faults(front))
    front.show()
    if arguments:
        front.open_path(Path(arguments[0]))
    QTimer.singleShot(0, front.bring_in)
    return application.exec()
