"""Text as outlines of the typeface the application carries, so that no file needs a font."""

from __future__ import annotations

from sobercrow.core.artwork.model import Shape
from sobercrow.core.lettering import TYPEFACE
from sobercrow.core.lettering.glyphs import Glyphs, glyphs_of
from sobercrow.core.lettering.typefaces import Face

REGULAR, STRONG = "AtkinsonHyperlegibleNext-400.ttf", "AtkinsonHyperlegibleNext-600.ttf"


def _opened(name: str) -> Glyphs:
    return glyphs_of(Face(str(TYPEFACE / name), 0, "Atkinson Hyperlegible Next", ""))


def text_width(text: str, size: float, face: str = REGULAR) -> float:
    """Return how wide a line of text is at a size, in the size's own unit."""
    opened = _opened(face)
    return sum(opened.advance(character) for character in text) * size


def text_shape(text: str, x: float, y: float, size: float, colour: str, face: str = REGULAR) -> Shape | None:
    """Return a line of text as one shape, its base line beginning at a place; None if nothing of it is drawn."""
    opened = _opened(face)
    contours = []
    for character in text:
        contours += [contour.scaled(size).moved(x, y) for contour in opened.contours(character)]
        x += opened.advance(character) * size
    return Shape(tuple(contours), colour) if contours else None
