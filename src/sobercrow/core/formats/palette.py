"""Inks in a file: a small JSON, or a plain list with a colour on each line."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path

from sobercrow.core.errors import ExportError, PaletteError, SettingError
from sobercrow.core.formats.files import write_whole
from sobercrow.core.outside import json_of, reading
from sobercrow.core.picture.decode import read_bytes
from sobercrow.core.settings import MOST_INKS, Ink, checked_colour

FORMAT = "sobercrow-inks"
MOST_BYTES = 1_000_000


def write_palette(inks: tuple[Ink, ...], path: Path) -> None:
    """Write inks as JSON where the file is called .json, else as a plain list; raise `ExportError` if that fails."""
    if path.suffix.lower() == ".json":
        text = json.dumps({"format": FORMAT, "inks": [asdict(ink) for ink in inks]}, indent=1) + "\n"
    else:
        text = "".join(f"{ink.colour} {ink.name}".rstrip() + "\n" for ink in inks)
    write_whole(path, text.encode(), ExportError)


def read_palette(path: Path) -> tuple[Ink, ...]:
    """Read inks from a file that `write_palette` wrote, or from any list with a colour such as #a33e2e on each line.

    After the colour a line may name it. Empty lines, and lines that begin with // or ;, are passed over.

    Raises
    ------
    PaletteError
        With the line that is wrong, or what else stands in the way.
    """
    data = read_bytes(path, PaletteError, "a palette file")
    if len(data) > MOST_BYTES:
        raise PaletteError(f"“{path.name}” is too large for a list of colours; choose another file.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as fault:
        raise PaletteError(f"“{path.name}” is no text; choose a list of colours.") from fault
    inks = _from_json(text, path.name) if text.lstrip().startswith("{") else _from_lines(text, path.name)
    if not inks:
        raise PaletteError(f"“{path.name}” has no colours in it.")
    if len(inks) > MOST_INKS:
        raise PaletteError(f"“{path.name}” has {len(inks)} colours; there can be {MOST_INKS} inks at most.")
    return inks


def _from_json(text: str, name: str) -> tuple[Ink, ...]:
    with reading(PaletteError, f"“{name}” is not a list of inks that Sober Crow can read."):
        plain = json_of(text)
        if plain.get("format") != FORMAT:
            raise ValueError("not a list of inks")
        return tuple(Ink.from_plain(ink) for ink in plain["inks"])


def _from_lines(text: str, name: str) -> tuple[Ink, ...]:
    inks: list[Ink] = []
    for number, line in enumerate(text.splitlines(), 1):
        line = line.strip()
        if not line or line.startswith(("//", ";")):
            continue
        colour, _, called = line.partition(" ")
        try:
            ink = Ink(checked_colour(colour.rstrip(",")), called.strip())
        except SettingError as fault:
            raise PaletteError(
                f"Line {number} of “{name}” is no colour: “{line[:40]}”; write it like #a33e2e."
            ) from fault
        if ink.colour in (i.colour for i in inks):
            raise PaletteError(f"Line {number} of “{name}” has the colour {ink.colour} for the second time.")
        inks.append(ink)
    return tuple(inks)
