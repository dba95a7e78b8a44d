"""A picture as it was before it was compressed and made larger."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import U8
from sobercrow.core.cleanup.decompress import undo_compression
from sobercrow.core.history.enlarging import at_own_size
from sobercrow.core.history.history import History
from sobercrow.core.picture.compression import Compression
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, PictureKind

GUESSED_STEP = 12
"""By half of this coefficients may be off in a digital graphic that was compressed nobody knows how."""


def undoes_compression(history: History, settings: CleanUp, kind: PictureKind, compressed: bool) -> bool:
    """Tell whether compression is undone: of digital graphics at once, of other pictures if it is asked for.

    `compressed` says that a digital graphic looks compressed, whether or not it is known how.
    """
    if not (compressed or history.compression or history.beneath):
        return False
    return kind is PictureKind.DIGITAL if settings.compression is None else settings.compression


def goes_back(history: History, settings: CleanUp, kind: PictureKind) -> bool:
    """Tell whether a picture that was made larger goes back to its own size: digital graphics at once."""
    if history.enlargement is None:
        return False
    return kind is PictureKind.DIGITAL if settings.own_size is None else settings.own_size


def restored(pixels: U8, history: History, settings: CleanUp, kind: PictureKind, compressed: bool) -> U8:
    """Return pixels (h, w) or (h, w, 3) with undone what the settings say, as far as it was done to them."""
    flat = kind is PictureKind.DIGITAL
    last = history.compression
    if goes_back(history, settings, kind):
        assert history.enlargement is not None
        pixels = at_own_size(pixels, history.enlargement)
        last = history.beneath
    if undoes_compression(history, settings, kind, compressed):
        guess = Compression.guess(1 if pixels.ndim == 2 else 3, GUESSED_STEP)
        pixels = undo_compression(pixels, last if last is not None else guess, flat)
    return np.ascontiguousarray(pixels)
