"""How a rough sketch is read: the part of the Trace panel for one line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from PySide6.QtWidgets import QWidget

from sobercrow.core.settings import Tracing, Treatment, meaning_of, px_to_mm
from sobercrow.core.sketch.reading import SketchReading
from sobercrow.desktop.controls import NumberField, choices, group_column, label, row_of
from sobercrow.desktop.document import Document

TREATMENTS = {Treatment.OUT: "Leave out", Treatment.LAYER: "Layer", Treatment.DRAW: "Draw"}
TIPS = {
    Treatment.OUT: "Nothing of it is drawn.",
    Treatment.LAYER: "It has a layer of its own, beneath the lines.",
    Treatment.DRAW: "It is drawn with the lines.",
}


class SketchPart:
    """Strays, and what becomes of working lines and shading."""

    def __init__(self, document: Document, change: Callable[..., None]) -> None:
        """Show a document's settings; `change` takes the name of a change and the fields of the trace step."""
        self._document = document
        self.strays = NumberField(meaning_of(Tracing, "strays_mm"), curved=True)
        self.strays.changed.connect(lambda value: change("Set strays", strays_mm=value))
        self.strays.reset.connect(lambda: change("Set strays", strays_mm=None))
        self.told = label(muted=True)
        self.choices: dict[str, dict[Treatment, Any]] = {}
        self.names: dict[str, Any] = {}
        self.rows: dict[str, QWidget] = {}
        for field, name in (("working_lines", "working lines"), ("shading", "shading")):
            take = partial(_take, change, field, name)
            self.choices[field] = choices(TREATMENTS, take, TIPS)
            self.names[field] = label()
            self.rows[field] = group_column(self.names[field], row_of(*self.choices[field].values()))
        self.column = group_column(self.strays, self.told, *self.rows.values())

    def widgets(self) -> Sequence[QWidget]:
        """Return what is to stand in the panel."""
        return (self.column,)

    def refresh(self, reading: SketchReading | None, shown: bool) -> None:
        """Show what was read of the sketch, and the settings."""
        self.column.setVisible(shown)
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
        strokes = reading.strokes.count
        self.told.setText(f"{strokes} single stroke{'s' if strokes != 1 else ''} make up the lines.")
        for field, count, one, many in (
            ("working_lines", len(reading.forms), "working line", "working lines"),
            ("shading", reading.patches, "patch of shading", "patches of shading"),
        ):
            self.names[field].setText(f"{count} {one if count == 1 else many}")
            self.rows[field].setVisible(count > 0)


def _take(change: Callable[..., None], field: str, name: str, treatment: Treatment) -> None:
    change(f"Set {name}", **{field: treatment})
