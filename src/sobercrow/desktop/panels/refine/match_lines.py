"""Lettering of several lines, gone through one by one."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from sobercrow.core.artwork.edits import choice_of
from sobercrow.core.artwork.model import Shape
from sobercrow.core.lettering.baseline import parted_from_line
from sobercrow.core.lettering.letters import lines_of
from sobercrow.desktop.controls import doing, group_column, label, row_of
from sobercrow.desktop.document import Document


class MatchLines:
    """Chooses one line of those that were chosen together, and goes from one to the next."""

    def __init__(self, document: Document) -> None:
        """Choose in a document."""
        self._document = document
        self._lines: list[list[Shape]] = []
        self._at = 0
        self.told = label(muted=True)
        self.before = doing("Line before", "Goes back to the line before.", partial(self._go, -1))
        self.next = doing("Next line", "Goes on to the next line of the lettering.", partial(self._go, 1))
        self.row = group_column(self.told, row_of(self.before, self.next))

    def part(self) -> bool:
        """Choose the first line where several are chosen; tell whether that was done."""
        artwork, places = self._document.artwork, sorted(self._document.choice.shapes)
        if artwork is None:
            return False
        chosen = [artwork.shapes[k] for k in places]
        if any(_same(line, chosen) for line in self._lines) or parted_from_line(chosen)[1] is not None:
            return False
        self._lines, self._at = lines_of(chosen), 0
        if len(self._lines) < 2:
            return False
        self._go(0)
        return True

    def show(self, there: bool) -> None:
        """Show which line it is, if there are several."""
        count = len(self._lines)
        self.row.setVisible(there and count > 1)
        self.told.setText(f"Line {self._at + 1} of {count}.")
        self.before.setEnabled(self._at > 0)
        self.next.setEnabled(self._at + 1 < count)

    def _go(self, by: int) -> None:
        artwork = self._document.artwork
        if artwork is None or not 0 <= self._at + by < len(self._lines):
            return
        self._at += by
        line = choice_of(artwork, self._lines[self._at])
        if line:
            self._document.choose(line)
        else:
            self._document.failed.emit("This line was set or changed; choose its letters to look at them again.")
            self.show(True)


def _same(line: Sequence[Shape], chosen: Sequence[Shape]) -> bool:
    return len(line) == len(chosen) and {id(shape) for shape in line} == {id(shape) for shape in chosen}
