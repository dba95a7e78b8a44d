"""The glyphs of a typeface as contours in its em, and how wide they are: read by HarfBuzz, quadratics as cubics."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.stretches import with_joints
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry.contour import AnchorKind, Contour
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
        import uharfbuzz  # brought in when text is first wanted

        try:
            opened = uharfbuzz.Face(uharfbuzz.Blob.from_file_path(face.path), face.number)
            self._font = uharfbuzz.Font(opened)
            if face.axes:
                self._font.set_variations(dict(face.axes))
            self._em = float(opened.upem)
            if not opened.glyph_count:
                raise ValueError("a face without glyphs")
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
            from fontTools.pens.recordingPen import RecordingPen

            pen = RecordingPen()
            self._font.draw_glyph_with_pen(self._glyph(character), pen)
            self._kept[character] = tuple(_contours(pen.value, 1.0 / self._em))
        return self._kept[character]

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


def _contours(value: list[tuple[str, tuple[Any, ...]]], scale: float) -> list[Contour]:
    """The closed contours that pen commands draw, y turned downwards."""
    made: list[Contour] = []
    curves: list[F64] = []
    here = np.zeros(2)

    def at(point: tuple[float, float]) -> F64:
        return np.array((point[0] * scale, -point[1] * scale))

    for command, places in value:
        if command == "moveTo":
            here = at(places[0])
        elif command == "lineTo":
            end = at(places[0])
            curves.append(np.array([here, here, end, end]))
            here = end
        elif command == "qCurveTo":
            control, end = map(at, places)
            curves.append(np.array([here, here + 2 / 3 * (control - here), end + 2 / 3 * (control - end), end]))
            here = end
        elif command == "curveTo":
            first, second, end = map(at, places)
            curves.append(np.array([here, first, second, end]))
            here = end
        elif command == "closePath" and curves:
            if np.hypot(*(here - curves[0][0])) > 1e-9:
                curves.append(np.array([here, here, curves[0][0], curves[0][0]]))
            made.append(_closed(np.array(curves)))
            curves = []
    return made


def _closed(curves: F64) -> Contour:
    points = np.stack([np.roll(curves[:, 2], 1, axis=0), curves[:, 0], curves[:, 1]], axis=1)
    made = Contour(points, np.full(len(points), int(AnchorKind.SMOOTH), np.uint8))
    return with_joints(made, range(len(made)))
