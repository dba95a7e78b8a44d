"""What can be done with chosen shapes beside their paint and place: combined, mirrored, aligned, ordered, repeated."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from sobercrow.core.artwork.arranging import To
from sobercrow.core.artwork.combining import Backing, Fence
from sobercrow.core.artwork.mirroring import Axis
from sobercrow.core.settings import meaning_of
from sobercrow.desktop.controls import Fold, NumberField, choices, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.editing import shapes
from sobercrow.desktop.editing.edit import Edit, Through
from sobercrow.desktop.editing.runner import DialsHeld, Runner
from sobercrow.desktop.editing.try_button import TryButton

TO = {To.CHOICE: "Each other", To.FIRST: "First", To.PAGE: "Page"}
TO_TIPS = {
    To.CHOICE: "Aligned to the box around all of them.",
    To.FIRST: "Aligned to the one that was chosen first, which stays.",
    To.PAGE: "Aligned to the edges and middle of the drawing.",
}
WAYS = {True: "Upright axis", False: "Level axis"}
THROUGH = {Through.CHOICE: "Chosen", Through.PAGE: "Page", Through.LAID: "Laid"}
THROUGH_TIPS = {
    Through.CHOICE: "Through the middle of what is chosen, or through two chosen anchors.",
    Through.PAGE: "Through the middle of the drawing.",
    Through.LAID: "As it was laid on the drawing with Lay axis (Shift+X).",
}
FENCES = {Fence.ROUND: "Round", Fence.SHARP: "Sharp"}


class ArrangePart(QObject):
    """Folds of edits of shapes, each with the numbers it goes by. `axis_wanted` asks for one to be laid."""

    axis_wanted = Signal()

    def __init__(self, document: Document, dials: DialsHeld, runner: Runner) -> None:
        """Work on the shapes chosen in a document."""
        super().__init__()
        self._document, self._dials = document, dials
        self.buttons: dict[str, TryButton] = {edit.id: runner.button(edit) for edit in shapes.SHAPE_EDITS}
        self.to = choices(TO, self._set_to, TO_TIPS)
        self.fences = choices(FENCES, lambda fence: self._set_backing(corners=fence), {})
        self.grow, self.close = self._backing_field("grow_mm"), self._backing_field("close_mm")
        fields = {name: dials.field(name) for name in ("aside_mm", "columns", "rows", "gap_mm", "copies")}
        for field in (*fields.values(), self.grow, self.close):
            field.slide.hide()
        self.combining = Fold("Combine", *self._rows(shapes.COMBINING, 2))
        self.ways = choices(WAYS, lambda way: self._set_axis(axis_upright=way), {})
        self.through = choices(THROUGH, self._set_through, THROUGH_TIPS)
        self.mirroring = Fold(
            "Mirror", row_of(*self.through.values()), row_of(*self.ways.values()), *self._rows(shapes.MIRRORING, 2)
        )
        self.aligning = Fold(
            "Align and spread",
            row_of(*self.to.values()),
            *self._rows(shapes.ALIGNING, 3),
            *self._rows(shapes.SPREADING, 2),
        )
        self.ordering = Fold("Order and groups", *self._rows(shapes.ORDERING, 2), self.buttons["outline-strokes"])
        self.repeating = Fold(
            "Repeat",
            fields["aside_mm"],
            self.buttons["duplicate"],
            fields["columns"],
            fields["rows"],
            fields["gap_mm"],
            self.buttons["in-rows"],
            fields["copies"],
            self.buttons["around"],
        )
        self.truing = Fold("True", *self._rows(shapes.TRUING, 2))
        self.whole = Fold(
            "Solid and backing",
            row_of(self.buttons["solid"], self.buttons["trim"]),
            self.buttons["join-colours"],
            self.grow,
            self.close,
            row_of(*self.fences.values()),
            self.buttons["backing"],
        )
        self.groups = (
            self.combining,
            self.mirroring,
            self.aligning,
            self.ordering,
            self.repeating,
            self.truing,
            self.whole,
        )
        self._set_to(To.CHOICE)
        self._set_axis(axis_upright=True)
        self._set_backing(corners=Fence.ROUND)

    def _rows(self, edits: Iterable[Edit], across: int) -> list[QWidget]:
        buttons = [self.buttons[edit.id] for edit in edits]
        return [row_of(*buttons[k : k + across]) for k in range(0, len(buttons), across)]

    def _set_to(self, to: To) -> None:
        self._dials.set(to=to)
        for one, made in self.to.items():
            made.setChecked(one is to)

    def take_axis(self, axis: Axis) -> None:
        """Mirror in an axis that was laid on the canvas."""
        self._set_axis(axis=axis, axis_through=Through.LAID)

    def _set_through(self, through: Through) -> None:
        self._set_axis(axis_through=through)
        if through is Through.LAID and self._dials.values.axis is None:
            self.axis_wanted.emit()

    def _set_axis(self, **changes: object) -> None:
        self._dials.set(**changes)
        values = self._dials.values
        for through, made in self.through.items():
            made.setChecked(through is values.axis_through)
        for way, made in self.ways.items():
            made.setChecked(way is values.axis_upright)
            made.setEnabled(values.axis_through is not Through.LAID)

    def _set_backing(self, **changes: object) -> None:
        backing = replace(self._dials.values.backing, **changes)  # type: ignore[arg-type]
        self._dials.set(backing=backing)
        for one, made in self.fences.items():
            made.setChecked(one is backing.corners)

    def _backing_field(self, name: str) -> NumberField:
        made = NumberField(meaning_of(Backing, name), brief=True)
        usual = getattr(Backing(), name)

        def take(value: float) -> None:
            self._set_backing(**{name: value})
            made.show_value(value, value == usual)

        made.changed.connect(take)
        made.reset.connect(lambda: take(usual))
        made.show_value(usual, True)
        return made

    def refresh(self) -> None:
        """Show what can be done with what is chosen; the whole can always be made solid and backed."""
        choice = self._document.choice
        for part in self.groups[:-1]:
            part.setVisible(bool(choice.shapes))
        self.whole.setVisible(not choice.anchors)
        for edit in shapes.SHAPE_EDITS:
            self.buttons[edit.id].setEnabled(edit.fits(choice))
