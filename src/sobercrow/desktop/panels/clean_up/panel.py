"""The clean-up panel: the picture check, then its parts under headings."""

from __future__ import annotations

from sobercrow.desktop.controls import Fold, Panel, label, panel_column
from sobercrow.desktop.document import Document
from sobercrow.desktop.lettering_offer import LetteringOffer
from sobercrow.desktop.panels.check_list import CheckList
from sobercrow.desktop.panels.clean_up.dirt import DirtPart, EnlargePart
from sobercrow.desktop.panels.clean_up.part import Part
from sobercrow.desktop.panels.clean_up.restore import RestorePart
from sobercrow.desktop.panels.clean_up.sheet import SheetPart
from sobercrow.desktop.panels.clean_up.tone import GreyPart, LightPart, TonePart
from sobercrow.desktop.panels.clean_up.touch import TouchPart


class CleanUpPanel(Panel):
    """Everything that is done to the picture before its inks are parted."""

    def __init__(self, document: Document, offer: LetteringOffer) -> None:
        """Show a document's clean-up settings."""
        super().__init__()
        self._document = document
        self.check = CheckList(document, offer)
        self.restore = RestorePart(document)
        self.sheet = SheetPart(document)
        self.light = LightPart(document)
        self.tone = TonePart(document, self.sheet.wishes)
        self.grey = GreyPart(document, self.sheet.wishes)
        self.dirt = DirtPart(document)
        self.enlarge = EnlargePart(document)
        self.touch = TouchPart(document)
        self.parts: tuple[Part, ...] = (
            self.restore,
            self.sheet,
            self.light,
            self.tone,
            self.grey,
            self.dirt,
            self.enlarge,
            self.touch,
        )
        self.folds = {part: Fold(part.title, *part.widgets(), open_=part is self.tone) for part in self.parts}
        self.column = panel_column(label("Picture check", strong=True), self.check, *self.folds.values())

    def picked(self, x: float, y: float) -> None:
        """Give a place of the cleaned picture to the part that asked for one."""
        any(part.picked(x, y) for part in (self.touch, self.grey, self.tone))

    def refresh(self) -> None:
        """Show the present state."""
        presentation = self._document.presentation
        if presentation is None:
            return
        self.check.refresh()
        for part, fold in self.folds.items():
            part.refresh(presentation)
            fold.state.setText(part.summary(presentation))
