"""What was measured of lettering in rows: a spread, a list with the furthest first, and a sentence."""

from __future__ import annotations

from typing import NamedTuple, Self

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.lettering.evenness import Measured, What
from sobercrow.core.lettering.posture import Reading
from sobercrow.core.lettering.strokes import Way
from sobercrow.core.settings import px_to_mm

NAMES = {
    What.STROKES: "Strokes",
    What.SLANT: "Slant",
    What.BASELINE: "Feet",
    What.SPACING: "Gaps",
    What.CORNERS: "Corners",
}
WAY_NAMES = {Way.DOWN: "Down", Way.UP: "Up"}
LISTED = 60


class Rows(NamedTuple):
    """Rows of the spread; and of the list: texts, what each is the number of, where it is, which are odd."""

    spread: tuple[tuple[str, F64, float, str], ...]
    texts: tuple[str, ...]
    numbers: tuple[int, ...]
    places: F64
    odd: frozenset[int]
    told: str

    @classmethod
    def none(cls, told: str) -> Self:
        """No rows, and why."""
        return cls((), (), (), np.zeros((0, 2)), frozenset(), told)


class _Scale(NamedTuple):
    """How values are shown."""

    factor: float
    unit: str
    digits: int

    def text(self, value: float) -> str:
        return f"{self.factor * value:.{self.digits}f}{self.unit}"


def read_rows(measured: Measured, what: What, dpi: float) -> Rows:
    """Return what was measured of one thing in rows.

    Raises
    ------
    LetteringError
        If it could not be measured.
    """
    if what is What.CORNERS:
        return _corners(measured.reading(what))
    scale = _Scale(1.0, "°", 1) if what is What.SLANT else _Scale(px_to_mm(1.0, dpi), " mm", 3)
    if what is What.STROKES:
        named = [(name, measured.widths(way), measured.numbers(way)) for way, name in WAY_NAMES.items()]
    else:
        readings = [(NAMES[what], measured.reading(what))]
        if what is What.BASELINE:  # what stands on the line, and how high it rises
            readings.append(("Tops", measured.tops()))
        named = [(name, found, list(range(len(found.values)))) for name, found in readings]
    named = [one for one in named if one[2]]
    if not named:
        return Rows.none("Nothing of the kind is found here.")
    spread: list[tuple[str, F64, float, str]] = []
    texts: list[str] = []
    numbers: list[int] = []
    places: list[F64] = []
    odd: set[int] = set()
    for name, values, own in named:
        short = scale._replace(digits=min(scale.digits, 2))
        spread.append((name, values.values, values.usual, short.text(values.usual)))
        far = set(values.odd())
        for k in values.furthest()[:LISTED]:
            odd |= {len(texts)} if k in far else set()
            texts.append(_text(name if len(named) > 1 else "", values, k, scale) + ("  odd" if k in far else ""))
            numbers.append(own[k])
            places.append(values.places[k])
    count, strange = sum(len(one[2]) for one in named), sum(len(one[1].odd()) for one in named)
    told = f"{count} measured, {strange or 'none'} odd."
    told += " Pick some to even those alone." if what is What.STROKES else ""
    return Rows(tuple(spread), tuple(texts), tuple(numbers), np.array(places), frozenset(odd), told)


def _text(name: str, values: Reading, k: int, scale: _Scale) -> str:
    off = float(values.values[k]) - values.usual
    is_width = values.usual > 0.0 and values.unit == values.usual
    more = f"{100 * off / values.usual:+.0f} %" if is_width else f"{scale.factor * off:+.2f}"
    return f"{name}  {scale.text(float(values.values[k]))}  {more}".strip().replace("-", "−")


def _corners(found: Reading) -> Rows:
    count = len(found.values)
    if not count:
        return Rows.none("No strokes cross or join here.")
    every = tuple(range(count))
    told = f"{count} corners between strokes. Pick some to sharpen those alone."
    return Rows((), tuple(f"Corner {k + 1}" for k in every), every, found.places, frozenset(every), told)
