"""The panels of the steps Bring in and Inks."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Signal

from sobercrow.core.errors import SettingError
from sobercrow.core.settings import DPI, Meaning, dpi_of_length, px_to_mm
from sobercrow.desktop.controls import NumberField, Panel, button, hair_line, label, panel_column
from sobercrow.desktop.document import Document
from sobercrow.desktop.lettering_offer import LetteringOffer
from sobercrow.desktop.panels.check_list import CheckList

KNOWN_LENGTH = Meaning("Known length", "How long what you measured is in truth.", 0, 5000, "mm", 1, 2)


class BringInPanel(Panel):
    """What was brought in, how large it truly is, and what stands in the way of a good trace."""

    measure_wanted = Signal()

    def __init__(self, document: Document, offer: LetteringOffer) -> None:
        """Show a document's source."""
        super().__init__()
        self._document = document
        self._measured_px = 0.0
        self.name, self.pixels = label(strong=True), label(muted=True)
        self.dpi = NumberField(DPI, curved=True)
        self.dpi.changed.connect(lambda value: self._set(value))
        self.dpi.reset.connect(lambda: self._set(None))
        self.true_size = label(strong=True)
        self.measure = button(
            "Measure", "Measure (M)\nDrag over something whose length you know, then type its length."
        )
        self.measure.clicked.connect(self.measure_wanted)
        self.measure_hint = label(muted=True)
        self.measure_hint.hide()
        self.length = NumberField(KNOWN_LENGTH, brief=True)
        self.length.slide.hide()
        self.length.back.hide()
        self.length.hide()
        self.length.changed.connect(self._set_length)
        self.check = CheckList(document, offer)
        self.check.true_size_wanted.connect(self.measure_wanted)
        self.column = panel_column(
            self.name,
            self.pixels,
            hair_line(),
            self.dpi,
            self.true_size,
            self.measure,
            self.measure_hint,
            self.length,
            hair_line(),
            label("Picture check", strong=True),
            self.check,
        )
        document.opened.connect(self._forget)

    def _forget(self) -> None:
        self._measured_px = 0.0
        self.length.hide()
        self.measure_hint.hide()

    def show_measuring(self) -> None:
        """Say what to do with the measuring line."""
        self.measure_hint.setText("Drag over something whose length you know.")
        self.measure_hint.show()

    def take_measured(self, length_px: float) -> None:
        """Ask how long what was measured is in truth; `length_px` is in pixels of the picture brought in."""
        self._measured_px = length_px
        dpi = self._document.state.settings.bring_in.dpi or (self._document.source.dpi if self._document.source else 1)
        self.measure_hint.setText(f"{length_px:.0f} px measured. Type how long that is:")
        self.measure_hint.show()
        self.length.show_value(px_to_mm(length_px, dpi), True)
        self.length.show()
        self.length.box.setFocus()
        self.length.box.selectAll()

    def _set_length(self, mm: float) -> None:
        try:
            self._set(round(dpi_of_length(self._measured_px, mm), 2), "Set true size")
        except SettingError as fault:
            self._document.failed.emit(str(fault))

    def _set(self, dpi: float | None, name: str = "Set resolution") -> None:
        settings = self._document.state.settings
        self._document.change_settings(
            name, replace(settings, bring_in=replace(settings.bring_in, dpi=dpi)), merge="dpi"
        )

    def refresh(self) -> None:
        """Show the present state."""
        source = self._document.source
        if source is None:
            return
        self.check.refresh()
        given = self._document.state.settings.bring_in.dpi
        dpi = given or source.dpi
        self.name.setText(source.name)
        self.pixels.setText(f"{source.width} × {source.height} px")
        note = "Taken from the file. Sets the true size."
        if given is not None:
            note = "Set by you. Sets the true size."
        elif not source.dpi_stated:
            note = "The file states no resolution, so 300 dpi is assumed. Set it if you know better."
        self.dpi.show_value(dpi, given is None, note)
        width, height = px_to_mm(source.width, dpi), px_to_mm(source.height, dpi)
        self.true_size.setText(f"{width:.1f} × {height:.1f} mm in true size")
