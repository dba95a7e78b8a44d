"""What can be done to a list of inks: each a function from inks to inks."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from sobercrow.core.errors import SettingError
from sobercrow.core.settings import MOST_INKS, Ink, Role, checked_colour

Many = tuple[Ink, ...]


def merged(inks: Many, into: int, others: Iterable[int]) -> Many:
    """Join others with one ink: it keeps its name, colour and role, and holds what they held.

    Raises
    ------
    SettingError
        If it is to be merged with itself or with nothing.
    """
    joined = sorted(set(others))
    if into in joined:
        raise SettingError(f"“{inks[into].name}” cannot be merged with itself; choose another ink.")
    if not joined:
        raise SettingError("Choose at least two inks to merge.")
    members = dict.fromkeys(inks[into].members)
    for k in joined:
        members.update(dict.fromkeys(inks[k].members))
    whole = replace(inks[into], members=tuple(members))
    return tuple(whole if k == into else ink for k, ink in enumerate(inks) if k not in joined)


def removed(inks: Many, which: Iterable[int]) -> Many:
    """Take inks away; what they held falls to the inks most like it. Raises `SettingError` if none would be left."""
    gone = set(which)
    kept = tuple(ink for k, ink in enumerate(inks) if k not in gone)
    if not kept:
        raise SettingError("At least one ink has to stay; add another before you remove the last.")
    return kept


def added(inks: Many, colour: str) -> Many:
    """Add an ink of a colour, such as one sampled from the picture. Raises `SettingError` if there is one already."""
    colour = checked_colour(colour)
    present = next((ink for ink in inks if colour in (ink.colour, *ink.members)), None)
    if present is not None:
        raise SettingError(f"{colour} belongs to “{present.name}” already.")
    if len(inks) >= MOST_INKS:
        raise SettingError(f"There are {MOST_INKS} inks already, as many as can be; merge or remove some first.")
    return (*inks, Ink(colour))


def recoloured(inks: Many, which: int, colour: str) -> Many:
    """Draw an ink with another colour; it holds what it held."""
    return _changed(inks, which, colour=checked_colour(colour))


def renamed(inks: Many, which: int, name: str) -> Many:
    """Call an ink something else. Raises `SettingError` if another is called so or the name is empty."""
    name = name.strip()
    if not name:
        raise SettingError("An ink needs a name.")
    if any(ink.name == name for k, ink in enumerate(inks) if k != which):
        raise SettingError(f"Another ink is called “{name}” already.")
    return _changed(inks, which, name=name)


def locked(inks: Many, which: int, lock: bool) -> Many:
    """Let an ink stay when the colour count changes, or no longer."""
    return _changed(inks, which, locked=lock)


def with_role(inks: Many, which: int, role: Role) -> Many:
    """Give an ink a role; there is one paper at most."""
    if role is Role.PAPER:
        inks = tuple(replace(ink, role=Role.INK) if ink.role is Role.PAPER else ink for ink in inks)
    return _changed(inks, which, role=role)


def _changed(inks: Many, which: int, **changes: object) -> Many:
    return tuple(replace(ink, **changes) if k == which else ink for k, ink in enumerate(inks))  # type: ignore[arg-type]
