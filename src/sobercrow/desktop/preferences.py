"""What is remembered of the user from one start to the next."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

from PySide6.QtCore import QSettings

from sobercrow.core.errors import SettingError
from sobercrow.core.outside import reading
from sobercrow.core.settings import PenPressure, Unit

MOST_RECENT = 8


def prefers_dark(preferences: QSettings) -> bool:
    """Tell whether the user has chosen the dark theme."""
    return str(preferences.value("dark", "false")) == "true"


def kept_unit(preferences: QSettings) -> Unit:
    """Return the unit the user has chosen for lengths."""
    name = str(preferences.value("unit", Unit.MM.value))
    return Unit(name) if name in list(Unit) else Unit.MM


def keep_unit(preferences: QSettings, unit: Unit) -> None:
    """Remember the unit chosen for lengths."""
    preferences.setValue("unit", unit.value)


def kept_pressure(preferences: QSettings) -> PenPressure:
    """Return how a pen's pressure becomes width, as it was set; the usual way if what was kept is none."""
    with suppress(SettingError), reading(SettingError, ""):
        share, firmness = map(float, str(preferences.value("pen", "")).split())
        return PenPressure(share, firmness)
    return PenPressure()


def keep_pressure(preferences: QSettings, pressure: PenPressure) -> None:
    """Remember how a pen's pressure becomes width."""
    preferences.setValue("pen", f"{pressure.share} {pressure.firmness}")


def recent_files(preferences: QSettings) -> list[Path]:
    """Return the files opened or saved last, the newest first."""
    return [Path(line) for line in str(preferences.value("recent", "")).split("\n") if line]


def remember_file(preferences: QSettings, path: Path) -> None:
    """Put a file at the head of the recent ones."""
    recent = [path, *(p for p in recent_files(preferences) if p != path)][:MOST_RECENT]
    preferences.setValue("recent", "\n".join(map(str, recent)))
    preferences.setValue("folder", str(path.parent))
