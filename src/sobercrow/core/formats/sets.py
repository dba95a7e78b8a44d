"""Hand-over sets: several files written in one go, each with its own settings, under one pattern of names."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass, fields, replace
from enum import Enum
from pathlib import Path
from typing import Any, get_args, get_type_hints

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import ExportError
from sobercrow.core.formats import dxf, hpgl, pdf, raster, svg
from sobercrow.core.formats.files import write_whole
from sobercrow.core.formats.table import Format, format_of
from sobercrow.core.geometry.combine import Progress
from sobercrow.core.handover.client_page import client_page
from sobercrow.core.handover.page import Page, Sheet, TrueSize, laid, lie_of
from sobercrow.core.handover.plates import BLACK, Plate, PlateSettings, plates_of
from sobercrow.core.handover.printing import BLACK_ALONE, PrintInk
from sobercrow.core.outside import MOST_VERSION, json_of, reading, whole
from sobercrow.core.picture.decode import read_bytes
from sobercrow.core.settings import px_to_mm

SUFFIX, FORMAT, VERSION = ".sobercrow-set", "sobercrow-set", 1
PATTERN = "{name}-{part}"
FIELDS = ("name", "part", "ink", "width", "height")
MOST_BYTES, MOST_FILES = 1 << 20, 40
PLAIN_SHEET = Sheet()
FORBIDDEN = re.compile(r'[/\\:*?"<>|\x00-\x1f]+')


@dataclass(frozen=True, slots=True)
class Part:
    """One file of a set: what it is called there, its format and settings, its size and page, whether it is plates."""

    name: str
    format: str
    settings: Any
    sheet: Sheet = PLAIN_SHEET
    plates: PlateSettings | None = None

    @property
    def kind(self) -> Format:
        """Its format."""
        return format_of(self.format)


@dataclass(frozen=True, slots=True)
class HandOverSet:
    """Several files under one pattern of names; with a page for the client or without."""

    name: str
    parts: tuple[Part, ...]
    pattern: str = PATTERN
    client_page: bool = False

    def __post_init__(self) -> None:
        """Raise `ExportError` for a set that is none."""
        if not self.name.strip():
            raise ExportError("A hand-over set needs a name.")
        if not 1 <= len(self.parts) + self.client_page <= MOST_FILES:
            raise ExportError(f"A hand-over set has from 1 to {MOST_FILES} files.")
        for part in self.parts:
            part.kind  # noqa: B018
        unknown = set(re.findall(r"{([^}]*)}", self.pattern)) - set(FIELDS)
        if unknown or not self.pattern.strip():
            raise ExportError(
                f"A pattern of names is made of words and {', '.join(f'{{{field}}}' for field in FIELDS)}."
            )


FITTED = Sheet(page=Page("artwork"))
SETS = (
    HandOverSet(
        "For the cutter",
        (Part("cut", "hpgl", hpgl.HpglSettings(), FITTED), Part("cut", "dxf", dxf.DxfSettings(), FITTED)),
    ),
    HandOverSet(
        "For the web",
        (
            Part("web", "svg", svg.SvgSettings(paths=svg.Paths.COLOUR), FITTED),
            Part("small", "png", raster.RasterSettings(pixels=512.0), FITTED),
            Part("large", "webp", raster.LossySettings(pixels=2000.0, background=raster.NOTHING), FITTED),
        ),
    ),
    HandOverSet(
        "For print",
        (
            Part("print", "pdf", pdf.PdfSettings(), FITTED),
            Part("inks", "pdf", pdf.PdfSettings(spots=True), FITTED),
            Part("plates", "pdf", pdf.PdfSettings(), FITTED, PlateSettings()),
        ),
    ),
    HandOverSet(
        "All for the client",
        (
            Part("vector", "svg", svg.SvgSettings(), FITTED),
            Part("vector", "pdf", pdf.PdfSettings(), FITTED),
            Part("cut", "dxf", dxf.DxfSettings(), FITTED),
            Part("clear", "png", raster.RasterSettings(), FITTED),
            Part("white", "jpeg", raster.LossySettings(), FITTED),
        ),
        client_page=True,
    ),
)
"""The sets that come with the application."""


def part_files(artwork: Artwork, part: Part, progress: Progress | None = None) -> list[tuple[Plate | None, bytes]]:
    """Return the files a part comes to: one, or one a plate in a format without pages; with the plate of each."""
    page = laid(artwork, part.sheet)
    if part.plates is None:
        return [(None, part.kind.write(page, part.settings, progress))]
    plates = plates_of(page, part.plates)
    if isinstance(part.settings, pdf.PdfSettings):
        names = {(plate.colour if not part.plates.in_black else BLACK): plate.name for plate in plates}
        pages = [pdf.PdfPage(p.artwork, dict.fromkeys(names, p.name) if part.settings.spots else None) for p in plates]
        settings = replace(part.settings, spots=False)
        if settings.printing is not None and part.plates.in_black:
            settings = replace(settings, printing=settings.printing.with_ink(PrintInk(BLACK, BLACK_ALONE)))
        return [(None, pdf.pdf_of(pages, settings, progress))]
    made: list[tuple[Plate | None, bytes]] = []
    for n, plate in enumerate(plates):
        if progress is not None:
            progress(n / len(plates))
        made.append((plate, part.kind.write(plate.artwork, part.settings)))
    return made


def set_files(artwork: Artwork, chosen: HandOverSet, name: str, progress: Progress | None = None) -> dict[str, bytes]:
    """Return all files of a set by their names.

    Raises
    ------
    ExportError
        If two would have one name, or one cannot be made.
    """
    made: dict[str, bytes] = {}
    count = len(chosen.parts) + chosen.client_page
    for n, part in enumerate(chosen.parts):

        def within(share: float, n: int = n) -> None:
            if progress is not None:
                progress((n + share) / count)

        within(0.0)
        for plate, data in part_files(artwork, part, within):
            file = file_name(chosen.pattern, artwork, name, part, plate) + part.kind.suffix
            if file in made:
                raise ExportError(f"Two files of “{chosen.name}” would be called “{file}”; give its parts other names.")
            made[file] = data
    if chosen.client_page:
        if progress is not None:
            progress((count - 1) / count)
        sheet = chosen.parts[0].sheet if chosen.parts else Sheet()
        page = client_page(laid(artwork, sheet), name)
        made[f"{safe_name(name)}-client.pdf"] = pdf.pdf_bytes(page, pdf.PdfSettings(title=name))
    return made


def file_name(pattern: str, artwork: Artwork, name: str, part: Part, plate: Plate | None) -> str:
    """Return the name of a file by a pattern, without its suffix; where several would have one, the ink tells them."""
    page = lie_of(artwork, part.sheet)
    width, height = (f"{px_to_mm(v, page.dpi):.0f}mm" for v in (page.width_px, page.height_px))
    ink = plate.name if plate is not None else ""
    fields = {"name": name, "part": part.name, "ink": ink, "width": width, "height": height}
    filled = re.sub(r"{([^}]*)}", lambda found: fields[found[1]], pattern)
    if plate is not None and "{ink}" not in pattern:
        filled += f"-{ink}"
    return safe_name(filled)


def safe_name(name: str) -> str:
    """Return a name as a file may have it: no folders in it, nothing hidden, not too long."""
    return FORBIDDEN.sub("-", name).strip(" .-")[:120] or "artwork"


# kept as files


def plain_set(one: HandOverSet) -> dict[str, Any]:
    """Return a set as plain values."""
    return {
        "name": one.name,
        "pattern": one.pattern,
        "client_page": one.client_page,
        "parts": [
            {
                "name": part.name,
                "format": part.format,
                "settings": asdict(part.settings),
                "sheet": asdict(part.sheet),
                "plates": part.plates and asdict(part.plates),
            }
            for part in one.parts
        ],
    }


def set_of(plain: dict[str, Any]) -> HandOverSet:
    """Rebuild a set; raises KeyError, TypeError, ValueError or an error of ours for what is none."""
    parts = []
    for one in plain["parts"]:
        kind = format_of(str(one["format"]))
        sheet = Sheet(settings_of(TrueSize, one["sheet"]["size"]), settings_of(Page, one["sheet"]["page"]))
        plates = None if one["plates"] is None else settings_of(PlateSettings, one["plates"])
        parts.append(Part(str(one["name"]), kind.id, settings_of(kind.settings, one["settings"]), sheet, plates))
    return HandOverSet(str(plain["name"]), tuple(parts), str(plain["pattern"]), bool(plain["client_page"]))


def settings_of(kind: type[Any], plain: dict[str, Any]) -> Any:
    """Rebuild settings of a class from plain values; those it does not know are passed over."""
    hints = get_type_hints(kind)
    made = {}
    for field in fields(kind):
        if field.name in plain:
            made[field.name] = _value(hints[field.name], plain[field.name])
    return kind(**made)


def _value(hint: Any, plain: Any) -> Any:
    if isinstance(hint, type) and issubclass(hint, Enum):
        return hint(plain)
    if hint in (float, bool, str):
        if hint is float and (isinstance(plain, bool) or not isinstance(plain, int | float)):
            raise ValueError("a number was expected")
        return hint(plain)
    kinds = get_args(hint)
    if plain is None and type(None) in kinds:
        return None
    if isinstance(plain, list | tuple):
        return tuple(float(v) for v in plain)
    return float(plain)


def write_set(one: HandOverSet, path: Path) -> None:
    """Write a set to a file that others can use; raise `ExportError` if it cannot be written."""
    plain = {"format": FORMAT, "version": VERSION, **plain_set(one)}
    write_whole(path, json.dumps(plain, indent=1).encode() + b"\n", ExportError)


def read_set(path: Path) -> HandOverSet:
    """Read a set; raise `ExportError` with one sentence for a file that is none."""
    data = read_bytes(path, ExportError, "a hand-over set file")
    with reading(ExportError, f"“{path.name}” is no hand-over set of Sober Crow; choose a {SUFFIX} file."):
        plain = json_of(data, MOST_BYTES)
        if plain["format"] != FORMAT or whole(plain["version"], 0, MOST_VERSION) > VERSION:
            raise ValueError("another format")
        return set_of(plain)


def find_set(name: str, own: Iterable[HandOverSet] = ()) -> HandOverSet:
    """Return a set by its name, capitals or not, or from a file; raise `ExportError` naming those there are."""
    if name.endswith(SUFFIX):
        return read_set(Path(name))
    every: Sequence[HandOverSet] = [*own, *SETS]
    found = next((one for one in every if one.name.casefold() == name.casefold()), None)
    if found is None:
        raise ExportError(f"There is no hand-over set “{name}”; there are {', '.join(one.name for one in every)}.")
    return found


def default_part(format_id: str, sheet: Sheet = PLAIN_SHEET) -> Part:
    """Return a part in a format with its usual settings."""
    kind = format_of(format_id)
    return Part(kind.title, kind.id, kind.settings(), sheet)
