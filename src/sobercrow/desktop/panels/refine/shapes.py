"""The paint of chosen shapes: fill, stroke, the colours of the artwork, and those of the picture beneath."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QLineEdit

from sobercrow.core.artwork import edits, painting
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.paint import Fill, Gradient, Stroke
from sobercrow.core.geometry.offset import Ends, Joins
from sobercrow.core.settings import mm_to_px, px_to_mm
from sobercrow.desktop.controls import Fold, choices, doing, group_column, label, row_of, tick
from sobercrow.desktop.document import Document
from sobercrow.desktop.panels.refine.stops import StopsPart
from sobercrow.desktop.small_fields import SmallField
from sobercrow.desktop.swatches import Swatches

USUAL = ("#000000", "#ffffff")
"""Black and white are always at hand."""
ENDS = {Ends.ROUND: "Round", Ends.FLAT: "Flat", Ends.SQUARE: "Square"}
JOINS = {Joins.ROUND: "Round", Joins.MITRE: "Mitre", Joins.BEVEL: "Bevel"}
ENDS_TIPS = {
    Ends.ROUND: "Ends are half discs.",
    Ends.FLAT: "Ends are cut off.",
    Ends.SQUARE: "Ends are led on by half the width.",
}
JOINS_TIPS = {
    Joins.ROUND: "Corners are rounded.",
    Joins.MITRE: "Corners are led on to a tip.",
    Joins.BEVEL: "Corners are cut off.",
}


class ShapesPart:
    """Their fill and stroke, what the picture beneath has, and taking them away."""

    def __init__(self, document: Document) -> None:
        """Work on a document's chosen shapes."""
        self._document = document
        self.swatches = Swatches(
            "Colours of the artwork", "Click to fill with one; double-click to change it wherever it is."
        )
        self.swatches.picked.connect(self.fill)
        self.swatches.changed.connect(self._recolour)
        self.hex = QLineEdit()
        self.hex.setPlaceholderText("#rrggbb")
        self.hex.setAccessibleName("Fill colour")
        self.hex.editingFinished.connect(self._typed_colour)
        self.more = doing("Pick", "Choose any fill colour.", self._pick_colour)
        self.none = doing("No fill", "Only the stroke is left; without one, a hair line.", lambda: self._set_fill(None))
        self.stops = StopsPart(self._picked, self._set_fill)
        self.as_picture = doing("As in the picture", "The colour of the pixels beneath each.", self._as_in_picture)
        self.shaded = doing(
            "Shaded as there", "Gradients where the pixels beneath change.", lambda: self._as_in_picture(True)
        )
        self.greys = doing("Greys", "Greys as light as the colours.", self._greys)
        self.stroke = tick("Stroke", "A line along the edges.")
        self.stroke.clicked.connect(self._set_stroked)
        self.width = SmallField("Width", "Of the stroke.", 0.01, 100.0, "mm")
        self.width.changed.connect(lambda mm: self._change_stroke("Set stroke width", width_px=self._px(mm)))
        self.stroke_hex = QLineEdit()
        self.stroke_hex.setAccessibleName("Stroke colour")
        self.stroke_hex.editingFinished.connect(self._typed_stroke)
        self.ends = choices(ENDS, lambda ends: self._change_stroke("Set stroke ends", ends=ends), ENDS_TIPS)
        self.joins = choices(JOINS, lambda joins: self._change_stroke("Set stroke joins", joins=joins), JOINS_TIPS)
        self.pen = Fold("Ends and joins", row_of(*self.ends.values()), row_of(*self.joins.values()))
        self.stroke_row = row_of(self.stroke_hex, self.width)
        self.delete = doing("Delete", "Delete (Del): takes the chosen shapes away.", self.delete_chosen)
        self.group = group_column(
            label("Fill", strong=True),
            self.swatches,
            row_of(self.hex, self.more, self.none),
            self.stops.group,
            row_of(self.as_picture, self.shaded),
            row_of(self.greys, self.delete),
            self.stroke,
            self.stroke_row,
            self.pen,
        )

    def _px(self, mm: float) -> float:
        artwork = self._document.artwork
        return mm_to_px(mm, artwork.dpi) if artwork is not None else mm

    def _do(self, name: str, edit: Callable[..., Artwork], *arguments: Any) -> None:
        if self._document.choice.shapes:
            self._document.edit(name, edit, self._document.choice, *arguments)

    def fill(self, colour: str) -> None:
        """Colour the chosen shapes."""
        if self._document.choice.shapes:
            self._document.edit("Fill shapes", edits.fill_shapes, self._document.choice.shapes, colour)

    def _set_fill(self, fill: Fill) -> None:
        self._do("Fill shapes" if fill is not None else "Take the fill away", painting.set_fill, fill)

    def delete_chosen(self) -> None:
        """Take the chosen shapes away."""
        if self._document.choice.shapes:
            self._document.edit("Delete shapes", edits.delete_shapes, self._document.choice.shapes)

    def _typed_colour(self) -> None:
        colour = QColor(self.hex.text().strip())
        if colour.isValid() and self.hex.isModified():
            self._set_fill(colour.name())
        self.hex.setModified(False)

    def _typed_stroke(self) -> None:
        colour = QColor(self.stroke_hex.text().strip())
        if colour.isValid() and self.stroke_hex.isModified():
            self._change_stroke("Set stroke colour", colour=colour.name())
        self.stroke_hex.setModified(False)

    def _picked(self, start: str, title: str) -> str | None:
        colour = QColorDialog.getColor(QColor(start), self.group.window(), title)
        return colour.name() if colour.isValid() else None

    def _pick_colour(self) -> None:
        colour = self._picked(self.hex.text() or "#000000", "Fill colour")
        if colour is not None:
            self._set_fill(colour)

    def _recolour(self, old: str) -> None:
        new = self._picked(old, "Change this colour everywhere")
        if new is not None and new != old:
            self._document.edit("Change colour", painting.recolour, old, new)

    def _greys(self) -> None:
        self._do("Make grey", painting.greys)

    def _as_in_picture(self, shaded: bool = False) -> None:
        presentation = self._document.presentation
        if presentation is not None:
            pixels = presentation.results.cleaned.pixels
            self._do(
                "Shade as in the picture" if shaded else "Colour as in the picture",
                painting.as_in_picture,
                pixels,
                shaded,
            )

    def _set_stroked(self, on: bool) -> None:
        def change(stroke: Stroke | None, shape: Shape) -> Stroke | None:
            return stroke or Stroke(shape.colour, self._px(0.5)) if on else None

        self._do("Add stroke" if on else "Take the stroke away", painting.set_stroke, change)

    def _change_stroke(self, name: str, **changes: Any) -> None:
        def change(stroke: Stroke | None, _shape: Shape) -> Stroke | None:
            return None if stroke is None else replace(stroke, **changes)

        self._do(name, painting.set_stroke, change)

    def refresh(self) -> None:
        """Show the present state."""
        artwork, chosen = self._document.artwork, self._document.choice.shapes
        self.group.setVisible(bool(chosen))
        if artwork is None or not chosen:
            return
        shapes = [artwork.shapes[s] for s in chosen]
        fills = {shape.fill for shape in shapes}
        fill = next(iter(fills)) if len(fills) == 1 else None
        marked = fill if isinstance(fill, str) else None
        self.stops.show(fill if isinstance(fill, Gradient) else None)
        colours = artwork.once("colours", painting.colours_of)
        self.swatches.show_colours([*colours, *(c for c in USUAL if c not in colours)], marked)
        if not self.hex.hasFocus():
            self.hex.setText("gradient" if isinstance(fill, Gradient) else marked or "")
        self._show_stroke(artwork, {shape.stroke for shape in shapes})

    def _show_stroke(self, artwork: Artwork, strokes: set[Stroke | None]) -> None:
        stroke = next((one for one in strokes if one is not None), None)
        self.stroke.setTristate(False)
        self.stroke.setCheckState(Qt.CheckState.Checked if stroke is not None else Qt.CheckState.Unchecked)
        for part in (self.stroke_row, self.pen):
            part.setVisible(stroke is not None)
        if stroke is None:
            return
        self.width.show_value(px_to_mm(stroke.width_px, artwork.dpi))
        if not self.stroke_hex.hasFocus():
            self.stroke_hex.setText(stroke.colour)
        for kind, made in (*self.ends.items(), *self.joins.items()):
            made.setChecked(kind in (stroke.ends, stroke.joins))
