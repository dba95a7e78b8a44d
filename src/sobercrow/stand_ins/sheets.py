"""The sheets that can lie under the simulated devices: the demo pictures, and any picture file."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from sobercrow.core.picture.decode import read_picture
from sobercrow.core.picture.picture import Picture

PICTURES = Path(__file__).parents[1] / "demo" / "pictures"


@dataclass(frozen=True, slots=True)
class SheetOfPaper:
    """A sheet: its name, and how its picture is got."""

    name: str
    read: Callable[[], Picture]


def sheet_from_file(path: Path) -> SheetOfPaper:
    """Return a picture file as a sheet; it is read when it is needed."""
    return SheetOfPaper(path.name, lambda: read_picture(path))


def demo_sheets() -> tuple[SheetOfPaper, ...]:
    """Return the drawings of the kite workshop that lie flat and in even light."""
    names = {
        "pen-lettering.png": "Pen lettering",
        "kite-drawing.png": "Inked kite",
        "pencil-sketch.png": "Pencil sketch",
        "sign-sketch.png": "Sketched sign",
        "tints.png": "Light tints",
    }
    return tuple(SheetOfPaper(title, partial(read_picture, PICTURES / name)) for name, title in names.items())
