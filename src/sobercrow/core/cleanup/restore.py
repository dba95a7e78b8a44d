"""A picture as it was before it was compressed, made larger, dithered or screened."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from sobercrow.core.arrays import U8
from sobercrow.core.cleanup.decompress import undo_compression
from sobercrow.core.cleanup.evidence import Evidence
from sobercrow.core.cleanup.intervals import Progress
from sobercrow.core.cleanup.nature import Nature, read_nature
from sobercrow.core.cleanup.screened import read_screened_nature, without_screen
from sobercrow.core.cleanup.sharpened import without_sharpening
from sobercrow.core.history.enlarging import at_own_size
from sobercrow.core.history.history import History
from sobercrow.core.history.screens import Dots, Screen, screenless_size, without_dots
from sobercrow.core.picture.compression import Compression
from sobercrow.core.settings import CleanUp, PictureKind

MOST_UNDONE_AT_ONCE, MOST_UNDONE = 1_500_000, 6_000_000
"""Compression of pictures with no more pixels is undone at once, and at all."""
FREQUENCY = np.hypot(np.arange(8)[:, None], np.arange(8)[None])
UNKNOWN_TABLE = np.full((8, 8), 12, dtype=np.int64)
"""By half of these coefficients may be off in a digital graphic that was compressed nobody knows how,"""
DITHER_TABLE = np.asarray(4.0 + 14.0 * FREQUENCY, dtype=np.int64)
"""where errors were diffused, which leaves what is coarse as it was (Ulichney 1988, "Dithering with blue noise"),"""
SCREEN_TABLE = np.full((8, 8), 24, dtype=np.int64)
"""and where a halftone was averaged."""
AVERAGED = 0.4
"""The share of the work on a halftone that is done once its colours are known."""


def read_original_nature(pixels: U8, history: History) -> Nature:
    """Decide what kind of picture (h, w) or (h, w, 3) it was before it was made larger, of dots or sharper.

    Enlarging makes flat places soft and takes the stillness from them; see `read_nature`.
    """
    if history.screen is not None:
        return read_screened_nature(pixels, history.screen)
    if history.sharpening is not None:
        sharp = without_sharpening(pixels, history.sharpening, flat=False)
        return replace(read_nature(sharp), compressed=False)  # what is left of rims looks as if it were compressed
    return read_nature(pixels if history.enlargement is None else at_own_size(pixels, history.enlargement))


def undoes_compression(history: History, settings: CleanUp, kind: PictureKind, nature: Nature) -> bool:
    """Tell whether compression is undone: of digital graphics at once, of other pictures if it is asked for.

    One dark ink is left as it is: its borders are read from the tones, which compression moves less than undoing it.
    So are large pictures, which it would take long and whose pixels are finer than what compression did to them.
    """
    if not (nature.compressed or history.compression or history.beneath) or history.pixels > MOST_UNDONE:
        return False
    automatic = kind is PictureKind.DIGITAL and not nature.one_ink and history.pixels <= MOST_UNDONE_AT_ONCE
    return automatic if settings.compression is None else settings.compression


def draws_flat(history: History, settings: CleanUp, kind: PictureKind, nature: Nature) -> bool:
    """Tell whether a picture is restored in flat colours and mixtures of two of them."""
    if kind is not PictureKind.DIGITAL:
        return False
    if averages_dots(history, settings):
        dots = None if history.screen is None else history.screen.dots
        return dots is Dots.HALFTONE or (dots is Dots.DITHER and history.pixels <= MOST_UNDONE_AT_ONCE)
    if undoes_sharpening(history, settings, kind):
        return True
    return undoes_compression(history, settings, kind, nature)


def averages_dots(history: History, settings: CleanUp) -> bool:
    """Tell whether dots are averaged to the tones they stand for."""
    return history.screen is not None and settings.screen is not False


def undoes_sharpening(history: History, settings: CleanUp, kind: PictureKind) -> bool:
    """Tell whether sharpening is undone: of digital graphics at once, of other pictures if it is asked for."""
    if history.sharpening is None:
        return False
    automatic = kind is PictureKind.DIGITAL and history.pixels <= MOST_UNDONE_AT_ONCE
    return automatic if settings.sharpening is None else settings.sharpening


def own_size(history: History, settings: CleanUp, kind: PictureKind, width: int, height: int) -> tuple[int, int]:
    """Return the width and height at which a picture's pixels are its own.

    Digital graphics that were made larger go back to the size they had; a halftone has 1.5 pixels for a period.
    """
    if averages_dots(history, settings):
        assert history.screen is not None
        return screenless_size(history.screen, width, height)
    found = history.enlargement
    if found is None or not (kind is PictureKind.DIGITAL if settings.own_size is None else settings.own_size):
        return width, height
    return found.width, found.height


def restored(
    pixels: U8,
    history: History,
    settings: CleanUp,
    kind: PictureKind,
    nature: Nature,
    progress: Progress = lambda _share: None,
) -> tuple[U8, Evidence | None]:
    """Return pixels (h, w) or (h, w, 3) with undone what the settings say, as far as it was done to them.

    With them comes what is known for certain of the picture that was compressed, if it was drawn in flat colours.
    `progress` is told the share done, 0-1, and may raise to stop it.

    Raises
    ------
    PictureError
        If the file's coefficients cannot be read.
    """
    flat, is_worked_out = kind is PictureKind.DIGITAL, False
    if averages_dots(history, settings):
        assert history.screen is not None
        if draws_flat(history, settings, kind, nature):
            return _in_flat_tones(pixels, history.screen, progress), None
        return without_dots(pixels, history.screen), None
    if undoes_sharpening(history, settings, kind):
        assert history.sharpening is not None
        return without_sharpening(pixels, history.sharpening, flat, progress), None
    last, channels = history.earlier or history.compression, 1 if pixels.ndim == 2 else 3
    if own_size(history, settings, kind, pixels.shape[1], pixels.shape[0]) != (pixels.shape[1], pixels.shape[0]):
        assert history.enlargement is not None
        pixels, is_worked_out = at_own_size(pixels, history.enlargement), True
        last = history.beneath
    evidence = None
    if undoes_compression(history, settings, kind, nature):
        evidence = Evidence.of(pixels, last or Compression.guess(UNKNOWN_TABLE, channels))
        pixels = undo_compression(pixels, evidence, flat, progress)
    is_told = evidence is not None and flat and not (evidence.intervals.guessed or is_worked_out)
    return np.ascontiguousarray(pixels), evidence if is_told else None


def _in_flat_tones(pixels: U8, screen: Screen, progress: Progress) -> U8:
    """A picture of dots in the few flat colours they stand for."""
    averaged = without_dots(pixels, screen)
    channels = 1 if pixels.ndim == 2 else 3
    if screen.dots is Dots.DITHER:
        doubt = Evidence.of(averaged, Compression.guess(DITHER_TABLE, channels))
        return undo_compression(averaged, doubt, True, progress)
    doubt = Evidence.of(averaged, Compression.guess(SCREEN_TABLE, channels))
    calm = undo_compression(averaged, doubt, True, lambda share: progress(AVERAGED * share))
    return without_screen(pixels, calm, screen, lambda share: progress(AVERAGED + (1.0 - AVERAGED) * share))
