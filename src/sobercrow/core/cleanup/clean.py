"""The clean-up step: a chain of stages from the picture brought in to the cleaned picture.

Each stage is a pure function of the sheet before it and the settings it names, so that a change repeats only what
comes after it. Pixels are (h, w) while a sheet is grey and (h, w, 3) while it has colours.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import cv2
import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.cleanup import dirt
from sobercrow.core.cleanup._tone_kernels import is_grey, take_off_tint
from sobercrow.core.cleanup.enlarge import enlarge
from sobercrow.core.cleanup.grey_mix import mixed
from sobercrow.core.cleanup.light import Light, automatic_strength, even_out, read_light
from sobercrow.core.cleanup.nature import read_nature
from sobercrow.core.cleanup.pale_lines import PaleLine, find_pale_lines, take_out
from sobercrow.core.cleanup.pencils import without_pencils
from sobercrow.core.cleanup.sheet import SheetMap, lay_out, sheet_map
from sobercrow.core.cleanup.touch_ups import own_colours, replay
from sobercrow.core.parallel import in_strips
from sobercrow.core.picture.picture import Picture, coarse, grey_of
from sobercrow.core.picture.tones import histogram, otsu, usual_tones
from sobercrow.core.settings import CleanUp, Levels, PictureKind

NO_LEVELS = Levels()


@dataclass(frozen=True, slots=True, eq=False)
class Frame:
    """How large a sheet is made: the whole way from the source, and the size before it is enlarged.

    `source` leads from pixels of the source as given to those of the sheet before it is enlarged, `cleaned` from
    pixels of the picture brought in, at its full size, to those of the cleaned picture.
    """

    source: SheetMap
    cleaned: SheetMap


@dataclass(frozen=True, slots=True, eq=False)
class Sheet:
    """A sheet on its way through the stages, and what was found on the way.

    Attributes
    ----------
    pixels : (h, w) or (h, w, 3) uint8
    kind : PictureKind
        What kind of picture it is, or is taken for.
    shade : Light or None
        The light that was evened out.
    smoothing : float
        How much dirt was smoothed, in per cent.
    guides : tuple of PaleLine
        The lines that were taken out.
    tones : (256,) float64
        Histogram before the levels.
    levels : Levels
        The levels applied.
    """

    pixels: U8
    kind: PictureKind = PictureKind.SCAN
    shade: Light | None = None
    smoothing: float = 0.0
    guides: tuple[PaleLine, ...] = ()
    tones: F64 | None = None
    levels: Levels = NO_LEVELS

    @property
    def grey(self) -> U8:
        """The tones, (h, w)."""
        return grey_of(self.pixels)

    def picture(self, source: Picture, dpi: float) -> Picture:
        """Return the sheet as a picture."""
        pixels = self.pixels
        if pixels.ndim == 2:
            pixels = np.asarray(cv2.cvtColor(pixels, cv2.COLOR_GRAY2RGB), dtype=np.uint8)
        return replace(source.with_pixels(pixels), dpi=dpi)


@dataclass(frozen=True, slots=True)
class Stage:
    """A stage: its name, the switches (of `SWITCHES`) that turn it off, the fields it depends on, and what it does."""

    name: str
    switches: tuple[str, ...]
    fields: tuple[str, ...]
    work: Callable[[Sheet, CleanUp, Frame], Sheet]


def clean(source: Picture, settings: CleanUp) -> Picture:
    """Return the cleaned picture; what was done to it before is left as it is (see `restore.restored`).

    Raises
    ------
    SettingError
        If the crop lies outside the picture.
    """
    settings = settings.in_force()
    plane = sheet_map(source.width, source.height, settings)
    frame = Frame(plane, plane.enlarged(settings.enlarge))
    pixels = source_pixels(source)
    sheet = Sheet(pixels, settings.kind or read_nature(pixels).kind)
    for stage in STAGES:
        sheet = stage.work(sheet, settings, frame)
    return sheet.picture(source, source.dpi * settings.enlarge)


def source_pixels(source: Picture) -> U8:
    """Return a picture's pixels, (h, w) if it has no colours."""
    return np.ascontiguousarray(source.pixels[..., 0]) if is_grey(source.pixels) else source.pixels


