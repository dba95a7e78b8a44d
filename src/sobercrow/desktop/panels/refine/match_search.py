"""A search for the typeface of lettering, as it runs in a worker."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import NamedTuple

from sobercrow.core.artwork.model import Group, Shape
from sobercrow.core.lettering.area import Box, lettering_in_area
from sobercrow.core.lettering.baseline import Baseline
from sobercrow.core.lettering.index import Index, read_index
from sobercrow.core.lettering.keeping import reopened, retyped
from sobercrow.core.lettering.matches import Match
from sobercrow.core.lettering.matching import match
from sobercrow.core.lettering.typefaces import Face
from sobercrow.core.picture.picture import Picture
from sobercrow.core.stopping import go_on
from sobercrow.desktop.worker import Give, Report

READING = 0.5
"""Share of a search that is told while typefaces are read."""


class Found(NamedTuple):
    """All that was found of the shapes that were looked at; what comes before is a first look, a list of matches."""

    shapes: tuple[Shape, ...]
    matches: list[Match]


@dataclass(frozen=True, slots=True, eq=False)
class Search:
    """What is looked for: shapes, or an area of a picture shown `width_px` wide; or a group that was set is opened.

    `index` is what was read of the files before, if it was. The text, the base line and the typeface to begin with are
    None where they are not known.
    """

    shapes: Sequence[Shape]
    area: Box | None
    picture: Picture
    width_px: float
    group: Group | None
    index: Index | None
    files: Callable[[], list[Path]]
    text: str | None
    arcs: bool
    base: Baseline | None
    first: Face | None

    def __call__(self, give: Give, report: Report) -> None:
        """Run it: gives the index, a first look, and what was found."""

        def told(begin: float, share: float) -> None:
            go_on()
            report("Typefaces", begin + READING * share)

        if self.group is not None:
            again = reopened(self.group)
            one = retyped(again, self.text) if self.text and self.text != again.text else again
            give(Found(tuple(self.shapes), [one]))
            return
        known = self.index or read_index(self.files(), progress=partial(told, 0.0))
        give(known)
        shapes = lettering_in_area(self.picture, self.area, self.width_px) if self.area is not None else self.shapes
        tell = partial(told, READING)
        found = match(shapes, known, self.text, self.arcs, tell, self.base, give, self.first)
        give(Found(tuple(shapes), found))
