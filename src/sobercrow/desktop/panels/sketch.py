"""How a rough sketch is read: the part of the Trace panel for one line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from sobercrow.core.settings import Correction, Tracing, Treatment, Verdict, meaning_of, px_to_mm
from sobercrow.core.sketch.reading import SketchReading
from sobercrow.desktop.controls import Fold, NumberField, button, choices, group_column, label, row_of, tick
from sobercrow.desktop.document import Document
from sobercrow.desktop.replay_list import ReplayList

TREATMENTS = {Treatment.OUT: "Leave out", Treatment.LAYER: "Layer", Treatment.DRAW: "Draw"}
TIPS = {
    Treatment.OUT: "Nothing of it is drawn.",
    Treatment.LAYER: "It has a layer of its own, beneath the lines.",
    Treatment.DRAW: "It is drawn with the lines.",
}
VERDICTS = {
    Verdict.LINE: "Line",
    Verdict.WORKING: "Working line",
    Verdict.SHADING: "Shading",
    Verdict.TWO: "Two lines",
    Verdict.ONE: "One line",
    Verdict.CORNER: "Corner",
    Verdict.ROUND: "Round",
    Verdict.APART: "Apart",
}
HINTS = {
    Verdict.LINE: "Click a stroke, or drag over strokes: they are lines of the drawing.",
    Verdict.WORKING: "Click a stroke, or drag over strokes: they are a working line.",
    Verdict.SHADING: "Click a stroke, or drag over strokes: they are shading.",
    Verdict.TWO: "Drag between two lines that were taken for one.",
    Verdict.ONE: "Drag along lines that were meant to be one.",
    Verdict.CORNER: "Click where lines meet in a corner.",
    Verdict.ROUND: "Click where a line runs on in a bend.",
    Verdict.APART: "Click where lines do not meet.",
}
POINTING = "Point at a line to see which strokes it was made of. What is said here holds when it is traced anew."


class SketchWishes(QObject):
    """What the part asks of the window: what is to be said of strokes, and which classes are marked."""

    verdict = Signal(object)
    marked = Signal(object)


class SketchPart:
    """Strays, and what becomes of working lines and shading."""

    def __init__(
        self, document: Document, change: Callable[..., None], set_: Callable[[str, float | None], None]
    ) -> None:
        """Show a document's settings.

        `change` takes the name of a change and the fields of the trace step, `set_` the name of a field and a number,
        changes of which are one while it is dragged.
        """
        self._document = document
        self.strays = NumberField(meaning_of(Tracing, "strays_mm"), curved=True)
        self.strays.changed.connect(partial(set_, "strays_mm"))
        self.strays.reset.connect(partial(set_, "strays_mm", None))
        self.keep_apart = NumberField(meaning_of(Tracing, "keep_apart"))
        self.keep_apart.changed.connect(partial(set_, "keep_apart"))
        self.keep_apart.reset.connect(partial(set_, "keep_apart", Tracing().keep_apart))
        self.pressed = tick("Width as pressed", "Lines swell where strokes are dark or many, as filled shapes.")
        self.pressed.clicked.connect(lambda on: change("Set the width of lines", follow_pen=on))
        self.told = label(muted=True)
        self.choices: dict[str, dict[Treatment, Any]] = {}
        self.names: dict[str, Any] = {}
        self.wishes = SketchWishes()
        self.rows: dict[str, QWidget] = {}
        for field, name in (("working_lines", "working lines"), ("shading", "shading")):
            take = partial(_take, change, field, name)
            self.choices[field] = choices(TREATMENTS, take, TIPS)
            self.names[field] = tick(name.capitalize(), "Marked on the drawing.")
            self.names[field].setChecked(True)
            self.names[field].clicked.connect(self._mark)
            self.rows[field] = group_column(self.names[field], row_of(*self.choices[field].values()))
        self.hand = HandPart(document, change, self.wishes)
        self.column = group_column(
            self.strays, self.told, self.keep_apart, self.pressed, *self.rows.values(), self.hand.fold
        )

    def widgets(self) -> Sequence[QWidget]:
        """Return what is to stand in the panel."""
        return (self.column,)

    def _mark(self) -> None:
        classes = {"working_lines": Verdict.WORKING, "shading": Verdict.SHADING}
        self.wishes.marked.emit(frozenset(classes[field] for field, box in self.names.items() if box.isChecked()))

    def refresh(self, reading: SketchReading | None, shown: bool) -> None:
        """Show what was read of the sketch, and the settings."""
        self.column.setVisible(shown)
        self.hand.refresh(shown)
        tracing = self._document.state.settings.tracing
        for field, made in self.choices.items():
            for treatment, choice in made.items():
                choice.setChecked(getattr(tracing, field) is treatment)
        if reading is None or self._document.presentation is None:
            return
        dpi = self._document.presentation.artwork.dpi
        proposed = px_to_mm(reading.strays_px * reading.reduction, dpi)
        value = proposed if tracing.strays_mm is None else tracing.strays_mm
        note = f"{self.strays.meaning.help} The sketch says {proposed:.2f} mm."
        self.strays.show_value(value, tracing.strays_mm is None, note)
        self.keep_apart.show_value(tracing.keep_apart, tracing.keep_apart == Tracing().keep_apart)
        self.pressed.setChecked(tracing.follow_pen)
        strokes = reading.strokes.count
        self.told.setText(f"{strokes} single stroke{'s' if strokes != 1 else ''} make up the lines.")
        for field, count, one, many in (
            ("working_lines", len(reading.forms), "working line", "working lines"),
            ("shading", reading.patches, "patch of shading", "patches of shading"),
        ):
            self.names[field].setText(f"{count} {one if count == 1 else many}")
            self.rows[field].setVisible(count > 0)


class HandPart:
    """What is said of strokes and joints by hand, and what was said."""

    def __init__(self, document: Document, change: Callable[..., None], wishes: SketchWishes) -> None:
        """Show a document's corrections; `change` takes the name of a change and the fields of the trace step."""
        self._document, self._change_settings, self._wishes = document, change, wishes
        self.verdict: Verdict | None = None
        self.buttons = choices(VERDICTS, self._take_up, HINTS)
        self.hint = label(POINTING, muted=True)
        self.list = ReplayList("Corrections")
        self.list.shown_changed.connect(self._show)
        self.list.currentRowChanged.connect(lambda _row: self._allow())
        self.remove = button("Remove", "Remove\nTakes the chosen correction back.")
        self.remove.clicked.connect(self._remove)
        made = self.buttons
        self.said = group_column(self.list, self.remove)
        self.fold = Fold(
            "By hand",
            row_of(*(made[v] for v in (Verdict.LINE, Verdict.WORKING, Verdict.SHADING))),
            row_of(*(made[v] for v in (Verdict.TWO, Verdict.ONE))),
            row_of(*(made[v] for v in (Verdict.CORNER, Verdict.ROUND, Verdict.APART))),
            self.hint,
            self.said,
            open_=True,
        )

    @property
    def _corrections(self) -> tuple[Correction, ...]:
        return self._document.state.settings.tracing.corrections

    def _change(self, name: str, corrections: Sequence[Correction]) -> None:
        self._change_settings(name, corrections=tuple(corrections))

    def _take_up(self, verdict: Verdict) -> None:
        """Say this from now on; pressed again, nothing."""
        self.say(None if self.verdict is verdict else verdict)

    def say(self, verdict: Verdict | None) -> None:
        """Have the tool say something, or nothing."""
        self.verdict = verdict
        for which, made in self.buttons.items():
            made.setChecked(which is verdict)
        self.hint.setText(HINTS[verdict] if verdict is not None else POINTING)
        self._wishes.verdict.emit(verdict)

    def add(self, correction: Correction) -> None:
        """Take what was said on the canvas."""
        self._change(f"Say {VERDICTS[correction.verdict].lower()}", (*self._corrections, correction))

    def _show(self, row: int, shown: bool) -> None:
        said = list(self._corrections)
        said[row] = replace(said[row], shown=shown)
        self._change("Show correction" if shown else "Hide correction", said)

    def _remove(self) -> None:
        row = self.list.chosen
        if row is not None:
            self._change("Remove correction", self._corrections[:row] + self._corrections[row + 1 :])

    def _allow(self) -> None:
        self.remove.setEnabled(self.list.chosen is not None)

    def refresh(self, shown: bool) -> None:
        """Show what was said."""
        if not shown and self.verdict is not None:
            self.say(None)
        self.list.show_rows((VERDICTS[one.verdict], one.shown) for one in self._corrections)
        self.said.setVisible(bool(self._corrections))
        self._allow()


def _take(change: Callable[..., None], field: str, name: str, treatment: Treatment) -> None:
    change(f"Set {name}", **{field: treatment})
