"""The outlines of a typeface's glyphs as contours, in its em: read by fontTools, quadratic ones made cubic."""

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
        from fontTools.ttLib import TTFont  # brought in when text is first wanted

        try:
            self._font = TTFont(face.path, fontNumber=face.number, lazy=True)
            self._set = self._font.getGlyphSet(location=dict(face.axes) if face.axes else None)
            self._names = self._font.getBestCmap() or {}
            self._em = float(self._font["head"].unitsPerEm)
        except Exception as error:  # what a damaged file makes fontTools raise is anything
            raise LetteringError(f"{face.name} cannot be read from {face.path}.") from error
        self._kept: dict[str, tuple[Contour, ...]] = {}

    def has(self, character: str) -> bool:
        """Tell whether the face has a glyph of its own for a character."""
        return ord(character) in self._names

    def advance(self, character: str) -> float:
        """Return how far the next glyph stands from this one, without kerning."""
        return float(self._glyph(character).width) / self._em

    def contours(self, character: str) -> tuple[Contour, ...]:
        """Return the closed contours of a character; none if nothing of it is drawn."""
        if character not in self._kept:
            from fontTools.pens.recordingPen import DecomposingRecordingPen

            pen = DecomposingRecordingPen(self._set)
            try:
                self._glyph(character).draw(pen)
                self._kept[character] = tuple(_contours(pen.value, 1.0 / self._em))
            except Exception as error:
                raise LetteringError(f"The outline of “{character}” is damaged in this typeface.") from error
        return self._kept[character]

    def _glyph(self, character: str) -> Any:
        return self._set[self._names.get(ord(character), ".notdef")]


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
            if places[-1] is None:  # none of its points is on the curve (OpenType: glyf)
                here = at((0.5 * (places[-2][0] + places[0][0]), 0.5 * (places[-2][1] + places[0][1])))
                places = (*places[:-1], (here[0] / scale, -here[1] / scale))
            for curve in _quadratics(here, [at(place) for place in places]):
                curves.append(curve)
                here = curve[3]
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


def _quadratics(start: F64, places: list[F64]) -> list[F64]:
    """Quadratic splines as TrueType has them, their joints halfway between controls, as cubics (OpenType: glyf)."""
    *controls, last = places
    made = []
    for k, control in enumerate(controls):
        end = last if k == len(controls) - 1 else 0.5 * (control + controls[k + 1])
        made.append(np.array([start, start + 2 / 3 * (control - start), end + 2 / 3 * (control - end), end]))
        start = end
    return made or [np.array([start, start, last, last])]


def _closed(curves: F64) -> Contour:
    points = np.stack([np.roll(curves[:, 2], 1, axis=0), curves[:, 0], curves[:, 1]], axis=1)
    made = Contour(points, np.full(len(points), int(AnchorKind.SMOOTH), np.uint8))
    return with_joints(made, range(len(made)))
