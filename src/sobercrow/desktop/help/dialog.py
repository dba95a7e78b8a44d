"""A dialog about which the guide opens, by the same key as in the window."""

from __future__ import annotations

from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QDialog, QWidget

from sobercrow.desktop.help.guide_window import show_guide
from sobercrow.desktop.theme import dress

HELP_KEY = "F1"


class HelpedDialog(QDialog):
    """A dialog; the key opens the guide at the passage that is called like it."""

    def __init__(self, parent: QWidget | None, title: str) -> None:
        """Make an empty dialog of that title."""
        super().__init__(parent)
        self.setWindowTitle(title)
        dress(self)
        QShortcut(QKeySequence(HELP_KEY), self, lambda: show_guide(self, (title,)))
