"""The glyphs of a typeface as contours in its em, and how wide they are: read by HarfBuzz."""

from __future__ import annotations

from functools import lru_cache
from itertools import pairwise

import numpy as np

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.stretches import with_joints
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.lettering.cubics import cubics_of, opened
from sobercrow.core.lettering.typefaces import Face

KEPT_FACES = 64


class Glyphs:
    """The glyphs of one face, read when first wanted. Outlines are in shares of the em, y down, from the base line."""

    def __init__(self, face: Face) -> None:
        """Open the face's file.

        Raises
        ------
        LetteringError
            If it cannot be read.
        """
        try:
            self._font = opened(face)
            self._em = float(self._font.face.upem)
        except Exception as error:  # a file that is gone or damaged raises anything
            raise LetteringError(f"{face.name} cannot be read from {face.path}.") from error
        self._kept: dict[str, tuple[Contour, ...]] = {}

    def has(self, character: str) -> bool:
        """Tell whether the face has a glyph of its own for a character."""
        return self._font.get_nominal_glyph(ord(character)) is not None

    def advance(self, character: str) -> float:
        """Return how far the next glyph stands from this one, without kerning."""
        return float(self._font.get_glyph_h_advance(self._glyph(character))) / self._em

    def advances(self, text: str) -> F64:
        """Return how wide each character of a text is, kerned, as HarfBuzz shapes it; ligatures are left apart."""
        import uharfbuzz

        buffer = uharfbuzz.Buffer()
        buffer.add_str(text)
        buffer.guess_segment_properties()
        uharfbuzz.shape(self._font, buffer, dict.fromkeys(("liga", "clig", "dlig", "ccmp"), False) | {"kern": True})
        wide = np.zeros(len(text))
        for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            wide[info.cluster] += place.x_advance / self._em
        return wide

    def contours(self, character: str) -> tuple[Contour, ...]:
        """Return the closed contours of a character; none if nothing of it is drawn."""
        if character not in self._kept:
            cubics, starts, _ = self.cubics(character)
            self._kept[character] = tuple(_closed(cubics[first:last]) for first, last in pairwise(starts.tolist()))
        return self._kept[character]

    def cubics(self, characters: str) -> tuple[F64, I64, I64]:
        """Return the outlines of characters as `cubics_of` does."""
        return cubics_of(self._font, map(ord, characters))

    def _glyph(self, character: str) -> int:
        return int(self._font.get_nominal_glyph(ord(character)) or 0)


@lru_cache(maxsize=KEPT_FACES)
def glyphs_of(face: Face) -> Glyphs:
    """Return the glyphs of a face, opened once.

    Raises
    ------
    LetteringError
        If its file cannot be read.
    """
    return Glyphs(face)


def _closed(curves: F64) -> Contour:
    points = np.stack([np.roll(curves[:, 2], 1, axis=0), curves[:, 0], curves[:, 1]], axis=1)
    made = Contour(points, np.full(len(points), int(AnchorKind.SMOOTH), np.uint8))
    return with_joints(made, range(len(made)))
