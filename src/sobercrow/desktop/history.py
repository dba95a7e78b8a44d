"""Undo and redo: the values a document had, each with the name of the change that followed."""

from __future__ import annotations

import time
from dataclasses import dataclass

from sobercrow.core.artwork.choice import Choice
from sobercrow.desktop.state import State

MERGE_SECONDS = 1.0
DEEPEST = 200


class Lasting(str):
    """A `merge` that does not run out: however long it takes, all changes until another is made count as one."""

    __slots__ = ()


@dataclass(frozen=True, slots=True)
class Moment:
    """A document at one moment: its state, and what was chosen."""

    state: State
    choice: Choice


class History:
    """What undo brings back, and redo. Changes with the same `merge` in quick succession count as one."""

    def __init__(self) -> None:
        """Start with no past."""
        self._past: list[tuple[str, Moment]] = []
        self._future: list[tuple[str, Moment]] = []
        self._merge: tuple[str, float] | None = None

    def note(self, name: str, before: Moment, merge: str | None = None) -> None:
        """Note a change that is about to be made."""
        now = time.monotonic()
        last, when = self._merge if self._merge is not None else (None, 0.0)
        goes_on = merge is not None and last == merge
        if not (goes_on and (isinstance(merge, Lasting) or now - when < MERGE_SECONDS)):
            self._past.append((name, before))
            del self._past[:-DEEPEST]
        self._merge = (merge, now) if merge is not None else None
        self._future.clear()

    def back(self, now: Moment) -> Moment | None:
        """Return the moment before the last change."""
        return self._step(self._past, self._future, now)

    def forth(self, now: Moment) -> Moment | None:
        """Return the moment after the change last undone."""
        return self._step(self._future, self._past, now)

    def _step(self, out_of: list[tuple[str, Moment]], into: list[tuple[str, Moment]], now: Moment) -> Moment | None:
        if not out_of:
            return None
        name, moment = out_of.pop()
        into.append((name, now))
        self._merge = None
        return moment

    @property
    def undo_name(self) -> str | None:
        """Name of what undo would take back."""
        return self._past[-1][0] if self._past else None

    @property
    def redo_name(self) -> str | None:
        """Name of what redo would do again."""
        return self._future[-1][0] if self._future else None
