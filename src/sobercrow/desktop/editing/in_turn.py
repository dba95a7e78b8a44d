"""Edits that take long: worked out in the background, one after the other."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import Cancelled, SoberCrowError
from sobercrow.desktop.requests import Requests

Made = Artwork | Edited


@dataclass(frozen=True, slots=True, eq=False)
class Waiting:
    """An edit that was asked for.

    `prepare` is called in the window's thread when its turn comes, and returns what makes new artwork of the present
    one. An edit that works `on_any` artwork is worked out anew if something else has changed meanwhile; of another
    what it was given would not fit. One that `reports` is given `progress`, which tells how far it is and stops it.
    `ended` is called when it waits no longer: just before it is taken, or as it is refused or given up.
    """

    name: str
    prepare: Callable[[], Callable[..., Made]]
    on_any: bool = False
    reports: bool = False
    ended: Callable[[], object] = lambda: None


class InTurn:
    """Works out edits one after the other, each on what the one before has left. Lives in the window's thread."""

    def __init__(
        self,
        requests: Requests,
        artwork: Callable[[], Artwork | None],
        take: Callable[[str, Made], None],
        refuse: Callable[[str], None],
    ) -> None:
        """Work on the artwork there is.

        `take` is given what comes of an edit, and has to `go_on` with the changed artwork, as after any other change;
        `refuse` is told why nothing comes of one.
        """
        self._requests, self._artwork, self._take, self._refuse = requests, artwork, take, refuse
        self._waiting: list[tuple[Waiting, Artwork | None]] = []
        """With the artwork there was when each was asked for."""
        requests.busy_changed.connect(lambda busy: None if busy else self.go_on())

    @property
    def last_name(self) -> str | None:
        """What the edit asked for last is called, if it is not done yet."""
        return self._waiting[-1][0].name if self._waiting else None

    def add(self, edit: Waiting) -> None:
        """Have an edit worked out once those before it are done."""
        self._waiting.append((edit, self._artwork()))
        if len(self._waiting) == 1:
            self.go_on()

    def let_go(self) -> bool:
        """Give up the edit asked for last; tell whether one was waiting."""
        if not self._waiting:
            return False
        self._drop(-1)
        if not self._waiting:
            self._requests.make_soon()
        return True

    def clear(self) -> None:
        """Give up all of them."""
        while self._waiting:
            self._drop(-1)

    def go_on(self) -> None:
        """Begin the next one, or anew what was given up for something else."""
        artwork = self._artwork()
        while artwork is not None and self._waiting:
            edit, given = self._waiting[0]
            if edit.on_any or given is artwork:
                self._begin(edit, artwork)
                return
            self._drop(0)
            self._refuse(f"“{edit.name}” came too late: the artwork has changed meanwhile. Do it again.")

    def _drop(self, which: int) -> None:
        edit, _ = self._waiting.pop(which)
        edit.ended()

    def _begin(self, edit: Waiting, artwork: Artwork) -> None:
        work, done = partial(_tried, edit.prepare(), artwork), partial(self._done, edit, artwork)
        if edit.reports:
            self._requests.ask_at_length(edit.name, work, done)
        else:
            self._requests.ask(work, done)

    def _done(self, edit: Waiting, before: Artwork, made: Made | Exception) -> None:
        if not self._waiting or self._waiting[0][0] is not edit or self._artwork() is not before:
            return  # it was given up, or has been begun anew
        self._drop(0)
        if not isinstance(made, Exception):
            self._take(edit.name, made)  # whoever takes it goes on
            return
        self.go_on()
        if not isinstance(made, SoberCrowError):
            raise made
        self._refuse(str(made))


def _tried(work: Callable[..., Made], artwork: Artwork, **progress: Any) -> Made | Exception:
    """What an edit makes of the artwork, or what went wrong: it is told where the edit is no longer waiting."""
    try:
        return work(artwork, **progress)
    except Cancelled:
        raise
    except Exception as fault:  # begun again and again it would fail again and again
        return fault
