"""The list of inks: swatch, name, colour, coverage, role; dropping one on another merges them."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QDropEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)

from sobercrow.core.arrays import F64
from sobercrow.core.settings import Ink, Role
from sobercrow.desktop import tokens
from sobercrow.desktop.theme import palette

ROW_PX = 36
MOST_ROWS = 8
INK, COVERAGE = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1
ROLE_WORDS = {Role.INK: "", Role.PAPER: "paper", Role.LEFT_OUT: "left out"}


class _Row(QStyledItemDelegate):
    """Paints one ink."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        """Return the height of a row."""
        return QSize(200, ROW_PX)

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        """Paint swatch, name, role, colour and coverage."""
        ink: Ink = index.data(INK)
        colours = palette()
        rect = QRectF(option.rect)
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, QColor(colours.accent_soft))
            painter.fillRect(QRectF(rect.left(), rect.top(), 3, rect.height()), QColor(colours.accent))
        swatch = QRectF(rect.left() + 9, rect.top() + 6, 24, 24)
        painter.setPen(QPen(QColor(colours.hair), 1))
        painter.setBrush(QColor(ink.colour))
        painter.drawRect(swatch)
        if ink.role is not Role.INK:  # struck out: it is not drawn
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            light = QColor(ink.colour).lightnessF() > 0.5
            painter.setPen(QPen(QColor(tokens.LIGHT.text if light else tokens.LIGHT.page), 1.4))
            painter.drawLine(swatch.bottomLeft(), swatch.topRight())
        text = rect.adjusted(42, 3, -8, -3)
        painter.setPen(QColor(colours.text))
        top, bottom = text.adjusted(0, 0, 0, -text.height() / 2), text.adjusted(0, text.height() / 2, 0, 0)
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        metrics = painter.fontMetrics()
        coverage = f"{100 * float(index.data(COVERAGE)):.1f} %"
        room = int(top.width() - metrics.horizontalAdvance(coverage) - 10)
        painter.drawText(top, left, metrics.elidedText(ink.name, Qt.TextElideMode.ElideRight, room))
        painter.drawText(top, right, coverage)
        painter.setPen(QColor(colours.muted))
        font = painter.font()
        font.setPixelSize(tokens.SMALL_PX)
        painter.setFont(font)
        joined = f" · {len(ink.members)} colours" if len(ink.members) > 1 else ""
        painter.drawText(bottom, left, ink.colour + joined)
        words = [w for w in (ROLE_WORDS[ink.role], "locked" if ink.locked else "") if w]
        painter.drawText(bottom, right, " · ".join(words))
        painter.restore()


class InkList(QListWidget):
    """The inks in force; `chosen` tells of another selection, `dropped` of inks dropped on one."""

    chosen = Signal()
    dropped = Signal(int, object)

    def __init__(self) -> None:
        """Start empty."""
        super().__init__()
        self.setItemDelegate(_Row(self))
        self.setAccessibleName("Inks")
        self.setToolTip("Inks\nClick one, or click on the canvas. Drop one on another to merge them.")
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.itemSelectionChanged.connect(self.chosen)

    def show_inks(self, inks: tuple[Ink, ...], coverage: F64) -> None:
        """Show inks and the shares they cover; what was selected stays so."""
        kept = set(self.rows())
        self.blockSignals(True)
        self.clear()
        for k, ink in enumerate(inks):
            item = QListWidgetItem()
            item.setData(INK, ink)
            item.setData(COVERAGE, float(coverage[k]) if k < len(coverage) else 0.0)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{ink.name}, {ink.colour}, {ROLE_WORDS[ink.role]}")
            self.addItem(item)
            item.setSelected(k in kept)
        self.setFixedHeight(min(max(len(inks), 2), MOST_ROWS) * ROW_PX + 4)
        self.blockSignals(False)

    def rows(self) -> list[int]:
        """Return which inks are selected, in their order."""
        return sorted(index.row() for index in self.selectedIndexes())

    def select(self, row: int, also: bool = False) -> None:
        """Select an ink, or one more."""
        item = self.item(row)
        if item is not None:
            if not also:
                self.clearSelection()
            item.setSelected(not (also and item.isSelected()))
            self.scrollToItem(item)

    def dropEvent(self, event: QDropEvent) -> None:
        """Merge what is dropped with the ink it is dropped on; between inks nothing happens."""
        target = self.itemAt(event.position().toPoint())
        dragged = self.rows()
        event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()
        if target is not None:
            self.dropped.emit(self.row(target), [k for k in dragged if k != self.row(target)] or dragged)
