"""The card beside a ring: which inks are in it, and which of them may be."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QIcon, QKeyEvent, QPainter, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QCheckBox, QFrame, QVBoxLayout

from sobercrow.core.arrays import F64
from sobercrow.core.inks.touch_ups import inks_inside
from sobercrow.core.settings import Ink, InkForm, InkTool, InkTouchUp
from sobercrow.desktop import tokens
from sobercrow.desktop.canvas.view import Canvas
from sobercrow.desktop.controls import doing, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.history import Lasting
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import ENTER

GAP_PX, SWATCH_PX, WIDTH_PX = 14, 14, 216
NAME = "Ring an area"


class RingMark:
    """The ring on the canvas, in pixels of the cleaned picture."""

    def __init__(self, points: F64) -> None:
        """Take its points, (n, 2)."""
        self.points = points

    def __call__(self, painter: QPainter, scene: Scene) -> None:
        """Paint it."""
        line = QPolygonF([scene.on_screen(x, y) for x, y in self.points.tolist()])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in (QPen(QColor(tokens.LIGHT.page), 4.0), QPen(QColor(palette().mark), 1.6)):
            painter.setPen(pen)
            painter.drawPolygon(line)


class RingCard(QFrame):
    """Lists the inks found in a ring with their shares; what is unticked goes at once to the likest that may stay.

    Enter keeps what was done, as one change; Esc takes it back.
    """

    def __init__(self, canvas: Canvas, document: Document) -> None:
        """Stand on a canvas, unseen until something is ringed."""
        super().__init__(canvas)
        self._canvas, self._document = canvas, document
        self.setObjectName("card")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDTH_PX)
        self.setAccessibleName("Inks in the ring")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 8, 10, 10)
        column.setSpacing(4)
        column.addWidget(label("In this ring", strong=True))
        column.addWidget(label("Untick what does not belong there.", muted=True))
        self._rows = QVBoxLayout()
        column.addLayout(self._rows)
        self.keep_button = doing("Keep", "Enter does the same.", self.keep)
        self.back_button = doing("Take back", "Esc does the same.", self.take_back)
        column.addWidget(row_of(self.keep_button, self.back_button))
        self.ticks: list[tuple[Ink, QCheckBox]] = []
        self._points: tuple[tuple[float, float], ...] = ()
        self._before: tuple[InkTouchUp, ...] = ()
        self._made: tuple[InkTouchUp, ...] | None = None
        document.state_changed.connect(self._follow)
        self.hide()

    def ring(self, points: F64) -> None:
        """List the inks within a ring, (n, 2) in pixels of the cleaned picture."""
        self.keep()
        scene, presentation = self._canvas.scene(), self._document.presentation
        if scene is None or presentation is None:
            return
        results = presentation.results
        found = inks_inside(results.separation.own, points / results.reduction)
        if not found:
            self._document.failed.emit("There is nothing in the ring; draw it over the picture.")
            return
        self._points = tuple((float(x), float(y)) for x, y in scene.place.to_source(points))
        self._before, self._made = self._document.state.settings.inks.touch_ups, None
        self._list([(results.separation.inks[ink], share) for ink, share in found])
        self._canvas.set_mark("ring", RingMark(points))
        self._place(scene, points)
        self.show()
        self.raise_()
        self.ticks[0][1].setFocus()

    def _list(self, found: list[tuple[Ink, float]]) -> None:
        for _, old in self.ticks:
            old.setParent(None)
            old.deleteLater()
        self.ticks = []
        for ink, share in found:
            row = QCheckBox(f"{ink.name}  {100 * share:.1f} %")
            swatch = QPixmap(SWATCH_PX, SWATCH_PX)
            swatch.fill(QColor(ink.colour))
            row.setIcon(QIcon(swatch))
            row.setChecked(True)
            row.setAccessibleName(f"{ink.name} may be in the ring")
            row.clicked.connect(self._change)
            self._rows.addWidget(row)
            self.ticks.append((ink, row))

    def _place(self, scene: Scene, points: F64) -> None:
        """Stand beside the ring, on the side where there is room."""
        self.adjustSize()
        places = [scene.on_screen(x, y) for x, y in points.tolist()]
        left, right = min(p.x() for p in places), max(p.x() for p in places)
        middle = float(np.mean([p.y() for p in places]))
        width, height = self._canvas.width(), self._canvas.height()
        x = right + GAP_PX
        if x + self.width() > width - GAP_PX:
            x = left - GAP_PX - self.width()
        x = min(max(x, GAP_PX), width - GAP_PX - self.width())
        y = min(max(middle - 0.5 * self.height(), GAP_PX), height - GAP_PX - self.height())
        self.move(round(x), round(y))

    def _change(self) -> None:
        """Have the inks that are unticked go, at once."""
        kept = tuple(ink.colour for ink, row in self.ticks if row.isChecked())
        if not kept:
            self._document.failed.emit("At least one ink has to stay in the ring.")
            row = self.sender()
            if isinstance(row, QCheckBox):
                row.setChecked(True)
            return
        made = self._before
        if len(kept) < len(self.ticks):
            made = (*made, InkTouchUp(InkTool.RING, InkForm.POLYGON, self._points, kept))
        self._made = made
        settings = self._document.state.settings
        inks = replace(settings.inks, touch_ups=made)
        self._document.change_settings(NAME, replace(settings, inks=inks), Lasting(f"ring {len(self._before)}"))

    def _follow(self) -> None:
        """Go away when something else changed the repairs."""
        now = self._document.state.settings.inks.touch_ups
        if not self.isHidden() and now != (self._before if self._made is None else self._made):
            self.keep()

    def keep(self) -> None:
        """Leave everything as it is now, and go."""
        if not self.isHidden():
            self._close()

    def take_back(self) -> None:
        """Leave everything as it was before, and go."""
        changed = self._made is not None and not self.isHidden()
        self._close()
        if changed:
            self._document.undo()

    def _close(self) -> None:
        self.hide()
        self._canvas.set_mark("ring", None)
        self._canvas.setFocus()

    def answers(self, key: int) -> bool:
        """Keep on Enter, take back on Esc; tells whether there was anything to answer."""
        if self.isHidden() or key not in (*ENTER, Qt.Key.Key_Escape):
            return False
        self.take_back() if key == Qt.Key.Key_Escape else self.keep()
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter keeps, Esc takes back."""
        if not self.answers(event.key()):
            super().keyPressEvent(event)
