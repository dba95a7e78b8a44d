"""Outlines of glyphs as cubics, read by HarfBuzz: lines and quadratics raised to them."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import TYPE_CHECKING

import numpy as np

from sobercrow.core.arrays import F64, I64, cumulated
from sobercrow.core.lettering.typefaces import Face

if TYPE_CHECKING:
    import uharfbuzz

NO_LENGTH_EM = 1e-9
"""A contour whose end is no further from its start is closed as it is."""

Contours = list[list[float]]
"""Of each contour x and y of its start, then of two handles and an end for every cubic."""


def opened(face: Face) -> uharfbuzz.Font:
    """Open a face's file, a variable font at the face's place on its axes.

    Raises
    ------
    Exception
        Anything, if the file is gone or damaged.
    """
    import uharfbuzz  # brought in when text is first wanted

    made = uharfbuzz.Face(uharfbuzz.Blob.from_file_path(face.path), face.number)
    if not made.glyph_count:
        raise ValueError("a face without glyphs")
    font = uharfbuzz.Font(made)
    if face.axes:
        font.set_variations(dict(face.axes))
    return font


def cubics_of(font: uharfbuzz.Font, characters: Iterable[int]) -> tuple[F64, I64, I64]:
    """Return the outlines of characters, in shares of the em, y down, from the base line.

    Cubics (m, 4, 2), those of a contour in a row; where each contour starts, its last entry m; and how many contours
    each character has.
    """
    contours: Contours = []
    counts = []
    for code in characters:
        before = len(contours)
        font.draw_glyph(font.get_nominal_glyph(code) or 0, _pen(), contours)
        contours[before:] = [_closed(one, NO_LENGTH_EM * font.face.upem) for one in contours[before:] if len(one) > 2]
        counts.append(len(contours) - before)
    lengths = np.array([len(one) // 6 for one in contours], dtype=np.int64)
    starts = cumulated(lengths)
    points = np.array([value for one in contours for value in one], dtype=np.float64).reshape(-1, 2)
    first = 3 * np.arange(starts[-1]) + np.repeat(np.arange(len(contours)), lengths)
    cubics = points[first[:, None] + np.arange(4)] * (np.array((1.0, -1.0)) / font.face.upem)
    return cubics, starts, np.array(counts, dtype=np.int64)


def _closed(contour: list[float], no_length: float) -> list[float]:
    """A contour with a line back to its start, if it does not end there."""
    x, y = contour[:2]
    if abs(contour[-2] - x) > no_length or abs(contour[-1] - y) > no_length:
        contour += (*contour[-2:], x, y, x, y)
    return contour


@cache
def _pen() -> uharfbuzz.DrawFuncs:
    """What HarfBuzz calls while it draws into `Contours`."""
    import uharfbuzz

    def move_to(x: float, y: float, into: Contours) -> None:
        into.append([x, y])

    def line_to(x: float, y: float, into: Contours) -> None:
        into[-1] += (*into[-1][-2:], x, y, x, y)

    def quadratic_to(at_x: float, at_y: float, x: float, y: float, into: Contours) -> None:
        from_x, from_y = into[-1][-2:]
        into[-1] += (
            from_x + 2 / 3 * (at_x - from_x),
            from_y + 2 / 3 * (at_y - from_y),
            x + 2 / 3 * (at_x - x),
            y + 2 / 3 * (at_y - y),
            x,
            y,
        )

    def cubic_to(ax: float, ay: float, bx: float, by: float, x: float, y: float, into: Contours) -> None:
        into[-1] += (ax, ay, bx, by, x, y)

    made = uharfbuzz.DrawFuncs()
    made.set_move_to_func(move_to)
    made.set_line_to_func(line_to)
    made.set_quadratic_to_func(quadratic_to)
    made.set_cubic_to_func(cubic_to)
    made.set_close_path_func(lambda _into: None)
    return made
