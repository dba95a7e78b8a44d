"""The table of several pictures on the desk: each a card with picture and artwork across a seam, and how it stands."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from sobercrow.core.formats.recipes import RecipeBook
from sobercrow.core.formats.sets import SETS
from sobercrow.core.settings.recipes import Recipe
from sobercrow.desktop import tokens
from sobercrow.desktop.controls import button, label
from sobercrow.desktop.dialogs import Buttons, ask
from sobercrow.desktop.several.pieces import Doing, Pieces, Row
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import ENTER

CARD_SIZE, PICTURE_HEIGHT, GAP_PX, EDGE_PX = QSize(188, 176), 112, 16, 20
SUITS, AS_ALL = "What suits each", "As all"


class SeveralPage(QWidget):
    """The table: what holds for all of them above, a card each below."""

    opened = Signal(int)
    left = Signal()
    more_wanted = Signal()

    def __init__(self, book: RecipeBook) -> None:
        """Start with an empty table; `book` has the recipes."""
        super().__init__()
        self.setObjectName("start")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.pieces = Pieces()
        self.pieces.setParent(self)
        self._book = book
        self._recipes: list[Recipe] = []
        self.cards: list[PieceCard] = []
        self.recipe = QComboBox()
        self.recipe.setAccessibleName("Recipe for all")
        self.recipe.setToolTip("Recipe for all\nBut those changed by hand, and those with a recipe of their own.")
        self.recipe.addItem(SUITS)
        self.recipe.activated.connect(self._take_recipe)
        self.set = QComboBox()
        self.set.setAccessibleName("Hand-over set for all")
        self.set.addItems([one.name for one in SETS])
        self.write = button(
            "Write set", "Write set\nThe files of the set, for all that are done, into one folder.", main=True
        )
        self.write.clicked.connect(self._ask_folder)
        self.keep = button("Save projects", "Save projects\nOne for each picture, into one folder.")
        self.keep.clicked.connect(self._ask_project_folder)
        self.more = button("Add pictures", "Add pictures\nOr drop them on the window.")
        self.more.clicked.connect(self.more_wanted)
        self.stop = button("Stop", "Stop\nWhat is done stays; Go on traces the rest.")
        self.stop.clicked.connect(self._stop)
        self.back = button("Leave the table", "Leave the table\nIt stays as it is; File, Table shows it again.")
        self.back.clicked.connect(self.left)
        self.told = label(muted=True)
        self._is_stopped = False
        self._lay_out()
        self.pieces.changed.connect(self.refresh)

    def _lay_out(self) -> None:
        head = QWidget()
        head.setObjectName("panel")
        head.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        rows = QVBoxLayout(head)
        rows.setContentsMargins(EDGE_PX, 14, EDGE_PX, 12)
        first, second = QHBoxLayout(), QHBoxLayout()
        title = label("Several at once", title=True)
        self.told.setWordWrap(False)
        first.addWidget(title)
        first.addWidget(self.told)
        first.addStretch(1)
        for one in (self.stop, self.more, self.back):
            first.addWidget(one)
        for text, choice in (("Recipe", self.recipe), ("Hand over as", self.set)):
            said = label(text)
            said.setWordWrap(False)
            second.addWidget(said)
            second.addWidget(choice)
            second.addSpacing(GAP_PX)
        second.addWidget(self.write)
        second.addWidget(self.keep)
        second.addStretch(1)
        rows.addLayout(first)
        rows.addLayout(second)
        self._ground = QWidget()
        self._ground.setObjectName("start")
        self._grid = QGridLayout(self._ground)
        self._grid.setContentsMargins(EDGE_PX, EDGE_PX, EDGE_PX, EDGE_PX)
        self._grid.setSpacing(GAP_PX)
        self._grid.setAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop)
        area = QScrollArea()
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidgetResizable(True)
        area.setWidget(self._ground)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(head)
        column.addWidget(area, 1)

    def look_up_recipes(self) -> None:
        """Offer the recipes there are now, each list keeping what is chosen in it."""
        self._recipes = self._book.every()
        names = [recipe.name for recipe in self._recipes]
        for choice, first in ((self.recipe, [SUITS]), *((card.recipe, [AS_ALL, SUITS]) for card in self.cards)):
            chosen = choice.currentText()
            choice.clear()
            choice.addItems([*first, *names])
            choice.setCurrentIndex(max(choice.findText(chosen), 0))

    def refresh(self) -> None:
        """Show how all of them stand."""
        rows = self.pieces.rows
        while len(self.cards) > len(rows):
            self.cards.pop().deleteLater()
        for k in range(len(self.cards), len(rows)):
            card = PieceCard([recipe.name for recipe in self._recipes])
            card.opened.connect(partial(self._open, k))
            card.recipe.activated.connect(partial(self._take_own_recipe, k))
            self.cards.append(card)
            self._place(k)
        for card, row in zip(self.cards, rows, strict=True):
            card.show_row(row)
        done = sum(row.doing is Doing.DONE for row in rows)
        failed = sum(row.doing is Doing.FAILED for row in rows)
        told = f"{done} of {len(rows)} traced" if rows else "Drop pictures on the window, or add them."
        self.told.setText(
            told + (f", {failed} failed" if failed else "") + (" · writing" if self.pieces.is_writing else "")
        )
        waiting = bool(self.pieces.waiting)
        self._is_stopped &= waiting
        self.stop.setVisible(waiting or self.pieces.is_writing)
        self.stop.setText("Go on" if self._is_stopped else "Stop")
        for one in (self.write, self.keep):
            one.setEnabled(done > 0 and not waiting and not self.pieces.is_writing)

    def _open(self, k: int) -> None:
        if self.pieces.rows[k].doing is Doing.DONE:
            self.opened.emit(k)

    def _stop(self) -> None:
        self._is_stopped = not self._is_stopped and bool(self.pieces.waiting)
        if self._is_stopped or not self.pieces.waiting:
            self.pieces.stop()
        else:
            self.pieces.go_on()

    def _take_recipe(self, index: int) -> None:
        self.pieces.set_recipe(self._recipes[index - 1] if index else None)

    def _take_own_recipe(self, k: int, index: int) -> None:
        own = index > 0
        self.pieces.set_own_recipe(k, own, self._recipes[index - 2] if index > 1 else None)

    def _ask_folder(self) -> None:
        chosen = SETS[self.set.currentIndex()]
        folder = QFileDialog.getExistingDirectory(self.window(), f"{chosen.name}: folder")
        if folder:
            self.pieces.hand_over(chosen, Path(folder))

    def _ask_project_folder(self) -> None:
        folder = QFileDialog.getExistingDirectory(self.window(), "Save projects: folder")
        if folder:
            self.pieces.keep_projects(Path(folder))

    def may_leave(self) -> bool:
        """Ask before what was done by hand to several is lost; tell whether they may be left."""
        if self.pieces.is_kept:
            return True
        question = "What was done by hand to pictures on the table is not saved. Leave it? (Save projects keeps it.)"
        buttons = Buttons.Discard | Buttons.Cancel
        return ask(self.window(), "Several at once", question, buttons, Buttons.Cancel) == Buttons.Discard

    def _place(self, k: int) -> None:
        across = max(1, (self.width() - 2 * EDGE_PX + GAP_PX) // (CARD_SIZE.width() + GAP_PX))
        self._grid.addWidget(self.cards[k], k // across, k % across)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Lay the cards out anew."""
        super().resizeEvent(event)
        for k in range(len(self.cards)):
            self._place(k)


