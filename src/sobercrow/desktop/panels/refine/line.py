"""What can be done with chosen anchors and stretches."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtWidgets import QWidget

from sobercrow.core.artwork import anchors
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.table import anchor_table, rows_of
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.settings import MM_PER_INCH, Meaning, meaning_of, px_to_mm
from sobercrow.desktop.controls import Fold, NumberField, button, group_column, hair_line, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.line_edits import EDITS, LineDials, LineEdit
from sobercrow.desktop.panels.refine.try_button import TryButton
from sobercrow.desktop.trying import Trying


class Dials:
    """The numbers that edits go by, held for the panel and the menus."""

    def __init__(self) -> None:
        """Start with the usual ones."""
        self.values = LineDials()

    def field(self, name: str, taken: Callable[[], object] = lambda: None) -> NumberField:
        """Return a field for one of them; `taken` is told of changes."""
        made = NumberField(meaning_of(LineDials, name), brief=True, curved=True)
        usual = getattr(self.values, name)

        def take(value: float) -> None:
            self.values = replace(self.values, **{name: value})  # type: ignore[arg-type]
            made.show_value(value, value == usual)
            taken()

        made.changed.connect(take)
        made.reset.connect(lambda: take(usual))
        made.show_value(usual, True)
        return made


class Runner:
    """Runs edits of lines on a document, and shows what they would do."""

    def __init__(self, document: Document, dials: Dials, trying: Trying) -> None:
        """Run edits on a document, by some dials."""
        self._document, self._dials, self._trying = document, dials, trying

    def run(self, edit: LineEdit) -> None:
        """Do an edit as one named change."""
        self._trying.stop()
        self._document.edit(edit.name or edit.title, edit.work, self._document.choice, self._dials.values)

    def show(self, edit: LineEdit, on: bool, with_ribbon: bool = False) -> None:
        """Show what an edit would do, or the artwork as it is."""
        if not on:
            self._trying.stop()
            return
        choice, dials = self._document.choice, self._dials.values
        self._trying.try_edit(lambda artwork: edit.work(artwork, choice, dials), with_ribbon)

    def button(self, edit: LineEdit) -> TryButton:
        """Return the button of an edit."""
        keys = f" ({edit.keys[0]})" if edit.keys else ""
        made = TryButton(edit.title, f"{edit.title}{keys}\n{edit.help}")
        made.clicked.connect(partial(self.run, edit))
        made.tried.connect(partial(self.show, edit))
        return made


class LinePart:
    """Kind, corners, stretches, contours, and where one anchor is."""

    def __init__(self, document: Document, dials: Dials, runner: Runner) -> None:
        """Work on a document's chosen anchors."""
        self._document = document
        self.buttons = {edit.id: runner.button(edit) for edit in EDITS}
        self.kinds = {kind: self.buttons[f"make-{kind.name.lower()}"] for kind in AnchorKind}
        for made in self.kinds.values():
            made.setCheckable(True)
        self.radius = dials.field("radius_mm")
        self.radius.slide.hide()
        self.across = NumberField(Meaning("Across", "From the left edge of the drawing.", -1000, 5000, "mm", 0.1, 2))
        self.down = NumberField(Meaning("Down", "From the top edge of the drawing.", -1000, 5000, "mm", 0.1, 2))
        for axis, place in ((0, self.across), (1, self.down)):
            place.slide.hide()
            place.back.hide()
            place.note.hide()
            place.changed.connect(lambda value, axis=axis: self._place(axis, value))
        self.delete = button("Delete", "Delete (Del)\nThe neighbours are refitted, so that the form holds.")
        self.delete.clicked.connect(lambda: self.delete_chosen(hold_form=True))
        self.delete_plainly = button("Delete plainly", "Delete plainly (Shift+Del)\nThe neighbours keep their handles.")
        self.delete_plainly.clicked.connect(lambda: self.delete_chosen(hold_form=False))
        self.place = group_column(self.across, self.down)
        self.contour = Fold(
            "Contour",
            self._row("cut-here", "close-contour", "reverse"),
            self._row("join-straight", "join-smooth"),
            self._row("take-out"),
        )
        self.group = group_column(
            label("Kind", strong=True),
            row_of(*self.kinds.values()),
            self.place,
            hair_line(),
            label("Corner", strong=True),
            self._row("sharpen", "round"),
            self.radius,
            hair_line(),
            label("Stretch", strong=True),
            self._row("straight", "arc", "calm"),
            self._row("align-level", "align-upright"),
            self._row("space-evenly"),
            row_of(self.delete, self.delete_plainly),
            self.contour,
        )

    def _row(self, *names: str) -> QWidget:
        return row_of(*(self.buttons[name] for name in names))

    def delete_chosen(self, hold_form: bool) -> None:
        """Take the chosen anchors away."""
        chosen = self._document.choice.anchors
        if chosen:
            name = "Delete anchors" if hold_form else "Delete anchors plainly"
            self._document.edit(name, anchors.delete_anchors, chosen, hold_form)

    def _place(self, axis: int, value_mm: float) -> None:
        artwork, chosen = self._document.artwork, self._document.choice.anchors
        if artwork is None or len(chosen) != 1:
            return
        ref = next(iter(chosen))
        here = anchors.anchor_contour(artwork, ref).anchors[ref.anchor][axis]
        shift = value_mm * artwork.dpi / MM_PER_INCH - here
        self._document.edit(
            "Place anchor", anchors.move_anchors, chosen, shift if axis == 0 else 0.0, shift if axis == 1 else 0.0
        )

    def refresh(self) -> None:
        """Show the present state."""
        artwork, choice = self._document.artwork, self._document.choice
        self.group.setVisible(bool(choice.anchors))
        if artwork is None or not choice.anchors:
            return
        table = anchor_table(artwork)
        kinds = set(np.unique(table.kinds[rows_of(artwork, choice.anchors)]).tolist())
        for kind, part in self.kinds.items():
            part.setChecked(kinds == {int(kind)})
        for edit in EDITS:
            self.buttons[edit.id].setEnabled(edit.fits(choice))
        self.place.setVisible(len(choice.anchors) == 1)
        if len(choice.anchors) == 1:
            self._show_place(artwork, choice.anchors)

    def _show_place(self, artwork: Artwork, chosen: Iterable[AnchorRef]) -> None:
        ref = next(iter(chosen))
        x, y = anchors.anchor_contour(artwork, ref).anchors[ref.anchor]
        self.across.show_value(px_to_mm(x, artwork.dpi), True)
        self.down.show_value(px_to_mm(y, artwork.dpi), True)
