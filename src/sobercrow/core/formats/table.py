"""All formats artwork is handed over in: window, command line and sets are made from this table."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import ExportError
from sobercrow.core.formats import dxf, hpgl, pdf, raster, svg

Write = Callable[..., bytes]
"""Laid artwork, settings, and where to tell the share done, which may stop it: the file."""


@dataclass(frozen=True, slots=True)
class Format:
    """A format: what it is called, its suffixes, what it is for, its settings and how it is written."""

    id: str
    title: str
    suffixes: tuple[str, ...]
    help: str
    settings: type[Any]
    write: Write

    @property
    def suffix(self) -> str:
        """The usual suffix."""
        return self.suffixes[0]

    def estimate(self, artwork: Artwork, settings: Any) -> int:
        """Return how large the file of laid artwork comes to be, in bytes; of many pixels about so."""
        if isinstance(settings, raster.RasterSettings):
            return raster.estimated(artwork, settings, self.write)
        return len(self.write(artwork, settings))


FORMATS = (
    Format("svg", "SVG", (".svg",), "Vector, for the web and most programs.", svg.SvgSettings, svg.svg_bytes),
    Format("pdf", "PDF", (".pdf",), "Vector, for print; layers can be switched.", pdf.PdfSettings, pdf.pdf_bytes),
    Format("dxf", "DXF", (".dxf",), "Lines and arcs for CAM: cutters, engravers.", dxf.DxfSettings, dxf.dxf_bytes),
    Format("png", "PNG", (".png",), "Pixels, without loss.", raster.RasterSettings, raster.png_bytes),
    Format("jpeg", "JPEG", (".jpg", ".jpeg"), "Pixels, small files.", raster.LossySettings, raster.jpeg_bytes),
    Format("webp", "WebP", (".webp",), "Pixels, for the web.", raster.LossySettings, raster.webp_bytes),
    Format(
        "hpgl", "Plotter file", (".plt", ".hpgl"), "For cutters and pens (HP-GL).", hpgl.HpglSettings, hpgl.hpgl_bytes
    ),
)


def format_of(name: str) -> Format:
    """Return a format by its name; raise `ExportError` with those there are."""
    found = next((one for one in FORMATS if one.id == name), None)
    if found is None:
        raise ExportError(f"There is no format “{name}”; there are {', '.join(one.id for one in FORMATS)}.")
    return found


def format_for(path: Path) -> Format:
    """Return the format that a file's suffix names; raise `ExportError` with those there are."""
    found = next((one for one in FORMATS if path.suffix.lower() in one.suffixes), None)
    if found is None:
        every = ", ".join(one.suffix for one in FORMATS)
        raise ExportError(f"“{path.name}” names no format; end it with one of {every}.")
    return found
