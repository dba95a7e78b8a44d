"""The short bar of tools at the top left of the canvas, in the steps that have tools."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from sobercrow.desktop import tokens
from sobercrow.desktop.canvas import ink_tools, tools, touch_tools
from sobercrow.desktop.canvas.tools import Tool
from sobercrow.desktop.steps import Step


@dataclass(frozen=True, slots=True)
class ToolPlace:
    """A tool, the step it belongs to, its icon, and whether it has a place in the bar."""

    work: Tool
    step: Step
    icon: str
    in_bar: bool = True


TOOLS = {
    "measure": ToolPlace(tools.measure, Step.BRING_IN, "ruler", in_bar=False),
    "hand": ToolPlace(tools.pan, Step.CLEAN_UP, "hand"),
    "frame": ToolPlace(tools.crop_frame, Step.CLEAN_UP, "crop"),
    "level": ToolPlace(tools.level, Step.CLEAN_UP, "level"),
    "nib": ToolPlace(touch_tools.nib, Step.CLEAN_UP, "nib"),
    "scrape": ToolPlace(touch_tools.scrape, Step.CLEAN_UP, "scrape"),
    "pour": ToolPlace(touch_tools.pour, Step.CLEAN_UP, "drop"),
    "pick": ToolPlace(tools.pick, Step.CLEAN_UP, "", in_bar=False),
    "point": ToolPlace(ink_tools.point, Step.INKS, "hand"),
    "spot": ToolPlace(ink_tools.spot, Step.INKS, "spot"),
    "ring": ToolPlace(ink_tools.ring, Step.INKS, "ring"),
    "bridge": ToolPlace(ink_tools.bridge, Step.INKS, "bridge"),
    "ink-nib": ToolPlace(ink_tools.nib, Step.INKS, "nib"),
    "ink-pour": ToolPlace(ink_tools.pour, Step.INKS, "drop"),
    "sample": ToolPlace(tools.pick, Step.INKS, "", in_bar=False),
    "choose": ToolPlace(tools.choose, Step.REFINE, "choose"),
    "anchors": ToolPlace(tools.edit_anchors, Step.REFINE, "anchors"),
}

FIRST_TOOLS = {Step.CLEAN_UP: "hand", Step.INKS: "point", Step.REFINE: "choose"}
"""What is in hand in a step until another tool is taken up."""


class ToolBar(QWidget):
    """One button a tool; only those of the present step are seen."""

    def __init__(self, parent: QWidget, action: Callable[[str], QAction]) -> None:
        """Make the bar; `action` gives the command of a tool."""
        super().__init__(parent)
        self.setObjectName("toolbar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(4, 4, 4, 4)
        layout.setSpacing(2)
        self.buttons: dict[str, QToolButton] = {}
        for name, place in TOOLS.items():
            if place.in_bar:
                made = self.buttons[name] = QToolButton()
                made.setDefaultAction(action(f"tool-{name}"))
                made.setIconSize(QSize(tokens.ICON_PX, tokens.ICON_PX))
                made.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonIconOnly)
                layout.addWidget(made)
        self.move(14, 14)

    def show_step(self, step: Step) -> None:
        """Show the tools of a step, or nothing in a step without tools."""
        for name, made in self.buttons.items():
            made.setVisible(TOOLS[name].step is step)
        self.setVisible(step in FIRST_TOOLS)
        self.adjustSize()