class PieceCard(QWidget):
    """One of several: its picture at the left of a seam and its artwork at the right, name, figure or fault."""

    opened = Signal()

    def __init__(self, recipes: list[str]) -> None:
        """Make a card; `recipes` are the names to choose from."""
        super().__init__()
        self.row: Row | None = None
        self.setFixedSize(CARD_SIZE)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.recipe = QComboBox(self)
        self.recipe.addItems([AS_ALL, SUITS, *recipes])
        self.recipe.setGeometry(8, CARD_SIZE.height() - 30, CARD_SIZE.width() - 16, 24)

    def show_row(self, row: Row) -> None:
        """Show how one of them stands."""
        if row is self.row:
            return
        self.row = row
        told = {Doing.WAITING: "waiting"}.get(row.doing, row.told)
        self.setAccessibleName(row.name)
        self.setAccessibleDescription(told)
        self.setToolTip(f"{row.path.name}\n{told}" + ("\nClick to work on it." if row.doing is Doing.DONE else ""))
        self.recipe.setAccessibleName(f"Recipe of {row.name}")
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Open it."""
        self.opened.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Open it with the space bar or Enter."""
        if event.key() in (Qt.Key.Key_Space, *ENTER):
            self.opened.emit()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the card."""
        row, colours = self.row, palette()
        if row is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(colours.panel))
        room = QRectF(8, 8, self.width() - 16, PICTURE_HEIGHT - 8)
        painter.fillRect(room, QColor(colours.page if row.picture is not None else colours.rail))
        self._paint_pictures(painter, row, room)
        failed = row.doing is Doing.FAILED
        line = QRectF(8, PICTURE_HEIGHT + 2, self.width() - 16, 16)
        self._write(painter, line, row.name, colours.text, tokens.BODY_PX)
        told = {Doing.WAITING: "waiting", Doing.FAILED: "failed"}.get(row.doing, row.told)
        self._write(painter, line.translated(0, 15), told, colours.rust if failed else colours.muted, tokens.SMALL_PX)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(colours.accent if self.hasFocus() else colours.hair), 1))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.end()

    def _paint_pictures(self, painter: QPainter, row: Row, room: QRectF) -> None:
        if row.doing is Doing.FAILED:
            painter.setPen(QColor(palette().rust))
            painter.drawText(room.adjusted(8, 6, -8, -6), Qt.TextFlag.TextWordWrap, row.told)
            return
        if row.picture is None:
            return
        share = min(room.width() / row.picture.width(), room.height() / row.picture.height())
        place = QRectF(0, 0, row.picture.width() * share, row.picture.height() * share)
        place.moveCenter(room.center())
        painter.drawImage(place, row.picture)
        if row.artwork is not None and row.doing is Doing.DONE:
            right = QRectF(place.center().x(), place.top(), 0.5 * place.width(), place.height())
            painter.save()
            painter.setClipRect(right)
            painter.drawImage(place, row.artwork)
            painter.restore()
            painter.setPen(QPen(QColor(palette().accent), 1.5))
            painter.drawLine(QPointF(right.left(), room.top()), QPointF(right.left(), room.bottom()))

    def _write(self, painter: QPainter, line: QRectF, text: str, colour: str, size_px: int) -> None:
        font = painter.font()
        font.setPixelSize(size_px)
        painter.setFont(font)
        painter.setPen(QColor(colour))
        short = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, round(line.width()))
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, short)
