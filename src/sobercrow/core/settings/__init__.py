"""The settings of every step: ranges, units, defaults and help in one place.

Panels, command line, project files and docs are made from the `Meaning` of each field.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Self

from sobercrow.core.errors import SettingError
from sobercrow.core.outside import reading
from sobercrow.core.settings.clean_up import (
    INK_COLOUR,
    NEUTRAL,
    PAPER_COLOUR,
    RESTORING,
    SWITCHES,
    CleanUp,
    Corners,
    Crop,
    GreyMix,
    Levels,
    PictureKind,
    TouchForm,
    TouchTool,
    TouchUp,
)
from sobercrow.core.settings.inks import (
    AUTO,
    MOST_INKS,
    NONE,
    Ink,
    InkForm,
    InkKind,
    Inks,
    InkTool,
    InkTouchUp,
    Mixing,
    Role,
    checked_colour,
)
from sobercrow.core.settings.meaning import HEX_COLOUR, Checked, Meaning, Point, meaning_of, setting
from sobercrow.core.settings.pen import PenPressure
from sobercrow.core.settings.sketch import (
    PATH_VERDICTS,
    PLACE_VERDICTS,
    STROKE_VERDICTS,
    Correction,
    Treatment,
    Verdict,
)
from sobercrow.core.settings.tracing import Meet, TraceKind, Tracing
from sobercrow.core.settings.units import ASSUMED_DPI, MM_PER_INCH, Unit, dpi_of_length, mm_to_px, px2_to_mm2, px_to_mm

__all__ = [
    "ASSUMED_DPI",
    "AUTO",
    "DPI",
    "HEX_COLOUR",
    "INK_COLOUR",
    "MM_PER_INCH",
    "MOST_INKS",
    "NEUTRAL",
    "NONE",
    "PAPER_COLOUR",
    "PATH_VERDICTS",
    "PLACE_VERDICTS",
    "RESTORING",
    "STROKE_VERDICTS",
    "SWITCHES",
    "BringIn",
    "Checked",
    "CleanUp",
    "Corners",
    "Correction",
    "Crop",
    "GreyMix",
    "Ink",
    "InkForm",
    "InkKind",
    "InkTool",
    "InkTouchUp",
    "Inks",
    "Levels",
    "Meaning",
    "Meet",
    "Mixing",
    "PenPressure",
    "PictureKind",
    "Point",
    "Role",
    "SettingError",
    "Settings",
    "TouchForm",
    "TouchTool",
    "TouchUp",
    "TraceKind",
    "Tracing",
    "Treatment",
    "Unit",
    "Verdict",
    "checked_colour",
    "dpi_of_length",
    "meaning_of",
    "mm_to_px",
    "px2_to_mm2",
    "px_to_mm",
    "setting",
]

DPI = Meaning("Resolution", "How many picture pixels make an inch; sets the true size.", 10, 9600, "dpi", 1, 0)


@dataclass(frozen=True, slots=True)
class BringIn(Checked):
    """Settings of the first step. `dpi` None takes what the file says, or 300."""

    dpi: float | None = setting(None, DPI)


@dataclass(frozen=True, slots=True)
class Settings:
    """The settings of all steps."""

    bring_in: BringIn = BringIn()
    clean_up: CleanUp = field(default_factory=CleanUp)
    inks: Inks = field(default_factory=Inks)
    tracing: Tracing = field(default_factory=Tracing)

    @classmethod
    def from_plain(cls, plain: dict[str, Any]) -> Self:
        """Rebuild settings from `dataclasses.asdict`.

        Raises
        ------
        SettingError
            If a name is unknown or a value has the wrong type or range.
        """
        with reading(SettingError, "The settings cannot be read; they are damaged."):
            made = cls(
                BringIn(**plain["bring_in"]),
                CleanUp.from_plain(plain["clean_up"]),
                Inks.from_plain(plain["inks"]),
                Tracing.from_plain(plain["tracing"]),
            )
            hash(made)  # a list where there should be a tuple
            return made
