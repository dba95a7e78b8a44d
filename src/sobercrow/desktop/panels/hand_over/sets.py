"""Hand-over sets: several files in one go."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QComboBox, QLineEdit

from sobercrow.core.errors import ExportError
from sobercrow.core.formats.sets import FIELDS, SETS, HandOverSet
from sobercrow.desktop.controls import Fold, doing, fill_list, label, row_of, text_list, tick
from sobercrow.desktop.document import Document


class SetsPart(QObject):
    """The sets there are, ours and the document's own; what one writes; a new one made of files as they are set now."""

    wanted = Signal(object)
    read_wanted = Signal()
    written_wanted = Signal(object)

    def __init__(self, document: Document) -> None:
        """Work on a document."""
        super().__init__()
        self._document = document
        self.choice = QComboBox()
        self.choice.setAccessibleName("Hand-over set")
        self.choice.setToolTip("Hand-over set\nSeveral files, each with its own settings, written in one go.")
        self.choice.activated.connect(lambda _k: self.refresh())
        self.list = text_list("Files of the set")
        self.save = doing("Write set", "Writes all its files into a folder: all of them, or none.", self._write)
        self.name = QLineEdit()
        self.name.setPlaceholderText("Name of a set of your own")
        self.name.setAccessibleName("Name of a set of your own")
        self.name.setToolTip("Name\nA set of this document; it is saved with the project.")
        self.add = doing("Add file", "Adds the format above, as it is set now, to the set of this name.", self._add)
        self.drop = doing("Delete set", "Lets go of the set chosen; those that come with us stay.", self._drop)
        self.page = tick(
            "Page for the client", "A PDF with the artwork large, small, on white, on black, its inks and sizes."
        )
        self.page.toggled.connect(self._set_page)
        self.pattern = QLineEdit()
        self.pattern.setAccessibleName("Names of files")
        self.pattern.setToolTip("Names of files\nWords and " + ", ".join(f"{{{field}}}" for field in FIELDS) + ".")
        self.pattern.editingFinished.connect(self._set_pattern)
        self.read = doing("Open set", "Takes a set from a file.", self.read_wanted.emit)
        self.share = doing("Share set", "Writes the set chosen to a file that others can use.", self._share)
        own = Fold(
            "A set of your own",
            row_of(self.name, self.add),
            self.page,
            row_of(label("Names"), self.pattern),
            row_of(self.drop),
            row_of(self.read, self.share),
        )
        self.fold = Fold("Hand-over set", self.choice, self.list, self.save, own)
        self.refresh()

    @property
    def _own(self) -> tuple[HandOverSet, ...]:
        return self._document.state.hand_over.sets

    @property
    def chosen(self) -> HandOverSet:
        """The set chosen."""
        every = (*self._own, *SETS)
        return every[min(max(self.choice.currentIndex(), 0), len(every) - 1)]

    def refresh(self) -> None:
        """Show the sets there are, and the files of the one chosen."""
        names = [one.name for one in (*self._own, *SETS)]
        if [self.choice.itemText(k) for k in range(self.choice.count())] != names:
            at = self.choice.currentText()
            self.choice.clear()
            self.choice.addItems(names)
            self.choice.setCurrentIndex(names.index(at) if at in names else 0)
        one = self.chosen
        texts = [f"{part.name} · {part.kind.title}{' · plates' if part.plates else ''}" for part in one.parts]
        fill_list(self.list, [*texts, *(["client · PDF"] if one.client_page else [])])
        is_own = any(one is own for own in self._own)
        self.drop.setEnabled(is_own)
        for field in (self.page, self.pattern):
            field.setEnabled(is_own)
        self.page.blockSignals(True)
        self.page.setChecked(one.client_page)
        self.page.blockSignals(False)
        if not self.pattern.hasFocus():
            self.pattern.setText(one.pattern)

    def _write(self) -> None:
        self.wanted.emit(self.chosen)

    def _share(self) -> None:
        self.written_wanted.emit(self.chosen)

    def _add(self) -> None:
        """Add the present format to the set of the name typed, or to a new one."""
        name, one = self.name.text().strip(), self._document.state.hand_over
        if not name:
            self._document.failed.emit("Type a name for the set first.")
            return
        if any(name.casefold() == ours.name.casefold() for ours in SETS):
            self._document.failed.emit(f"“{name}” comes with Sober Crow; choose another name.")
            return
        old = next((own for own in self._own if own.name == name), None)
        kind = one.part().kind
        taken = {part.name for part in old.parts if part.format == kind.id} if old is not None else set()
        count, free = 1, kind.id
        while free in taken:
            count += 1
            free = f"{kind.id}-{count}"
        part = one.part(free)
        self.take(replace(old, parts=(*old.parts, part)) if old is not None else HandOverSet(name, (part,)))

    def take(self, one: HandOverSet) -> None:
        """Take a set among the document's own, in place of one of its name, and choose it."""
        rest = tuple(own for own in self._own if own.name != one.name)
        self._document.set_hand_over("Change set", replace(self._document.state.hand_over, sets=(*rest, one)))
        self.refresh()
        self.choice.setCurrentIndex(len(rest))
        self.refresh()

    def _drop(self) -> None:
        left = tuple(own for own in self._own if own is not self.chosen)
        self._document.set_hand_over("Delete set", replace(self._document.state.hand_over, sets=left))
        self.refresh()

    def _set_page(self, on: bool) -> None:
        self._change(client_page=on)

    def _set_pattern(self) -> None:
        if self.pattern.text().strip() != self.chosen.pattern:
            self._change(pattern=self.pattern.text().strip())

    def _change(self, **change: object) -> None:
        try:
            self.take(replace(self.chosen, **change))  # type: ignore[arg-type]
        except ExportError as fault:
            self._document.failed.emit(str(fault))
            self.refresh()
