"""The list of layers: what lies in each, seen or not, locked or not; dragged into another order."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
    QEvent,
    QMimeData,
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRect,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QAbstractItemView, QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from sobercrow.core.artwork import tree
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork, Group, Item, Layer, shapes_of
from sobercrow.desktop.controls import doing, group_column, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.painting import paint_shape
from sobercrow.desktop.paths import paths
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import ENTER

ROW_PX, MOST_ROWS, ROWS_BESIDE = 30, 8, 4
INDENT_PX, STRIP_PX, THUMB_PX, SIGN_PX = 14, 4, 24, 22
Index = QModelIndex | QPersistentModelIndex
MIME = "application/x-sobercrow-layer"


@dataclass(frozen=True, slots=True, eq=False)
class Row:
    """One row: a layer, or a group or shape in it; where its shapes are, and how deep it lies."""

    layer: int
    item: Layer | Item
    first: int
    count: int
    depth: int
    key: tuple[int, ...]

    @property
    def is_layer(self) -> bool:
        """Whether it stands for a whole layer."""
        return isinstance(self.item, Layer)

    @property
    def folds(self) -> bool:
        """Whether there is something in it to be unfolded."""
        return isinstance(self.item, Layer | Group)

    @property
    def name(self) -> str:
        """What it is called."""
        if isinstance(self.item, Layer):
            return self.item.name
        if isinstance(self.item, Group):
            return self.item.name or "Group"
        return f"{self.item.anchor_count} anchors"


class LayerRows(QAbstractListModel):
    """The rows that are unfolded, uppermost first."""

    moved = Signal(int, int)
    renamed = Signal(int, str)

    def __init__(self) -> None:
        """Start empty."""
        super().__init__()
        self.rows: list[Row] = []
        self._open: set[tuple[int, ...]] = set()
        self._artwork: Artwork | None = None

    def show(self, artwork: Artwork) -> None:
        """Show an artwork's tree."""
        if artwork is not self._artwork:
            self._artwork = artwork
            self._fill()

    def _fill(self) -> None:
        self.beginResetModel()
        self.rows = list(self._found()) if self._artwork is not None else []
        self.endResetModel()

    def _found(self) -> Iterator[Row]:
        assert self._artwork is not None
        firsts = [0]
        for layer in self._artwork.layers:
            firsts.append(firsts[-1] + len(layer.shapes))
        for number in range(len(self._artwork.layers) - 1, -1, -1):
            layer = self._artwork.layers[number]
            row = Row(number, layer, firsts[number], firsts[number + 1] - firsts[number], 0, (number,))
            yield row
            if row.key in self._open:
                yield from self._within(row, layer.items)

    def _within(self, parent: Row, items: tuple[Item, ...]) -> Iterator[Row]:
        first, found = parent.first, []
        for k, item in enumerate(items):
            count = sum(1 for _ in shapes_of([item]))
            found.append(Row(parent.layer, item, first, count, parent.depth + 1, (*parent.key, k)))
            first += count
        for row in reversed(found):
            yield row
            if isinstance(row.item, Group) and row.key in self._open:
                yield from self._within(row, row.item.items)

    def is_open(self, row: Row) -> bool:
        """Tell whether a row is unfolded."""
        return row.key in self._open

    def fold(self, row: Row) -> None:
        """Unfold a row, or fold it away."""
        self._open ^= {row.key}
        self._fill()

    def rowCount(self, parent: Index | None = None) -> int:
        """Return how many rows there are."""
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Return a row's name, or what it is for those who do not see it."""
        row = self.rows[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return row.name
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{row.name}, {row.count} shapes"
        return None

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Give a layer another name."""
        row = self.rows[index.row()]
        if role != Qt.ItemDataRole.EditRole or not row.is_layer or value == row.name:
            return False
        self.renamed.emit(row.layer, str(value))
        return True

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Layers can be dragged and renamed."""
        plain = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        if not index.isValid():
            return Qt.ItemFlag.ItemIsDropEnabled
        if self.rows[index.row()].is_layer:
            return plain | Qt.ItemFlag.ItemIsDragEnabled | Qt.ItemFlag.ItemIsEditable
        return plain

    def supportedDropActions(self) -> Qt.DropAction:
        """Layers are moved."""
        return Qt.DropAction.MoveAction

    def mimeTypes(self) -> list[str]:
        """Only layers of this list are taken."""
        return [MIME]

    def mimeData(self, indexes: list[QModelIndex]) -> QMimeData:  # type: ignore[override]
        """Return the layer dragged."""
        data = QMimeData()
        data.setData(MIME, str(self.rows[indexes[0].row()].layer).encode())
        return data

    def dropMimeData(self, data: QMimeData, _action: Qt.DropAction, row: int, _column: int, parent: Index) -> bool:
        """Tell of a layer let go between others."""
        at = row if row >= 0 else parent.row() if parent.isValid() else len(self.rows)
        moved = int(bytes(data.data(MIME).data()).decode())
        above = {r.layer for r in self.rows[:at] if r.is_layer and r.layer != moved}
        self.moved.emit(moved, len({r.layer for r in self.rows if r.is_layer}) - 1 - len(above))
        return False  # the list is made anew from the artwork


class _RowPainter(QStyledItemDelegate):
    """Paints a strip of its ink's colour, a thumbnail, the name, the count, an eye and a lock."""

    def __init__(self, rows: LayerRows, chosen: Callable[[], frozenset[int]]) -> None:
        super().__init__()
        self._rows, self._chosen = rows, chosen

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """All rows are as high."""
        return QSize(120, ROW_PX)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Paint a row."""
        row, rect, colours = self._rows.rows[index.row()], QRect(option.rect), palette()
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = self._chosen()
        if row.count and all(k in chosen for k in range(row.first, row.first + row.count)):
            painter.fillRect(rect, QColor(colours.accent_soft))
        if option.state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(QColor(colours.accent))
            painter.drawRect(rect.adjusted(0, 0, -1, -1))
        left = rect.left() + row.depth * INDENT_PX
        if row.folds:
            self._fold_sign(painter, QPointF(left + 8, rect.center().y()), self._rows.is_open(row))
        left += 16
        shapes = list(shapes_of(row.item.items)) if isinstance(row.item, Layer | Group) else [row.item]
        strip = shapes[-1].colour if shapes else colours.hair
        painter.fillRect(QRectF(left, rect.top() + 4, STRIP_PX, rect.height() - 8), QColor(strip))
        thumb = QRectF(left + STRIP_PX + 4, rect.top() + 3, THUMB_PX, THUMB_PX)
        self._thumbnail(painter, thumb, shapes)
        layer = row.item if isinstance(row.item, Layer) else None
        text = QRectF(thumb.right() + 6, rect.top(), rect.right() - thumb.right() - 6, rect.height())
        if layer is not None:
            text.setRight(rect.right() - 2 * SIGN_PX)
            eye, lock = self.signs(rect)
            self._eye(painter, eye, layer.seen)
            self._lock(painter, lock, layer.locked)
        painter.setPen(QColor(colours.text if layer is None or layer.seen else colours.muted))
        count = f"{row.count}" if row.folds else ""
        width = painter.fontMetrics().horizontalAdvance(count) + 8
        name = painter.fontMetrics().elidedText(row.name, Qt.TextElideMode.ElideRight, int(text.width() - width))
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, name)
        painter.setPen(QColor(colours.muted))
        painter.drawText(text.adjusted(0, 0, -6, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, count)
        painter.restore()

    @staticmethod
    def signs(rect: QRect) -> tuple[QRectF, QRectF]:
        """Where the eye and the lock of a layer are."""
        top = rect.top() + (rect.height() - SIGN_PX) / 2
        return (
            QRectF(rect.right() - 2 * SIGN_PX, top, SIGN_PX, SIGN_PX),
            QRectF(rect.right() - SIGN_PX, top, SIGN_PX, SIGN_PX),
        )

    @staticmethod
    def _fold_sign(painter: QPainter, at: QPointF, is_open: bool) -> None:
        painter.setPen(QPen(QColor(palette().muted), 1.4))
        way = (
            [QPointF(-3, -1.5), QPointF(0, 2), QPointF(3, -1.5)]
            if is_open
            else [QPointF(-1.5, -3), QPointF(2, 0), QPointF(-1.5, 3)]
        )
        painter.drawPolyline(QPolygonF([at + point for point in way]))

    @staticmethod
    def _eye(painter: QPainter, rect: QRectF, seen: bool) -> None:
        colour = QColor(palette().text if seen else palette().hair)
        painter.setPen(QPen(colour, 1.3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        middle = rect.center()
        painter.drawEllipse(middle, 6.0, 3.6)
        if seen:
            painter.setBrush(colour)
            painter.drawEllipse(middle, 1.8, 1.8)
        else:
            painter.drawLine(middle + QPointF(-6, 4), middle + QPointF(6, -4))

    @staticmethod
    def _lock(painter: QPainter, rect: QRectF, locked: bool) -> None:
        colour = QColor(palette().text if locked else palette().hair)
        painter.setPen(QPen(colour, 1.3))
        painter.setBrush(colour if locked else Qt.BrushStyle.NoBrush)
        middle = rect.center()
        painter.drawRect(QRectF(middle.x() - 4, middle.y() - 1, 8, 6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        box = QRectF(middle.x() - 3, middle.y() - 6, 6, 8)
        painter.drawArc(box if locked else box.translated(3, 0), 0, 180 * 16)

    @staticmethod
    def _thumbnail(painter: QPainter, rect: QRectF, shapes: list[Any]) -> None:
        painter.fillRect(rect, QColor(palette().page))
        if not shapes or len(shapes) > 400:
            return
        boxes = [shape.bounds() for shape in shapes]
        left, top = min(b[0] for b in boxes), min(b[1] for b in boxes)
        width, height = max(b[2] for b in boxes) - left, max(b[3] for b in boxes) - top
        scale = (rect.width() - 4) / max(width, height, 1e-6)
        painter.save()
        painter.setClipRect(rect)
        painter.translate(rect.center())
        painter.scale(scale, scale)
        painter.translate(-left - width / 2, -top - height / 2)
        for shape in shapes:
            paint_shape(painter, shape, paths.of(shape))
        painter.restore()

    def editorEvent(self, event: QEvent, model: Any, option: QStyleOptionViewItem, index: Index) -> bool:
        """Leave presses to the list."""
        return False


class LayerList(QListView):
    """The rows; presses on folds, eyes and locks do their work, others choose what the row holds."""

    seen_wanted = Signal(int, bool)
    alone_wanted = Signal(int)
    locked_wanted = Signal(int, bool)
    picked = Signal(object, bool)

    def __init__(self, rows: LayerRows, chosen: Callable[[], frozenset[int]]) -> None:
        """Show rows."""
        super().__init__()
        self._rows = rows
        self.setModel(rows)
        self.setItemDelegate(_RowPainter(rows, chosen))
        self.setUniformItemSizes(True)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDropIndicatorShown(True)
        self.setEditTriggers(QAbstractItemView.EditTrigger.DoubleClicked | QAbstractItemView.EditTrigger.EditKeyPressed)
        self.setAccessibleName("Layers")
        self.setToolTip(
            "Layers\nEye and lock; Alt and the eye show one alone. Double-click renames, dragging reorders."
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take a press on a fold, an eye or a lock; else choose."""
        index = self.indexAt(event.position().toPoint())
        row = self._rows.rows[index.row()] if index.isValid() else None
        if row is None:
            super().mousePressEvent(event)
            return
        rect = self.visualRect(index)
        x = event.position().x() - rect.left() - row.depth * INDENT_PX
        if row.folds and x < 16:
            self._rows.fold(row)
            return
        if isinstance(row.item, Layer):
            eye, lock = _RowPainter.signs(rect)
            if eye.contains(event.position()):
                if event.modifiers() & Qt.KeyboardModifier.AltModifier:
                    self.alone_wanted.emit(row.layer)
                else:
                    self.seen_wanted.emit(row.layer, not row.item.seen)
                return
            if lock.contains(event.position()):
                self.locked_wanted.emit(row.layer, not row.item.locked)
                return
        super().mousePressEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Choose what the row holds."""
        super().mouseReleaseEvent(event)
        index = self.indexAt(event.position().toPoint())
        if index.isValid() and index == self.currentIndex() and event.button() == Qt.MouseButton.LeftButton:
            shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.picked.emit(self._rows.rows[index.row()], shift)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Unfold, fold and choose by keys."""
        index = self.currentIndex()
        row = self._rows.rows[index.row()] if index.isValid() else None
        if row is not None and event.key() in ENTER:
            self.picked.emit(row, False)
        elif row is not None and row.folds and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            if self._rows.is_open(row) != (event.key() == Qt.Key.Key_Right):
                self._rows.fold(row)
                self.setCurrentIndex(self._rows.index(index.row(), 0))
        else:
            super().keyPressEvent(event)


class LayersPart:
    """The list with what makes and takes away layers."""

    def __init__(self, document: Document) -> None:
        """Show a document's layers."""
        self._document = document
        self.rows = LayerRows()
        self.list = LayerList(self.rows, lambda: document.choice.shapes)
        self.add = doing("New", "An empty layer above all.", lambda: document.edit("New layer", tree.add_layer))
        self.delete = doing("Delete layer", "Takes the layer at hand away with all that is in it.", self._delete)
        self.by_colour = doing(
            "By colour",
            "Sorts all shapes into a layer for each colour.",
            lambda: document.edit("Layers by colour", tree.layers_by_colour),
        )
        self.rows.moved.connect(lambda at, to: document.edit("Move layer", tree.move_layer, at, to, document.choice))
        self.rows.renamed.connect(lambda at, name: document.edit("Rename layer", tree.rename_layer, at, name))
        self.list.seen_wanted.connect(self._show)
        self.list.alone_wanted.connect(lambda at: document.edit("Show layer alone", tree.show_alone, at))
        self.list.locked_wanted.connect(self._lock)
        self.list.picked.connect(self._pick)
        self.group: QWidget = group_column(
            label("Layers", strong=True), self.list, row_of(self.add, self.by_colour, self.delete)
        )

    def _show(self, layer: int, seen: bool) -> None:
        self._document.edit("Show layer" if seen else "Hide layer", tree.show_layer, layer, seen)

    def _lock(self, layer: int, locked: bool) -> None:
        self._document.edit("Lock layer" if locked else "Unlock layer", tree.lock_layer, layer, locked)

    def _at_hand(self) -> int | None:
        index = self.list.currentIndex()
        return self.rows.rows[index.row()].layer if index.isValid() else None

    def _delete(self) -> None:
        layer = self._at_hand()
        if layer is None:
            self._document.failed.emit("Click the layer to be deleted first.")
        else:
            self._document.edit("Delete layer", tree.delete_layer, layer)

    def _pick(self, row: Row, more: bool) -> None:
        artwork = self._document.artwork
        if artwork is not None:
            own = frozenset(range(row.first, row.first + row.count)) - artwork.fixed
            self._document.choose(Choice(self._document.choice.shapes | own if more else own))

    def refresh(self) -> None:
        """Show the present state."""
        artwork = self._document.artwork
        self.group.setVisible(not self._document.choice.anchors)
        if artwork is None:
            return
        kept = self.list.currentIndex().row()
        self.rows.show(artwork)
        most = ROWS_BESIDE if self._document.choice.shapes else MOST_ROWS
        self.list.setFixedHeight(min(max(len(self.rows.rows), 2), most) * ROW_PX + 4)
        if 0 <= kept < len(self.rows.rows) and self.list.currentIndex().row() != kept:
            self.list.setCurrentIndex(self.rows.index(kept, 0))
        self.list.viewport().update()
