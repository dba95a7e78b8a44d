"""The pair of names at the foot of the seam: what lies on each side."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu, QToolButton, QWidget

from sobercrow.desktop.canvas.view import Canvas
from sobercrow.desktop.scene import Showing


class SeamPill(QWidget):
    """Names both sides of the seam and lets them be chosen; unseen while there is no seam."""

    shown_wanted = Signal(Showing)

    def __init__(self, canvas: Canvas) -> None:
        """Stand on a canvas."""
        super().__init__(canvas)
        self._canvas = canvas
        self.setObjectName("pill")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(8, 1, 8, 1)
        layout.setSpacing(4)
        self.left, self.right = QToolButton(), QToolButton()
        for made, choose in ((self.left, canvas.set_other_side), (self.right, self.shown_wanted.emit)):
            made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
            made.setToolTip("What lies on this side of the seam")
            menu = QMenu(made)
            for showing in Showing:
                action = menu.addAction(showing.value, partial(choose, showing))
                if showing is Showing.PROOF:  # there is none until one was compared with
                    menu.aboutToShow.connect(lambda action=action: action.setVisible(canvas.proof is not None))
            made.setMenu(menu)
            made.setStyleSheet("QToolButton::menu-indicator { image: none; }")
            layout.addWidget(made)
        self.hide()

    def refresh(self) -> None:
        """Show the names as they are now, on either side of the seam."""
        seam, canvas = self._canvas.seam, self._canvas
        self.setVisible(seam is not None)
        if seam is None:
            return
        self.left.setText(canvas.other_side.value)
        self.right.setText(canvas.showing.value)
        self.adjustSize()
        x = round(seam * canvas.width()) - self.right.geometry().left()
        self.move(min(max(x, 4), canvas.width() - self.width() - 4), canvas.height() - self.height() - 14)
