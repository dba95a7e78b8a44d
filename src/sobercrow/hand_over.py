"""Handing over without a window: files, checks and sets, as the options of the command line say."""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import click

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import ExportError, SettingError
from sobercrow.core.formats.dxf import DxfSettings
from sobercrow.core.formats.files import make_folder, write_all
from sobercrow.core.formats.hand_over import PLAIN, HandOver
from sobercrow.core.formats.raster import Measure
from sobercrow.core.formats.sets import HandOverSet, find_set, part_files, safe_name, set_files
from sobercrow.core.formats.table import Format, format_for, format_of
from sobercrow.core.handover.inks import coats_of, named_colours
from sobercrow.core.handover.page import ARTWORK, OWN, PAPERS, PICTURE, Page, Sheet, TrueSize, laid, lie_of
from sobercrow.core.handover.plates import PlateSettings
from sobercrow.core.handover.printing import Printing, PrintInk, print_ink, read_profile
from sobercrow.core.handover.purpose import Purpose
from sobercrow.core.inspect.hand_over import Finding, check
from sobercrow.core.settings import Unit, px_to_mm

STANDARD_OUTPUT = Path("-")
FOUND_EXIT = 3
"""Exit code where the check found something."""


@dataclass(frozen=True, slots=True)
class Order:
    """What is written, where, and what is checked."""

    outputs: tuple[Path, ...]
    format: str | None
    change: Callable[[HandOver], HandOver]
    purpose: Purpose | None
    set: str | None
    force: bool
    inks: tuple[str, ...] = ()

    def formats(self, output: Path) -> Format:
        """Return the format of an output: that of its suffix, in folders and on standard output the one asked for."""
        if output == STANDARD_OUTPUT or is_folder(output):
            return format_of(self.format or "svg")
        return format_for(output)


@dataclass(frozen=True, slots=True)
class Written:
    """A file that was written: its name, how many bytes it has, and the size of its page in mm."""

    name: str
    count: int
    width_mm: float
    height_mm: float


def is_folder(path: Path) -> bool:
    """Tell whether an output is a folder: it is one, or its name has no suffix."""
    return path != STANDARD_OUTPUT and (path.is_dir() or not path.suffix)


def order_of(outputs: tuple[Path, ...], options: Mapping[str, Any], has_own_sets: bool = False) -> Order:
    """Return what the options ask for, checked before anything is traced; projects may have sets of their own.

    Raises
    ------
    ExportError, SettingError
        For a format, page, unit, colour, purpose or set there is none of.
    """
    purpose = options["check"]
    if options["set"] is not None and (len(outputs) != 1 or not is_folder(outputs[0])):
        raise ExportError("A set goes into a folder; name it with -o.")
    if sum(output == STANDARD_OUTPUT for output in outputs) and len(outputs) > 1:
        raise ExportError("Standard output takes one file; leave out the other outputs.")
    if purpose is not None and purpose not in list(Purpose):
        raise ExportError(f"There is no purpose “{purpose}”; there are {', '.join(Purpose)}.")
    made = Order(
        outputs,
        options["format"],
        lambda document: _changed(document, options),
        None if purpose is None else Purpose(purpose),
        options["set"],
        options["force"],
        options["inks_printed"],
    )
    for output in outputs:
        made.formats(output)
    made.change(PLAIN)
    if made.set is not None and not has_own_sets:
        find_set(made.set)
    return made


def hand_over(artwork: Artwork, name: str, document: HandOver, order: Order) -> tuple[list[Written], list[Finding]]:
    """Check artwork and write all its files, every one whole or none; return what was written and found.

    Raises
    ------
    ExportError
        If a file is there already and may not be replaced, or one cannot be made or written.
    """
    document = _with_inks(order.change(document), artwork, order.inks)
    found: list[Finding] = []
    if order.purpose is not None:
        found = check(laid(artwork, document.sheet), replace(document.checked_for(), purpose=order.purpose))
    files: dict[Path, bytes] = {}
    for output in order.outputs:
        files |= _files(artwork, name, document, order, output)
    if STANDARD_OUTPUT in files:
        sys.stdout.buffer.write(files.pop(STANDARD_OUTPUT))
        sys.stdout.flush()
    there = [path.name for path in files if path.exists()]
    if there and not order.force:
        raise ExportError(f"“{there[0]}” is already there; choose another name or add --force to replace it.")
    for folder in {path.parent for path in files if is_folder(path.parent)}:
        if folder in order.outputs:
            make_folder(folder, ExportError)
    told = write_all(files)
    if told:
        click.echo(told, err=True)
    page = lie_of(artwork, document.sheet)
    size = px_to_mm(page.width_px, page.dpi), px_to_mm(page.height_px, page.dpi)
    return [Written(path.name, len(data), *size) for path, data in files.items()], found


def _files(artwork: Artwork, name: str, document: HandOver, order: Order, output: Path) -> dict[Path, bytes]:
    """The files of one output."""
    if order.set is not None:
        chosen = document.inked_set(_in_size(find_set(order.set, document.sets), document.sheet))
        return {output / file: data for file, data in set_files(artwork, chosen, name).items()}
    kind = order.formats(output)
    made = part_files(artwork, document.inked(document.part(name, kind.id)))
    if output == STANDARD_OUTPUT:
        if len(made) > 1:
            raise ExportError("Standard output takes one file; plates as PDF are one.")
        return {output: made[0][1]}
    files = {}
    for plate, data in made:
        stem = safe_name(name if is_folder(output) else output.stem)
        stem = stem if plate is None else f"{stem}-{safe_name(plate.name)}"
        if is_folder(output):
            files[output / f"{stem}{kind.suffix}"] = data
        else:
            files[output.with_name(f"{stem}{output.suffix}") if plate is not None else output] = data
    return files


