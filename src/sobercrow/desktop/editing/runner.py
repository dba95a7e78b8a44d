"""Runs edits, and shows what they would do; holds the numbers they go by."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.settings import meaning_of
from sobercrow.desktop.controls import NumberField
from sobercrow.desktop.document import Document
from sobercrow.desktop.editing.edit import Dials, Edit
from sobercrow.desktop.editing.in_turn import Waiting
from sobercrow.desktop.editing.try_button import TryButton
from sobercrow.desktop.editing.trying import Trying


class DialsHeld:
    """The numbers that edits go by, held for the panel and the menus."""

    def __init__(self) -> None:
        """Start with the usual ones."""
        self.values = Dials()

    def set(self, **changes: object) -> None:
        """Change some of them."""
        self.values = replace(self.values, **changes)  # type: ignore[arg-type]

    def field(self, name: str, taken: Callable[[], object] = lambda: None) -> NumberField:
        """Return a field for one of them; `taken` is told of changes."""
        made = NumberField(meaning_of(Dials, name), brief=True, curved=True)
        usual = getattr(self.values, name)

        def take(value: float) -> None:
            self.values = replace(self.values, **{name: value})  # type: ignore[arg-type]
            made.show_value(value, value == usual)
            taken()

        made.changed.connect(take)
        made.reset.connect(lambda: take(usual))
        made.show_value(usual, True)
        return made


class Runner:
    """Runs edits of lines on a document, and shows what they would do."""

    def __init__(self, document: Document, dials: DialsHeld, trying: Trying) -> None:
        """Run edits on a document, by some dials."""
        self._document, self._dials, self._trying = document, dials, trying

    def run(self, edit: Edit) -> None:
        """Do an edit as one named change."""
        self._trying.stop()
        document, dials = self._document, self._dials.values
        if document.artwork is not None and edit.is_slow(document.artwork, document.choice):
            document.edit_in_turn(Waiting(edit.named, lambda: self._on_choice(edit, dials), True, edit.reports))
        else:
            document.edit(edit.named, edit.work, document.choice, dials)

    def _on_choice(self, edit: Edit, dials: Dials) -> Callable[..., Artwork | Edited]:
        """What the edit makes of artwork, with what is chosen now."""
        choice = self._document.choice
        return lambda artwork, **progress: edit.work(artwork, choice, dials, **progress)

    def show(self, edit: Edit, on: bool) -> None:
        """Show what an edit would do, or the artwork as it is."""
        if not on:
            self._trying.stop()
            return
        choice, dials = self._document.choice, self._dials.values
        self._trying.try_edit(lambda artwork: edit.work(artwork, choice, dials), edit.with_ribbon)

    def button(self, edit: Edit) -> TryButton:
        """Return the button of an edit."""
        keys = f" ({edit.keys[0]})" if edit.keys else ""
        made = TryButton(edit.title, f"{edit.title}{keys}\n{edit.help}")
        made.clicked.connect(partial(self.run, edit))
        made.tried.connect(partial(self.show, edit))
        return made
