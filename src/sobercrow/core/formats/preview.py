"""What was written, read again and drawn: so one sees the file, not what it was made of."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable

import numpy as np
from PIL import Image

from sobercrow.core.arrays import F64, U8
from sobercrow.core.artwork.model import Artwork, Layer, Shape, stroked
from sobercrow.core.formats.hpgl import parse_hpgl
from sobercrow.core.formats.raster import drawn
from sobercrow.core.formats.svg_in import parse_svg
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.settings import mm_to_px

LONGER_PX, MOST_PIXELS_PX = 1600, 6000
"""How long the longer side of a drawn file is; pixels are shown as they are up to so many a side."""
LINE_PX = 1.4
TRAVEL, FIRST = "#9aa0a3", "#b3472b"


def shown(format_id: str, data: bytes, page: Artwork) -> U8:
    """Return a file of laid artwork as pixels (h, w, 4), as large as the page."""
    return READERS[format_id](data, page)


def _pixels(data: bytes, _page: Artwork) -> U8:
    image = Image.open(io.BytesIO(data)).convert("RGBA")
    image.thumbnail((MOST_PIXELS_PX, MOST_PIXELS_PX))
    return np.asarray(image)


def _size(page: Artwork) -> tuple[int, int]:
    ratio = LONGER_PX / max(page.width_px, page.height_px)
    return max(1, round(page.width_px * ratio)), max(1, round(page.height_px * ratio))


def _svg(data: bytes, page: Artwork) -> U8:
    placed = parse_svg(data, "The file", page.dpi)
    return drawn(Artwork((Layer("Read", placed.items),), page.width_px, page.height_px, page.dpi), _size(page))


def _pdf(data: bytes, page: Artwork) -> U8:
    import pypdfium2 as pdfium  # wanted for this alone

    document = pdfium.PdfDocument(data)
    try:
        width, _ = document.get_page_size(0)
        made = document[0].render(scale=_size(page)[0] / width, rev_byteorder=True, fill_color=(255, 255, 255, 255))
        pixels = made.to_numpy()
        whole = np.full((*pixels.shape[:2], 4), 255, dtype=np.uint8)
        whole[..., :3] = pixels[..., :3]
        return whole
    finally:
        document.close()


def _dxf(data: bytes, page: Artwork) -> U8:
    import ezdxf  # wanted for this alone
    from ezdxf import path as dxf_path

    document = ezdxf.read(io.StringIO(data.decode("utf-8", errors="replace")))  # type: ignore[attr-defined]
    per_mm = {5: 0.1, 1: 1.0 / 25.4}.get(document.units, 1.0)
    if document.dxfversion == "AC1009":  # which has no other way to state it
        per_mm = {b"cm": 0.1, b"in": 1.0 / 25.4}.get(data[:40].split(b"units: ")[-1][:2], 1.0)
    shapes = []
    for entity in document.modelspace():
        points = np.array([(v.x, v.y) for v in dxf_path.make_path(entity).flattening(0.02)]) / per_mm
        colour = document.layers.get(entity.dxf.layer)
        rgb = colour.rgb if colour.rgb is not None else ezdxf.colors.aci2rgb(abs(colour.color))
        shapes.append(_line(points, page, "#{:02x}{:02x}{:02x}".format(*rgb)))
    return _lines(shapes, page)


def _hpgl(data: bytes, page: Artwork) -> U8:
    lines = parse_hpgl(data)
    inked = [_line(line.points, page, "#23262b") for line in lines]
    ends = [np.zeros((1, 2)), *(line.points[-1:] for line in lines[:-1])]
    travel = [_line(np.vstack([a, line.points[:1]]), page, TRAVEL) for a, line in zip(ends, lines, strict=True)]
    dots = [_line(line.points[:2], page, FIRST, 2.0) for line in lines]
    return _lines([*travel, *inked, *dots], page)


def _line(points: F64, page: Artwork, colour: str, wide: float = 1.0) -> Shape:
    """Points in mm, y up, as a thin line on the page."""
    scale = mm_to_px(1.0, page.dpi)
    at = np.column_stack([points[:, 0] * scale, page.height_px - points[:, 1] * scale])
    width = wide * LINE_PX * max(page.width_px, page.height_px) / LONGER_PX
    contour = Contour(np.repeat(at[:, None], 3, axis=1), np.zeros(len(at), np.uint8), False)
    return stroked((contour,), colour, width)


def _lines(shapes: Iterable[Shape], page: Artwork) -> U8:
    return drawn(Artwork((Layer("Read", tuple(shapes)),), page.width_px, page.height_px, page.dpi), _size(page))


READERS: dict[str, Callable[[bytes, Artwork], U8]] = {
    "svg": _svg,
    "pdf": _pdf,
    "dxf": _dxf,
    "hpgl": _hpgl,
    "png": _pixels,
    "jpeg": _pixels,
    "webp": _pixels,
}
