"""The settings of the trace step."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any, Self

from sobercrow.core.outside import number
from sobercrow.core.settings.meaning import Checked, Meaning, setting
from sobercrow.core.settings.sketch import Correction, Treatment


class Meet(StrEnum):
    """How inks meet."""

    FLUSH = "flush"
    """Edge to edge, on one shared border."""
    UNDERLAID = "underlaid"
    """Lower inks run on beneath upper ones."""


class TraceKind(StrEnum):
    """What is drawn."""

    OUTLINES = "outlines"
    """Filled regions."""
    CENTRE_LINES = "centre-lines"
    """Strokes with a width."""
    ONE_LINE = "one-line"
    """Strokes with a width along the lines a rough sketch means, each drawn once."""


@dataclass(frozen=True, slots=True)
class Tracing(Checked):
    """Settings of the fourth step. What is None follows `detail`."""

    detail: float = setting(
        60.0, Meaning("Detail", "From a calm line with few anchors to one that follows every turn.", 0, 100)
    )
    tolerance_px: float | None = setting(
        None, Meaning("Tolerance", "How far the curve may run from the drawn border.", 0.05, 5.0, "px", 0.05, 2)
    )
    corner_angle_deg: float | None = setting(
        None, Meaning("Corner angle", "A turn sharper than this becomes a corner.", 15, 150, "°", 1, 0)
    )
    speck_px2: float | None = setting(
        None, Meaning("Speck size", "Spots smaller than this are left out.", 0, 10000, "px²", 1, 1)
    )
    hole_px2: float | None = setting(
        None, Meaning("Smallest hole", "Holes smaller than this are closed.", 0, 10000, "px²", 1, 1)
    )
    square_up_deg: float = setting(
        0.0, Meaning("Square-up", "Lines so nearly level or upright become exactly so.", 0, 20, "°", 0.5, 1)
    )
    straighten_deg: float = setting(
        0.0, Meaning("Straighten", "Curves that turn no more than this become straight lines.", 0, 45, "°", 1, 0)
    )
    weight_px: float = setting(
        0.0, Meaning("Weight", "How much thicker or thinner every stroke is made.", -20, 20, "px", 0.1, 1)
    )
    kind: TraceKind = TraceKind.OUTLINES
    keep_areas: bool = True
    """Centre lines: ink much wider than the strokes stays filled."""
    follow_pen: bool = False
    """Centre lines swell and taper as the pen did, one line where it was pressed; each is a filled shape then."""
    strays_mm: float | None = setting(
        None, Meaning("Strays", "How far strokes of one line stray from it.", 0.02, 3.0, "mm", 0.01, 2)
    )
    """One line: None has it read from the sketch."""
    keep_apart: float = setting(
        50.0, Meaning("Keep apart", "Lines close together: less makes them one, more keeps them two.", 0, 100)
    )
    working_lines: Treatment = Treatment.OUT
    shading: Treatment = Treatment.OUT
    corrections: tuple[Correction, ...] = ()
    """One line: what was said of strokes and joints by hand."""
    meet: Meet = Meet.UNDERLAID
    overlap_px: float = setting(
        1.5, Meaning("Overlap", "How far lower inks run on beneath upper ones.", 0.5, 40, "px", 0.5, 1)
    )
    order: tuple[str, ...] = ()
    """Inks by their colours, the lowest first; what is not named lies beneath them, the one that covers most lowest."""
    true_shapes: bool = True
    anyway: bool = False
    """Trace it even if it has so many borders that it must be mostly grain, however long that takes."""
    refused: tuple[tuple[float, float, float], ...] = ()
    """True shapes that are drawn by free curves all the same: x, y and size, in px."""

    @property
    def effective_tolerance_px(self) -> float:
        """The tolerance in force: the one set, else what detail asks for (1.6 px at 0, 0.07 px at 100)."""
        if self.tolerance_px is not None:
            return self.tolerance_px
        return float(1.6 * (0.07 / 1.6) ** (self.detail / 100.0))

    @property
    def effective_corner_angle_deg(self) -> float:
        """The corner angle in force: the one set, else from 66° (calm) to 36° (faithful)."""
        if self.corner_angle_deg is not None:
            return self.corner_angle_deg
        return 66.0 - 0.3 * self.detail

    @property
    def effective_speck_px2(self) -> float:
        """The speck size in force: the one set, else from 40 px² (calm) to 2 px² (faithful)."""
        if self.speck_px2 is not None:
            return self.speck_px2
        return float(40.0 * (2.0 / 40.0) ** (self.detail / 100.0))

    @property
    def effective_hole_px2(self) -> float:
        """The smallest hole in force: the one set, else the speck size."""
        return self.effective_speck_px2 if self.hole_px2 is None else self.hole_px2

    def on_enlarged(self, factor: float) -> Self:
        """Return the settings in the pixels of a picture enlarged by a factor.

        What follows the detail is meant for the drawing as it was brought in and grows along; what is set by
        itself is in pixels of the enlarged picture already.
        """
        if factor == 1:
            return self
        return replace(
            self,
            tolerance_px=min(self.effective_tolerance_px * (1.0 if self.tolerance_px else factor), 5.0),
            speck_px2=min(self.effective_speck_px2 * (1.0 if self.speck_px2 is not None else factor**2), 10000.0),
            hole_px2=min(self.effective_hole_px2 * (1.0 if self._hole_is_set else factor**2), 10000.0),
        )

    @property
    def _hole_is_set(self) -> bool:
        return self.hole_px2 is not None or self.speck_px2 is not None

    def reduced(self, reduction: float) -> Self:
        """Return the settings in the larger pixels of a draft; never finer than its pixels can show.

        True shapes and symmetry, which hardly show in a draft, are left to the full result.
        """
        if reduction == 1.0:
            return self
        return replace(
            self,
            tolerance_px=min(max(self.effective_tolerance_px / reduction, 0.15), 5.0),
            speck_px2=max(self.effective_speck_px2 / reduction**2, 1.0),
            hole_px2=max(self.effective_hole_px2 / reduction**2, 1.0),
            corner_angle_deg=self.effective_corner_angle_deg,
            weight_px=self.weight_px / reduction,
            overlap_px=max(self.overlap_px / reduction, 0.5),
            true_shapes=False,
        )

    @classmethod
    def from_plain(cls, plain: dict[str, Any]) -> Self:
        """Rebuild settings from `dataclasses.asdict`, also of one that knew fewer of them."""
        refused = tuple((number(x), number(y), number(size)) for x, y, size in plain.get("refused", ()))
        meet, kind = Meet(plain.get("meet", Meet.UNDERLAID)), TraceKind(plain.get("kind", TraceKind.OUTLINES))
        beside = {name: Treatment(plain.get(name, Treatment.OUT)) for name in ("working_lines", "shading")}
        said = tuple(Correction.from_plain(one) for one in plain.get("corrections", ()))
        given = {"meet": meet, "kind": kind, "refused": refused, "order": tuple(plain.get("order", ())), **beside}
        given["corrections"] = said
        return cls(**{**plain, **given})