def _shape(sheet: Sheet, settings: CleanUp, frame: Frame) -> Sheet:
    return replace(sheet, pixels=lay_out(sheet.pixels, frame.source))


def _pencils(sheet: Sheet, settings: CleanUp, frame: Frame) -> Sheet:
    if not settings.pencils or sheet.pixels.ndim == 2:
        return sheet
    return replace(sheet, pixels=without_pencils(sheet.pixels, settings.pencils))


def _mix(sheet: Sheet, settings: CleanUp, frame: Frame) -> Sheet:
    if settings.mix is None or sheet.pixels.ndim == 2:
        return sheet
    return replace(sheet, pixels=mixed(sheet.pixels, settings.mix))


def _light(sheet: Sheet, settings: CleanUp, frame: Frame) -> Sheet:
    """Even out the light and lift stains: one gain over the sheet."""
    if settings.light == 0.0 and settings.stains == 0.0:
        return sheet
    grey = sheet.grey
    light, gain = None, None
    if settings.light != 0.0:
        light = read_light(grey)
        chosen = 0.0 if sheet.kind is PictureKind.DIGITAL else automatic_strength(light)
        strength = chosen if settings.light is None else settings.light
        gain = light.gain(strength / 100.0) if strength > 0.0 else None
    if settings.stains > 0.0:
        gain = _with_stains(grey, gain, settings.stains / 100.0)
    if gain is None:
        return sheet
    return replace(sheet, pixels=even_out(sheet.pixels, gain), shade=light)


