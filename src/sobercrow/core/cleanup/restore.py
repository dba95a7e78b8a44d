"""A picture as it was before it was compressed, made larger, dithered or screened."""

from __future__ import annotations

from sobercrow.core.cleanup.decompress import undo_compression
from sobercrow.core.history.history import History
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, PictureKind


def undoes_compression(history: History, settings: CleanUp, kind: PictureKind) -> bool:
    """Tell whether compression is undone: of digital graphics at once, of other pictures if it is asked for."""
    if history.compression is None:
        return False
    return kind is PictureKind.DIGITAL if settings.compression is None else settings.compression


def restored(source: Picture, history: History, settings: CleanUp, kind: PictureKind) -> Picture:
    """Return the picture with undone what the settings say, as far as it was done to it."""
    if undoes_compression(history, settings, kind):
        assert history.compression is not None
        pixels = undo_compression(source.pixels, history.compression, kind is PictureKind.DIGITAL)
        return source.with_pixels(pixels)
    return source
