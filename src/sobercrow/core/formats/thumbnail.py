"""Small pictures of projects, as file managers show them."""

from __future__ import annotations

import io
from pathlib import Path

from PIL import Image

from sobercrow.core.artwork.model import Artwork, Layer
from sobercrow.core.formats.project import project_artwork, read_project
from sobercrow.core.formats.raster import RasterSettings, png_bytes
from sobercrow.core.formats.svg_in import parse_svg
from sobercrow.core.picture.decode import decode_picture

PAPER = "#ffffff"
DPI = 96.0


def project_thumbnail(path: Path, size_px: int) -> bytes:
    """Return a picture of a project's artwork as PNG, its longer side so long, 16–1024 px; without any, of its source.

    Raises
    ------
    SoberCrowError
        With one sentence if the file cannot be read or is no project.
    """
    svg = project_artwork(path)
    if svg is not None:
        read = parse_svg(svg, path.name, DPI)
        artwork = Artwork((Layer("", read.items),), read.width_px, read.height_px, DPI)
        return png_bytes(artwork, RasterSettings(pixels=size_px, background=PAPER))
    project = read_project(path)
    image = Image.fromarray(decode_picture(project.source, project.source_name).pixels)
    image.thumbnail((size_px, size_px))
    memory = io.BytesIO()
    image.save(memory, "PNG")
    return memory.getvalue()
