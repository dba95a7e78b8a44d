"""The full window with the devices there are. Importing this brings in all libraries."""

from __future__ import annotations

from PySide6.QtCore import QSettings

from sobercrow.desktop.devices import Devices
from sobercrow.desktop.start import StartPage
from sobercrow.desktop.window import MainWindow
from sobercrow.stand_ins.camera import SimulatedCamera
from sobercrow.stand_ins.cutter import SimulatedCutter
from sobercrow.stand_ins.scanner import SimulatedScanner


def stand_in_devices() -> Devices:
    """Return the simulated scanner, camera and cutter; real ones take their place here."""
    return Devices(SimulatedScanner(), SimulatedCamera(), SimulatedCutter())


def full_window(preferences: QSettings, start: StartPage) -> MainWindow:
    """Return the window, still to be built by going through its `building`, around a start page that is there."""
    return MainWindow(preferences, stand_in_devices(), start)
