"""What the parts of the inks panel share."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PySide6.QtCore import QObject, Signal

from sobercrow.core.errors import SoberCrowError
from sobercrow.core.inks.separation import Separation
from sobercrow.core.settings import Ink, Inks, meaning_of
from sobercrow.desktop.controls import NumberField
from sobercrow.desktop.document import Document


class InkWishes(QObject):
    """What the parts ask of the window."""

    tool = Signal(str)
    brush = Signal(object)
    solo = Signal(object)
    alone = Signal(bool)
    specks = Signal(object)
    load = Signal()
    save = Signal()


class InkPart:
    """A part of the panel: works on the settings of the inks step and the inks in force."""

    def __init__(self, document: Document, wishes: InkWishes) -> None:
        """Work on a document."""
        self.document, self.wishes = document, wishes

    @property
    def settings(self) -> Inks:
        """The present settings of the inks step."""
        return self.document.state.settings.inks

    @property
    def separation(self) -> Separation | None:
        """The present separation, if there is one."""
        presentation = self.document.presentation
        return presentation.results.separation if presentation is not None else None

    @property
    def inks(self) -> tuple[Ink, ...]:
        """The inks in force: those just set, or those found."""
        separation = self.separation
        if separation is None:
            return ()
        given = self.settings.palette
        if given and self.settings.count is None and len(given) == len(separation.inks):
            return given if all(ink.name for ink in given) else separation.inks
        return separation.inks

    def change(self, name: str, make: Callable[[], Inks], merge: str | None = None) -> None:
        """Take settings as one named change; tell if they make no sense."""
        try:
            inks = make()
        except SoberCrowError as fault:
            self.document.failed.emit(str(fault))
            return
        self.document.change_settings(name, replace(self.document.state.settings, inks=inks), merge)

    def set(self, name: str, merge: str | None = None, **fields: Any) -> None:
        """Take changed fields as one named change."""
        self.change(name, lambda: replace(self.settings, **fields), merge)

    def edit(self, name: str, function: Callable[..., tuple[Ink, ...]], *arguments: Any) -> None:
        """Edit the list of inks as one named change."""
        self.change(name, lambda: self.settings.with_found(function(self.inks, *arguments)))

    def number(self, name: str, whole: bool = True, large: bool = False) -> NumberField:
        """Make the field of a number; its reset sets the default."""
        meaning = meaning_of(Inks, name)
        field = NumberField(meaning, large=large)
        default = getattr(Inks(), name)
        title = f"Set {meaning.label.lower()}"
        field.changed.connect(
            lambda value: self.set(title, f"inks {name}", **{name: round(value) if whole else round(value, 2)})
        )
        field.reset.connect(lambda: self.set(title, None, **{name: default}))
        return field
