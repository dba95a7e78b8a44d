"""What is remembered of the user from one start to the next."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSettings

MOST_RECENT = 8


def prefers_dark(preferences: QSettings) -> bool:
    """Tell whether the user has chosen the dark theme."""
    return str(preferences.value("dark", "false")) == "true"


def recent_files(preferences: QSettings) -> list[Path]:
    """Return the files opened or saved last, the newest first."""
    return [Path(line) for line in str(preferences.value("recent", "")).split("\n") if line]


def remember_file(preferences: QSettings, path: Path) -> None:
    """Put a file at the head of the recent ones."""
    recent = [path, *(p for p in recent_files(preferences) if p != path)][:MOST_RECENT]
    preferences.setValue("recent", "\n".join(map(str, recent)))
    preferences.setValue("folder", str(path.parent))
