"""A page of a PDF as a picture."""

from __future__ import annotations

import io
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from sobercrow.core.errors import PictureError
from sobercrow.core.picture.decode import MOST_PIXELS
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import ASSUMED_DPI, Meaning, px_to_mm

SUFFIX = ".pdf"
POINTS_PER_INCH = 72.0
PAGE_DPI = Meaning("Resolution", "How finely the page is drawn; 300 dpi suits most.", 50, 1200, "dpi", 25)
WRONG_PASSWORD = 4
"""PDFium's error code for a document that wants a password."""


@dataclass(frozen=True, slots=True)
class PageSize:
    """The size of a page in millimetres."""

    width_mm: float
    height_mm: float


def is_pdf(data: bytes) -> bool:
    """Tell whether a file's content begins as a PDF does (ISO 32000-1, 7.5.2)."""
    return b"%PDF-" in data[:1024]


@contextmanager
def _opened(data: bytes, name: str) -> Iterator[Any]:
    import pypdfium2 as pdfium  # few pictures are PDFs

    try:
        document = pdfium.PdfDocument(data)
    except pdfium.PdfiumError as fault:
        if getattr(fault, "err_code", None) == WRONG_PASSWORD:
            raise PictureError(
                f"“{name}” is protected by a password; save a copy without one and open that."
            ) from fault
        raise PictureError(f"“{name}” is damaged or no PDF; export it again.") from fault
    try:
        if len(document) == 0:
            raise PictureError(f"“{name}” has no pages; export it again.")
        yield document
    finally:
        document.close()


def page_sizes(data: bytes, name: str) -> tuple[PageSize, ...]:
    """Return the sizes of all pages.

    Raises
    ------
    PictureError
        With one sentence if the PDF is empty, damaged or protected by a password.
    """
    with _opened(data, name) as document:
        sizes = [document.get_page_size(k) for k in range(len(document))]
    return tuple(PageSize(px_to_mm(w, POINTS_PER_INCH), px_to_mm(h, POINTS_PER_INCH)) for w, h in sizes)


def render_page(data: bytes, name: str, page: int = 1, dpi: float = ASSUMED_DPI) -> Picture:
    """Return a page, counted from 1, drawn on white at a resolution.

    Raises
    ------
    PictureError
        With one sentence as for `page_sizes`, or if there is no such page or it would be too large.
    """
    if not PAGE_DPI.low <= dpi <= PAGE_DPI.high:
        raise PictureError(f"A page is drawn at {PAGE_DPI.low:g} to {PAGE_DPI.high:g} dpi, not {dpi:g}.")
    with _opened(data, name) as document:
        count = len(document)
        if not 1 <= page <= count:
            pages = f"{count} pages" if count > 1 else "only one page"
            raise PictureError(f"“{name}” has {pages}, so there is no page {page}; choose another.")
        width, height = document.get_page_size(page - 1)
        scale = dpi / POINTS_PER_INCH
        if width * height * scale**2 > MOST_PIXELS:
            raise PictureError(f"Page {page} of “{name}” is too large at {dpi:g} dpi; choose a lower resolution.")
        try:
            pixels = document[page - 1].render(scale=scale, rev_byteorder=True, prefer_bgrx=False).to_numpy()
        except RuntimeError as fault:
            raise PictureError(f"Page {page} of “{name}” could not be drawn; export the PDF again.") from fault
        if pixels.ndim == 2 or pixels.shape[2] == 1:
            pixels = np.repeat(pixels.reshape(*pixels.shape[:2], 1), 3, axis=2)
        pixels = np.ascontiguousarray(pixels[..., :3], dtype=np.uint8)
    stem = Path(name).stem
    return Picture(pixels, float(dpi), True, f"{stem}.png" if count == 1 else f"{stem}, page {page}.png")


def as_png(picture: Picture) -> bytes:
    """Return a picture as PNG bytes with its resolution, to be kept in a project."""
    memory = io.BytesIO()
    Image.fromarray(picture.pixels).save(memory, "PNG", dpi=(picture.dpi, picture.dpi), compress_level=3)
    return memory.getvalue()
