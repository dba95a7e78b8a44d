"""A list of things done by hand, in the order they are replayed, each with a tick that tells whether it counts."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import QListWidget, QListWidgetItem

LEAST_PX = 32


class ReplayList(QListWidget):
    """Touch-ups, repairs, corrections. `shown_changed` tells a row and whether it counts from now on."""

    shown_changed = Signal(int, bool)

    def __init__(self, name: str, most_px: int = 112) -> None:
        """Make an empty list, at most so high."""
        super().__init__()
        self.setAccessibleName(name)
        self._most_px = most_px
        self._shown: list[bool] = []
        self.itemChanged.connect(self._changed)

    def _changed(self, item: QListWidgetItem) -> None:
        row, shown = self.row(item), item.checkState() == Qt.CheckState.Checked
        if row < len(self._shown) and self._shown[row] != shown:
            self.shown_changed.emit(row, shown)

    @property
    def chosen(self) -> int | None:
        """The row that is chosen."""
        row = self.currentRow()
        return row if 0 <= row < self.count() else None

    def show_rows(self, rows: Iterable[tuple[str, bool]]) -> None:
        """Show what was done, and whether each counts; the row chosen stays so while there is one."""
        blocker = QSignalBlocker(self)
        row = self.currentRow()
        self.clear()
        self._shown = []
        for text, shown in rows:
            item = QListWidgetItem(text)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if shown else Qt.CheckState.Unchecked)
            self._shown.append(shown)
            self.addItem(item)
        self.setCurrentRow(row if row < self.count() else -1)
        height = sum(self.sizeHintForRow(k) for k in range(self.count())) + 2 * self.frameWidth()
        self.setFixedHeight(min(max(height, LEAST_PX), self._most_px))
        blocker.unblock()
