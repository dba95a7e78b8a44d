"""What was decided of a picture at first sight, in plain words, each with the alternative."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

from sobercrow.core.cleanup.nature import Nature
from sobercrow.core.inks.separation import OneInk, Separation
from sobercrow.core.settings import InkKind, PictureKind, Settings


class Decided(StrEnum):
    """What is decided of a picture."""

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


def decisions(nature: Nature, separation: Separation, settings: Settings) -> tuple[Decision, ...]:
    """Return what was decided of a picture, and what is in force now if it was decided otherwise since."""
    return _kind(nature, settings), _inks(nature, separation, settings)


def _kind(nature: Nature, settings: Settings) -> Decision:
    taken = settings.clean_up.kind or nature.kind
    sentence = SENTENCES[taken].format(compressed=", compressed" if nature.compressed else "")
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
