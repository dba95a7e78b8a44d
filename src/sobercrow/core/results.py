"""What comes of a picture: the results of all steps for one group of settings."""

from __future__ import annotations

import math
from collections.abc import Hashable
from dataclasses import dataclass

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.cleanup.check import Finding
from sobercrow.core.cleanup.clean import Sheet
from sobercrow.core.cleanup.evidence import Evidence
from sobercrow.core.cleanup.nature import Nature
from sobercrow.core.cleanup.sheet import SheetMap
from sobercrow.core.history.history import History
from sobercrow.core.inks.separation import Separation
from sobercrow.core.inspect.deviation import Deviation, Figures
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Settings
from sobercrow.core.sketch.reading import SketchReading
from sobercrow.core.tracing.borders import Borders
from sobercrow.core.tracing.true_shapes import TrueShape


@dataclass(frozen=True, slots=True, eq=False)
class Results:
    """The results of all steps for one group of settings.

    `nature` is what kind of picture it looks like; `sheet` is the cleaned sheet with what was found on the way to
    it; `place` leads from pixels of the picture brought in to those of the cleaned picture at full scale. A draft
    was computed at a scale smaller by `reduction`; its artwork, its `deviation` and `forms`, the true shapes found,
    are at full scale all the same, while `sheet`, `cleaned`, `separation` and `borders` are at the reduced one.
    `findings` are those of the picture check, or empty until it has been made. `is_draft` says that a fuller result
    is to come. `seconds` has the time each step took when it was last computed. `history` is what the picture went
    through, `own_scale` how much smaller the sheet is than the picture brought in since it went back to its own size,
    across and down.
    """

    settings: Settings
    nature: Nature
    sheet: Sheet
    place: SheetMap
    cleaned: Picture
    separation: Separation
    artwork: Artwork
    borders: Borders
    figures: Figures
    deviation: Deviation
    forms: tuple[TrueShape, ...]
    findings: tuple[Finding, ...]
    reduction: float
    is_draft: bool
    seconds: dict[str, float]
    history: History
    own_scale: tuple[float, float]
    sketch: SketchReading | None = None
    """What was read of a sketch that is drawn as one line."""

    @property
    def sheet_scale(self) -> tuple[float, float]:
        """How many pixels of the cleaned picture there are for one of the sheet, across and down."""
        enlarged = self.settings.clean_up.in_force().enlarge
        return self.own_scale[0] * enlarged, self.own_scale[1] * enlarged

    @property
    def sketch_scale(self) -> float:
        """How large a pixel of what was read of a sketch is in the artwork."""
        assert self.sketch is not None
        return float(self.artwork.width_px / self.separation.own.shape[1] * self.sketch.reduction)

    @property
    def enlarged(self) -> float:
        """The mean of `sheet_scale`: by how much the resolution is another."""
        return math.sqrt(self.sheet_scale[0] * self.sheet_scale[1])


@dataclass(frozen=True, slots=True, eq=False)
class Cleaning:
    """A cleaned sheet, what it depends on, its place at full scale, and how much smaller it was made.

    `undone` tells whether it shows the picture as it was before it was compressed; `evidence` is what tells of that,
    if its pixels lie where those of the sheet do.
    """

    sheet: Sheet
    key: Hashable
    place: SheetMap
    reduction: float
    undone: bool
    evidence: Evidence | None

    @property
    def own_place(self) -> SheetMap:
        """The place of the sheet as it was made."""
        factor = self.reduction
        return (
            self.place if factor == 1.0 else self.place.resized(self.place.width / factor, self.place.height / factor)
        )
