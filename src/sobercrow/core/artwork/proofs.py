"""Proofs: results kept with the settings that made them, to be laid side by side."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, is_dataclass
from enum import Enum
from typing import Any

from sobercrow.core.artwork.handwork import Handwork
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.settings import Settings

MOST_PROOFS = 6


@dataclass(frozen=True, slots=True)
class Proof:
    """A kept result.

    `refined` and `handwork` are what was made by hand, as in the document; `artwork` is what it came to. Deviations are
    those of the result, in px.
    """

    name: str
    settings: Settings
    refined: Artwork | None
    handwork: Handwork | None
    artwork: Artwork
    deviation_mean_px: float
    deviation_max_px: float


def next_name(proofs: Sequence[Proof]) -> str:
    """Return the name of the next proof: the first number that is free."""
    taken = {proof.name for proof in proofs}
    return next(name for k in range(1, len(proofs) + 2) if (name := f"Proof {k}") not in taken)


def differing(proofs: Sequence[Proof]) -> list[list[str]]:
    """Return for each proof what its settings are where not all have the same, like "Detail 40"."""
    plain = [_flat(proof.settings) for proof in proofs]
    names = [name for name in plain[0] if len({repr(p[name]) for p in plain}) > 1] if plain else []
    told = [[f"{name} {_said(p[name])}" for name in names] for p in plain]
    by_hand = [proof.refined is not None or proof.handwork is not None for proof in proofs]
    if len(set(by_hand)) > 1:
        for texts, refined in zip(told, by_hand, strict=True):
            texts.append("refined by hand" if refined else "as traced")
    return told


def _flat(settings: Any, inside: str = "") -> dict[str, Any]:
    """All settings by the names they have on screen, those without one by their field's."""
    found: dict[str, Any] = {}
    for entry in fields(settings):
        value = getattr(settings, entry.name)
        if is_dataclass(value) and not inside:
            found |= _flat(value, entry.name)
            continue
        meaning = entry.metadata.get("meaning")
        name = meaning.label if meaning is not None else entry.name.replace("_", " ").capitalize()
        found[name if name not in found else f"{name} ({inside.replace('_', ' ')})"] = value
    return found


def _said(value: Any) -> str:
    if value is None:
        return "automatic"
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, Enum):
        return str(value.value)
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, tuple):
        return str(len(value))
    return "set" if is_dataclass(value) else str(value)
