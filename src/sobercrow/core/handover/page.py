"""True size and page: artwork laid on the sheet it will be handed over on."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from sobercrow.core.artwork.edits import change_shapes
from sobercrow.core.artwork.hit import Frame, box_table, union_box
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import ExportError
from sobercrow.core.settings import MM_PER_INCH, Checked, Meaning, mm_to_px, px_to_mm, setting

PICTURE, ARTWORK, OWN = "picture", "artwork", "own"
LARGEST_MM = 20_000.0
OUTSIDE_MM = 1e-3
"""What reaches no further over the edge of the page lies on it."""


def _series(longer_mm: float, shorter_mm: float, letter: str) -> dict[str, tuple[float, float]]:
    """Sizes of a series of ISO 216, upright: each the one before halved, whole millimetres kept."""
    sizes = {}
    width, height = shorter_mm, longer_mm
    for k in range(9):
        sizes[f"{letter}{k}"] = (width, height)
        width, height = float(height // 2), width
    return sizes


PAPERS: dict[str, tuple[float, float]] = {
    **_series(1189.0, 841.0, "A"),
    **_series(1414.0, 1000.0, "B"),
    "Letter": (8.5 * MM_PER_INCH, 11.0 * MM_PER_INCH),
    "Legal": (8.5 * MM_PER_INCH, 14.0 * MM_PER_INCH),
    "Tabloid": (11.0 * MM_PER_INCH, 17.0 * MM_PER_INCH),
    "Card": (55.0, 85.0),
    "Square": (210.0, 210.0),
}
"""Width and height in mm, upright: ISO 216; US sizes by ASME Y14.1 and common practice."""


@dataclass(frozen=True, slots=True)
class TrueSize(Checked):
    """How large the artwork is, all that is inked: by its width, by its height, or so many per cent of what it is."""

    width_mm: float | None = setting(None, Meaning("Width", "Of all that is inked.", 0.1, LARGEST_MM, "mm", 1.0, 2))
    height_mm: float | None = setting(None, Meaning("Height", "Of all that is inked.", 0.1, LARGEST_MM, "mm", 1.0, 2))
    scale: float = setting(100.0, Meaning("Scale", "Against the size it was drawn at.", 0.1, 100_000.0, "%", 5.0, 1))

    def factor(self, width_mm: float, height_mm: float) -> float:
        """Return by how much something so large is scaled."""
        if self.width_mm is not None and width_mm > 0.0:
            return self.width_mm / width_mm
        if self.height_mm is not None and height_mm > 0.0:
            return self.height_mm / height_mm
        return self.scale / 100.0


@dataclass(frozen=True, slots=True)
class Page(Checked):
    """The sheet artwork is laid on.

    `paper` is `PICTURE` (as large as the picture that was traced), `ARTWORK` (no larger than what is inked), `OWN` or a
    name of `PAPERS`. `at` is where the artwork lies between left and right, top and bottom, each from 0 to 1; `by_hand`
    its left upper corner in mm, which goes before it.
    """

    paper: str = PICTURE
    is_lying: bool = False
    width_mm: float = setting(100.0, Meaning("Page width", "Of a page of your own.", 1.0, LARGEST_MM, "mm", 1.0, 2))
    height_mm: float = setting(100.0, Meaning("Page height", "Of a page of your own.", 1.0, LARGEST_MM, "mm", 1.0, 2))
    margin_mm: float = setting(
        0.0,
        Meaning(
            "Margin",
            "Kept free along the edges; around the artwork where the page is its own.",
            0.0,
            500.0,
            "mm",
            1.0,
            1,
        ),
    )
    at: tuple[float, float] = (0.5, 0.5)
    by_hand: tuple[float, float] | None = None

    def __post_init__(self) -> None:
        """Raise `SettingError` for a number outside its range, `ExportError` for a paper nobody knows."""
        Checked.__post_init__(self)
        if self.paper not in (PICTURE, ARTWORK, OWN, *PAPERS):
            raise ExportError(f"There is no page “{self.paper}”; there are {PICTURE}, {ARTWORK}, {', '.join(PAPERS)}.")

    @property
    def is_fitted(self) -> bool:
        """Whether the page is as large as the artwork or its picture has it."""
        return self.paper in (PICTURE, ARTWORK)

    def size_mm(self) -> tuple[float, float]:
        """Return width and height of a page that is not fitted."""
        width, height = PAPERS.get(self.paper, (self.width_mm, self.height_mm))
        if self.paper == OWN:
            return width, height
        return (max(width, height), min(width, height)) if self.is_lying else (width, height)


@dataclass(frozen=True, slots=True)
class Sheet:
    """Size and page together."""

    size: TrueSize = TrueSize()
    page: Page = Page()


def seen_box(artwork: Artwork) -> Frame | None:
    """Return left, top, right, bottom of all that is inked and seen, in px; None where nothing is."""
    unseen = artwork.out_of_sight
    return union_box(shape for k, shape in enumerate(artwork.shapes) if k not in unseen)


class Lie(NamedTuple):
    """How artwork lies on its page: how far it is shifted, and the page's size, in px; and px to the inch there."""

    dx: float
    dy: float
    width_px: float
    height_px: float
    dpi: float


