"""What a setting means: label, range, unit, help; and the check that refuses what lies outside."""

from __future__ import annotations

from dataclasses import dataclass, field, fields
from typing import Any

from sobercrow.core.errors import SettingError


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
