"""What was decided of a picture at first sight, in plain words, each with the alternative."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

from sobercrow.core.cleanup.nature import Nature
from sobercrow.core.cleanup.restore import averages_dots, own_size, undoes_compression, undoes_sharpening
from sobercrow.core.history.history import History
from sobercrow.core.history.screens import Dots
from sobercrow.core.inks.separation import OneInk, Separation
from sobercrow.core.settings import InkKind, PictureKind, Settings


class Decided(StrEnum):
    """What is decided of a picture."""

    SHEET = "sheet"
    DOTS = "dots"
    SIZE = "size"
    COMPRESSION = "compression"
    SHARPENING = "sharpening"
    KIND = "kind"
    INKS = "inks"


@dataclass(frozen=True, slots=True)
class Decision:
    """One decision: its sentence, what its alternative is called, and the settings that take it."""

    what: Decided
    sentence: str
    action: str
    settings: Settings


SENTENCES = {
    PictureKind.DIGITAL: "A digital graphic{compressed}: colours are kept as they are.",
    PictureKind.SCAN: "A scan of paper: tones and dirt are put right.",
    PictureKind.PHOTO: "A photo of paper: light, tones and dirt are put right.",
    PictureKind.SHADED: "Shaded artwork: its tones run into each other.",
}


HARD, LIGHT = 45, 80
"""Below and above these qualities a JPEG was compressed hard, and lightly."""
WORTH_UNDOING = 60
"""Below this quality it is offered to undo the compression of a scan or a photo."""


def decisions(
    nature: Nature, history: History, separation: Separation, settings: Settings, size: tuple[int, int]
) -> tuple[Decision, ...]:
    """Return what was decided of a picture, and what is in force now if it was decided otherwise since.

    `size` is how wide and high the picture brought in is, in px.
    """
    kind = settings.clean_up.kind or nature.kind
    told = (
        _sheet(settings),
        _dots(history, settings),
        _own_size(history, kind, settings, size),
        _compression(nature, history, kind, settings),
        _sharpening(history, kind, settings),
        _kind(nature, history, settings),
        _inks(nature, separation, settings),
    )
    return tuple(decision for decision in told if decision is not None)


def _with_clean_up(settings: Settings, part: str, **fields: Any) -> Settings:
    return replace(settings, clean_up=replace(settings.clean_up.switched(part, True), **fields))


def _unless(automatic: bool, wish: bool) -> bool | None:
    """A wish, or None where it is what is chosen anyway."""
    return None if automatic == wish else wish


def _sheet(settings: Settings) -> Decision | None:
    if settings.clean_up.in_force().slant is None:
        return None
    sentence = "A sheet photographed with its surroundings: laid flat and cropped."
    return Decision(Decided.SHEET, sentence, "As photographed", _with_clean_up(settings, "slant", slant=None))


def _dots(history: History, settings: Settings) -> Decision | None:
    screen = history.screen
    if screen is None:
        return None
    averaged = averages_dots(history, settings.clean_up.in_force())
    if screen.dots is Dots.HALFTONE:
        sentence = f"Printed in dots {screen.period_px:.1f} px apart"
    elif screen.dots is Dots.DITHER:
        sentence = "Dithered: tones are made of single dots"
    else:
        sentence = "Black and white pixels alone"
    done = "stairs are smoothed" if screen.dots is Dots.ONE_BIT else "dots are averaged"
    sentence += f"; {done}." if averaged else "; left as it is."
    other = _with_clean_up(settings, "screen", screen=False if averaged else None)
    return Decision(Decided.DOTS, sentence, "Keep pixels" if averaged else "Average", other)


def _own_size(history: History, kind: PictureKind, settings: Settings, size: tuple[int, int]) -> Decision | None:
    found = history.enlargement
    if found is None:
        return None
    times = f"{size[0] / found.width:.1f}".removesuffix(".0")
    clean_up = settings.clean_up.in_force()
    goes_back, automatic = (
        own_size(history, c, kind, *size) != size for c in (clean_up, replace(clean_up, own_size=None))
    )
    what = f"traced at its own {found.width} × {found.height} px" if goes_back else "traced as large as it is"
    other = _with_clean_up(settings, "own_size", own_size=_unless(automatic, not goes_back))
    action = "Keep size" if goes_back else "Own size"
    return Decision(Decided.SIZE, f"Was made about {times} times as large; {what}.", action, other)


def _compression(nature: Nature, history: History, kind: PictureKind, settings: Settings) -> Decision | None:
    known = history.compression or history.beneath
    clean_up = settings.clean_up.in_force()
    undone = undoes_compression(history, clean_up, kind, nature)
    automatic = undoes_compression(history, replace(clean_up, compression=None), kind, nature)
    if known is None and not nature.compressed:
        return None
    if kind is not PictureKind.DIGITAL and not undone and (known is None or known.quality >= WORTH_UNDOING):
        return None
    if known is None:
        sentence = "Was compressed, it cannot be told how"
    elif history.earlier is not None:
        sentence = f"Was compressed twice as a JPEG{', hard at first' if history.earlier.quality < HARD else ''}"
    else:
        how = "hard " if known.quality < HARD else "lightly " if known.quality > LIGHT else ""
        before = "" if known.file is not None else " before it was kept otherwise"
        sentence = f"Was compressed {how}as a JPEG{before}"
    sentence += "; undone." if undone else "; left as it is."
    other = _with_clean_up(settings, "compression", compression=_unless(automatic, not undone))
    return Decision(Decided.COMPRESSION, sentence, "Leave it" if undone else "Undo", other)


def _sharpening(history: History, kind: PictureKind, settings: Settings) -> Decision | None:
    if history.sharpening is None:
        return None
    clean_up = settings.clean_up.in_force()
    undone = undoes_sharpening(history, clean_up, kind)
    automatic = undoes_sharpening(history, replace(clean_up, sharpening=None), kind)
    sentence = f"Was sharpened: edges have rims; {'undone' if undone else 'left as it is'}."
    other = _with_clean_up(settings, "sharpening", sharpening=_unless(automatic, not undone))
    return Decision(Decided.SHARPENING, sentence, "Keep sharp" if undone else "Undo", other)


def _kind(nature: Nature, history: History, settings: Settings) -> Decision:
    taken = settings.clean_up.kind or nature.kind
    undone = undoes_compression(history, settings.clean_up.in_force(), taken, nature)
    sentence = SENTENCES[taken].format(compressed=", compressed" if nature.compressed and not undone else "")
    if taken is not PictureKind.DIGITAL:
        action, other = "Keep colours", PictureKind.DIGITAL
    elif nature.kind is not PictureKind.DIGITAL:
        action, other = "Put right", nature.kind
    else:
        action, other = "Treat as a scan", PictureKind.SCAN
    clean_up = replace(settings.clean_up, kind=None if other is nature.kind else other)
    return Decision(Decided.KIND, sentence, action, replace(settings, clean_up=clean_up))


def _inks(nature: Nature, separation: Separation, settings: Settings) -> Decision:
    if isinstance(separation, OneInk):
        sentence = f"One dark ink on {'tinted' if nature.tinted else 'white'} paper."
        inks = replace(settings.inks, kind=InkKind.SEVERAL, local=False)
        return Decision(Decided.INKS, sentence, "Find several", replace(settings, inks=inks))
    count = int((separation.coverage > 0).sum())
    sentence = f"Several inks: {count} colours, the paper among them."
    inks = replace(settings.inks, kind=InkKind.ONE, palette=(), count=None)
    return Decision(Decided.INKS, sentence, "Take one ink", replace(settings, inks=inks))
