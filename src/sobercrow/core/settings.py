"""The settings of every step: ranges, units, defaults and help in one place.

Panels, command line, project files and docs are made from the `Meaning` of each field.
"""

from __future__ import annotations

from dataclasses import dataclass, field, fields
from typing import Any, Self

from sobercrow.core.errors import SettingError

MM_PER_INCH = 25.4
ASSUMED_DPI = 300.0
"""Resolution taken for a picture that does not state one: the usual choice for scanning line work."""


@dataclass(frozen=True, slots=True)
class Meaning:
    """What a setting is called, its range and unit, and what it does to the line."""

    label: str
    help: str
    low: float
    high: float
    unit: str = ""
    step: float = 1.0
    decimals: int = 0


def setting(default: Any, meaning: Meaning) -> Any:
    """A dataclass field that carries its meaning."""
    return field(default=default, metadata={"meaning": meaning})


def meaning_of(owner: type[Any] | object, name: str) -> Meaning:
    """Return the meaning of a field of a settings class."""
    kind = owner if isinstance(owner, type) else type(owner)
    found = next(f for f in fields(kind) if f.name == name).metadata["meaning"]
    assert isinstance(found, Meaning)
    return found


class Checked:
    """Base of settings: refuses values outside their range when made."""

    __slots__ = ()

    def __post_init__(self) -> None:
        """Raise `SettingError` for a value outside its range."""
        for entry in fields(self):  # type: ignore[arg-type]
            value = getattr(self, entry.name)
            meaning = entry.metadata.get("meaning")
            if meaning is None or value is None:
                continue
            if not meaning.low <= value <= meaning.high:  # also refuses NaN
                unit = f" {meaning.unit}" if meaning.unit else ""
                raise SettingError(
                    f"{meaning.label} must lie between {meaning.low:g} and {meaning.high:g}{unit}, not {value:g}."
                )


DPI = Meaning("Resolution", "How many picture pixels make an inch; sets the true size.", 10, 9600, "dpi", 1, 0)


@dataclass(frozen=True, slots=True)
class BringIn(Checked):
    """Settings of the first step. `dpi` None takes what the file says, or 300."""

    dpi: float | None = setting(None, DPI)


@dataclass(frozen=True, slots=True)
class Crop:
    """A part of the turned picture, in its pixels: left ≤ x < right, top ≤ y < bottom."""

    left: int
    top: int
    right: int
    bottom: int

    def __post_init__(self) -> None:
        """Raise `SettingError` for a crop with nothing in it."""
        if self.right <= self.left or self.bottom <= self.top or self.left < 0 or self.top < 0:
            raise SettingError("The crop leaves nothing of the picture; make it at least one pixel wide and high.")


@dataclass(frozen=True, slots=True)
class Levels(Checked):
    """Tones pushed to black and to white, and where the middle goes."""

    black: int = setting(0, Meaning("Black point", "Tones up to here become black.", 0, 254))
    midtone: float = setting(
        1.0, Meaning("Midtone", "Above 1 lightens the greys between, below 1 darkens them.", 0.1, 10.0, "", 0.05, 2)
    )
    white: int = setting(255, Meaning("White point", "Tones from here on become white.", 1, 255))

    def __post_init__(self) -> None:
        """Raise `SettingError` where black and white points cross."""
        Checked.__post_init__(self)
        if self.white <= self.black:
            raise SettingError(f"The white point ({self.white}) must lie above the black point ({self.black}).")


@dataclass(frozen=True, slots=True)
class CleanUp(Checked):
    """Settings of the second step. `levels` None chooses them from the picture."""

    quarter_turns: int = setting(0, Meaning("Quarter turns", "Turns the picture clockwise by 90° each.", 0, 3))
    crop: Crop | None = None
    levels: Levels | None = None


@dataclass(frozen=True, slots=True)
class Inks(Checked):
    """Settings of the third step. `threshold` None takes Otsu's choice."""

    threshold: int | None = setting(
        None, Meaning("Threshold", "Tones up to here count as ink; higher makes the drawing heavier.", 0, 255)
    )


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


@dataclass(frozen=True, slots=True)
class Settings:
    """The settings of all steps."""

    bring_in: BringIn = BringIn()
    clean_up: CleanUp = CleanUp()
    inks: Inks = Inks()
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
            clean = dict(plain["clean_up"])
            clean["crop"] = Crop(**clean["crop"]) if clean["crop"] is not None else None
            clean["levels"] = Levels(**clean["levels"]) if clean["levels"] is not None else None
            return cls(
                BringIn(**plain["bring_in"]), CleanUp(**clean), Inks(**plain["inks"]), Tracing(**plain["tracing"])
            )
        except (KeyError, TypeError) as fault:
            raise SettingError(f"The settings cannot be read ({fault}).") from fault


def px_to_mm(px: float, dpi: float) -> float:
    """Convert a length in picture pixels to millimetres."""
    return px * MM_PER_INCH / dpi


def px2_to_mm2(px2: float, dpi: float) -> float:
    """Convert an area in square pixels to square millimetres."""
    return px2 * (MM_PER_INCH / dpi) ** 2