def lie_of(artwork: Artwork, sheet: Sheet) -> Lie:
    """Return how artwork lies on its page.

    Raises
    ------
    ExportError
        If nothing is seen, or a margin leaves no room on the page.
    """
    box = seen_box(artwork)
    if box is None:
        raise ExportError("There is no artwork to hand over; trace something, or show its layers.")
    left, top, right, bottom = box
    width, height = right - left, bottom - top
    factor = sheet.size.factor(px_to_mm(width, artwork.dpi), px_to_mm(height, artwork.dpi))
    dpi = artwork.dpi / factor
    page = sheet.page
    margin = mm_to_px(page.margin_mm, dpi)
    if page.paper == PICTURE:
        return Lie(margin, margin, artwork.width_px + 2.0 * margin, artwork.height_px + 2.0 * margin, dpi)
    if page.paper == ARTWORK:
        return Lie(margin - left, margin - top, max(width, 1e-6) + 2.0 * margin, max(height, 1e-6) + 2.0 * margin, dpi)
    across, down = (mm_to_px(side, dpi) for side in page.size_mm())
    if 2.0 * margin >= min(across, down):
        raise ExportError("The margin leaves no room on the page; make it smaller.")
    x = margin + page.at[0] * (across - 2.0 * margin - width)
    y = margin + page.at[1] * (down - 2.0 * margin - height)
    if page.by_hand is not None:
        x, y = (mm_to_px(v, dpi) for v in page.by_hand)
    return Lie(x - left, y - top, across, down, dpi)


def laid(artwork: Artwork, sheet: Sheet) -> Artwork:
    """Return artwork laid on its page: as wide and high as the page, its resolution so that it has its true size.

    Coordinates are shifted at most, never scaled: what was exact stays so. A plain sheet gives back the same artwork.
    Raises `ExportError` as `lie_of` does.
    """
    dx, dy, width, height, dpi = lie_of(artwork, sheet)
    shifted = artwork if dx == dy == 0.0 else change_shapes(artwork, lambda _, shape: shape.moved(dx, dy))
    return replace(shifted, width_px=width, height_px=height, dpi=dpi)


def outside(artwork: Artwork, lie: Lie | None = None) -> list[int]:
    """Return which seen shapes reach beyond the page: of laid artwork, or of artwork that would lie so on its page."""
    lie = lie or Lie(0.0, 0.0, artwork.width_px, artwork.height_px, artwork.dpi)
    slack, unseen = mm_to_px(OUTSIDE_MM, lie.dpi), artwork.out_of_sight
    boxes = box_table(artwork)
    low, high = boxes[:, :2] + np.array((lie.dx, lie.dy)), boxes[:, 2:] + np.array((lie.dx, lie.dy))
    over = (low < -slack).any(axis=1) | (high > np.array((lie.width_px, lie.height_px)) + slack).any(axis=1)
    return [k for k in np.flatnonzero(over).tolist() if k not in unseen]
