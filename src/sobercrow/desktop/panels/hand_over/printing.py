"""The colours of a press: what each ink is printed in, and the profile for all that is not said."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields, replace
from pathlib import Path

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QColor, QPixmap
from PySide6.QtWidgets import QFileDialog, QGridLayout, QLabel, QLineEdit, QWidget

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import SoberCrowError
from sobercrow.core.handover.inks import coats_of, named_colours
from sobercrow.core.handover.printing import Cmyk, Printing, print_ink, read_profile
from sobercrow.desktop.controls import button, group_column, label, row_of, tick
from sobercrow.desktop.document import Document

SWATCH_PX, NAME_PX = 16, 84
BLACK_OVER = next(field.metadata for field in fields(Printing) if field.name == "overprint_black")


class PrintingPart(QObject):
    """A tick, and once it is on a row for each ink, overprinting of black, and the profile."""

    def __init__(self, document: Document) -> None:
        """Work on what a document is handed over as."""
        super().__init__()
        self._document = document
        self._named: dict[str, str] = {}
        self._through: Mapping[str, Cmyk] = {}
        self._of: Artwork | None = None
        self.rows: dict[str, QLineEdit] = {}
        self.on = tick("Printing colours", "PDF/X-4 in the colours of a press: by ink, or through a CMYK profile.")
        self.on.toggled.connect(self._set_on)
        self._ground = QWidget()
        self._grid = QGridLayout(self._ground)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setColumnStretch(2, 1)
        self.over = tick(BLACK_OVER["label"], BLACK_OVER["help"])
        self.over.toggled.connect(lambda on: self._take(replace(self._printing, overprint_black=on)))
        self.profile = label(muted=True)
        self.choose = button("Profile", "Profile\nAn ICC file of the press, for inks of which nothing is said.")
        self.choose.clicked.connect(self._ask_profile)
        self.usual = button("Usual", "Usual profile\nOffset on coated paper, which comes along.")
        self.usual.setAccessibleName("Usual profile")
        self.usual.clicked.connect(lambda: self._take(replace(self._printing, profile="")))
        told = label("Type four numbers from 0 to 100, or the name of a spot colour.", muted=True)
        self.settings = group_column(told, self._ground, self.over, self.profile, row_of(self.choose, self.usual))
        self.group = group_column(self.on, self.settings)
        self.setParent(self.group)

    @property
    def _printing(self) -> Printing:
        return self._document.state.hand_over.printing or Printing()

    def _set_on(self, on: bool) -> None:
        one = replace(self._document.state.hand_over, printing=Printing() if on else None)
        self._document.set_hand_over("Set printing colours", one)

    def _take(self, printing: Printing) -> None:
        one = self._document.state.hand_over
        if one.printing is not None and printing != one.printing:
            self._document.set_hand_over("Set printing colours", replace(one, printing=printing), "printing")

    def _ask_profile(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self.group.window(), "Profile", "", "CMYK profiles (*.icc *.icm)")
        if path:
            self.take_profile(Path(path))

    def take_profile(self, path: Path) -> None:
        """Print through the profile of a file, or say why not."""
        try:
            read_profile(str(path))
        except SoberCrowError as fault:
            self._document.failed.emit(str(fault))
            return
        self._take(replace(self._printing, profile=str(path)))

    def _typed(self, colour: str) -> None:
        try:
            ink = print_ink(colour, self.rows[colour].text())
        except SoberCrowError as fault:
            self._document.failed.emit(str(fault))
            self.rows[colour].setText(self._printing.ink_of(colour).text)
            return
        self._take(self._printing.with_ink(ink))

    def show_through(self, through: Mapping[str, Cmyk]) -> None:
        """Show, where nothing is said, what inks come to through the profile."""
        self._through = through
        for colour, row in self.rows.items():
            cmyk = through.get(colour)
            row.setPlaceholderText("" if cmyk is None else " ".join(f"{value:.0f}" for value in cmyk))

    def refresh(self, is_pdf: bool) -> None:
        """Show the present state; there is none for other formats than PDF."""
        self.group.setVisible(is_pdf)
        printing, artwork = self._document.state.hand_over.printing, self._document.artwork
        for box, on in ((self.on, printing is not None), (self.over, self._printing.overprint_black)):
            box.blockSignals(True)
            box.setChecked(on)
            box.blockSignals(False)
        self.settings.setVisible(printing is not None)
        if printing is None or artwork is None:
            return
        if artwork is not self._of:
            self._of = artwork
            self._make_rows(named_colours(artwork, coats_of(artwork)))
        for colour, row in self.rows.items():
            if not row.hasFocus() or not row.isModified():
                row.setText(printing.ink_of(colour).text)
        self.usual.setEnabled(bool(printing.profile))
        name = Path(printing.profile).name if printing.profile else "offset on coated paper (FOGRA39)"
        self.profile.setText(f"Profile: {name}")

    def _make_rows(self, named: dict[str, str]) -> None:
        """A row an ink, unless they are the same as before."""
        if named == self._named:
            return
        self._named, self.rows = named, {}
        for old in self._ground.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly):
            old.deleteLater()
        for k, (colour, name) in enumerate(named.items()):
            swatch, said = QLabel(), label(name)
            picture = QPixmap(SWATCH_PX, SWATCH_PX)
            picture.fill(QColor(colour))
            swatch.setPixmap(picture)
            said.setFixedWidth(NAME_PX)
            row = self.rows[colour] = QLineEdit()
            row.setAccessibleName(f"Printing colour, {name}")
            row.setToolTip(f"Printing colour of {name}\nAs 0 82 90 12, as a name, or as a name and four numbers.")
            row.editingFinished.connect(lambda colour=colour: self._typed(colour))
            for column, part in enumerate((swatch, said, row)):
                self._grid.addWidget(part, k, column)
        self.show_through(self._through)
