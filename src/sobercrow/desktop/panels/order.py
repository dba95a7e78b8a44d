"""Which ink lies upon which."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QWidget

from sobercrow.core.inks.separation import SeveralInks
from sobercrow.core.settings import Ink, Tracing
from sobercrow.desktop.controls import button, fill_list, label, row_of, text_list
from sobercrow.desktop.document import Document

SWATCH_PX = 14


class OrderPart:
    """The inks as they lie, the uppermost first; one chosen can be raised and lowered."""

    def __init__(self, document: Document, change: Callable[[str, Tracing], None]) -> None:
        """Work on a document; `change` takes new settings as a named change."""
        self._document, self._change = document, change
        self._shown: list[Ink] = []
        self.list = text_list("Inks, the uppermost first")
        self.list.currentRowChanged.connect(lambda _row: self._enable())
        self.higher = button("Raise", "Raise\nLets the chosen ink lie upon the one above it.")
        self.lower = button("Lower", "Lower\nLets the chosen ink lie beneath the one below it.")
        self.by_area = button("By area", "By area\nThe ink that covers most lies lowest.")
        self.higher.clicked.connect(lambda: self._move(-1))
        self.lower.clicked.connect(lambda: self._move(1))
        self.by_area.clicked.connect(lambda: self._take("Order inks by area", ()))

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        return [label("The uppermost first:", muted=True), self.list, row_of(self.higher, self.lower, self.by_area)]

    def _take(self, name: str, order: tuple[str, ...]) -> None:
        self._change(name, replace(self._document.state.settings.tracing, order=order))
        self.refresh()

    def _move(self, by: int) -> None:
        row = self.list.currentRow()
        colours = [ink.colour for ink in self._shown]
        colours[row], colours[row + by] = colours[row + by], colours[row]
        name = f"{'Raise' if by < 0 else 'Lower'} {self._shown[row].name}"
        self._take(name, tuple(reversed(colours)))
        self.list.setCurrentRow(row + by)

    def _enable(self) -> None:
        row = self.list.currentRow()
        self.higher.setEnabled(row > 0)
        self.lower.setEnabled(0 <= row < len(self._shown) - 1)
        self.by_area.setEnabled(bool(self._document.state.settings.tracing.order))

    def refresh(self) -> None:
        """Show the present state."""
        presentation = self._document.presentation
        separation = None if presentation is None else presentation.results.separation
        inks: list[Ink] = []
        if isinstance(separation, SeveralInks):
            ordered = replace(separation, order=self._document.state.settings.tracing.order)
            inks = [ordered.inks[k] for k in reversed(ordered.drawn)]
        if inks != self._shown or self.list.count() != len(inks):
            row = self.list.currentRow()
            self._shown = inks
            fill_list(self.list, [ink.name for ink in inks])
            for k, ink in enumerate(inks):
                swatch = QPixmap(SWATCH_PX, SWATCH_PX)
                swatch.fill(QColor(ink.colour))
                self.list.item(k).setIcon(QIcon(swatch))
            self.list.setCurrentRow(min(row, len(inks) - 1))
        self._enable()
