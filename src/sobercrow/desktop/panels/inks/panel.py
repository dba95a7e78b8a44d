"""The inks panel: of which kind they are, then the parts of that kind."""

from __future__ import annotations

from sobercrow.core.inks.separation import OneInk
from sobercrow.core.settings import InkKind
from sobercrow.desktop.controls import Fold, Panel, choices, panel_column, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.panels.inks.one import OnePart
from sobercrow.desktop.panels.inks.part import InkPart, InkWishes
from sobercrow.desktop.panels.inks.several import SeveralPart
from sobercrow.desktop.panels.inks.specks import SpecksPart
from sobercrow.desktop.panels.inks.touch import TouchPart
from sobercrow.desktop.scene import Showing

KINDS = {InkKind.ONE: "One ink", InkKind.SEVERAL: "Several", InkKind.GREYS: "Greys"}
KIND_TIPS = {
    InkKind.ONE: "Dark ink on light paper, told apart by tone.",
    InkKind.SEVERAL: "Inks told apart by their colours.",
    InkKind.GREYS: "Evenly chosen steps of grey.",
}


class InksPanel(Panel):
    """What is ink, what is paper, and how many inks there are."""

    def __init__(self, document: Document) -> None:
        """Show a document's inks."""
        super().__init__()
        self.wishes = InkWishes()
        self._part = InkPart(document, self.wishes)
        self.kinds = choices(KINDS, self._go, KIND_TIPS)
        self.one = OnePart(document, self.wishes)
        self.several = SeveralPart(document, self.wishes)
        self.specks = SpecksPart(document, self.wishes)
        self.touch = TouchPart(document, self.wishes)
        self.edges = Fold("Soft edges", *self.several.edge_widgets())
        self.files = self.several.file_row()
        self.folds = {
            self.specks: Fold("Specks and holes", *self.specks.widgets()),
            self.touch: Fold("Repairs", *self.touch.widgets()),
        }
        self.several.list.chosen.connect(lambda: self.touch.take_up(self.several.chosen_colours()))
        self.column = panel_column(
            row_of(*self.kinds.values()),
            self.one.column,
            self.several.column,
            *self.folds.values(),
            self.edges,
            self.files,
        )

    def _go(self, kind: InkKind) -> None:
        if kind is not self._part.settings.kind:
            count = 4 if kind is InkKind.GREYS else None
            self._part.set(f"Take {KINDS[kind].lower()}", kind=kind, count=count, palette=())
        self.refresh()

    def show_view(self, showing: Showing) -> None:
        """Follow what the canvas shows: one ink alone needs one chosen."""
        alone = showing is Showing.SOLO
        self.several.solo.setChecked(alone)
        if alone and self.several.one() is None:
            self.several.list.select(0)

    def refresh(self) -> None:
        """Show the present state."""
        separation, settings = self._part.separation, self._part.settings
        if separation is None:
            return
        one = isinstance(separation, OneInk)
        kind = InkKind.ONE if one else separation.kind
        for key, made in self.kinds.items():
            made.setChecked(key is (settings.kind or kind))
        self.one.column.setVisible(one)
        for widget in (self.several.column, self.edges, self.files):
            widget.setVisible(not one)
        self.one.refresh()
        self.several.refresh()
        self.specks.refresh()
        self.touch.refresh()
        held = len(settings.touch_ups)
        self.folds[self.touch].state.setText(str(held) if held else "")
