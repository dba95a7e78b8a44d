"""Size and place of what is chosen, typed; the marks on the canvas go by the same point."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from PySide6.QtWidgets import QHBoxLayout, QWidget

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.placing import Sized, box_of, place, to_size
from sobercrow.core.geometry.affine import MOST_LEAN_DEG, Affine
from sobercrow.core.settings import mm_to_px, px_to_mm
from sobercrow.desktop.controls import Fold, group_column, row_of, tick
from sobercrow.desktop.document import Document
from sobercrow.desktop.editing.runner import Runner
from sobercrow.desktop.editing.shapes import FLIPS
from sobercrow.desktop.small_fields import NineGrid, SmallField
from sobercrow.desktop.tools.placing import PlacingMarks

FURTHEST_MM = 5000.0


class PlacePart:
    """Where one of nine points of what is chosen lies, how large it is, and turning, leaning, scaling, mirroring it."""

    def __init__(self, document: Document, runner: Runner, marks: Sequence[PlacingMarks]) -> None:
        """Work on what is chosen in a document; `marks` are those that go by the same point."""
        self._document, self._marks = document, marks
        self.about = NineGrid(
            "About", "The point that is placed, and stays where it is while the rest is scaled or turned."
        )
        self.about.chosen.connect(self._set_marks)
        self.across = self._field("Across", "From the left edge of the drawing.", -FURTHEST_MM, FURTHEST_MM, "mm")
        self.down = self._field("Down", "From the top edge of the drawing.", -FURTHEST_MM, FURTHEST_MM, "mm")
        self.width = self._field("Width", "The exact width; the height follows.", 0.001, FURTHEST_MM, "mm")
        self.height = self._field("Height", "The exact height; the width follows.", 0.001, FURTHEST_MM, "mm")
        self.turn = self._field("Turn", "Against the clock, about the point.", -360.0, 360.0, "°", 1)
        self.lean = self._field("Lean", "To the right, as italics do.", -MOST_LEAN_DEG, MOST_LEAN_DEG, "°", 1)
        self.scale = self._field("Scale", "Of both sides, about the point.", 0.1, 10000.0, "%", 1)
        self.keep_form = tick("Keep the form", "One side follows the other.")
        self.keep_form.setChecked(True)
        self.strokes = tick("Scale strokes", "Strokes become wider and thinner with the shapes.")
        self.strokes.setChecked(True)
        self.strokes.toggled.connect(self._set_marks)
        self.mirrors = {edit.id: runner.button(edit) for edit in FLIPS}
        for field, work in (
            (self.across, lambda v: self._move(v, axis=0)),
            (self.down, lambda v: self._move(v, axis=1)),
            (self.width, lambda v: self._size("Set width", v, None)),
            (self.height, lambda v: self._size("Set height", None, v)),
            (self.turn, lambda v: self._place("Turn", lambda point: Affine.turned(-v, point))),
            (self.lean, lambda v: self._place("Lean", lambda point: Affine.leaned(v, point))),
            (self.scale, lambda v: self._place("Scale", lambda point: Affine.scaled(v / 100.0, v / 100.0, point))),
        ):
            field.changed.connect(work)
        top = QWidget()
        layout = QHBoxLayout(top)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(14)
        layout.addWidget(self.about)
        layout.addWidget(group_column(self.across, self.down), 1)
        self.group = Fold(
            "Size and place",
            top,
            row_of(self.width, self.height),
            self.keep_form,
            row_of(self.turn, self.lean),
            row_of(self.scale, self.strokes),
            row_of(*self.mirrors.values()),
            open_=True,
        )

    @staticmethod
    def _field(name: str, help_: str, low: float, high: float, unit: str, decimals: int = 2) -> SmallField:
        return SmallField(name, help_, low, high, unit, decimals)

    def _set_marks(self) -> None:
        for marks in self._marks:
            marks.settings = replace(marks.settings, about=self.about.point, with_stroke=self.strokes.isChecked())
        self.refresh()

    def _point(self) -> tuple[float, float] | None:
        artwork = self._document.artwork
        box = box_of(artwork, self._document.choice) if artwork is not None else None
        return self.about.point.of(box) if box is not None else None

    def _move(self, value_mm: float, axis: int) -> None:
        artwork, point = self._document.artwork, self._point()
        if artwork is not None and point is not None:
            away = mm_to_px(value_mm, artwork.dpi) - point[axis]
            way = Affine.moved(away if axis == 0 else 0.0, away if axis == 1 else 0.0)
            self._document.edit("Place", place, self._document.choice, way)

    def _size(self, name: str, width_mm: float | None, height_mm: float | None) -> None:
        artwork = self._document.artwork
        if artwork is None:
            return
        width, height = (None if v is None else mm_to_px(v, artwork.dpi) for v in (width_mm, height_mm))
        size = Sized(width, height, self.keep_form.isChecked())
        self._document.edit(name, to_size, self._document.choice, size, self.about.point, self.strokes.isChecked())

    def _place(self, name: str, way: Callable[[tuple[float, float]], Affine]) -> None:
        point = self._point()
        if point is not None:
            self._document.edit(name, place, self._document.choice, way(point), self.strokes.isChecked())

    def refresh(self) -> None:
        """Show the present size and place; turn, lean and scale go on from there."""
        artwork, choice = self._document.artwork, self._document.choice
        wide = bool(choice.shapes) or len(choice.anchors) > 1
        self.group.setVisible(wide)
        box = box_of(artwork, choice) if artwork is not None and wide else None
        if artwork is None or box is None:
            return
        self._show(artwork, box)

    def _show(self, artwork: Artwork, box: tuple[float, float, float, float]) -> None:
        x, y = self.about.point.of(box)
        for field, value in (
            (self.across, px_to_mm(x, artwork.dpi)),
            (self.down, px_to_mm(y, artwork.dpi)),
            (self.width, px_to_mm(box[2] - box[0], artwork.dpi)),
            (self.height, px_to_mm(box[3] - box[1], artwork.dpi)),
            (self.turn, 0.0),
            (self.lean, 0.0),
            (self.scale, 100.0),
        ):
            field.show_value(value)
