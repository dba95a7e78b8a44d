"""What can be done with chosen shapes."""

from __future__ import annotations

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QLineEdit, QWidget

from sobercrow.core.artwork import edits
from sobercrow.desktop.controls import button, group_column, hair_line, label, row_of
from sobercrow.desktop.document import Document

FILLS = ("#000000", "#23262b", "#1d4f79", "#1d7972", "#4f6b2a", "#c9a24b", "#a33e2e", "#7a3d6b", "#ffffff")


class ShapesPart:
    """Their fill, and taking them away."""

    def __init__(self, document: Document) -> None:
        """Work on a document's chosen shapes."""
        self._document = document
        self.swatches = [self._swatch(colour) for colour in FILLS]
        self.hex = QLineEdit()
        self.hex.setPlaceholderText("#rrggbb")
        self.hex.setAccessibleName("Fill colour")
        self.hex.editingFinished.connect(self._typed_colour)
        self.more = button("Pick", "Pick\nChoose any fill colour.")
        self.more.clicked.connect(self._pick_colour)
        self.delete = button("Delete", "Delete (Del)\nTakes the chosen shapes away.")
        self.delete.clicked.connect(self.delete_chosen)
        self.group = group_column(
            label("Fill", strong=True), row_of(*self.swatches), row_of(self.hex, self.more), hair_line(), self.delete
        )

    def _swatch(self, colour: str) -> QWidget:
        made = button("", f"Fill {colour}\nFills the chosen shapes with this colour.")
        made.setAccessibleName(f"Fill {colour}")
        made.setStyleSheet(f"QPushButton {{ background: {colour}; padding: 0; min-height: 22px; min-width: 12px; }}")
        made.clicked.connect(lambda: self.fill(colour))
        return made

    def fill(self, colour: str) -> None:
        """Fill the chosen shapes."""
        if self._document.choice.shapes:
            self._document.edit("Fill shapes", edits.fill_shapes, self._document.choice.shapes, colour)

    def delete_chosen(self) -> None:
        """Take the chosen shapes away."""
        if self._document.choice.shapes:
            self._document.edit("Delete shapes", edits.delete_shapes, self._document.choice.shapes)

    def _typed_colour(self) -> None:
        colour = QColor(self.hex.text().strip())
        if colour.isValid() and self.hex.isModified():
            self.fill(colour.name())
        self.hex.setModified(False)

    def _pick_colour(self) -> None:
        colour = QColorDialog.getColor(QColor(self.hex.text() or "#000000"), self.group.window(), "Fill colour")
        if colour.isValid():
            self.fill(colour.name())

    def refresh(self) -> None:
        """Show the present state."""
        artwork, chosen = self._document.artwork, self._document.choice.shapes
        self.group.setVisible(bool(chosen))
        if artwork is not None and chosen and not self.hex.hasFocus():
            fills = {artwork.shapes[s].colour for s in chosen}
            self.hex.setText(fills.pop() if len(fills) == 1 else "")
