"""The clean-up step: turn, crop, levels."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.errors import SettingError
from sobercrow.core.picture.picture import Picture
from sobercrow.core.picture.tones import histogram, otsu, usual_tones
from sobercrow.core.settings import CleanUp, Crop, Levels


def clean(source: Picture, settings: CleanUp) -> Picture:
    """Return the picture turned, cropped and with its tones stretched.

    Raises
    ------
    SettingError
        If the crop lies outside the picture.
    """
    sheet = shape_sheet(source, settings)
    return stretch_tones(sheet, levels_in_force(settings, histogram(sheet.grey())))


def levels_in_force(settings: CleanUp, tones: F64) -> Levels:
    """Return the levels set, else those chosen from the histogram of the turned and cropped sheet."""
    return settings.levels if settings.levels is not None else automatic_levels(tones)


def stretch_tones(sheet: Picture, levels: Levels) -> Picture:
    """Return the picture with its tones stretched between black and white point."""
    return sheet.with_pixels(np.asarray(cv2.LUT(sheet.pixels, tone_curve(levels)), dtype=np.uint8))


def shape_sheet(source: Picture, settings: CleanUp) -> Picture:
    """Return the picture turned and cropped, its tones untouched."""
    pixels = np.rot90(source.pixels, -settings.quarter_turns)
    if settings.crop is not None:
        crop = settings.crop
        if crop.right > pixels.shape[1] or crop.bottom > pixels.shape[0]:
            raise SettingError("The crop reaches beyond the picture; set it again or reset it.")
        pixels = pixels[crop.top : crop.bottom, crop.left : crop.right]
    return source.with_pixels(pixels)


def turned_size(source: Picture, quarter_turns: int) -> tuple[int, int]:
    """Return width and height of the picture after its quarter turns."""
    size = (source.width, source.height)
    return size if quarter_turns % 2 == 0 else (size[1], size[0])


def turn(settings: CleanUp, source: Picture, clockwise: int) -> CleanUp:
    """Return the settings with the picture turned further; the crop stays on the same part of the drawing."""
    turns, crop = settings.quarter_turns, settings.crop
    for _ in range(clockwise % 4):
        if crop is not None:
            height = turned_size(source, turns)[1]
            crop = Crop(height - crop.bottom, crop.left, height - crop.top, crop.right)
        turns = (turns + 1) % 4
    return replace(settings, quarter_turns=turns, crop=crop)


def automatic_levels(counts: F64) -> Levels:
    """Choose levels from a histogram (256,): the full tone of the ink to black, the usual one of the paper to white.

    Ink and paper are parted by Otsu's threshold. Where they are hardly apart, tones stay as they are.
    """
    if np.count_nonzero(counts) < 2:
        return Levels()
    ink, paper = usual_tones(counts, otsu(counts))
    if paper - ink < 16:
        return Levels()
    return Levels(black=ink, white=paper)


def tone_curve(levels: Levels) -> U8:
    """Return what each tone 0–255 becomes, (256,) uint8."""
    share = np.clip((np.arange(256) - levels.black) / (levels.white - levels.black), 0.0, 1.0)
    return np.rint(255.0 * share ** (1.0 / levels.midtone)).astype(np.uint8)
