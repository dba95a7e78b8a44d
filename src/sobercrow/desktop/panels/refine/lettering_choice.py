"""What both parts for lettering begin with: choosing it."""

from __future__ import annotations

from sobercrow.core.artwork.choice import Choice
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
