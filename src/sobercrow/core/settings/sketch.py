"""How a rough sketch is read: what becomes of what is no line of it, and what was said by hand."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Self

from sobercrow.core.errors import SettingError
from sobercrow.core.outside import number
from sobercrow.core.settings.meaning import Checked, Meaning, Placed, Point, setting


class Treatment(StrEnum):
    """What becomes of something in a sketch that is none of its lines."""

    OUT = "out"
    """It is left out."""
    LAYER = "layer"
    """It has a layer of its own."""
    DRAW = "draw"
    """It is drawn with the lines."""


class Verdict(StrEnum):
    """What is said of a sketch by hand."""

    LINE = "line"
    """Strokes beneath are lines of the drawing."""
    WORKING = "working line"
    SHADING = "shading"
    TWO = "two"
    """What lies left and right of the path are two lines."""
    ONE = "one"
    """All strokes that run with the path are one line."""
    CORNER = "corner"
    """Lines meet here, in a corner."""
    ROUND = "round"
    """Lines meet here and run on into each other."""
    APART = "apart"
    """Lines do not meet here."""


STROKE_VERDICTS = frozenset({Verdict.LINE, Verdict.WORKING, Verdict.SHADING})
PATH_VERDICTS = frozenset({Verdict.TWO, Verdict.ONE})
PLACE_VERDICTS = frozenset({Verdict.CORNER, Verdict.ROUND, Verdict.APART})


@dataclass(frozen=True, slots=True)
class Correction(Placed):
    """One thing said of a sketch by hand; holds whenever it is traced anew.

    `points` and `width_px` are in pixels of the picture brought in. Of strokes, what lies within the width of the path
    is meant, of a single point the whole stroke there; of joints the first point.
    """

    verdict: Verdict
    points: tuple[Point, ...]
    width_px: float = setting(20.0, Meaning("Width", "How far to both sides strokes are meant.", 0.5, 2000, "px", 1, 1))
    shown: bool = True

    def __post_init__(self) -> None:
        """Raise `SettingError` without a place, or for a path that is none."""
        Checked.__post_init__(self)
        if not self.points:
            raise SettingError("A correction needs a place.")
        if self.verdict in PATH_VERDICTS and len(self.points) < 2:
            raise SettingError("Drag along the line.")

    @classmethod
    def from_plain(cls, plain: dict[str, Any]) -> Self:
        """Rebuild from `dataclasses.asdict`."""
        points = tuple((number(x), number(y)) for x, y in plain["points"])
        return cls(**{**plain, "verdict": Verdict(plain["verdict"]), "points": points})