def _with_stains(grey: U8, gain: F64 | None, strength: float) -> F64:
    """Join the gain that evens out the light with the one that lifts stains, on the finer cells of the latter."""
    small = coarse(grey, dirt.STAIN_SCALE)
    cells = max(4, small.shape[0] // 2), max(4, small.shape[1] // 2)
    joined = np.ones(cells)
    if gain is not None:
        small = even_out(small, gain)
        joined = cv2.resize(gain, (cells[1], cells[0]), interpolation=cv2.INTER_LINEAR)
    ink, paper = ink_and_paper(small)
    return np.asarray(joined * dirt.stain_gain(small, paper, ink, strength, cells))


def _smooth(sheet: Sheet, settings: CleanUp, frame: Frame) -> Sheet:
    chosen = 0.0 if sheet.kind is PictureKind.DIGITAL else dirt.automatic_smoothing(sheet.grey)
    strength = chosen if settings.smooth is None else settings.smooth
    return replace(sheet, pixels=dirt.smooth(sheet.pixels, strength / 100.0), smoothing=strength)


def _guides(sheet: Sheet, settings: CleanUp, frame: Frame) -> Sheet:
    if settings.guides == 0.0:
        return sheet
    grey = sheet.grey
    ink, paper = ink_and_paper(grey)
    guides = find_pale_lines(grey, paper, ink, settings.guides / 100.0)
    return replace(sheet, pixels=take_out(sheet.pixels, grey, guides, paper, ink), guides=guides)


def _levels(sheet: Sheet, settings: CleanUp, frame: Frame) -> Sheet:
    tones = histogram(sheet.grey)
    levels = settings.levels if settings.levels is not None else _automatic_levels(sheet, tones)
    return replace(sheet, pixels=stretched(sheet.pixels, levels), tones=tones, levels=levels)


def _automatic_levels(sheet: Sheet, tones: F64) -> Levels:
    if sheet.kind is PictureKind.DIGITAL:
        return NO_LEVELS
    levels = automatic_levels(tones)
    return _sparing_colours(sheet.pixels, levels) if has_colours(sheet.pixels) else levels


def _enlarge(sheet: Sheet, settings: CleanUp, frame: Frame) -> Sheet:
    return replace(sheet, pixels=enlarge(sheet.pixels, frame.cleaned.width, frame.cleaned.height))


def _touch_ups(sheet: Sheet, settings: CleanUp, frame: Frame) -> Sheet:
    return replace(sheet, pixels=replay(sheet.pixels, settings.touch_ups, frame.cleaned))


STAGES = (
    Stage(
        "Sheet",
        ("turn", "slant", "angle", "crop"),
        ("slant", "ratio", "quarter_turns", "mirrored", "angle_deg", "crop"),
        _shape,
    ),
    Stage("Pencils", ("pencils",), ("pencils",), _pencils),
    Stage("Grey", ("mix",), ("mix",), _mix),
    Stage("Light", ("light", "stains"), ("light", "stains"), _light),
    Stage("Dirt", ("smooth",), ("smooth",), _smooth),
    Stage("Lines", ("guides",), ("guides",), _guides),
    Stage("Levels", ("levels",), ("levels",), _levels),
    Stage("Enlarge", ("enlarge",), ("enlarge",), _enlarge),
    Stage("Touch-ups", ("touch_ups",), ("touch_ups",), _touch_ups),
)
"""The stages in the order they are applied."""


def ink_and_paper(grey: U8) -> tuple[int, int]:
    """Return the full tone of the ink and the usual one of the paper of a sheet (h, w)."""
    counts = histogram(grey)
    return usual_tones(counts, otsu(counts))


def stretched(pixels: U8, levels: Levels) -> U8:
    """Return pixels, (h, w) or (h, w, 3), with their tones stretched.

    Tinted paper becomes white; inks keep their hues.
    """
    if levels == NO_LEVELS:
        return pixels
    result = np.asarray(cv2.LUT(pixels, tone_curve(levels)), dtype=np.uint8)
    if pixels.ndim == 3:
        paper = np.array(own_colours(result).paper, dtype=np.int64)
        tint = int(grey_of(paper.astype(np.uint8).reshape(1, 1, 3))[0, 0]) - paper
        if np.abs(tint).max() > 1:
            tones = grey_of(result)
            in_strips(result.shape[0], lambda first, last: take_off_tint(result, tones, tint, first, last))
    return result


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


COLOUR_SAMPLES = 60_000
PLAIN = 44
"""Channels of a pixel that differ by more than this, the paper's tint apart, are a colour."""
COLOURED_SHARE = 0.01
LIGHTEST_TINT = 40
DARKEST_PAPER = 110


def has_colours(pixels: U8) -> bool:
    """Tell whether a sheet (h, w) or (h, w, 3) has inks in colours, beyond a tint of its paper."""
    if pixels.ndim == 2:
        return False
    every = max(1, int((pixels.shape[0] * pixels.shape[1] / COLOUR_SAMPLES) ** 0.5))
    sample = pixels[::every, ::every].astype(np.float64)
    paper = np.maximum(np.array(own_colours(pixels).paper, dtype=np.float64), 1.0)
    plain = sample * (paper.max() / paper)
    return bool((np.ptp(plain, axis=2) > PLAIN).mean() > COLOURED_SHARE)


def _sparing_colours(pixels: U8, levels: Levels) -> Levels:
    """Levels that leave inks their colours: only pale, bright paper is made white, and nothing black."""
    paper = np.array(own_colours(pixels).paper)
    if np.ptp(paper) > LIGHTEST_TINT or paper.min() < DARKEST_PAPER:
        return Levels()
    return Levels(0, levels.midtone, max(levels.white, 1))


def tone_curve(levels: Levels) -> U8:
    """Return what each tone 0–255 becomes, (256,) uint8."""
    share = np.clip((np.arange(256) - levels.black) / (levels.white - levels.black), 0.0, 1.0)
    return np.rint(255.0 * share ** (1.0 / levels.midtone)).astype(np.uint8)


def tone_at(before_levels: Sheet, settings: CleanUp, x: float, y: float) -> float:
    """Return the tone, before the levels, at a place of the cleaned picture: the median of 5 × 5 pixels there."""
    grey = before_levels.grey
    n = settings.in_force().enlarge
    row, column = (min(max(int(v / n), 0), size - 1) for v, size in ((y, grey.shape[0]), (x, grey.shape[1])))
    return float(np.median(grey[max(row - 2, 0) : row + 3, max(column - 2, 0) : column + 3]))


def same_place(one: CleanUp, other: CleanUp) -> bool:
    """Tell whether sheets cleaned by two settings lie in the same place: turned, cropped and enlarged alike."""
    one, other = one.in_force(), other.in_force()
    return all(
        getattr(one, name) == getattr(other, name) for name in (*STAGES[0].fields, "enlarge", "own_size", "screen")
    )
