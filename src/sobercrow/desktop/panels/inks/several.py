"""Several inks: how many, which, and what becomes of each."""

from __future__ import annotations

from PySide6.QtWidgets import QFormLayout, QLineEdit, QWidget

from sobercrow.core.cleanup.touch_ups import colour_at
from sobercrow.core.inks import edits
from sobercrow.core.inks.separation import SeveralInks
from sobercrow.core.settings import InkKind, Inks, Mixing, Role, meaning_of
from sobercrow.desktop.controls import NumberField, choices, doing, group_column, label, row_of, tick
from sobercrow.desktop.document import Document
from sobercrow.desktop.panels.inks.curve import ErrorCurve
from sobercrow.desktop.panels.inks.ink_list import InkList
from sobercrow.desktop.panels.inks.part import InkPart, InkWishes

ROLES = {Role.INK: "Ink", Role.PAPER: "Paper", Role.LEFT_OUT: "Left out"}
ROLE_TIPS = {
    Role.INK: "It is traced.",
    Role.PAPER: "It is what the artwork lies on and is not traced.",
    Role.LEFT_OUT: "It is not traced, whatever it is.",
}
MIXINGS = {Mixing.AUTO: "Auto", Mixing.SRGB: "Drawn", Mixing.LINEAR: "Lens"}
MIXING_TIPS = {
    Mixing.AUTO: "Estimated from the picture.",
    Mixing.SRGB: "Soft edges were mixed in sRGB values, as programs draw.",
    Mixing.LINEAR: "Soft edges were mixed in linear light, as lenses and scanners see.",
}


