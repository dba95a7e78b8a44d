"""Chosen shapes and anchors scaled, turned, leaned and mirrored, and brought to an exact size and place."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import Enum

from sobercrow.core.artwork.anchors import change_contours
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.edits import change_shapes
from sobercrow.core.artwork.hit import union_box
from sobercrow.core.artwork.model import Artwork, Box, Shape
from sobercrow.core.artwork.paint import Gradient
from sobercrow.core.artwork.table import anchor_table, rows_of
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour

LEAST_PX = 1e-6
ROUNDS, EXACT = 12, 1e-9


class Nine(Enum):
    """The nine points of a box: how far across and down it, in shares."""

    LEFT_TOP = (0.0, 0.0)
    TOP = (0.5, 0.0)
    RIGHT_TOP = (1.0, 0.0)
    LEFT = (0.0, 0.5)
    MIDDLE = (0.5, 0.5)
    RIGHT = (1.0, 0.5)
    LEFT_BOTTOM = (0.0, 1.0)
    BOTTOM = (0.5, 1.0)
    RIGHT_BOTTOM = (1.0, 1.0)

    def of(self, box: Box) -> tuple[float, float]:
        """Return where it is in a box."""
        across, down = self.value
        return box[0] + across * (box[2] - box[0]), box[1] + down * (box[3] - box[1])

    @property
    def across_from(self) -> Nine:
        """The point on the other side of the middle."""
        across, down = self.value
        return Nine((1.0 - across, 1.0 - down))


def box_of(artwork: Artwork, choice: Choice) -> Box | None:
    """Return the box around the chosen anchors, or else the chosen shapes; None if nothing is chosen."""
    if choice.anchors:
        places = anchor_table(artwork).points[rows_of(artwork, choice.anchors), 1]
        return (*places.min(axis=0).tolist(), *places.max(axis=0).tolist()) if len(places) else None
    return union_box(artwork.shapes[s] for s in choice.shapes)


def placed_contour(contour: Contour, way: Affine) -> Contour:
    """Return a contour mapped; mirrored it is turned round, so that holes stay holes."""
    form = None if contour.form is None else way.form(contour.form)
    made = Contour(way(contour.points), contour.kinds, contour.closed, form)
    return made.reversed() if way.area_ratio < 0.0 and contour.closed else made


def placed_shape(shape: Shape, way: Affine, with_stroke: bool = True) -> Shape:
    """Return a shape mapped, its stroke as wide as before or scaled by the root of the area's ratio."""
    stroke, fill = shape.stroke, shape.fill
    if stroke is not None and with_stroke:
        stroke = stroke.scaled(abs(way.area_ratio) ** 0.5)
    if isinstance(fill, Gradient):
        fill = fill.mapped(way)
    return replace(shape, contours=tuple(placed_contour(c, way) for c in shape.contours), fill=fill, stroke=stroke)


def place(artwork: Artwork, choice: Choice, way: Affine, with_stroke: bool = True) -> Artwork:
    """Map what is chosen: anchors with their handles, or whole shapes.

    Raises
    ------
    EditError
        If it would become flat, or nothing is chosen.
    """
    if abs(way.area_ratio) < 1e-12:
        raise EditError("That would make it flat; give a size greater than nothing.")
    if choice.anchors:

        def change(contour: Contour, places: list[int]) -> Contour:
            if len(places) == len(contour):
                return placed_contour(contour, way)
            points = contour.points.copy()
            points[places] = way(points[places])
            return replace(contour, points=points, form=None)

        return change_contours(artwork, choice.anchors, change)
    if not choice.shapes:
        raise EditError("Choose shapes or anchors first.")
    return change_shapes(
        artwork, lambda index, shape: placed_shape(shape, way, with_stroke) if index in choice.shapes else shape
    )


@dataclass(frozen=True, slots=True)
class Sized:
    """A size wanted, in px; None for a side that follows the other, or stays if the form is not kept."""

    width: float | None = None
    height: float | None = None
    keep_form: bool = True


def to_size(
    artwork: Artwork, choice: Choice, size: Sized, about: Nine = Nine.MIDDLE, with_stroke: bool = True
) -> Artwork:
    """Bring what is chosen to an exact size about one of its nine points; with one side given the other follows.

    Raises
    ------
    EditError
        If nothing is chosen, a size is none, or a side has no length to be scaled.
    """
    box = box_of(artwork, choice)
    if box is None:
        raise EditError("Choose shapes or anchors first.")
    now = (box[2] - box[0], box[3] - box[1])
    wanted: tuple[float | None, ...] = (size.width, size.height)
    if any(w is not None and not w > LEAST_PX for w in wanted):
        raise EditError("A size must be greater than nothing.")
    if any(w is not None and n < LEAST_PX for w, n in zip(wanted, now, strict=True)):
        raise EditError("This has no extent in that direction; there is nothing to scale.")
    if not size.keep_form:  # the other side stays, strokes and all
        wanted = tuple(n if w is None and n > LEAST_PX else w for w, n in zip(wanted, now, strict=True))
    home = about.of(box)
    made = artwork
    for _ in range(ROUNDS):  # one is enough unless strokes stay as wide as they are
        now_box = box_of(made, choice)
        assert now_box is not None
        now = (now_box[2] - now_box[0], now_box[3] - now_box[1])
        ratios = [None if w is None else w / n for w, n in zip(wanted, now, strict=True)]
        other = next((r for r in ratios if r is not None), 1.0) if size.keep_form else 1.0
        across, down = (other if r is None else r for r in ratios)
        x, y = about.of(now_box)
        if max(abs(across - 1.0), abs(down - 1.0), abs(x - home[0]), abs(y - home[1])) < EXACT:
            break
        way = Affine.scaled(across, down, (x, y)).then(Affine.moved(home[0] - x, home[1] - y))
        made = place(made, choice, way, with_stroke)
    return made
