"""What a picture went through before it was brought in, found once from its file and its pixels."""

from __future__ import annotations

from dataclasses import dataclass

from sobercrow.core.arrays import U8
from sobercrow.core.history.earlier_jpeg import find_earlier_jpeg
from sobercrow.core.picture.compression import Compression


@dataclass(frozen=True, slots=True, eq=False)
class History:
    """What a picture went through, the last first.

    Attributes
    ----------
    compression : Compression or None
        How it was compressed last, in its file or before it was kept otherwise.
    """

    compression: Compression | None = None


def read_history(pixels: U8, compression: Compression | None) -> History:
    """Find out what a picture (h, w) or (h, w, 3) went through; `compression` is that of its file, if any."""
    return History(compression or find_earlier_jpeg(pixels))
