"""What both parts for lettering begin with: choosing it, and seeing that it is another."""

from __future__ import annotations

from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import SoberCrowError
from sobercrow.core.lettering.letters import lettering_in
from sobercrow.desktop.document import Document


def choose_lettering(document: Document) -> None:
    """Choose what is most likely the lettering of the artwork; tell if nothing looks like it."""
    if document.artwork is None:
        return
    try:
        document.choose(Choice(shapes=lettering_in(document.artwork)))
    except SoberCrowError as fault:
        document.failed.emit(str(fault))


def is_elsewhere(looked_at: tuple[Choice, Artwork | None] | None, document: Document) -> bool:
    """Tell whether a document has another choice or other artwork than what was looked at last."""
    return looked_at is None or looked_at[0] != document.choice or looked_at[1] is not document.artwork
