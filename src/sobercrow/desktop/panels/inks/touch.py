"""Repairs on the inks: the tools, and the list of what was done."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtWidgets import QWidget

from sobercrow.core.settings import InkTool, InkTouchUp, TouchForm, meaning_of
from sobercrow.desktop.controls import NumberField, button, choices, label, row_of, tick
from sobercrow.desktop.document import Document
from sobercrow.desktop.panels.inks.part import InkPart, InkWishes
from sobercrow.desktop.replay_list import ReplayList
from sobercrow.desktop.tools.inks import InkBrush

TOOL_NAMES = {
    InkTool.SPOT: "Spot",
    InkTool.RING: "Ring",
    InkTool.BRIDGE: "Bridge",
    InkTool.NIB: "Nib",
    InkTool.POUR: "Pour",
}
TOOLS = {tool: f"ink-{tool.value}" if tool in (InkTool.NIB, InkTool.POUR) else tool.value for tool in TOOL_NAMES}
HINTS = {
    InkTool.SPOT: "Click a spot: it takes on what is around it.",
    InkTool.RING: "Ring an area: the inks in it are listed beside it, untick those that do not belong there.",
    InkTool.BRIDGE: "Drag from one end of a line to the other; the gap is closed as wide as the line.",
    InkTool.NIB: "Choose an ink in the list, then draw with it; none is the paper.",
    InkTool.POUR: "Choose an ink in the list, then click the region it is to fill.",
}
FORMS = {TouchForm.FREEHAND: "Freehand", TouchForm.LINE: "Line", TouchForm.BOX: "Box", TouchForm.POLYGON: "Polygon"}


class TouchPart(InkPart):
    """The tools and the list of repairs."""

    def __init__(self, document: Document, wishes: InkWishes) -> None:
        """Work on a document."""
        super().__init__(document, wishes)
        self.brush = InkBrush()
        self.tools = choices(TOOL_NAMES, lambda tool: wishes.tool.emit(TOOLS[tool]), HINTS)
        self.forms = choices(FORMS, self._set_form, {})
        self.width = NumberField(meaning_of(InkTouchUp, "width_px"), curved=True)
        self.width.changed.connect(lambda value: self._set(width_px=value))
        self.width.reset.connect(lambda: self._set(width_px=InkBrush().width_px))
        self.everywhere = tick("Pour everywhere that ink is", "Else only into the region touched.")
        self.everywhere.clicked.connect(lambda on: self._set(everywhere=on))
        self.hint = label("Take up a tool.", muted=True)
        self.list = ReplayList("Repairs")
        self.list.shown_changed.connect(self._show)
        self.remove = button("Remove", "Remove\nTakes the chosen repair away.")
        self.remove.setEnabled(False)
        self.remove.clicked.connect(self._remove)
        self.list.currentRowChanged.connect(lambda row: self.remove.setEnabled(row >= 0))

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        made = list(self.tools.values())
        return [
            row_of(*made[:3]),
            row_of(*made[3:]),
            self.hint,
            row_of(*list(self.forms.values())[:2]),
            row_of(*list(self.forms.values())[2:]),
            self.width,
            self.everywhere,
            label("In the order they are done:"),
            self.list,
            self.remove,
        ]

    def _set_form(self, form: TouchForm) -> None:
        self._set(form=form)

    def _set(self, **fields: object) -> None:
        self.brush = replace(self.brush, **fields)  # type: ignore[arg-type]
        self.show_brush()

    def take_up(self, colours: tuple[str, ...]) -> None:
        """Work with the first of the chosen inks from now on."""
        self._set(ink=colours[0] if colours else None)

    def show_brush(self) -> None:
        """Show how the next repair is made, and tell the canvas."""
        for form, made in self.forms.items():
            made.setChecked(form is self.brush.form)
        self.width.show_value(self.brush.width_px, self.brush.width_px == InkBrush().width_px)
        self.everywhere.setChecked(self.brush.everywhere)
        self.wishes.brush.emit(self.brush)

    def show_tool(self, name: str) -> None:
        """Show which tool is in hand."""
        for tool, made in self.tools.items():
            made.setChecked(TOOLS[tool] == name)
            if TOOLS[tool] == name:
                self.hint.setText(HINTS[tool])

    def add(self, touch_up: InkTouchUp) -> None:
        """Take a repair that was made on the canvas."""
        names = {
            InkTool.NIB: "Draw with ink",
            InkTool.POUR: "Pour ink",
            InkTool.SPOT: "Take spot away",
            InkTool.BRIDGE: "Bridge a gap",
        }
        self.set(names[touch_up.tool], touch_ups=(*self.settings.touch_ups, touch_up))

    def _show(self, row: int, shown: bool) -> None:
        touch_ups = list(self.settings.touch_ups)
        touch_ups[row] = replace(touch_ups[row], shown=shown)
        self.set("Show repair" if shown else "Hide repair", touch_ups=tuple(touch_ups))

    def _remove(self) -> None:
        row, touch_ups = self.list.chosen, self.settings.touch_ups
        if row is not None:
            self.set("Remove repair", touch_ups=touch_ups[:row] + touch_ups[row + 1 :])

    def refresh(self) -> None:
        """Show the present state."""
        self.list.show_rows(
            (", ".join((TOOL_NAMES[one.tool], *one.inks)), one.shown) for one in self.settings.touch_ups
        )
        self.remove.setEnabled(self.list.chosen is not None)
