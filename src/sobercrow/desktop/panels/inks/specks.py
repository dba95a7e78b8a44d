"""Specks and holes: hatched with their count before they go."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from PySide6.QtWidgets import QWidget

from sobercrow.core.arrays import F64
from sobercrow.core.inks.regions import outlines_of, small_regions
from sobercrow.core.inks.separation import Separation
from sobercrow.core.settings import Inks, Role, meaning_of
from sobercrow.desktop.controls import NumberField, button, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.panels.inks.part import InkPart, InkWishes


@dataclass(frozen=True, slots=True, eq=False)
class Found:
    """What would be cleared away: how many specks and holes, and their outlines."""

    specks: int
    holes: int
    outlines: list[F64]


def find(separation: Separation, speck_px2: float, hole_px2: float, reduction: float) -> Found:
    """Look for specks and holes smaller than two sizes. Runs in the worker."""
    papers = [k for k, ink in enumerate(separation.inks) if ink.role is Role.PAPER]
    others = [k for k in range(len(separation.inks)) if k not in papers]
    own = separation.own
    specks = small_regions(own, others, speck_px2 / reduction**2)
    holes = small_regions(own, papers, hole_px2 / reduction**2, inside_only=True)
    return Found(specks.count, holes.count, [line * reduction for line in outlines_of(specks.mask | holes.mask)])


class SpecksPart(InkPart):
    """The sizes looked for, and what they would take."""

    def __init__(self, document: Document, wishes: InkWishes) -> None:
        """Work on a document."""
        super().__init__(document, wishes)
        self.speck_px2, self.hole_px2 = 0.0, 0.0
        self.found: Found | None = None
        self.specks = NumberField(meaning_of(Inks, "speck_px2"), curved=True)
        self.holes = NumberField(meaning_of(Inks, "hole_px2"), curved=True)
        for name, field in (("speck_px2", self.specks), ("hole_px2", self.holes)):
            field.changed.connect(partial(self._look, name))
            field.reset.connect(partial(self._look, name, 0.0))
        self.told = label(muted=True)
        self.clear = button("Clear away", "Clear away\nGives what is hatched to what is around it.", main=True)
        self.clear.clicked.connect(self._clear)
        self.restore = button("Bring back", "Bring back\nNothing is cleared away for its size any more.")
        self.restore.clicked.connect(lambda: self._take(0.0, 0.0, "Bring back specks"))

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        return [self.specks, self.holes, self.told, row_of(self.clear, self.restore)]

    def _look(self, name: str, value: float) -> None:
        """Find and hatch what a size would take."""
        setattr(self, name, float(round(value)))
        presentation = self.document.presentation
        if presentation is None:
            return
        separation, reduction = presentation.results.separation, presentation.results.reduction
        self.document.ask(lambda: find(separation, self.speck_px2, self.hole_px2, reduction), self._show)
        self.refresh()

    def _show(self, found: Found) -> None:
        self.found = found
        self.wishes.specks.emit(found.outlines)
        self.refresh()

    def forget(self) -> None:
        """Put the hatching away."""
        self.found = None
        self.wishes.specks.emit([])

    def _clear(self) -> None:
        self._take(
            max(self.speck_px2, self.settings.speck_px2),
            max(self.hole_px2, self.settings.hole_px2),
            "Clear specks away",
        )

    def _take(self, speck: float, hole: float, name: str) -> None:
        self.speck_px2, self.hole_px2 = speck, hole
        self.forget()
        self.set(name, speck_px2=speck, hole_px2=hole)
        self.refresh()

    def refresh(self) -> None:
        """Show the present state."""
        self.specks.show_value(self.speck_px2, self.speck_px2 == 0.0)
        self.holes.show_value(self.hole_px2, self.hole_px2 == 0.0)
        found, settings = self.found, self.settings
        many = found is not None and found.specks + found.holes > 0
        self.clear.setEnabled(many)
        self.restore.setEnabled(bool(settings.speck_px2 or settings.hole_px2))
        if found is not None and (self.speck_px2 or self.hole_px2):
            self.told.setText(
                f"{_many(found.specks, 'speck')} under {self.speck_px2:.0f} px² and {_many(found.holes, 'hole')} under "
                f"{self.hole_px2:.0f} px² are hatched."
            )
        elif settings.speck_px2 or settings.hole_px2:
            self.told.setText(
                f"Specks under {settings.speck_px2:.0f} px² and holes under {settings.hole_px2:.0f} px² are gone."
            )
        else:
            self.told.setText("Set a size; what it would take is hatched before it goes.")


def _many(count: int, what: str) -> str:
    return f"{count} {what}{'s' if count != 1 else ''}"