def _in_size(chosen: HandOverSet, sheet: Sheet) -> HandOverSet:
    """A set with the size asked for, where one was."""
    if sheet.size == TrueSize():
        return chosen
    parts = tuple(replace(p, sheet=replace(p.sheet, size=sheet.size)) for p in chosen.parts)
    return replace(chosen, parts=parts)


def _changed(document: HandOver, options: Mapping[str, Any]) -> HandOver:
    """How a document is handed over, changed as the options say."""
    if options["unit"] not in list(Unit):
        raise SettingError(f"There is no unit “{options['unit']}”; there are {', '.join(Unit)}.")
    unit = Unit(options["unit"])
    size = document.sheet.size
    if options["width"] is not None:
        size = TrueSize(width_mm=options["width"] * unit.in_mm)
    elif options["height"] is not None:
        size = TrueSize(height_mm=options["height"] * unit.in_mm)
    page = document.sheet.page
    if options["page"] is not None:
        page = replace(_page(options["page"], unit), margin_mm=page.margin_mm)
    if options["margin"] is not None:
        page = replace(page, margin_mm=options["margin"])
    plates = PlateSettings() if options["plates"] and document.plates is None else document.plates
    made = replace(document, sheet=Sheet(size, page), plates=plates, printing=_printing(document.printing, options))
    for kind, change in _format_changes(options):
        made = made.with_settings(kind, replace(made.settings_for(kind), **change))
    return made


def _printing(there: Printing | None, options: Mapping[str, Any]) -> Printing | None:
    """The colours of a press, if they are asked for or were set in the document."""
    given = options["inks_printed"], options["profile"], options["overprint_black"]
    if there is None and not options["cmyk"] and not any(given):
        return None
    made = there or Printing()
    made = replace(made, overprint_black=made.overprint_black or options["overprint_black"])
    if options["profile"] is not None:
        made = replace(made, profile=options["profile"])
    read_profile(made.profile)
    for text in options["inks_printed"]:
        _ink_and_colour(text)
    return made


def _ink_and_colour(text: str) -> tuple[str, PrintInk]:
    """An ink's name or colour, and what it is printed in."""
    name, equals, told = text.partition("=")
    if not equals or not told.strip():
        raise ExportError(f"“{text}” is no printing colour; write the ink, =, and four numbers or a name.")
    return name.strip(), print_ink("", told)


def _with_inks(document: HandOver, artwork: Artwork, asked: Sequence[str]) -> HandOver:
    """A document with what its inks are printed in, each told by its name or its colour."""
    if not asked:
        return document
    named, printing = named_colours(artwork, coats_of(artwork)), document.printing or Printing()
    for text in asked:
        name, ink = _ink_and_colour(text)
        colour = next((c for c, own in named.items() if name.casefold() in (c, own.casefold())), None)
        if colour is None:
            there = ", ".join(f"{own} ({c})" if own != c else c for c, own in named.items())
            raise ExportError(f"There is no ink “{name}”; there are {there}.")
        printing = printing.with_ink(replace(ink, colour=colour))
    return replace(document, printing=printing)


def _format_changes(options: Mapping[str, Any]) -> list[tuple[str, dict[str, Any]]]:
    pixels: dict[str, Any] = {}
    if options["pixels"] is not None:
        pixels = {"by": Measure.PIXELS, "pixels": options["pixels"]}
    if options["background"] is not None:
        pixels["background"] = options["background"].lower()
    made = [(kind, pixels) for kind in ("png", "jpeg", "webp") if pixels]
    if options["tolerance_mm"] is not None:
        made.append(("dxf", {"tolerance_mm": DxfSettings(tolerance_mm=options["tolerance_mm"]).tolerance_mm}))
    return made


def _page(text: str, unit: Unit) -> Page:
    """A page by its name, lying if that is followed by “lying”, or by its width and height."""
    name, _, turned = text.partition(" ")
    known = {paper.casefold(): paper for paper in (PICTURE, ARTWORK, *PAPERS)}
    if name.casefold() in known and turned in ("", "lying"):
        return Page(known[name.casefold()], turned == "lying")
    sides = text.replace("×", "x").split("x")
    try:
        width, height = (float(side) * unit.in_mm for side in sides)
    except ValueError as fault:
        names = ", ".join((PICTURE, ARTWORK, *PAPERS))
        raise ExportError(f"There is no page “{text}”; give W×H, or one of {names}.") from fault
    return Page(OWN, width_mm=width, height_mm=height)


def table(rows: Sequence[tuple[str, ...]]) -> str:
    """Return rows in columns, the first one to the left."""
    widths = [max(len(row[k]) for row in rows) for k in range(len(rows[0]))]
    return "\n".join(
        "  ".join([row[0].ljust(widths[0]), *(cell.rjust(w) for cell, w in zip(row[1:], widths[1:], strict=True))])
        for row in rows
    )


def tell(written: list[Written], found: dict[str, list[Finding]], purpose: Purpose | None) -> None:
    """Print what was written, where it is more than one file, and what the check found; exit where it found any."""
    if len(written) > 1:
        rows = [("file", "bytes", "page mm")]
        rows += [(one.name, f"{one.count:,}", f"{one.width_mm:.2f} × {one.height_mm:.2f}") for one in written]
        click.echo(table(rows))
    if purpose is None:
        return
    rows = [("name", "found", "count")]
    rows += [(name, finding.kind.many, str(len(finding.spots))) for name, every in found.items() for finding in every]
    if len(rows) == 1:
        click.echo(f"Nothing stands in the way: {purpose.value}.")
        return
    click.echo(table(rows))
    sys.exit(FOUND_EXIT)
