"""The list in which things are found: type a word, Enter does the likeliest or leads to it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QModelIndex, QObject, QPersistentModelIndex, QPoint, QRect, QSize, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QDialog,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
)

from sobercrow.core.lookup import Lookup
from sobercrow.desktop.controls import label
from sobercrow.desktop.find.entries import Found, found_in
from sobercrow.desktop.theme import dress, palette

if TYPE_CHECKING:
    from sobercrow.desktop.window import MainWindow

WIDTH_PX, ROW_PX, ROWS, TOP_PX, EDGE_PX = 620, 44, 8, 90, 12
FOUND = Qt.ItemDataRole.UserRole
WALKING = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: ROWS, Qt.Key.Key_PageUp: -ROWS}


class FindList(QDialog):
    """A line to type in, and beneath it what fits."""

    def __init__(self, window: MainWindow) -> None:
        """Look up what there is in a window now."""
        super().__init__(window)
        self.setWindowTitle("Find")
        self.setWindowFlag(Qt.WindowType.FramelessWindowHint)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._found = found_in(window)
        self._lookup = Lookup([one.entry for one in self._found])
        self.line = QLineEdit()
        self.line.setPlaceholderText("What do you want to do?")
        self.line.setAccessibleName("Find")
        self.line.textChanged.connect(self._look)
        self.line.installEventFilter(self)
        self.list = QListWidget()
        self.list.setAccessibleName("What fits")
        self.list.setItemDelegate(_Rows(self.list))
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemClicked.connect(self._take)
        self.note = label(muted=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(EDGE_PX, EDGE_PX, EDGE_PX, EDGE_PX)
        for part in (self.line, self.list, self.note):
            column.addWidget(part)
        self.setObjectName("card")
        dress(self)
        self.setFixedWidth(WIDTH_PX)
        self.move(window.mapToGlobal(QPoint((window.width() - WIDTH_PX) // 2, TOP_PX)))
        self._look("")

    def _look(self, typed: str) -> None:
        """Show what fits."""
        self.list.clear()
        for k in self._lookup.best(typed):
            one = self._found[k]
            item = QListWidgetItem(f"{one.entry.title}, {one.entry.where}")
            item.setData(FOUND, one)
            item.setToolTip(one.entry.help)
            self.list.addItem(item)
        count = self.list.count()
        self.list.setCurrentRow(0 if count else -1)
        self.list.setVisible(count > 0)
        self.list.setFixedHeight(ROW_PX * min(count, ROWS) + 4)
        if typed.strip() and not count:
            self.note.setText("Nothing fits; try another word, or fewer.")
        else:
            self.note.setText(
                "Commands, settings, recipes, the guide. Enter does it, or shows where it is; Esc leaves."
            )
        self.adjustSize()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Walk through the list, and take from it, while typing goes on."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            key = Qt.Key(event.key())
            if key in WALKING and self.list.count():
                row = min(max(self.list.currentRow() + WALKING[key], 0), self.list.count() - 1)
                self.list.setCurrentRow(row)
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                item = self.list.currentItem()
                if item is not None:
                    self._take(item)
                return True
        return super().eventFilter(watched, event)

    def _take(self, item: QListWidgetItem) -> None:
        one: Found = item.data(FOUND)
        if not one.can_run:
            self.note.setText(f"“{one.entry.title}” cannot be done now. {one.entry.help}")
            return
        self.accept()
        one.run()


class _Rows(QStyledItemDelegate):
    """A row: the name with where it is beneath, its keys at the right; pale if it cannot be done now."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        """Be as high as two lines."""
        return QSize(0, ROW_PX)

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        """Paint a row."""
        one: Found = index.data(FOUND)
        colours = palette()
        place = QRect(option.rect)
        painter.save()
        if QStyle.StateFlag.State_Selected in option.state:
            painter.fillRect(place, QColor(colours.accent_soft))
        inside = place.adjusted(10, 4, -10, -4)
        upper, lower = QRect(inside), QRect(inside)
        upper.setBottom(inside.center().y())
        lower.setTop(inside.center().y())
        left, right = Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignRight
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setPen(QColor(colours.text if one.can_run else colours.muted))
        painter.drawText(upper, left | middle, one.entry.title)
        painter.setPen(QColor(colours.muted))
        painter.drawText(upper, right | middle, one.keys)
        where = f"{one.entry.where} · {one.entry.help}" if one.entry.help else one.entry.where
        short = painter.fontMetrics().elidedText(where, Qt.TextElideMode.ElideRight, lower.width())
        painter.drawText(lower, left | middle, short)
        painter.restore()
