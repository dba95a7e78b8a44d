"""The short bar of tools at the top left of the canvas, in the steps that have tools."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QFrame, QHBoxLayout, QToolButton, QWidget

from sobercrow.desktop import tokens
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Tool


class ToolBar(QWidget):
    """One button a tool; only those of the present step are seen."""

    def __init__(self, parent: QWidget, tools: Iterable[Tool], action: Callable[[str], QAction]) -> None:
        """Make the bar; `action` gives the command of a tool."""
        super().__init__(parent)
        self.setObjectName("toolbar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(4, 4, 4, 4)
        layout.setSpacing(2)
        self.buttons: dict[str, QToolButton] = {}
        shown = [tool for tool in tools if tool.icon]
        self._steps = {tool.id: tool.step for tool in shown}
        first = {tool.step: tool.id for tool in reversed(shown)}
        starts = {tool.id: tool.starts_group and first[tool.step] != tool.id for tool in shown}
        self._lines: dict[str, QFrame | None] = {}
        for name in self._steps:
            line = _group_line() if starts[name] else None
            if line is not None:
                layout.addWidget(line)
            self._lines[name] = line
            made = self.buttons[name] = QToolButton()
            made.setDefaultAction(action(f"tool-{name}"))
            made.setIconSize(QSize(tokens.ICON_PX, tokens.ICON_PX))
            made.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonIconOnly)
            layout.addWidget(made)
        self.move(14, 14)

    def show_step(self, step: Step) -> None:
        """Show the tools of a step, or nothing in a step without tools."""
        for name, made in self.buttons.items():
            made.setVisible(self._steps[name] is step)
            line = self._lines[name]
            if line is not None:
                line.setVisible(self._steps[name] is step)
        self.setVisible(step in self._steps.values())
        self.adjustSize()


def _group_line() -> QFrame:
    """A hair line that parts groups of tools."""
    line = QFrame()
    line.setProperty("upright", True)
    line.setFixedSize(7, 24)
    return line
