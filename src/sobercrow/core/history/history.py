"""What a picture went through before it was brought in, found once from its file and its pixels."""

from __future__ import annotations

from dataclasses import dataclass

from sobercrow.core.picture.compression import Compression
from sobercrow.core.picture.picture import Picture


@dataclass(frozen=True, slots=True, eq=False)
class History:
    """What a picture went through, the last first.

    Attributes
    ----------
    compression : Compression or None
        How it was compressed last, in its file or before it was kept otherwise.
    """

    compression: Compression | None = None


def read_history(picture: Picture) -> History:
    """Find out what a picture went through."""
    return History(picture.compression)
