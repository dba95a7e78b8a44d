"""Between the table of several and the window: one of them is opened, and comes back changed."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from sobercrow.core.errors import SoberCrowError
from sobercrow.desktop.document import Document
from sobercrow.desktop.several.page import SeveralPage


class SeveralDesk:
    """Shows the table or what was there before it, and knows which of its pictures the document is."""

    def __init__(
        self,
        document: Document,
        page: SeveralPage,
        may_leave: Callable[[], bool],
        tell: Callable[[str], None],
        refresh: Callable[[], None],
    ) -> None:
        """Stand between a table and a document; `may_leave` asks about unsaved changes, `refresh` shows what is on."""
        self._document, self.page = document, page
        self._may_leave, self._tell, self._refresh = may_leave, tell, refresh
        self.is_on = False

    @property
    def row(self) -> int | None:
        """The row of the picture that is open in the window; None if it is none of them."""
        project = self._document.brought_back_from
        return next((k for k, row in enumerate(self.page.pieces.rows) if row.project == project), None)

    def take(self, paths: list[Path]) -> None:
        """Lay pictures on the table, and show it."""
        self.show()
        self.page.pieces.add(paths)

    def show(self) -> None:
        """Show the table; what was done to one of them that is open is kept with it."""
        row = self.row
        if row is not None and self._document.is_changed:
            try:
                self._document.keep_in(self.page.pieces.rows[row].project)
            except SoberCrowError as fault:
                self._tell(str(fault))
                return
            self.page.pieces.take_back(row)
        self.is_on = True
        self.page.look_up_recipes()
        self._refresh()

    def open(self, row: int) -> None:
        """Open one of them as it stands on the table."""
        if self._may_leave():
            self._document.open_path(self.page.pieces.rows[row].project, recovered=True)

    def leave(self) -> None:
        """Go back to what was shown before the table."""
        self.is_on = False
        self._refresh()

    def take_opened(self) -> None:
        """Show what was opened; one of the table is kept there, so it counts as saved."""
        self.is_on = False
        if self.row is not None:
            self._document.count_as_saved()
