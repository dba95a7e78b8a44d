"""The panel of the Hand over step."""

from __future__ import annotations

from PySide6.QtCore import Signal

from sobercrow.core.settings import px_to_mm
from sobercrow.desktop.controls import Panel, button, hair_line, label, panel_column
from sobercrow.desktop.document import Document


class HandOverPanel(Panel):
    """What leaves the program, and how large."""

    svg_wanted = Signal()
    project_wanted = Signal()

    def __init__(self, document: Document) -> None:
        """Show a document's artwork as it will be saved."""
        super().__init__()
        self._document = document
        self.true_size, self.content = label(title=True), label(muted=True)
        self.save = button("Save SVG", "Save SVG (Ctrl+E)\nWrites the artwork at its true size.", main=True)
        self.save.clicked.connect(self.svg_wanted)
        self.keep = button("Save project", "Save project (Ctrl+S)\nKeeps picture, settings and edits to go on later.")
        self.keep.clicked.connect(self.project_wanted)
        self.column = panel_column(
            label("SVG", strong=True),
            self.true_size,
            self.content,
            self.save,
            hair_line(),
            label("To go on later", strong=True),
            self.keep,
        )

    def refresh(self) -> None:
        """Show the present state."""
        presentation = self._document.presentation
        if presentation is None:
            return
        artwork = presentation.artwork
        width, height = px_to_mm(artwork.width_px, artwork.dpi), px_to_mm(artwork.height_px, artwork.dpi)
        self.true_size.setText(f"{width:.2f} × {height:.2f} mm")
        holes = sum(len(s.contours) - 1 for s in artwork.shapes)
        self.content.setText(
            f"{len(artwork.shapes)} shapes with {holes} holes, {artwork.anchor_count} anchors. One path a shape, "
            "no background, sizes in millimetres."
        )
        ready = bool(artwork.shapes) and not presentation.is_draft
        self.save.setEnabled(ready)
