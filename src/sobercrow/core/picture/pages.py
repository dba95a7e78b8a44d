"""Files that hold several pages: PDFs, and what scanners put into one TIFF."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from sobercrow.core.picture.decode import decode_picture, frame_sizes, page_name
from sobercrow.core.picture.pdf import PageSize, is_pdf, page_sizes, render_page
from sobercrow.core.picture.picture import Picture
from sobercrow.core.picture.svg_picture import SUFFIX as SVG_SUFFIX
from sobercrow.core.picture.svg_picture import embedded_picture, is_svg
from sobercrow.core.settings import ASSUMED_DPI, px_to_mm

TIFF_HEADS = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
"""How a TIFF begins (TIFF 6.0, section 2), and a large one."""
SUFFIXES = (".pdf", ".tif", ".tiff")


@dataclass(frozen=True, slots=True, eq=False)
class Pages:
    """The pages of a file.

    Attributes
    ----------
    data, name : bytes, str
        The file.
    sizes : tuple of PageSize
        How large each page is.
    drawn : bool
        Whether pages are drawn, as a PDF's are, at a resolution one chooses; scanned ones have their own.
    """

    data: bytes
    name: str
    sizes: tuple[PageSize, ...]
    drawn: bool

    def picture(self, page: int, dpi: float = ASSUMED_DPI) -> Picture:
        """Return a page, counted from 1, called by its number; raise `PictureError` as `picture_of` does."""
        picture = picture_of(self.data, self.name, page, dpi)
        if self.drawn or len(self.sizes) < 2:
            return picture
        return replace(picture, name=page_name(self.name, page, Path(self.name).suffix))


def pages_of(data: bytes, name: str) -> Pages:
    """Return the pages of a file: none of one that is neither a PDF nor a TIFF.

    Raises
    ------
    PictureError
        With one sentence if the file is empty, damaged or protected by a password.
    """
    if is_pdf(data):
        return Pages(data, name, page_sizes(data, name), True)
    sizes = frame_sizes(data, name) if data.startswith(TIFF_HEADS) else ()
    return Pages(data, name, tuple(PageSize(px_to_mm(w, dpi), px_to_mm(h, dpi)) for w, h, dpi in sizes), False)


def picture_of(data: bytes, name: str, page: int = 1, dpi: float = ASSUMED_DPI) -> Picture:
    """Return a page of a file, counted from 1, a PDF's drawn at a resolution; of files with one picture that,
    of an SVG the largest it holds.

    Raises
    ------
    PictureError
        With one sentence if it cannot be read or there is no such page.
    """
    if Path(name).suffix.lower() == SVG_SUFFIX and is_svg(data):
        return embedded_picture(data, name)[0]
    return render_page(data, name, page, dpi) if is_pdf(data) else decode_picture(data, name, page)
