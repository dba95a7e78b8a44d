"""What a setting means: label, range, unit, help; and the check that refuses what lies outside."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field, fields
from functools import cache
from types import UnionType
from typing import Any, Union, get_args, get_origin, get_type_hints

from sobercrow.core.errors import SettingError

Point = tuple[float, float]
HEX_COLOUR = re.compile("#[0-9a-f]{6}")


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
    """Base of settings: refuses values of another type and outside their range when made."""

    __slots__ = ()

    def __post_init__(self) -> None:
        """Raise `SettingError` for a value of another type, NaN, or outside its range."""
        kinds = _kinds_of(type(self))  # type: ignore[arg-type]
        for entry in fields(self):  # type: ignore[arg-type]
            value, meaning = getattr(self, entry.name), entry.metadata.get("meaning")
            is_number = isinstance(value, int | float) and not isinstance(value, bool)
            if meaning is not None and is_number and not meaning.low <= value <= meaning.high:  # also refuses NaN
                unit = f" {meaning.unit}" if meaning.unit else ""
                raise SettingError(
                    f"{meaning.label} must lie between {meaning.low:g} and {meaning.high:g}{unit}, not {value:g}."
                )
            if not _may_be(value, kinds[entry.name]) or (is_number and not math.isfinite(value)):
                raise SettingError(f"“{entry.name}” cannot be {value!r:.40}.")


class Placed(Checked):
    """Base of what is done by hand at places of a picture, and replayed."""

    __slots__ = ()
    points: tuple[Point, ...]

    @property
    def middle(self) -> Point:
        """The middle of its points: where its width is measured."""
        x, y = zip(*self.points, strict=True)
        return sum(x) / len(x), sum(y) / len(y)


def _may_be(value: object, kinds: tuple[type, ...]) -> bool:
    """Tell whether a value is of one of some types; a whole number may be written 2.0."""
    if isinstance(value, bool):
        return bool in kinds
    return isinstance(value, kinds) or (int in kinds and isinstance(value, float) and value.is_integer())


@cache
def _kinds_of(owner: type[Any]) -> dict[str, tuple[type, ...]]:
    """The types each field of a settings class may have."""
    hints = get_type_hints(owner)
    return {entry.name: _kinds(hints[entry.name]) for entry in fields(owner)}


def _kinds(hint: Any) -> tuple[type, ...]:
    if get_origin(hint) in (Union, UnionType):
        return tuple(kind for part in get_args(hint) for kind in _kinds(part))
    plain = get_origin(hint) or hint
    return (float, int) if plain is float else (plain,)
