"""The panels of the steps that work on artwork: Refine, Hand over."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QLineEdit, QWidget

from sobercrow.core.artwork import anchors, edits
from sobercrow.core.artwork.table import anchor_table, rows_of
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.settings import MM_PER_INCH, Meaning, px_to_mm
from sobercrow.desktop.controls import NumberField, Panel, button, group_column, hair_line, label, panel_column, row_of
from sobercrow.desktop.document import Document

INK_COLOURS = ("#000000", "#23262b", "#1d4f79", "#1d7972", "#4f6b2a", "#c9a24b", "#a33e2e", "#7a3d6b", "#ffffff")


class RefinePanel(Panel):
    """What is chosen, and what can be done with it."""

    tool_wanted = Signal(str)

    def __init__(self, document: Document) -> None:
        """Show a document's selection."""
        super().__init__()
        self._document = document
        self.chosen = label(strong=True)
        self.hint = label(muted=True)
        # shapes
        self.swatches = [self._swatch(colour) for colour in INK_COLOURS]
        self.hex = QLineEdit()
        self.hex.setPlaceholderText("#rrggbb")
        self.hex.setAccessibleName("Fill colour")
        self.hex.editingFinished.connect(self._typed_colour)
        self.more = button("Pick", "Pick\nChoose any fill colour.")
        self.more.clicked.connect(self._pick_colour)
        self.delete_shapes = button("Delete", "Delete (Del)\nTakes the chosen shapes away.")
        self.delete_shapes.clicked.connect(self.delete)
        self.shape_group = group_column(
            label("Fill", strong=True),
            row_of(*self.swatches),
            row_of(self.hex, self.more),
            hair_line(),
            self.delete_shapes,
        )
        # anchors
        self.kinds = {
            AnchorKind.CORNER: button("Corner", "Corner (Shift+C)\nEach handle goes its own way."),
            AnchorKind.SMOOTH: button("Smooth", "Smooth (Shift+S)\nBoth handles lie on one line."),
            AnchorKind.EVEN: button("Even", "Even (Shift+E)\nBoth handles lie on one line, equally long."),
        }
        for kind, part in self.kinds.items():
            part.setCheckable(True)
            part.clicked.connect(lambda _checked, kind=kind: self.set_kind(kind))
        self.across = NumberField(Meaning("Across", "From the left edge of the drawing.", -1000, 5000, "mm", 0.1, 2))
        self.down = NumberField(Meaning("Down", "From the top edge of the drawing.", -1000, 5000, "mm", 0.1, 2))
        for axis, place in ((0, self.across), (1, self.down)):
            place.slide.hide()
            place.back.hide()
            place.changed.connect(lambda value, axis=axis: self._place(axis, value))
        self.delete_anchors = button("Delete", "Delete (Del)\nThe neighbours are refitted, so that the form holds.")
        self.delete_anchors.clicked.connect(self.delete)
        self.delete_plainly = button("Delete plainly", "Delete plainly (Shift+Del)\nThe neighbours keep their handles.")
        self.delete_plainly.clicked.connect(self.delete_plain)
        self.anchor_group = group_column(
            label("This anchor", strong=True),
            row_of(*self.kinds.values()),
            self.across,
            self.down,
            hair_line(),
            row_of(self.delete_anchors, self.delete_plainly),
        )
        self.column = panel_column(self.chosen, self.hint, self.shape_group, self.anchor_group)
        document.choice_changed.connect(self.refresh)

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

    def _typed_colour(self) -> None:
        colour = QColor(self.hex.text().strip())
        if colour.isValid() and self.hex.isModified():
            self.fill(colour.name())
        self.hex.setModified(False)

    def _pick_colour(self) -> None:
        colour = QColorDialog.getColor(QColor(self.hex.text() or "#000000"), self.window(), "Fill colour")
        if colour.isValid():
            self.fill(colour.name())

    def delete(self) -> None:
        """Delete what is chosen; anchors with their neighbours refitted."""
        selection = self._document.choice
        if selection.anchors:
            self._document.edit("Delete anchors", anchors.delete_anchors, selection.anchors, True)
        elif selection.shapes:
            self._document.edit("Delete shapes", edits.delete_shapes, selection.shapes)

    def delete_plain(self) -> None:
        """Delete the chosen anchors, the neighbours keeping their handles."""
        chosen = self._document.choice.anchors
        if chosen:
            self._document.edit("Delete anchors plainly", anchors.delete_anchors, chosen, False)

    def set_kind(self, kind: AnchorKind) -> None:
        """Make the chosen anchors corner, smooth or even."""
        if self._document.choice.anchors:
            name = f"Make {kind.name.lower()}"
            self._document.edit(name, anchors.set_kind, self._document.choice.anchors, kind)
        self.refresh()

    def nudge(self, dx_mm: float, dy_mm: float, pixels: bool) -> None:
        """Move what is chosen by millimetres, or by picture pixels."""
        artwork, selection = self._document.artwork, self._document.choice
        if artwork is None:
            return
        scale = 1.0 if pixels else artwork.dpi / MM_PER_INCH
        if selection.anchors:
            self._document.edit(
                "Nudge anchors", anchors.move_anchors, selection.anchors, dx_mm * scale, dy_mm * scale, merge="nudge"
            )
        elif selection.shapes:
            self._document.edit(
                "Nudge shapes", edits.move_shapes, selection.shapes, dx_mm * scale, dy_mm * scale, merge="nudge"
            )

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
        artwork, selection = self._document.artwork, self._document.choice
        if artwork is None:
            return
        shapes, chosen = selection.shapes, selection.anchors
        self.shape_group.setVisible(bool(shapes))
        self.anchor_group.setVisible(bool(chosen))
        if chosen:
            self.chosen.setText(f"{len(chosen)} of {artwork.anchor_count} anchors")
            self.hint.setText("Drag anchors and handles. Arrow keys move by 0.1 mm, with Shift 1 mm, with Alt 1 px.")
            table = anchor_table(artwork)
            kinds = set(np.unique(table.kinds[rows_of(artwork, chosen)]).tolist())
            for kind, part in self.kinds.items():
                part.setChecked(kinds == {int(kind)})
            single = len(chosen) == 1
            self.across.setVisible(single)
            self.down.setVisible(single)
            if single:
                ref = next(iter(chosen))
                x, y = anchors.anchor_contour(artwork, ref).anchors[ref.anchor]
                self.across.show_value(px_to_mm(x, artwork.dpi), True)
                self.down.show_value(px_to_mm(y, artwork.dpi), True)
        elif shapes:
            self.chosen.setText(f"{len(shapes)} of {len(artwork.shapes)} shapes")
            self.hint.setText("Drag to move. Arrow keys move by 0.1 mm, with Shift 1 mm, with Alt 1 px.")
            fills = {artwork.shapes[s].fill for s in shapes}
            if not self.hex.hasFocus():
                self.hex.setText(fills.pop() if len(fills) == 1 else "")
        else:
            self.chosen.setText("Nothing chosen")
            self.hint.setText(
                "Choose (C): click a shape or pull a frame; Shift adds.\n\n"
                "Anchors (A): click an anchor or pull a frame; double-click on a line adds an anchor."
            )


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
