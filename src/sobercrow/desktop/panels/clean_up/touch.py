"""Touch-ups: how the next one is made, and the list of those there are."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from sobercrow.core.cleanup.touch_ups import colour_at
from sobercrow.core.settings import (
    INK_COLOUR,
    MM_PER_INCH,
    PAPER_COLOUR,
    Meaning,
    TouchForm,
    TouchTool,
    TouchUp,
    meaning_of,
    mm_to_px,
    px_to_mm,
)
from sobercrow.desktop.controls import NumberField, button, headed, label, row_of, tick
from sobercrow.desktop.document import Document
from sobercrow.desktop.panels.clean_up.part import Part
from sobercrow.desktop.panels.clean_up.sheet import Wishes
from sobercrow.desktop.presentation import Presentation
from sobercrow.desktop.replay_list import ReplayList
from sobercrow.desktop.tools.touch import Brush

FORMS = {TouchForm.FREEHAND: "Freehand", TouchForm.LINE: "Line", TouchForm.BOX: "Box", TouchForm.POLYGON: "Polygon"}
WIDTH_MM = Meaning("Width in mm", "How wide the stroke is.", 0.01, 500, "mm", 0.1, 2)
TOOL_NAMES = {TouchTool.NIB: "Nib", TouchTool.SCRAPE: "Scrape", TouchTool.POUR: "Pour"}


class BrushWishes(Wishes):
    """What the touch-up part asks of the window."""

    brush = Signal(object)


class TouchPart(Part):
    """Form, width and colour of touch-ups; those of the chosen one, if one is chosen."""

    title = "Touch-ups"

    def __init__(self, document: Document) -> None:
        """Work on a document's touch-ups."""
        super().__init__(document)
        self.wishes = BrushWishes()
        self.brush = Brush()
        self.sampling = False
        self.tools = {tool: button(name, f"{name} ({name[0]})") for tool, name in TOOL_NAMES.items()}
        for tool, made in self.tools.items():
            made.setCheckable(True)
            made.clicked.connect(partial(self.wishes.tool.emit, tool.value))
        self.forms = {form: button(name, f"{name}\nHow the next touch-up is drawn.") for form, name in FORMS.items()}
        for form, made in self.forms.items():
            made.setCheckable(True)
            made.clicked.connect(lambda _checked, form=form: self._set_form(form))
        self.width = NumberField(meaning_of(TouchUp, "width_px"), curved=True)
        self.width.changed.connect(lambda value: self._set(width_px=value))
        self.width.reset.connect(lambda: self._set(width_px=Brush().width_px))
        self.width_mm = NumberField(WIDTH_MM, brief=True)
        self.width_mm.slide.hide()
        self.width_mm.back.hide()
        self.width_mm.changed.connect(lambda mm: self._set(width_px=mm_to_px(mm, self._dpi())))
        self.ink = button("Ink", "Ink\nThe picture's own ink.")
        self.paper = button("Paper", "Paper\nThe picture's own paper.")
        self.sample = button("Sample", "Sample\nClick on the canvas to take the colour there.")
        self.ink.clicked.connect(lambda: self._set(colour=INK_COLOUR))
        self.paper.clicked.connect(lambda: self._set(colour=PAPER_COLOUR))
        self.sample.clicked.connect(self._sample)
        for made in (self.ink, self.paper, self.sample):
            made.setCheckable(True)
        self.tolerance = NumberField(meaning_of(TouchUp, "tolerance"))
        self.tolerance.changed.connect(lambda value: self._set(tolerance=value))
        self.tolerance.reset.connect(lambda: self._set(tolerance=Brush().tolerance))
        self.everywhere = tick("Pour everywhere that colour is", "Else only into the region touched.")
        self.everywhere.clicked.connect(lambda on: self._set(everywhere=on))
        self.magnifier = tick("Magnifier beside the pointer", "Shows what lies under the pointer four times larger.")
        self.magnifier.setChecked(True)
        self.magnifier.clicked.connect(self._magnify)
        self.list = ReplayList("Touch-ups", 132)
        self.list.shown_changed.connect(self._show)
        self.list.currentRowChanged.connect(lambda _row: self._show_chosen())
        self.remove = button("Remove", "Remove\nTakes the chosen touch-up away.")
        self.remove.clicked.connect(self._remove)
        self.new = button("Let go", "Let go\nThe fields above are for the next touch-up again.")
        self.new.clicked.connect(lambda: self.list.setCurrentRow(-1))
        self.hint = label(muted=True)

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        return [
            row_of(*self.tools.values()),
            row_of(*list(self.forms.values())[:2]),
            row_of(*list(self.forms.values())[2:]),
            self.hint,
            self.width,
            self.width_mm,
            row_of(self.ink, self.paper, self.sample),
            self.tolerance,
            self.everywhere,
            self.magnifier,
            headed(self.switch("touch_ups", "All touch-ups"), label("In the order they are done:")),
            self.list,
            row_of(self.remove, self.new),
        ]

    # the next touch-up, or the chosen one

    def _set_form(self, form: TouchForm) -> None:
        self.brush = replace(self.brush, form=form)
        self._show_brush()

    def _magnify(self, on: bool) -> None:
        self.brush = replace(self.brush, magnifier=on)
        self._show_brush()

    def _set(self, **fields: Any) -> None:
        """Change the chosen touch-up, or else what the next one will be like."""
        chosen = self.list.chosen
        if chosen is None:
            self.brush = replace(self.brush, **fields)
            self._show_brush()
            return
        touch_ups = list(self.settings.touch_ups)
        if "width_px" in fields:
            fields["width_px"] = min(max(fields["width_px"] / self._scale(touch_ups[chosen]), 0.5), 2000.0)
        touch_ups[chosen] = replace(touch_ups[chosen], **fields)
        name = next(iter(fields))
        self.change("Change touch-up", merge=f"touch {chosen} {name}", touch_ups=tuple(touch_ups))

    def _scale(self, touch_up: TouchUp) -> float:
        presentation = self.document.presentation
        return presentation.results.place.scale_at(touch_up.middle) if presentation is not None else 1.0

    def _sample(self) -> None:
        self.sampling = True
        self.wishes.tool.emit("pick")

    def picked(self, x: float, y: float) -> bool:
        """Take the colour at a place of the cleaned picture, if one was asked for."""
        presentation = self.document.presentation
        if not self.sampling or presentation is None:
            return False
        self.sampling = False
        reduction = presentation.results.reduction
        self._set(colour=colour_at(presentation.results.cleaned.pixels, x / reduction, y / reduction))
        return True

    def add(self, touch_up: TouchUp) -> None:
        """Take a touch-up that was drawn."""
        self.list.setCurrentRow(-1)
        verbs = {TouchTool.NIB: "Draw with the nib", TouchTool.SCRAPE: "Scrape", TouchTool.POUR: "Pour"}
        self.change(verbs[touch_up.tool], switch_on="touch_ups", touch_ups=(*self.settings.touch_ups, touch_up))

    def _show(self, row: int, shown: bool) -> None:
        touch_ups = list(self.settings.touch_ups)
        touch_ups[row] = replace(touch_ups[row], shown=shown)
        self.change("Show touch-up" if shown else "Hide touch-up", touch_ups=tuple(touch_ups))

    def _remove(self) -> None:
        chosen = self.list.chosen
        if chosen is not None:
            rest = self.settings.touch_ups[:chosen] + self.settings.touch_ups[chosen + 1 :]
            self.list.setCurrentRow(-1)
            self.change("Remove touch-up", touch_ups=rest)

    # showing

    def refresh(self, presentation: Presentation) -> None:
        """Show the present state."""
        super().refresh(presentation)
        self.list.show_rows((self._named(one, presentation), one.shown) for one in self.settings.touch_ups)
        self._show_chosen()

    def _named(self, touch_up: TouchUp, presentation: Presentation) -> str:
        name = TOOL_NAMES[touch_up.tool]
        if touch_up.tool is TouchTool.POUR:
            where = "everywhere" if touch_up.everywhere else "one region"
            return f"{name}, {where}, {touch_up.colour}"
        colour = "" if touch_up.tool is TouchTool.SCRAPE else f", {touch_up.colour}"
        form = FORMS[touch_up.form].lower()
        if touch_up.form in (TouchForm.BOX, TouchForm.POLYGON):
            return f"{name}, {form}{colour}"
        width = touch_up.width_px * self._scale(touch_up)
        return f"{name}, {form}, {px_to_mm(width, presentation.artwork.dpi):.2f} mm{colour}"

    def _show_chosen(self) -> None:
        chosen = self.list.chosen
        self.remove.setEnabled(chosen is not None)
        self.new.setEnabled(chosen is not None)
        if chosen is None:
            self._show_brush()
            return
        touch_up = self.settings.touch_ups[chosen]
        self._show_fields(
            touch_up.width_px * self._scale(touch_up), touch_up.colour, touch_up.tolerance, touch_up.everywhere
        )
        self.hint.setText("The fields below change the touch-up chosen in the list.")

    def _show_brush(self) -> None:
        brush = self.brush
        for form, made in self.forms.items():
            made.setChecked(form is brush.form)
        self._show_fields(brush.width_px, brush.colour, brush.tolerance, brush.everywhere)
        hints = {
            TouchForm.FREEHAND: "Drag to draw. Shift draws straight.",
            TouchForm.LINE: "Drag from end to end. Shift keeps to steps of 15°.",
            TouchForm.BOX: "Drag from corner to corner. Shift makes a square.",
            TouchForm.POLYGON: "Click corner after corner; a double click or Enter closes it.",
        }
        pouring = self.tools[TouchTool.POUR].isChecked()
        self.hint.setText("Click into a region to pour the colour there." if pouring else hints[brush.form])
        self.wishes.brush.emit(brush)

    def _dpi(self) -> float:
        presentation = self.document.presentation
        return presentation.artwork.dpi if presentation is not None else MM_PER_INCH

    def _show_fields(self, width_px: float, colour: str, tolerance: float, everywhere: bool) -> None:
        self.width.show_value(width_px, False)
        self.width_mm.show_value(px_to_mm(width_px, self._dpi()), True)
        self.tolerance.show_value(tolerance, tolerance == Brush().tolerance)
        self.ink.setChecked(colour == INK_COLOUR)
        self.paper.setChecked(colour == PAPER_COLOUR)
        own = colour in (INK_COLOUR, PAPER_COLOUR)
        self.sample.setChecked(not own)
        self.sample.setText("Sample" if own else colour)
        self.everywhere.setChecked(everywhere)

    def show_tool(self, tool: str) -> None:
        """Show which tool is in hand."""
        for which, made in self.tools.items():
            made.setChecked(which.value == tool)
        if self.list.chosen is None:
            self._show_brush()

    def summary(self, presentation: Presentation) -> str:
        """Return how things stand, in a few words."""
        count = len(self.settings.touch_ups)
        hidden = sum(not t.shown for t in self.settings.touch_ups)
        return f"{count}, {hidden} hidden" if hidden else (str(count) if count else "")
