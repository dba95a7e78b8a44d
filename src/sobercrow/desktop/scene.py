"""All that the layers need to know to paint a frame."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import Enum

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.hit import artwork_box
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.snapping import Guide
from sobercrow.core.cleanup.sheet import SheetMap
from sobercrow.desktop import tokens
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.presentation import Presentation


class Showing(Enum):
    """What a side of the canvas shows."""

    SOURCE = "Brought in"
    CLEANED = "Cleaned"
    SHADE = "Shade"
    INKS = "Inks"
    SOLO = "One ink"
    ERROR = "Error"
    FILLED = "Filled"
    OUTLINE = "Outline"
    OVER = "Over drawing"
    DEVIATION = "Deviation"
    PROOF = "Proof"
    WRITTEN = "As written"


@dataclass(frozen=True, slots=True)
class Lifted:
    """Shapes held by the pointer, and how far they were carried, in picture pixels."""

    shapes: frozenset[int]
    dx: float
    dy: float


@dataclass(frozen=True, slots=True)
class Scene:
    """All a layer needs to paint one frame.

    `threshold` is that of one ink while nothing but it decides, `solo` the ink shown alone.
    `place` leads from pixels of the picture brought in to those of what is shown: the cleaned picture, or the
    picture brought in itself, which `is_raw` tells. `sheet_rect` is the whole sheet without its crop, in pixels of what
    is shown.
    """

    presentation: Presentation
    artwork: Artwork
    threshold: int | None
    solo: int | None
    place: SheetMap
    sheet_rect: QRectF
    camera: Camera
    width: float
    height: float
    choice: Choice
    moving: bool = False
    lifted: Lifted | None = None
    is_raw: bool = False
    guides: tuple[Guide, ...] = ()

    @property
    def base(self) -> Artwork:
        """The artwork as it was before the drag that is going on."""
        return self.presentation.artwork

    @property
    def live(self) -> range:
        """The shapes that change while they are dragged, and those between them."""
        shown, before = self.artwork.shapes, self.base.shapes
        if shown is before:
            return range(0)
        if len(shown) != len(before):
            return range(len(shown))
        changed = [k for k, (one, other) in enumerate(zip(shown, before, strict=True)) if one is not other]
        return range(changed[0], changed[-1] + 1) if changed else range(0)

    def content_on_screen(self) -> tuple[float, float, float, float]:
        """Where all of the artwork lies in the view, with its marks: left, top, right, bottom."""
        left, top, right, bottom = artwork_box(self.base)
        x, y = self.camera.to_screen(left, top, self.width, self.height)
        zoom, mark = self.camera.zoom, 3.0 * tokens.ANCHOR_PX
        return x - mark, y - mark, x + (right - left) * zoom + mark, y + (bottom - top) * zoom + mark

    @property
    def page_rect(self) -> QRectF:
        """The picture shown, in its own pixels."""
        return QRectF(0, 0, self.place.width, self.place.height)

    def on_screen(self, x: float, y: float) -> QPointF:
        """Where a picture point lies on screen."""
        return QPointF(*self.camera.to_screen(x, y, self.width, self.height))

    def points_on_screen(self, points: F64) -> F64:
        """Where picture points (n, 2) lie on screen."""
        camera = self.camera
        return (points - (camera.x, camera.y)) * camera.zoom + (0.5 * self.width, 0.5 * self.height)

    def rect_on_screen(self, rect: QRectF) -> QRectF:
        """Where a rectangle of picture pixels lies on screen."""
        return QRectF(self.on_screen(rect.left(), rect.top()), self.on_screen(rect.right(), rect.bottom()))

    def to_picture(self, painter: QPainter) -> None:
        """Let a painter paint in picture pixels from now on."""
        painter.translate(self.width / 2, self.height / 2)
        painter.scale(self.camera.zoom, self.camera.zoom)
        painter.translate(-self.camera.x, -self.camera.y)

    def visible(self) -> tuple[float, float, float, float]:
        """The part of the picture in view: left, top, right, bottom."""
        return (
            *self.camera.to_picture(0, 0, self.width, self.height),
            *self.camera.to_picture(self.width, self.height, self.width, self.height),
        )


def carried(scene: Scene, lifted: Lifted) -> Scene:
    """The view in which what is lifted lies where it was carried to."""
    camera = scene.camera
    return replace(scene, camera=replace(camera, x=camera.x - lifted.dx, y=camera.y - lifted.dy))
