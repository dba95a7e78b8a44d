"""What can be done with chosen anchors and stretches."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from PySide6.QtWidgets import QWidget

from sobercrow.core.artwork import anchors
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.table import anchor_table, rows_of
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.settings import mm_to_px, px_to_mm
from sobercrow.desktop.controls import Fold, button, group_column, hair_line, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.editing.lines import LINE_EDITS
from sobercrow.desktop.editing.runner import DialsHeld, Runner
from sobercrow.desktop.panels.refine.handles import HandlesPart
from sobercrow.desktop.panels.refine.stretch import StretchPart
from sobercrow.desktop.small_fields import SmallField


class LinePart:
    """Kind, corners, stretches, contours, and where one anchor is."""

    def __init__(self, document: Document, dials: DialsHeld, runner: Runner) -> None:
        """Work on a document's chosen anchors."""
        self._document = document
        self.buttons = {edit.id: runner.button(edit) for edit in LINE_EDITS}
        self.kinds = {kind: self.buttons[f"make-{kind.name.lower()}"] for kind in AnchorKind}
        for made in self.kinds.values():
            made.setCheckable(True)
        self.radius = dials.field("radius_mm")
        self.radius.slide.hide()
        self.across = SmallField("Across", "From the left edge of the drawing.", -5000.0, 5000.0, "mm")
        self.down = SmallField("Down", "From the top edge of the drawing.", -5000.0, 5000.0, "mm")
        for axis, place in ((0, self.across), (1, self.down)):
            place.changed.connect(lambda value, axis=axis: self._place(axis, value))
        self.handles, self.stretch = HandlesPart(document), StretchPart(document)
        self.delete = button("Delete", "Delete (Del)\nThe neighbours are refitted, so that the form holds.")
        self.delete.clicked.connect(lambda: self.delete_chosen(hold_form=True))
        self.delete_plainly = button("Delete plainly", "Delete plainly (Shift+Del)\nThe neighbours keep their handles.")
        self.delete_plainly.clicked.connect(lambda: self.delete_chosen(hold_form=False))
        self.place = group_column(row_of(self.across, self.down), self.handles.group)
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
            self.stretch.group,
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
        shift = mm_to_px(value_mm, artwork.dpi) - here
        self._document.edit(
            "Place anchor", anchors.move_anchors, chosen, shift if axis == 0 else 0.0, shift if axis == 1 else 0.0
        )

    def refresh(self) -> None:
        """Show the present state."""
        artwork, choice = self._document.artwork, self._document.choice
        self.group.setVisible(bool(choice.anchors))
        self.stretch.refresh()
        if artwork is None or not choice.anchors:
            return
        table = anchor_table(artwork)
        kinds = set(np.unique(table.kinds[rows_of(artwork, choice.anchors)]).tolist())
        for kind, part in self.kinds.items():
            part.setChecked(kinds == {int(kind)})
        for edit in LINE_EDITS:
            self.buttons[edit.id].setEnabled(edit.fits(choice))
        self.place.setVisible(len(choice.anchors) == 1)
        if len(choice.anchors) == 1:
            self._show_place(artwork, choice.anchors)

    def _show_place(self, artwork: Artwork, chosen: Iterable[AnchorRef]) -> None:
        ref = next(iter(chosen))
        x, y = anchors.anchor_contour(artwork, ref).anchors[ref.anchor]
        self.across.show_value(px_to_mm(x, artwork.dpi))
        self.down.show_value(px_to_mm(y, artwork.dpi))
        self.handles.show(artwork, ref)