class SeveralPart(InkPart):
    """Count, list and the ink chosen in it."""

    def __init__(self, document: Document, wishes: InkWishes) -> None:
        """Work on a document."""
        super().__init__(document, wishes)
        self.count = NumberField(meaning_of(Inks, "count"), large=True)
        self.count.changed.connect(lambda value: self.set_count(round(value)))
        self.count.reset.connect(lambda: self.set_count(None))
        self.curve = ErrorCurve()
        self.curve.picked.connect(self.set_count)
        self.list = InkList()
        self.list.chosen.connect(self.show_chosen)
        self.list.dropped.connect(self.merge)
        self.merge_button = doing("Merge", "The chosen inks become one.", self.merge_chosen)
        self.remove_button = doing("Remove", "What it held falls to the inks most like it.", self.remove)
        self.sample_button = doing("Sample", "Click on the canvas to add an ink.", self.sample)
        self.name, self.colour = QLineEdit(), QLineEdit()
        self.name.setAccessibleName("Name of the ink")
        self.colour.setAccessibleName("Colour of the ink, like #a33e2e")
        self.name.editingFinished.connect(self._rename)
        self.colour.editingFinished.connect(self._recolour)
        self.roles = choices(ROLES, self.set_role, ROLE_TIPS)
        self.lock = tick("Lock", "The ink stays when the colour count changes.")
        self.lock.clicked.connect(self._lock)
        self.solo = tick("Show alone", "The canvas shows this ink alone.")
        self.solo.clicked.connect(self._show_alone)
        self.at_edge = tick("Paper only where it touches the edge", "Paper within ink is traced.")
        self.at_edge.clicked.connect(lambda on: self.set("Set paper at the edge", paper_at_edge=on))
        self.mixing = choices(MIXINGS, lambda m: self.set("Set mixing", mixing=m), MIXING_TIPS)
        self.mixed = label(muted=True)
        self.load = doing("Load inks", "From a list of colours or inks saved before.", self.wishes.load.emit)
        self.save = doing("Save inks", "As a list for other pictures.", self.wishes.save.emit)
        self.column = group_column(
            self.count,
            self.curve,
            self.list,
            row_of(self.merge_button, self.remove_button, self.sample_button),
            self._chosen_ink(),
            row_of(*self.roles.values()),
            row_of(self.lock, self.solo),
            self.at_edge,
        )

    def edge_widgets(self) -> list[QWidget]:
        """Return the widgets that say where soft edges were mixed, and those for files."""
        return [label("Soft edges were mixed as if"), row_of(*self.mixing.values()), self.mixed]

    def file_row(self) -> QWidget:
        """Return the buttons that load and save inks."""
        return row_of(self.load, self.save)

    def _chosen_ink(self) -> QWidget:
        widget = QWidget()
        form = QFormLayout(widget)
        form.setContentsMargins(0, 0, 0, 0)
        form.addRow("Name", self.name)
        form.addRow("Colour", self.colour)
        return widget

    # what can be done

    def one(self) -> int | None:
        """The chosen ink, if it is one."""
        rows = self.list.rows()
        return rows[0] if len(rows) == 1 else None

    def set_count(self, count: int | None) -> None:
        """Ask for so many inks; None takes as many as are proposed."""
        separation = self.separation
        if count is None and isinstance(separation, SeveralInks) and any(ink.locked for ink in self.inks):
            count = max(len(separation.colours.proposed), 2)  # those locked, and others to make up the proposed count
        self.change("Set colour count", lambda: self.settings.with_count(count, self.inks), "inks count")

    def merge(self, into: int, others: list[int]) -> None:
        """Join inks with one."""
        self.edit("Merge inks", edits.merged, into, others)
        self.list.select(into)

    def merge_chosen(self) -> None:
        """Join the chosen inks with the one among them that covers most."""
        rows, separation = self.list.rows(), self.separation
        if not rows or separation is None:
            self.document.failed.emit("Choose at least two inks in the list to merge them.")
            return
        into = max(rows, key=lambda k: separation.coverage[k] if k < len(separation.coverage) else 0.0)
        self.merge(into, [k for k in rows if k != into])

    def remove(self) -> None:
        """Take the chosen inks away."""
        if self.list.rows():
            rows = self.list.rows()
            self.list.clearSelection()
            self.edit("Remove ink" if len(rows) == 1 else "Remove inks", edits.removed, rows)

    def sample(self) -> None:
        """Have the next click on the canvas add an ink."""
        self.wishes.tool.emit("sample")

    def picked(self, x: float, y: float) -> None:
        """Add the colour at a place of the cleaned picture as an ink."""
        presentation = self.document.presentation
        if presentation is not None:
            reduction = presentation.results.reduction
            colour = colour_at(presentation.results.cleaned.pixels, x / reduction, y / reduction)
            self.edit("Add ink", edits.added, colour)

    def pointed(self, x: float, y: float, also: bool) -> None:
        """Choose the ink at a place of the canvas."""
        presentation = self.document.presentation
        if presentation is None:
            return
        own, reduction = presentation.results.separation.own, presentation.results.reduction
        row, column = int(y / reduction), int(x / reduction)
        if 0 <= row < own.shape[0] and 0 <= column < own.shape[1]:
            self.list.select(int(own[row, column]), also)

    def set_role(self, role: Role) -> None:
        """Give the chosen ink a role."""
        if self.one() is not None:
            self.edit(
                f"Make ink {role.value}" if role is not Role.INK else "Trace ink", edits.with_role, self.one(), role
            )
        self.show_chosen()

    def _lock(self, on: bool) -> None:
        if self.one() is not None:
            self.edit("Lock ink" if on else "Unlock ink", edits.locked, self.one(), on)

    def _show_alone(self, on: bool) -> None:
        if on and self.one() is None:
            self.list.select(0)
        self.wishes.alone.emit(on)

    def _rename(self) -> None:
        one = self.one()
        if one is not None and self.name.text() != self.inks[one].name:
            self.edit("Rename ink", edits.renamed, one, self.name.text())
            self.show_chosen()

    def _recolour(self) -> None:
        one = self.one()
        if one is not None and self.colour.text() != self.inks[one].colour:
            self.edit("Set ink colour", edits.recoloured, one, self.colour.text())
            self.show_chosen()

    # showing

    def refresh(self) -> None:
        """Show the present state."""
        separation = self.separation
        if not isinstance(separation, SeveralInks):
            return
        proposed = len(separation.colours.proposed)
        count = self.settings.count or len(separation.inks)
        greys = self.settings.kind is InkKind.GREYS
        note = f"{proposed} are proposed: the error hardly falls beyond."
        if separation.colours.shaded:
            note = "Tones run into each other here; any count is a choice."
        self.count.show_value(count, self.settings.count is None and not self.settings.palette, "" if greys else note)
        self.curve.setVisible(not greys)
        self.curve.show_errors(separation.colours.errors, count, proposed)
        self.list.show_inks(self.inks, separation.coverage)
        self.at_edge.setChecked(self.settings.paper_at_edge)
        for key, made in self.mixing.items():
            made.setChecked(key is self.settings.mixing)
        self.mixed.setText("Taken as mixed in linear light." if separation.linear else "Taken as mixed in sRGB values.")
        self.show_chosen()

    def show_chosen(self) -> None:
        """Show the chosen ink in the fields, and take it up for the tools."""
        rows, one = self.list.rows(), self.one()
        ink = self.inks[one] if one is not None and one < len(self.inks) else None
        for widget in (self.name, self.colour, self.lock, *self.roles.values()):
            widget.setEnabled(ink is not None)
        self.merge_button.setEnabled(len(rows) > 1)
        self.remove_button.setEnabled(bool(rows))
        if not self.name.hasFocus():
            self.name.setText(ink.name if ink is not None else "")
        if not self.colour.hasFocus():
            self.colour.setText(ink.colour if ink is not None else "")
        for key, made in self.roles.items():
            made.setChecked(ink is not None and ink.role is key)
        self.lock.setChecked(ink is not None and ink.locked)
        self.wishes.solo.emit(one)

    def chosen_colours(self) -> tuple[str, ...]:
        """The colours of the chosen inks."""
        return tuple(self.inks[k].colour for k in self.list.rows() if k < len(self.inks))
