"""The bar above the canvas: what is shown, the seam, peeking, and on the right undo."""

from __future__ import annotations

from collections.abc import Callable, Collection

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.strengths import StrengthSlide


class ViewBar(QWidget):
    """One button a view of the present step, and some commands."""

    wanted = Signal(object)

    def __init__(self, action: Callable[[str], QAction]) -> None:
        """Lay out the bar; `action` gives the action of a command."""
        super().__init__()
        self.setObjectName("viewbar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(38)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 0, 8, 0)
        layout.setSpacing(2)
        self.table = _button(action("table"))
        self.table.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextOnly)
        self.table.hide()
        layout.addWidget(self.table)
        self.buttons: dict[Showing, QToolButton] = {}
        for showing in Showing:
            made = QToolButton()
            made.setText(showing.value)
            made.setCheckable(True)
            made.setToolTip(f"{showing.value}\nWhat the canvas shows, right of the seam.")
            made.clicked.connect(lambda _c, showing=showing: self.wanted.emit(showing))
            self.buttons[showing] = made
            layout.addWidget(made)
        self.strength = StrengthSlide()
        layout.addWidget(self.strength)
        layout.addSpacing(8)
        for command in ("seam", "peek"):
            layout.addWidget(_button(action(command)))
        layout.addStretch(1)
        for command in ("fit", "undo", "redo"):
            layout.addWidget(_button(action(command)))

    def show_table(self, on: bool) -> None:
        """Show the way back to the table of several, or not."""
        self.table.setVisible(on)

    def offer(self, views: Collection[Showing]) -> None:
        """Show the buttons of some views only."""
        for showing, made in self.buttons.items():
            made.setVisible(showing in views)

    def mark(self, shown: Showing) -> None:
        """Mark the view that is shown."""
        for showing, made in self.buttons.items():
            made.setChecked(showing is shown)
        self.strength.setVisible(shown is Showing.OVER)


def _button(action: QAction) -> QToolButton:
    made = QToolButton()
    made.setDefaultAction(action)
    made.setIconSize(QSize(tokens.ICON_PX - 2, tokens.ICON_PX - 2))
    made.setAccessibleName(action.text())
    return made
