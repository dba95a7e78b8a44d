"""What can be done with all areas at once while colour is poured."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from sobercrow.core.artwork import pouring
from sobercrow.core.artwork.choice import Edited
from sobercrow.desktop.controls import doing, group_column, hair_line, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.tools.pour import ArtworkPour


class PourPart:
    """All areas coloured, from the picture or one by one; poured again; gaps closed with ink."""

    def __init__(self, document: Document, tool: ArtworkPour) -> None:
        """Work on a document as the tool pours."""
        self._document, self._tool = document, tool
        self.picture = doing("All as in the picture", "Every area in the colour beneath it.", self._from_picture)
        self.each = doing(
            "A colour each", "Every area in a colour of its own.", lambda: self._do("Pour all", pouring.pour_all)
        )
        self.again = doing(
            "Pour again",
            "All that was poured, between the lines as they are now.",
            lambda: self._do("Pour again", pouring.pour_again),
        )
        self.close = doing("Ink the gaps", "Closes the bridged gaps with ink as wide as the line there.", self._close)
        self.group = group_column(row_of(self.picture, self.each), row_of(self.again, self.close), hair_line())
        self.group.hide()

    def _do(self, name: str, edit: Callable[..., Edited], *arguments: Any) -> None:
        artwork = self._document.artwork
        if artwork is not None:
            self._document.edit_beside(name, edit, self._tool.how(artwork), *arguments)

    def _from_picture(self) -> None:
        presentation = self._document.presentation
        if presentation is not None:
            self._do("Pour as in the picture", pouring.pour_from_picture, presentation.results.cleaned.pixels)

    def _close(self) -> None:
        self._document.edit_beside("Close gaps", pouring.close_gaps, self._tool.bridges())

    def show_tool(self, name: str) -> None:
        """Show it while the tool is in hand."""
        self.group.setVisible(name == self._tool.id)
