"""A page for the client: the artwork large, small, on white, on black, its inks and its sizes."""

from __future__ import annotations

import numpy as np

from sobercrow.core.artwork.model import Artwork, Group, Layer, Shape
from sobercrow.core.artwork.placing import placed_shape
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Rectangle
from sobercrow.core.handover.inks import inks_of
from sobercrow.core.handover.page import Page, Sheet, laid, seen_box
from sobercrow.core.inks.colour import rgb_of_hex
from sobercrow.core.lettering.outlines import REGULAR, STRONG, text_shape
from sobercrow.core.settings import MM_PER_INCH, Unit, px_to_mm

DPI = 10.0 * MM_PER_INCH
"""Ten px to the mm."""
WIDTH, HEIGHT, MARGIN = 2100.0, 2970.0, 150.0
INK, MUTED, LINE = "#23262b", "#666a6d", "#d6d2c8"
MOST_INKS = 12


def client_page(artwork: Artwork, name: str) -> Artwork:
    """Return an A4 page that shows laid artwork under a name; its inks by name, hex and RGB, its sizes in mm and in."""
    alone = laid(artwork, Sheet(page=Page("artwork")))
    shapes: list[Shape | Group] = []
    shapes += _text(name, MARGIN, MARGIN + 40.0, 60.0, STRONG)
    inner = WIDTH - 2.0 * MARGIN
    shapes += _frame(alone, MARGIN, 260.0, inner, 1180.0, "#ffffff")
    third = (inner - 80.0) / 3.0
    top = 1500.0
    shapes += _frame(alone, MARGIN, top, third, 380.0, "#ffffff")
    shapes += _frame(alone, MARGIN + third + 40.0, top, third, 380.0, "#000000")
    x = MARGIN + 2.0 * (third + 40.0)
    for height in (160.0, 80.0, 40.0):
        shapes += _shown(alone, x, top, min(3.0 * height, third - 20.0), height)
        top += height + 40.0
    shapes += _sizes(artwork, 1990.0)
    shapes += _swatches(artwork, 2130.0)
    return Artwork((Layer("Page", tuple(shapes)),), WIDTH, HEIGHT, DPI)


def _text(text: str, x: float, y: float, size: float, face: str = REGULAR, colour: str = INK) -> list[Shape]:
    made = text_shape(text, x, y, size, colour, face)
    return [made] if made is not None else []


def _box(x: float, y: float, width: float, height: float, fill: str) -> Shape:
    form = Rectangle(x + width / 2, y + height / 2, width, height)
    return Shape((Contour(form.anchors(), np.zeros(4, np.uint8), form=form),), fill)


def _frame(artwork: Artwork, x: float, y: float, width: float, height: float, fill: str) -> list[Shape | Group]:
    """A field in a colour with the artwork in its middle, and a hair line around it."""
    edge = [_box(x - 2, y - 2, width + 4, height + 4, LINE), _box(x, y, width, height, fill)]
    inner = 0.08 * min(width, height)
    return [*edge, *_shown(artwork, x + inner, y + inner, width - 2 * inner, height - 2 * inner, middle=True)]


def _shown(artwork: Artwork, x: float, y: float, width: float, height: float, middle: bool = False) -> list[Group]:
    """All that is seen, as large as it goes into a field."""
    factor = min(width / artwork.width_px, height / artwork.height_px)
    if middle:
        x += 0.5 * (width - factor * artwork.width_px)
        y += 0.5 * (height - factor * artwork.height_px)
    way = Affine.scaled(factor, factor, (0.0, 0.0)).then(Affine.moved(x, y))
    unseen = artwork.out_of_sight
    return [Group(tuple(placed_shape(s, way) for k, s in enumerate(artwork.shapes) if k not in unseen))]


def _sizes(artwork: Artwork, y: float) -> list[Shape]:
    box = seen_box(artwork) or (0.0, 0.0, 0.0, 0.0)
    width, height = (px_to_mm(b - a, artwork.dpi) for a, b in ((box[0], box[2]), (box[1], box[3])))
    inches = f"{width / Unit.INCH.in_mm:.3f} × {height / Unit.INCH.in_mm:.3f} in"
    page = f"{px_to_mm(artwork.width_px, artwork.dpi):.1f} × {px_to_mm(artwork.height_px, artwork.dpi):.1f} mm"
    return [
        *_text("Size", MARGIN, y, 36.0, STRONG),
        *_text(f"{width:.2f} × {height:.2f} mm    {inches}    page {page}", MARGIN + 220.0, y, 36.0),
    ]


def _swatches(artwork: Artwork, y: float) -> list[Shape]:
    made = _text("Inks", MARGIN, y, 36.0, STRONG)
    inks = inks_of(artwork)
    for n, ink in enumerate(inks[:MOST_INKS]):
        x, top = MARGIN + 220.0 + 800.0 * (n % 2), y - 40.0 + 110.0 * (n // 2)
        rgb = " ".join(map(str, rgb_of_hex(ink.colour)))
        made += [_box(x - 1, top - 1, 92, 92, LINE), _box(x, top, 90, 90, ink.colour)]
        made += _text(ink.name[:28], x + 120.0, top + 36.0, 34.0)
        made += _text(f"{ink.colour}    RGB {rgb}", x + 120.0, top + 80.0, 30.0, REGULAR, MUTED)
    if len(inks) > MOST_INKS:
        made += _text(
            f"and {len(inks) - MOST_INKS} more", MARGIN + 220.0, y + 110.0 * MOST_INKS / 2, 30.0, REGULAR, MUTED
        )
    return made
