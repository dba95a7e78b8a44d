"""Setting the four corners of a slanted sheet on the picture as brought in."""

from __future__ import annotations

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from sobercrow.core.settings import Corners
from sobercrow.desktop.canvas.view import Canvas
from sobercrow.desktop.controls import button
from sobercrow.desktop.document import Document
from sobercrow.desktop.tools.slant import SlantCorners

INSET = 0.1
"""Where the corners stand at first if no sheet was found: so far inside, as a share of the picture."""


class CornerBar(QWidget):
    """The bar at the foot of the canvas that says what to do, and ends it."""

    def __init__(self, canvas: Canvas) -> None:
        """Make the bar, unseen."""
        super().__init__(canvas)
        self.setObjectName("toolbar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 6, 6, 6)
        layout.addWidget(QLabel("Drag the four corners onto those of the sheet."))
        self.finish = button("Undo slant", "Undo slant (Enter)\nLays the sheet flat.", main=True)
        self.leave = button("Cancel", "Cancel (Esc)\nLeaves the picture as it was.")
        layout.addWidget(self.finish)
        layout.addWidget(self.leave)
        self.hide()


class CornerEditing(QObject):
    """Shows four corners to be dragged; every drag undoes the slant anew, cancelling brings back the former."""

    slant_wanted = Signal(object)
    changed = Signal()

    def __init__(self, document: Document, canvas: Canvas, tool: SlantCorners) -> None:
        """Stand on a canvas."""
        super().__init__(canvas)
        self._document, self._canvas, self._tool = document, canvas, tool
        self._before: Corners | None = None
        self.bar = CornerBar(canvas)
        self.bar.finish.clicked.connect(self.finish)
        self.bar.leave.clicked.connect(self.cancel)
        tool.cornered.connect(self.slant_wanted)

    @property
    def is_active(self) -> bool:
        """Whether corners are being set."""
        return self._tool.corners is not None

    def begin(self) -> None:
        """Show the corners set, else those the picture check found, else four a little inside the picture."""
        source, presentation = self._document.source, self._document.presentation
        if source is None:
            return
        self._before = self._document.state.settings.clean_up.slant
        findings = presentation.results.findings if presentation is not None else ()
        found = next((f.value for f in findings if isinstance(f.value, Corners)), None)
        left, top, right, bottom = (
            share * side for share in (INSET, 1 - INSET) for side in (source.width, source.height)
        )
        inset = Corners((left, top), (right, top), (right, bottom), (left, bottom))
        self._tool.corners = list((self._before or found or inset).points)
        self.bar.show()
        self.bar.raise_()
        self.changed.emit()
        self.place()
        self._canvas.setFocus()

    def place(self) -> None:
        """Keep the bar at the foot of the canvas, in the middle."""
        self.bar.adjustSize()
        self.bar.move((self._canvas.width() - self.bar.width()) // 2, self._canvas.height() - self.bar.height() - 14)

    def end(self) -> None:
        """Put the corners away."""
        if self.is_active:
            self._tool.corners = None
            self.bar.hide()
            self.changed.emit()

    def finish(self) -> None:
        """Undo the slant as the corners stand, and put them away."""
        corners = self._tool.corners
        self.end()
        if corners is not None:
            self.slant_wanted.emit(Corners(*corners))

    def cancel(self) -> None:
        """Put the corners away and leave the slant as it was before."""
        if self.is_active:
            self.end()
            self.slant_wanted.emit(self._before)
