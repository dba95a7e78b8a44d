"""All keys, made from the commands."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from sobercrow.desktop.commands import HELD_KEYS, Command
from sobercrow.desktop.controls import label
from sobercrow.desktop.help.dialog import HelpedDialog


class KeyList(HelpedDialog):
    """Every key with what it does, in two columns."""

    def __init__(self, commands: Iterable[Command], parent: QWidget) -> None:
        """List the keys of some commands, and those that are held."""
        super().__init__(parent, "Keys")
        rows = [(" or ".join(c.keys), c.title) for c in commands if c.keys]
        rows += [(keys, title) for keys, title, _ in HELD_KEYS]
        grid = QGridLayout()
        half = (len(rows) + 1) // 2
        for index, (keys, title) in enumerate(rows):
            row, column = index % half, 3 * (index // half)
            grid.addWidget(label(keys, muted=True), row, column)
            grid.addWidget(label(title), row, column + 1)
        grid.setColumnMinimumWidth(2, 24)
        grid.setHorizontalSpacing(16)
        layout = QVBoxLayout(self)
        layout.addWidget(label("Keys", title=True))
        layout.addLayout(grid)
