"""Even weights: what drawn lettering has unlike is measured and shown, and brought alike by per cent."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QAbstractItemView

from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import SoberCrowError
from sobercrow.core.lettering.evening import Sides
from sobercrow.core.lettering.evenness import Alike, Measured, What, bring_alike
from sobercrow.core.lettering.strokes import Way
from sobercrow.core.settings import Meaning, mm_to_px, px_to_mm
from sobercrow.desktop.controls import Fold, NumberField, choices, doing, fill_list, label, row_of, text_list, tick
from sobercrow.desktop.document import Document
from sobercrow.desktop.editing.trying import Trying
from sobercrow.desktop.panels.refine.even_rows import NAMES, WAY_NAMES, Rows, read_rows
from sobercrow.desktop.panels.refine.lettering_choice import choose_lettering, is_elsewhere
from sobercrow.desktop.widths import PlacesMark, Spread, WidthMark
from sobercrow.desktop.worker import Worker

PERCENT = Meaning("By", "How much of what is unlike goes.", 0.0, 100.0, "%", 5.0, 0)
WIDTHS = {
    Way.DOWN: Meaning("Down to", "How wide downstrokes become; the usual one by itself.", 0.01, 20.0, "mm", 0.01, 2),
    Way.UP: Meaning("Up to", "How wide upstrokes become; the usual one by itself.", 0.01, 20.0, "mm", 0.01, 2),
}
TIPS = {
    What.STROKES: "How wide downstrokes and upstrokes are.",
    What.SLANT: "How stems lean.",
    What.BASELINE: "How far feet are off the base line.",
    What.SPACING: "How far letters are apart.",
    What.CORNERS: "Where strokes cross or join.",
}
CLOSE_ZOOM = 6.0


class EvenPart(QObject):
    """Measures the shapes chosen while it is open; what would come of it lies over the drawing until it is done."""

    shown = Signal(object)
    look = Signal(float, float, float)
    opened = Signal(object)

    def __init__(self, document: Document, trying: Trying) -> None:
        """Work on a document; edits are tried by `trying`."""
        super().__init__()
        self._document, self._trying = document, trying
        self._measured: Measured | None = None
        self._looked_at: tuple[Choice, Artwork | None] | None = None
        self._what, self._sides, self._percent = What.STROKES, Sides.BOTH, 100.0
        self._typed: dict[Way, float] = {}
        self._rows = Rows.none("")
        self._asked = self._drawn = -1
        self.told = label(muted=True)
        self._worker, self._drawer = Worker(), Worker()
        self._worker.produced.connect(self._take)
        self._worker.failed.connect(lambda _number, sentence: self.told.setText(sentence))
        self._drawer.produced.connect(lambda number, mark: self.shown.emit(mark) if number == self._drawn else None)
        self.find = doing("Choose the lettering", "Chooses the shapes of one ink and about one height.", self.open)
        self.whats = choices(NAMES, self._set_what, TIPS)
        self.spread = Spread()
        self.list = text_list("What is measured, the furthest from the usual first")
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.list.itemSelectionChanged.connect(self._picked)
        self.list.itemActivated.connect(lambda item: self._jump(self.list.row(item)))
        self.list.itemClicked.connect(lambda item: self._jump(self.list.row(item)))
        self.ways = {
            way: tick(f"{WAY_NAMES[way]}strokes", "Evened, or left as they are.") for way in (Way.DOWN, Way.UP)
        }
        for box in self.ways.values():
            box.setChecked(True)
            box.toggled.connect(lambda _on: self._show())
        self.widths = {way: NumberField(meaning, brief=True) for way, meaning in WIDTHS.items()}
        for way, field in self.widths.items():
            field.slide.hide()
            field.changed.connect(partial(self._type, way))
            field.reset.connect(partial(self._type, way, None))
        self.sides = choices(
            {Sides.BOTH: "Both sides", Sides.LEFT: "Left", Sides.RIGHT: "Right"},
            self._set_sides,
            {
                Sides.BOTH: "Either side of a stroke moves by half.",
                Sides.LEFT: "The left side alone moves.",
                Sides.RIGHT: "The right side alone moves.",
            },
        )
        self.percent = NumberField(PERCENT, brief=True)
        self.percent.changed.connect(self._set_percent)
        self.percent.reset.connect(partial(self._set_percent, 100.0))
        self.do = doing("Even", "Does what lies dashed over the drawing.", self.bring_alike)
        whats = list(self.whats.values())
        self._for_strokes = [row_of(*self.ways.values()), *self.widths.values(), row_of(*self.sides.values())]
        self._parts = [row_of(*whats[:3]), row_of(*whats[3:]), self.spread, self.list, *self._for_strokes, self.percent]
        self.group = Fold("Even weights", self.told, self.find, *self._parts, self.do)
        self.group.head.toggled.connect(lambda _on: self.refresh())

    def close(self) -> None:
        """End the workers; what they have handed over is not taken any more."""
        self._asked = self._drawn = -1
        self._worker.close()
        self._drawer.close()

    def open(self) -> None:
        """Open the part, and choose the lettering if nothing is chosen."""
        self.group.head.setChecked(True)
        if not self._document.choice.shapes:
            choose_lettering(self._document)
        self.opened.emit(self.group)

    def refresh(self) -> None:
        """Measure what is chosen, while the part is open."""
        document = self._document
        shapes = bool(document.choice.shapes) and not document.choice.anchors
        for part in (*self._parts, self.do):
            part.setVisible(shapes)
        self.find.setVisible(not shapes)
        if not self.group.head.isChecked() or not shapes:
            self._forget()
            self._looked_at = None
            self.told.setText("Choose drawn letters; their strokes are measured.")
        elif is_elsewhere(self._looked_at, document):
            self._looked_at = document.choice, document.artwork
            self._forget()
            self.told.setText("Measuring …")
            artwork = document.artwork
            assert artwork is not None
            chosen = [artwork.shapes[k] for k in sorted(document.choice.shapes)]
            self._asked = self._worker.submit(lambda give, _report: give(Measured.of(chosen)))

    def _forget(self) -> None:
        self._worker.stop()
        self._drawer.stop()
        self._asked = self._drawn = -1
        if self._measured is not None:
            self._trying.stop()
            self.shown.emit(None)
        self._measured = None
        self._rows = Rows.none("")
        self.list.clear()
        self.spread.show_rows([])
        self.do.setEnabled(False)

    def _take(self, number: int, found: object) -> None:
        if number == self._asked:
            assert isinstance(found, Measured)
            self._measured = found
            self._show()

    def _set_what(self, what: What) -> None:
        self._what = what
        self._show()

    def _set_sides(self, sides: Sides) -> None:
        self._sides = sides
        self._show()

    def _set_percent(self, percent: float) -> None:
        self._percent = percent
        self._try()

    def _type(self, way: Way, width_mm: float | None = None) -> None:
        if width_mm is None:
            self._typed.pop(way, None)
        else:
            self._typed[way] = width_mm
        self._show()

    def _dpi(self) -> float:
        artwork = self._document.artwork
        return artwork.dpi if artwork is not None else 1.0

    def _show(self) -> None:
        """Show what was measured of what is looked at, and what would come of it."""
        for what, button in self.whats.items():
            button.setChecked(what is self._what)
        for sides, button in self.sides.items():
            button.setChecked(sides is self._sides)
        for part in self._for_strokes:
            part.setVisible(self._what is What.STROKES)
        self.percent.setVisible(self._what is not What.CORNERS)
        self.do.setText("Sharpen" if self._what is What.CORNERS else "Even")
        measured = self._measured
        if measured is None:
            return
        usual = measured.usual_widths()
        for way, field in self.widths.items():
            field.setEnabled(way in usual and self.ways[way].isChecked())
            value = self._typed.get(way, px_to_mm(usual.get(way, 0.0), self._dpi()))
            field.show_value(value, way not in self._typed)
        try:
            self._rows = read_rows(measured, self._what, self._dpi())
        except SoberCrowError as fault:
            self._rows = Rows.none(str(fault))
        rows = self._rows
        self.do.setEnabled(bool(rows.numbers))
        self.spread.show_rows(rows.spread)
        self.told.setText(rows.told)
        self.list.blockSignals(True)
        fill_list(self.list, list(rows.texts))
        self.list.blockSignals(False)
        self._picked()

    def _selection(self) -> list[int]:
        return sorted({index.row() for index in self.list.selectedIndexes()})

    def _numbers(self) -> list[int]:
        return [self._rows.numbers[row] for row in self._selection()]

    def _picked(self) -> None:
        """Show the marks with what is picked, and what would come of it."""
        measured, what = self._measured, self._what
        if measured is None:
            return
        rows, chosen, picked = self._rows, self._selection(), self._numbers()
        seen = sorted({*chosen, *rows.odd})
        places, large = rows.places[seen], [seen.index(row) for row in chosen]
        dpi = self._dpi()

        def work(give: Callable[[object], None], _report: object) -> None:
            strokes = what is What.STROKES
            give(WidthMark(measured, (Way.DOWN, Way.UP), picked, dpi) if strokes else PlacesMark(places, large))

        self._drawn = self._drawer.submit(work)
        self._try()

    def _jump(self, row: int) -> None:
        if row < len(self._rows.numbers):
            self.look.emit(*self._rows.places[row].tolist(), CLOSE_ZOOM)

    def _how(self) -> Alike:
        picked = frozenset(self._numbers())
        dpi = self._dpi()
        return Alike(
            self._what,
            self._percent,
            frozenset(way for way, box in self.ways.items() if box.isChecked()),
            tuple((way, mm_to_px(width, dpi)) for way, width in self._typed.items()),
            self._sides,
            picked if picked and self._what in (What.STROKES, What.CORNERS) else None,
        )

    def _try(self) -> None:
        """Show what would come of it."""
        self.percent.show_value(self._percent, self._percent == 100.0)
        measured, choice = self._measured, self._document.choice
        if measured is None or not self._rows.numbers:
            self._trying.stop()
            return
        how = self._how()

        def work(artwork: Artwork) -> Edited:
            return bring_alike(artwork, choice.shapes, measured, how)

        self._trying.try_edit(work)

    @property
    def is_measured(self) -> bool:
        """Whether there is something to be brought alike."""
        return self._measured is not None and bool(self._rows.numbers)

    def bring_alike(self) -> None:
        """Bring what is chosen alike, in the background."""
        measured, document = self._measured, self._document
        if measured is None or not self._rows.numbers:
            return
        names = {
            What.STROKES: "Even weights",
            What.SLANT: "Slant alike",
            What.BASELINE: "On the base line",
            What.SPACING: "Evenly spaced",
            What.CORNERS: "Clean crossings",
        }
        document.edit_beside(names[self._what], bring_alike, document.choice.shapes, measured, self._how())
