"""The typefaces there are: those installed, those of folders that were added, and those that come with us.

Files are read as data by fontTools and FreeType; one that is damaged is told of by name and left out.
"""

from __future__ import annotations

import logging
import subprocess
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, NamedTuple

from sobercrow.core.errors import LetteringError

logging.getLogger("fontTools").setLevel(logging.CRITICAL)  # it warns of dates and widths nobody here asks for
SUFFIXES = frozenset({".ttf", ".otf", ".ttc", ".otc"})
LARGEST_BYTES = 64_000_000
"""Files larger than this are no typefaces anyone sets a mark in."""
LIBRARY = Path(__file__).parent / "library"
"""The folder of typefaces that come with the application."""
USUAL_FOLDERS = (Path("/usr/share/fonts"), Path("/usr/local/share/fonts"), Path("~/.local/share/fonts"))
"""Where typefaces are installed if fontconfig does not tell."""
ASKING_S = 10.0
EMBEDDING = {0: "may embed", 2: "no embedding", 4: "print only", 8: "may be edited"}
"""OpenType, OS/2: fsType, its lowest four bits."""
LONGEST_LICENCE = 160


@dataclass(frozen=True, slots=True)
class Face:
    """One style of a typeface: its file, its number in a collection, and where it lies on the axes of a variable font.

    `licence` and `embedding` are what the file itself says of them, in short; empty if nothing.
    """

    path: str
    number: int
    family: str
    style: str
    licence: str = ""
    embedding: str = ""
    axes: tuple[tuple[str, float], ...] = ()

    @property
    def name(self) -> str:
        """Family and style."""
        return f"{self.family} {self.style}".strip()


def installed_files() -> list[Path]:
    """Return the typeface files fontconfig knows; without it those in the usual folders."""
    try:
        asked = subprocess.run(
            ["fc-list", "--format", "%{file}\n"], capture_output=True, text=True, timeout=ASKING_S, check=True
        )
        found = sorted({Path(line) for line in asked.stdout.splitlines() if line})
    except (OSError, subprocess.SubprocessError):
        found = [path for folder in USUAL_FOLDERS for path in files_in(folder.expanduser())]
    return [path for path in found if path.suffix.lower() in SUFFIXES]


def files_in(folder: Path) -> list[Path]:
    """Return the typeface files in a folder and those in it, or the one file, in order; none if there is no folder."""
    if folder.is_file():
        return [folder]
    if not folder.is_dir():
        return []
    return sorted(path for path in folder.rglob("*") if path.suffix.lower() in SUFFIXES and path.is_file())


def all_files(added: Iterable[Path] = (), installed: bool = True) -> list[Path]:
    """Return all typeface files, each once: ours first, then those added, then those installed.

    Raises
    ------
    LetteringError
        If a folder that was added is not there.
    """
    found = files_in(LIBRARY)
    for folder in added:
        if not folder.exists():
            raise LetteringError(f"There is no folder {folder}; choose another one for typefaces.")
        found += files_in(folder)
    if installed:
        found += installed_files()
    once: dict[Path, Path] = {}
    for path in found:
        once.setdefault(path.resolve(), path)
    return list(once.values())


class Found(NamedTuple):
    """A face found in a file, the characters it has, and the axes of a variable font in the order of its file."""

    face: Face
    codes: frozenset[int]
    tags: tuple[str, ...]


def added_folders(kept: Path) -> list[Path]:
    """Return the folders of typefaces the user added, kept in a file, one a line; those that are gone are left out."""
    try:
        lines = kept.read_text(encoding="utf-8").splitlines()
    except (OSError, UnicodeDecodeError):
        return []
    return [Path(line) for line in lines if line and Path(line).exists()]


def add_folder(kept: Path, folder: Path) -> None:
    """Keep one folder more.

    Raises
    ------
    LetteringError
        If the list cannot be written.
    """
    every = dict.fromkeys([*map(str, added_folders(kept)), str(folder)])
    try:
        kept.parent.mkdir(parents=True, exist_ok=True)
        kept.write_text("\n".join(every), encoding="utf-8")
    except OSError as error:
        raise LetteringError(f"The list of typeface folders cannot be written to {kept}.") from error


def axes_of(face: Face) -> list[tuple[str, float, float]]:
    """Return the axes of a variable font, each with its least and its greatest value; none of another.

    Raises
    ------
    LetteringError
        If its file cannot be read.
    """
    from fontTools.ttLib import TTFont  # brought in when typefaces are first wanted

    if not face.axes:
        return []
    try:
        with TTFont(face.path, fontNumber=face.number, lazy=True) as font:
            ranges = {axis.axisTag: (float(axis.minValue), float(axis.maxValue)) for axis in font["fvar"].axes}
    except Exception as fault:
        raise LetteringError(f"{Path(face.path).name} cannot be read as a typeface.") from fault
    return [(tag, *ranges[tag]) for tag, _ in face.axes if tag in ranges]


def faces_of(path: Path) -> list[Found]:
    """Return the styles in a file; of a variable font its named instances.

    Raises
    ------
    LetteringError
        If it cannot be read.
    """
    from fontTools.ttLib import TTCollection, TTFont  # brought in when typefaces are first wanted

    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise LetteringError(f"{path.name} is too large for a typeface; it was left out.")
        with path.open("rb") as stream:
            is_collection = stream.read(4) == b"ttcf"
        if is_collection:
            fonts: Sequence[TTFont] = TTCollection(path, lazy=True).fonts
        else:
            fonts = [TTFont(path, lazy=True)]
        return [found for number, font in enumerate(fonts) for found in _faces(path, number, font)]
    except LetteringError:
        raise
    except Exception as error:  # what a damaged file makes fontTools raise is anything
        raise LetteringError(f"{path.name} is damaged or no typeface; it was left out.") from error


def _faces(path: Path, number: int, font: Any) -> list[Found]:
    import uharfbuzz  # reads which characters there are many times as quick as fontTools

    codes = frozenset(uharfbuzz.Face(uharfbuzz.Blob.from_file_path(str(path)), number).unicodes)
    if not codes:
        raise ValueError("no characters")
    names = font["name"]
    family, style = (str(name or "") for name in (names.getBestFamilyName(), names.getBestSubFamilyName()))
    licence = str(names.getDebugName(13) or names.getDebugName(14) or "").strip().replace("\n", " ")
    licence = licence if len(licence) <= LONGEST_LICENCE else f"{licence[: LONGEST_LICENCE - 1]}…"
    embedding = EMBEDDING.get(font["OS/2"].fsType & 0xF, "") if "OS/2" in font else ""
    plain = Face(str(path), number, family or path.stem, style, licence, embedding)
    if "fvar" not in font:
        return [Found(plain, codes, ())]
    tags = tuple(str(axis.axisTag) for axis in font["fvar"].axes)
    instances = [
        replace(
            plain,
            style=str(names.getDebugName(instance.subfamilyNameID) or style),
            axes=tuple(sorted((str(tag), float(at)) for tag, at in instance.coordinates.items())),
        )
        for instance in font["fvar"].instances
    ]
    return [Found(face, codes, tags) for face in instances or [plain]]
