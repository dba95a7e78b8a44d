"""Artwork as PDF (ISO 32000-1): vector, true size, layers that can be switched, inks as spot colours."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry.combine import Progress
from sobercrow.core.handover.printing import Printing


@dataclass(frozen=True, slots=True)
class PdfSettings:
    """How artwork is written as PDF."""

    spots: bool = field(
        default=False,
        metadata={
            "label": "Inks as spot colours",
            "help": "Each by its name, so that every ink comes out as its own plate.",
        },
    )
    title: str = field(default="", metadata={"label": "Title", "help": "Kept in the file; may be left empty."})
    author: str = field(default="", metadata={"label": "Author", "help": "Kept in the file; may be left empty."})
    printing: Printing | None = None
    """The colours of a press, which make it a PDF/X-4; None for those of a screen."""


@dataclass(frozen=True, slots=True)
class PdfPage:
    """Laid artwork on a page of its own; the names of its spot colours, if they are to be those of another artwork."""

    artwork: Artwork
    spots: dict[str, str] | None = None


def pdf_bytes(artwork: Artwork, settings: PdfSettings = PdfSettings(), progress: Progress | None = None) -> bytes:
    """Return laid artwork as a PDF of one page, as large as its own; raise `ExportError` if that is too large."""
    return pdf_of([PdfPage(artwork)], settings, progress)


def pdf_of(pages: Sequence[PdfPage], settings: PdfSettings, progress: Progress | None = None) -> bytes:
    """Return several laid artworks as the pages of one PDF.

    Raises
    ------
    ExportError
        If a page is longer than a PDF may have it.
    """
    from sobercrow.core.formats.pdf_pages import pages_of  # its library is brought in when a PDF is first wanted

    return pages_of(pages, settings, progress)
