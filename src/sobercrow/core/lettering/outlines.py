"""Text as outlines of the typeface the application carries, so that no file needs a font."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.model import Shape
from sobercrow.core.artwork.stretches import with_joints
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.lettering import TYPEFACE

REGULAR, STRONG = "AtkinsonHyperlegibleNext-400.ttf", "AtkinsonHyperlegibleNext-600.ttf"


class _Face:
    """A typeface opened once."""

    def __init__(self, name: str) -> None:
        from fontTools.ttLib import TTFont  # brought in when text is first wanted

        self.font = TTFont(TYPEFACE / name)
        self.glyphs, self.names = self.font.getGlyphSet(), self.font.getBestCmap()
        self.em = float(self.font["head"].unitsPerEm)

    def glyph(self, character: str) -> Any:
        return self.glyphs[self.names.get(ord(character), ".notdef")]


@lru_cache(maxsize=4)
def _face(name: str) -> _Face:
    return _Face(name)


def text_width(text: str, size: float, face: str = REGULAR) -> float:
    """Return how wide a line of text is at a size, in the size's own unit."""
    opened = _face(face)
    return sum(float(opened.glyph(character).width) for character in text) * size / opened.em


def text_shape(text: str, x: float, y: float, size: float, colour: str, face: str = REGULAR) -> Shape | None:
    """Return a line of text as one shape, its base line beginning at a place; None if nothing of it is drawn."""
    from fontTools.pens.recordingPen import DecomposingRecordingPen

    opened = _face(face)
    scale = size / opened.em
    contours: list[Contour] = []
    for character in text:
        glyph = opened.glyph(character)
        pen = DecomposingRecordingPen(opened.glyphs)
        glyph.draw(pen)
        contours += _contours(pen.value, scale, x, y)
        x += glyph.width * scale
    return Shape(tuple(contours), colour) if contours else None


def _contours(value: list[tuple[str, tuple[Any, ...]]], scale: float, x: float, y: float) -> list[Contour]:
    """The closed contours that pen commands draw, y turned downwards."""
    made: list[Contour] = []
    curves: list[F64] = []
    here = np.zeros(2)

    def at(point: tuple[float, float]) -> F64:
        return np.array((x + point[0] * scale, y - point[1] * scale))

    for command, places in value:
        if command == "moveTo":
            here = at(places[0])
        elif command == "lineTo":
            end = at(places[0])
            curves.append(np.array([here, here, end, end]))
            here = end
        elif command == "qCurveTo":
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
