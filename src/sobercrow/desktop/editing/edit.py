"""What an edit is: menus, keys and the buttons of the panel are made from tables of these."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum

from sobercrow.core.artwork.arranging import To
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.combining import Backing
from sobercrow.core.artwork.lines import By
from sobercrow.core.artwork.mirroring import Axis
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.settings import Meaning, setting


class Through(StrEnum):
    """Where the axis to mirror in lies."""

    CHOICE = "choice"
    PAGE = "page"
    LAID = "laid"


@dataclass(frozen=True, slots=True)
class Dials:
    """The numbers that edits go by, as the panel has them."""

    radius_mm: float = setting(1.0, Meaning("Radius", "Of rounded corners.", 0.05, 50.0, "mm", 0.1, 2))
    tolerance_px: float = setting(
        0.25, Meaning("Tolerance", "How far the thinned line may lie from the present one.", 0.02, 5.0, "px", 0.01, 2)
    )
    apart_px: float = setting(1.0, Meaning("Crowded", "Anchors nearer than this are one.", 0.1, 20.0, "px", 0.1, 1))
    by: By = By.MEAN
    to: To = To.CHOICE
    axis_upright: bool = True
    axis_through: Through = Through.CHOICE
    axis: Axis | None = None
    """Which way the axis to mirror in lies, and through what; or the axis itself, as it was laid on the canvas."""
    aside_mm: float = setting(
        5.0, Meaning("Aside", "How far copies lie aside, to the right and down.", -500, 500, "mm", 0.5, 2)
    )
    columns: float = setting(3.0, Meaning("Columns", "Side by side.", 1.0, 200.0, "", 1.0, 0))
    rows: float = setting(2.0, Meaning("Rows", "One below the other.", 1.0, 200.0, "", 1.0, 0))
    gap_mm: float = setting(2.0, Meaning("Gap", "Between columns and rows.", -500.0, 500.0, "mm", 0.1, 2))
    copies: float = setting(6.0, Meaning("Copies", "In all, evenly around the middle.", 2.0, 360.0, "", 1.0, 0))
    backing: Backing = field(default_factory=Backing)


Work = Callable[..., Artwork | Edited]
"""Artwork, choice, dials, and for one that reports the progress: artwork out, and what is chosen in it."""


@dataclass(frozen=True, slots=True)
class Edit:
    """One edit: what it is called, what it does, and how much must be chosen for it."""

    id: str
    title: str
    help: str
    work: Work
    least_anchors: int = 0
    least_shapes: int = 0
    keys: tuple[str, ...] = ()
    starts_group: bool = False
    name: str = ""
    """What undo calls it, if not by its title."""
    menu: str = "Line"
    slow_from: int = 300
    """With so many anchors in what it works on it is worked out in the background."""
    reports: bool = False
    """Whether its work can be given a function that is told the share done, and stops it."""
    with_ribbon: bool = False
    """Whether a ribbon shows what it would move, while it is tried."""

    @property
    def named(self) -> str:
        """What undo and the menu call it."""
        return self.name or self.title

    def is_slow(self, artwork: Artwork, choice: Choice) -> bool:
        """Tell whether it is to be worked out in the background."""
        shapes = choice.shapes or {name.shape for name in choice.anchors} or range(len(artwork.shapes))
        return sum(artwork.shapes[k].anchor_count for k in shapes) >= self.slow_from

    def fits(self, choice: Choice) -> bool:
        """Tell whether there is enough chosen for it."""
        return len(choice.anchors) >= self.least_anchors and len(choice.shapes) >= self.least_shapes
