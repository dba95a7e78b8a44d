"""A page of a PDF as a picture."""

from __future__ import annotations

import io
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from sobercrow.core.errors import PictureError
from sobercrow.core.outside import reading
from sobercrow.core.picture.compression import with_density
from sobercrow.core.picture.decode import MOST_PIXELS, check_page, decode_picture, page_name
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import ASSUMED_DPI, DPI, Meaning, px_to_mm

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


def _damaged(name: str) -> AbstractContextManager[None]:
    return reading(PictureError, f"“{name}” is damaged and cannot be drawn; export it again.")


def page_sizes(data: bytes, name: str) -> tuple[PageSize, ...]:
    """Return the sizes of all pages.

    Raises
    ------
    PictureError
        With one sentence if the PDF is empty, damaged or protected by a password.
    """
    with _damaged(name), _opened(data, name) as document:
        sizes = [document.get_page_size(k) for k in range(len(document))]
    return tuple(PageSize(px_to_mm(w, POINTS_PER_INCH), px_to_mm(h, POINTS_PER_INCH)) for w, h in sizes)


MASKS = ("/SMask", "/Mask", "/ImageMask", "/Decode")
"""What makes a picture look otherwise on its page than by itself (ISO 32000-1, 8.9.5)."""


def _is_masked(data: bytes, number: int) -> bool:
    """Tell whether the picture of a page is masked or turned round in its tones, or is not one of the page's own."""
    import pikepdf

    try:
        with pikepdf.open(io.BytesIO(data)) as document:
            images = list(document.pages[number - 1].get_images().values())
            return len(images) != 1 or any(key in images[0] for key in MASKS)
    except pikepdf.PdfError:
        return True


def _only_picture(page: Any, name: str) -> Picture | None:
    """The picture that is all there is on a page, at its own pixels and resolution; None if there is more, or less.

    A JPEG keeps its own compression. Pictures that are turned, slanted or masked are left to be drawn.
    """
    import pypdfium2.raw as pdfium  # few pictures are PDFs

    objects = list(page.get_objects(max_depth=2))
    if len(objects) != 1 or objects[0].type != pdfium.FPDF_PAGEOBJ_IMAGE:
        return None
    across, skew, slant, down, _, _ = objects[0].get_matrix().get()
    width, height = objects[0].get_px_size()
    turned = abs(skew) > 1e-3 * across or abs(slant) > 1e-3 * down or page.get_rotation() != 0
    if turned or across <= 0 or down <= 0 or not 0 < width * height <= MOST_PIXELS:
        return None
    memory = io.BytesIO()
    try:
        objects[0].extract(memory, fb_format="png")
        picture = decode_picture(memory.getvalue(), name)
    except (PictureError, RuntimeError, OSError, ValueError):
        return None  # the page can still be drawn
    dpi = POINTS_PER_INCH * (width / across * height / down) ** 0.5
    if picture.compression is not None:
        dpi = round(dpi)  # a JPEG file holds whole numbers
    return replace(picture, dpi=float(dpi), dpi_stated=True) if DPI.low <= dpi <= DPI.high else None


def render_page(data: bytes, name: str, page: int = 1, dpi: float = ASSUMED_DPI) -> Picture:
    """Return a page, counted from 1, drawn on white at a resolution; if it is one picture, that at its own resolution.

    Raises
    ------
    PictureError
        With one sentence as for `page_sizes`, or if there is no such page or it would be too large.
    """
    if not PAGE_DPI.low <= dpi <= PAGE_DPI.high:
        raise PictureError(f"A page is drawn at {PAGE_DPI.low:g} to {PAGE_DPI.high:g} dpi, not {dpi:g}.")
    with _damaged(name), _opened(data, name) as document:
        count = len(document)
        check_page(name, page, count)
        stem = Path(name).stem if count == 1 else page_name(name, page, "")
        found = _only_picture(document[page - 1], f"{stem}.png")
        if found is not None and not _is_masked(data, page):
            return found if found.compression is None else replace(found, name=f"{stem}.jpg")
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
    return Picture(pixels, float(dpi), True, f"{stem}.png")


def as_file(picture: Picture) -> bytes:
    """Return a picture as the bytes of a file, to be kept in a project: its own JPEG, or PNG with its resolution."""
    if picture.compression is not None and picture.compression.file is not None:
        return with_density(picture.compression.file, round(picture.dpi))
    memory = io.BytesIO()
    Image.fromarray(picture.pixels).save(memory, "PNG", dpi=(picture.dpi, picture.dpi), compress_level=3)
    return memory.getvalue()
