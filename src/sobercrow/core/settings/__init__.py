"""The settings of every step: ranges, units, defaults and help in one place.

Panels, command line, project files and docs are made from the `Meaning` of each field.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any, Self

from sobercrow.core.errors import SettingError
from sobercrow.core.settings.clean_up import (
    INK_COLOUR,
    NEUTRAL,
    PAPER_COLOUR,
    SWITCHES,
    CleanUp,
    Corners,
    Crop,
    GreyMix,
    Levels,
    Point,
    TouchForm,
    TouchTool,
    TouchUp,
)
from sobercrow.core.settings.inks import (
    AUTO,
    HEX_COLOUR,
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
from sobercrow.core.settings.meaning import Checked, Meaning, meaning_of, setting
from sobercrow.core.settings.units import ASSUMED_DPI, MM_PER_INCH, dpi_of_length, mm_to_px, px2_to_mm2, px_to_mm

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
    "SWITCHES",
    "BringIn",
    "Checked",
    "CleanUp",
    "Corners",
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
    "Mixing",
    "Point",
    "Role",
    "SettingError",
    "Settings",
    "TouchForm",
    "TouchTool",
    "TouchUp",
    "Tracing",
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
class Tracing(Checked):
    """Settings of the fourth step. What is None follows `detail`."""

    detail: float = setting(
        60.0, Meaning("Detail", "From a calm line with few anchors to one that follows every turn.", 0, 100)
    )
    tolerance_px: float | None = setting(
        None, Meaning("Tolerance", "How far the curve may run from the drawn border.", 0.05, 5.0, "px", 0.05, 2)
    )
    corner_angle_deg: float | None = setting(
        None, Meaning("Corner angle", "A turn sharper than this becomes a corner.", 15, 150, "°", 1, 0)
    )
    speck_px2: float | None = setting(
        None, Meaning("Speck size", "Spots and holes smaller than this are left out.", 0, 10000, "px²", 1, 1)
    )

    @property
    def effective_tolerance_px(self) -> float:
        """The tolerance in force: the one set, else what detail asks for (1.6 px at 0, 0.07 px at 100)."""
        if self.tolerance_px is not None:
            return self.tolerance_px
        return float(1.6 * (0.07 / 1.6) ** (self.detail / 100.0))

    @property
    def effective_corner_angle_deg(self) -> float:
        """The corner angle in force: the one set, else from 66° (calm) to 36° (faithful)."""
        if self.corner_angle_deg is not None:
            return self.corner_angle_deg
        return 66.0 - 0.3 * self.detail

    @property
    def effective_speck_px2(self) -> float:
        """The speck size in force: the one set, else from 40 px² (calm) to 2 px² (faithful)."""
        if self.speck_px2 is not None:
            return self.speck_px2
        return float(40.0 * (2.0 / 40.0) ** (self.detail / 100.0))

    def on_enlarged(self, factor: float) -> Self:
        """Return the settings in the pixels of a picture enlarged by a factor.

        What follows the detail is meant for the drawing as it was brought in and grows along; what is set by
        itself is in pixels of the enlarged picture already.
        """
        if factor == 1:
            return self
        return replace(
            self,
            tolerance_px=min(self.effective_tolerance_px * (1.0 if self.tolerance_px else factor), 5.0),
            speck_px2=min(self.effective_speck_px2 * (1.0 if self.speck_px2 is not None else factor**2), 10000.0),
        )


@dataclass(frozen=True, slots=True)
class Settings:
    """The settings of all steps."""

    bring_in: BringIn = BringIn()
    clean_up: CleanUp = field(default_factory=CleanUp)
    inks: Inks = field(default_factory=Inks)
    tracing: Tracing = Tracing()

    @classmethod
    def from_plain(cls, plain: dict[str, Any]) -> Self:
        """Rebuild settings from `dataclasses.asdict`.

        Raises
        ------
        SettingError
            If a name is unknown or a value has the wrong type or range.
        """
        try:
            return cls(
                BringIn(**plain["bring_in"]),
                CleanUp.from_plain(plain["clean_up"]),
                Inks.from_plain(plain["inks"]),
                Tracing(**plain["tracing"]),
            )
        except SettingError:
            raise
        except (KeyError, TypeError, ValueError) as fault:
            raise SettingError(f"The settings cannot be read ({fault}).") from fault
