"""Plates: the artwork of each ink alone, in position, with register marks and its name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np
import shapely

from sobercrow.core.artwork.edits import change_shapes
from sobercrow.core.artwork.hit import boxes_meet
from sobercrow.core.artwork.joining import area_contours
from sobercrow.core.artwork.model import Artwork, Layer, Shape, stroked
from sobercrow.core.geometry.combine import How, Progress, combine_all, contours_around, region
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.forms import Ellipse
from sobercrow.core.handover.inks import coats_of, named_colours
from sobercrow.core.lettering.outlines import text_shape
from sobercrow.core.settings import Checked, Meaning, mm_to_px, setting

BLACK = "#000000"
ROOM_MM, MARK_MM, LINE_MM, TEXT_MM = 12.0, 5.0, 0.1, 3.0
"""Room around the page for marks; their size, the width of their lines and of the name's letters (common practice)."""
FLAT_PX, FIT_PX = 0.02, 0.02


class Beneath(StrEnum):
    """What becomes of an ink where another lies upon it."""

    CUT_OUT = "cut out"
    LEFT = "left"


@dataclass(frozen=True, slots=True)
class PlateSettings(Checked):
    """How plates are made."""

    in_black: bool = field(
        default=True, metadata={"label": "Black", "help": "As films are wanted; else each in its own colour."}
    )
    beneath: Beneath = field(
        default=Beneath.CUT_OUT,
        metadata={"label": "Beneath others", "help": "What another ink covers is cut out, or left."},
    )
    under_mm: float = setting(
        0.0,
        Meaning(
            "Runs under by",
            "So far a lower ink goes on beneath an upper one; less than 0 leaves a gap.",
            -5.0,
            5.0,
            "mm",
            0.05,
            2,
        ),
    )
    marks: bool = field(
        default=True, metadata={"label": "Register marks", "help": "At the middle of every side, with the ink's name."}
    )


@dataclass(frozen=True, slots=True)
class Plate:
    """One ink alone on its page."""

    name: str
    colour: str
    artwork: Artwork


def plates_of(
    artwork: Artwork, settings: PlateSettings = PlateSettings(), progress: Progress | None = None
) -> list[Plate]:
    """Return the plates of laid artwork, one for each ink that is seen, all on pages of one size."""
    coats = coats_of(artwork)
    names = named_colours(artwork, coats)
    contours = [area_contours(coat.shape) for coat in coats]
    boxes = [Shape(group).bounds() if group else (0.0, 0.0, -1.0, -1.0) for group in contours]
    left: dict[str, list[Shape]] = {colour: [] for colour in names}
    for k, coat in enumerate(coats):
        if progress is not None:
            progress(k / len(coats))
        colour = coat.shape.colour
        above = [
            contours[j]
            for j in range(k + 1, len(coats))
            if coats[j].shape.colour != colour and boxes_meet(boxes[j], boxes[k])
        ]
        shown = BLACK if settings.in_black else colour
        if settings.beneath is Beneath.LEFT or not above:
            left[colour].append(_painted(coat.shape, shown))
        else:
            left[colour] += [Shape(part, shown) for part in _cut_out(contours[k], above, settings, artwork.dpi)]
    room = mm_to_px(ROOM_MM, artwork.dpi) if settings.marks else 0.0
    return [
        _plate(artwork, names[colour], colour, BLACK if settings.in_black else colour, shapes, room)
        for colour, shapes in left.items()
    ]


def _painted(shape: Shape, colour: str) -> Shape:
    if shape.stroke is None:
        return replace(shape, fill=colour)
    return replace(shape, stroke=replace(shape.stroke, colour=colour))


def _cut_out(
    own: tuple[Contour, ...], above: Sequence[tuple[Contour, ...]], settings: PlateSettings, dpi: float
) -> list[tuple[Contour, ...]]:
    """What of an area is not covered by those above it, which count as grown or shrunk."""
    if settings.under_mm:
        cover = shapely.union_all([region(group, FLAT_PX) for group in above])
        cover = cover.buffer(-mm_to_px(settings.under_mm, dpi), quad_segs=16)
        if cover.is_empty:
            return [own]
        above = [tuple(contours_around(cover, FIT_PX))]
    return combine_all([own, *above], How.SUBTRACT)


def _plate(artwork: Artwork, name: str, colour: str, shown: str, shapes: list[Shape], room: float) -> Plate:
    page = replace(artwork, layers=(Layer(name, tuple(shapes)),))
    if room > 0.0:
        page = change_shapes(page, lambda _, shape: shape.moved(room, room))
        page = replace(page, width_px=artwork.width_px + 2.0 * room, height_px=artwork.height_px + 2.0 * room)
        page = replace(page, layers=(*page.layers, Layer("Register", tuple(_marks(page, name, shown, room)))))
    return Plate(name, colour, page)


def _marks(page: Artwork, name: str, colour: str, room: float) -> list[Shape]:
    """A circle with a cross at the middle of every side, and the ink's name at the lower left."""
    width, height, half = page.width_px, page.height_px, mm_to_px(0.5 * MARK_MM, page.dpi)
    line = mm_to_px(LINE_MM, page.dpi)
    made = []
    for x, y in (
        (width / 2, room / 2),
        (width / 2, height - room / 2),
        (room / 2, height / 2),
        (width - room / 2, height / 2),
    ):
        ring = Ellipse(x, y, 0.6 * half, 0.6 * half)
        circle = Contour(ring.anchors(), np.full(4, int(AnchorKind.SMOOTH), np.uint8), form=ring)
        cross = [_stroke((x - half, y), (x + half, y)), _stroke((x, y - half), (x, y + half))]
        made.append(stroked((circle, *cross), colour, line))
    size = mm_to_px(TEXT_MM, page.dpi)
    text = text_shape(name, room, height - 0.5 * room + 0.4 * size, size, colour)
    return [*made, text] if text is not None else made


def _stroke(start: tuple[float, float], end: tuple[float, float]) -> Contour:
    points = np.repeat(np.array([start, end], dtype=np.float64)[:, None], 3, axis=1)
    return Contour(points, np.zeros(2, np.uint8), False)
