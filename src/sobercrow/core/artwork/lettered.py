"""What a group of letters says and how it was set, so that it can be set again."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Lettered:
    """Text set in a typeface, as it was when it was set; where its letters are now is told by the shapes themselves.

    Attributes
    ----------
    text : str
    path : str
        The typeface's file.
    number : int
        Of the typeface in its file.
    axes : tuple of (str, float)
        Where it lies on the axes of a variable font.
    size_px : float
        Of the em.
    line : tuple of float
        The base line: x, y and angle in degrees of a straight one; x, y, radius, start in degrees, and 1 if letters
        stand inside, of an arc; x and y of every place of one that was drawn.
    glyphs : tuple of (str, float, float, float)
        Each letter: its character, the origin of its glyph, and its turn in degrees.
    stretch, lean_deg : float
        How wide letters are against the typeface's own, and how they lean to the right.
    bolder_px : float
        By how much they were made bolder.
    """

    text: str
    path: str
    number: int
    axes: tuple[tuple[str, float], ...]
    size_px: float
    line: tuple[float, ...]
    glyphs: tuple[tuple[str, float, float, float], ...]
    stretch: float = 1.0
    lean_deg: float = 0.0
    bolder_px: float = 0.0

    def __post_init__(self) -> None:
        """Raise ValueError for a base line that is none."""
        if len(self.line) not in (3, 5) and (len(self.line) < 8 or len(self.line) % 2):
            raise ValueError("a base line has three numbers, five, or places")
