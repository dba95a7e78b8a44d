"""The canvas: shows a step's result, or two at a seam, and hands the pointer to the tools."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from inspect import GEN_RUNNING, getgeneratorstate

import numpy as np
from PySide6.QtCore import QEvent, QLineF, QPoint, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.hit import union_box
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.cleanup.sheet import SheetMap, sheet_map
from sobercrow.core.inks.separation import OneInk
from sobercrow.core.job import Results
from sobercrow.core.settings import ASSUMED_DPI, Point
from sobercrow.desktop import tokens
from sobercrow.desktop.canvas import ink_tools, overlays, tools, touch_tools
from sobercrow.desktop.canvas.anchor_marks import AnchorLayer
from sobercrow.desktop.canvas.artwork_layer import ArtworkLayer
from sobercrow.desktop.canvas.camera import Camera
from sobercrow.desktop.canvas.ink_tools import InkBrush
from sobercrow.desktop.canvas.layers import ChosenLayer, PictureLayer, RibbonLayer, SpeckLayer
from sobercrow.desktop.canvas.scene import Lifted, Scene, Showing
from sobercrow.desktop.canvas.tools import Drag, Pointer, Tool
from sobercrow.desktop.canvas.touch_tools import Brush, Sketch
from sobercrow.desktop.document import Document
from sobercrow.desktop.theme import palette

SETTLE_MS = 150
"""So long after the last move of the view it is painted at its best."""

ARTWORK_VIEWS = (Showing.FILLED, Showing.OUTLINE, Showing.OVER)


class Canvas(QWidget):
    """The drawing on the desk. Owns the camera, the seam and the previews of drags; changes go to the document."""

    pointed = Signal(float, float)
    left = Signal()
    camera_changed = Signal()
    seam_changed = Signal()
    cropped = Signal(object)
    cornered = Signal(object)
    measured = Signal(float)
    levelled = Signal(float)
    picked = Signal(float, float)
    touched = Signal(object)
    ink_touched = Signal(object)
    ink_pointed = Signal(float, float, bool)

    def __init__(self, document: Document) -> None:
        """Show a document."""
        super().__init__()
        self.document = document
        self.camera = Camera()
        self.showing = Showing.OVER
        self.other_side = Showing.CLEANED
        self.proof: Artwork | None = None
        self.seam: float | None = None
        self.peeking = False
        self.tool: Tool | None = None
        self.crop_editing = False
        self.corners: list[Point] | None = None
        self.raw = False
        self.brush = Brush()
        self.ink_brush = InkBrush()
        self.solo: int | None = None
        self.specks: list[F64] = []
        self.sketch: Sketch | None = None
        self.ruler: tuple[QPointF, QPointF, str] | None = None
        self._at: QPointF | None = None
        self.preview: Artwork | None = None
        self.lifted: Lifted | None = None
        self.crop_preview: QRectF | None = None
        self.frame: QRectF | None = None
        self._drag: Drag | None = None
        self._dragged_in: Artwork | None = None
        self._space = False
        self._fit_next = True
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self.update)
        self._picture, self._artwork, self._beyond_seam = PictureLayer(), ArtworkLayer(), ArtworkLayer()
        self._chosen, self._anchors, self._specks = ChosenLayer(), AnchorLayer(), SpeckLayer()
        self._ribbon = RibbonLayer()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Drawing")
        self.setMinimumSize(300, 200)
        document.opened.connect(self._opened)
        document.presented.connect(self._presented)
        document.selection_changed.connect(self.update)
        document.state_changed.connect(self.update)

    # what is shown

    def scene(self) -> Scene | None:
        """Return all there is to paint, or None before the first result."""
        presentation, source = self.document.presentation, self.document.source
        if presentation is None or source is None:
            return None
        # the place the results were made with, so that picture and artwork stay together until new ones come
        results = presentation.results
        place, sheet = results.place, self._uncropped(results)
        if self.raw:
            place = SheetMap(np.eye(3), source.width, source.height, exact=True)
            sheet = QRectF(0, 0, source.width, source.height)
        inks, separation = self.document.state.settings.inks, results.separation
        threshold = None
        if presentation.tones is not None and isinstance(separation, OneInk):
            threshold = separation.threshold if inks.threshold is None else inks.threshold
        return Scene(
            presentation,
            self.preview if self.preview is not None else presentation.artwork,
            threshold,
            self.solo,
            place,
            sheet,
            self.camera,
            float(self.width()),
            float(self.height()),
            self.document.selection,
            self._settle.isActive() or self.lifted is not None,
            self.lifted,
        )

    def _uncropped(self, results: Results) -> QRectF:
        """The whole sheet without its crop, in pixels of the cleaned picture."""
        source, clean_up = self.document.source, results.settings.clean_up.in_force()
        if clean_up.crop is None or source is None:
            return QRectF(0, 0, results.place.width, results.place.height)
        whole = sheet_map(source.width, source.height, clean_up, with_crop=False)
        n = clean_up.enlarge
        return QRectF(-clean_up.crop.left * n, -clean_up.crop.top * n, whole.width * n, whole.height * n)

    def set_raw(self, raw: bool) -> None:
        """Show the picture as it was brought in, by itself and in its own pixels, or what became of it."""
        if raw != self.raw:
            self.raw = raw
            self.fit()
            self.update()

    def edit_corners(self, corners: Sequence[Point] | None) -> None:
        """Show four corners to be dragged on the picture brought in, or with None put them away."""
        self.corners = list(corners) if corners is not None else None
        self.update()

    def set_brush(self, brush: Brush) -> None:
        """Touch up with another width, colour or form."""
        self.brush = brush
        self.update()

    def set_ink_brush(self, brush: InkBrush) -> None:
        """Touch up the inks with another width, form or ink."""
        self.ink_brush = brush
        self.update()

    def show_solo(self, ink: int | None) -> None:
        """Choose which ink is shown where one is shown alone."""
        self.solo = ink
        self.update()

    def show_specks(self, outlines: list[F64]) -> None:
        """Hatch what would be cleared away."""
        self.specks = outlines
        self.update()

    def dpi(self) -> float:
        """Return the resolution of what is shown: of the artwork, or of the picture as brought in."""
        presentation = self.document.presentation
        if presentation is None:
            return ASSUMED_DPI
        results = presentation.results
        enlarged = results.settings.clean_up.in_force().enlarge if self.raw else 1
        return presentation.artwork.dpi / enlarged

    def set_showing(self, showing: Showing) -> None:
        """Choose what is shown, right of the seam if there is one."""
        self.showing = showing
        self.update()

    def show_preview(self, artwork: Artwork) -> None:
        """Show artwork as it would become, while it is dragged."""
        self.preview = artwork
        self.update()

    def lift(self, shapes: frozenset[int], dx: float, dy: float) -> None:
        """Show some shapes carried elsewhere, in picture pixels; nothing of them is worked out before they are laid."""
        self.lifted = Lifted(shapes, dx, dy)
        self.update()

    def set_seam(self, share: float | None) -> None:
        """Put the seam at a share of the width, 0-1, or put it away."""
        self.seam = share
        self.seam_changed.emit()
        self.update()

    def set_other_side(self, showing: Showing) -> None:
        """Choose what lies left of the seam."""
        self.other_side = showing
        self.seam_changed.emit()
        self.update()

    def compare_with(self, proof: Artwork) -> None:
        """Lay a proof's artwork left of the seam, and the present result right of it."""
        self.proof = proof
        self.other_side = Showing.PROOF
        self.set_seam(0.5 if self.seam is None else self.seam)

    def set_peeking(self, peeking: bool) -> None:
        """Show the cleaned drawing beneath the artwork, or stop."""
        if peeking != self.peeking:
            self.peeking = peeking
            self.update()

    # the camera

    def look_at(self, x: float, y: float, zoom: float) -> None:
        """Bring a place of the picture to the middle, at least so large."""
        self.set_camera(Camera(x, y, max(self.camera.zoom, zoom)))

    def set_camera(self, camera: Camera) -> None:
        """Look elsewhere."""
        if camera != self.camera:
            self.camera = camera
            self._settle.start(SETTLE_MS)
            self.camera_changed.emit()
            self.update()

    def fit(self) -> None:
        """Show the whole picture."""
        scene = self.scene()
        if scene is not None:
            rect = scene.sheet_rect if self.crop_editing else scene.page_rect
            self.set_camera(
                Camera.fitting((rect.left(), rect.top(), rect.right(), rect.bottom()), self.width(), self.height())
            )

    def fit_chosen(self) -> None:
        """Show the chosen shapes as large as they go."""
        artwork = self.document.artwork
        if artwork is None:
            return
        indices = self.document.selection.shapes | {a.shape for a in self.document.selection.anchors}
        box = union_box(artwork.shapes[s] for s in indices)
        if box is not None:
            self.set_camera(Camera.fitting(box, self.width(), self.height()))

    def zoom_by(self, factor: float, at: QPointF | None = None) -> None:
        """Zoom about a point of the screen, or about the middle."""
        point = at if at is not None else QPointF(self.width() / 2, self.height() / 2)
        self.set_camera(self.camera.zoomed(factor, point.x(), point.y(), self.width(), self.height()))

    def zoom_to(self, zoom: float) -> None:
        """Show at an exact zoom, 1 being one screen pixel per picture pixel."""
        self.zoom_by(zoom / self.camera.zoom)

    def reach_px(self) -> float:
        """How near is near enough to hit something, in picture pixels."""
        return tokens.HIT_PX / self.camera.zoom

    def _opened(self) -> None:
        self._fit_next = True
        self.preview = self.lifted = None
        self.update()

    def _presented(self) -> None:
        if self.tool in (tools.choose, tools.edit_anchors) and self.document.artwork is not self._dragged_in:
            self.end_drag()  # what was taken hold of is there no more
        if self._drag is None:
            self.preview = self.lifted = None
        if self._fit_next:
            self._fit_next = False
            self.fit()
        self.update()

    def refit(self) -> None:
        """Show the whole picture again once its new shape is there."""
        self._fit_next = True

    # painting

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint desk, picture, artwork and marks."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(palette().desk))
        scene = self.scene()
        if scene is None:
            return
        if self.seam is None:
            self._paint_side(painter, scene, self.showing, self._artwork)
        else:
            x = round(self.seam * self.width())
            for side, layer, left, right in (
                (self.other_side, self._beyond_seam, 0, x),
                (self.showing, self._artwork, x, self.width()),
            ):
                painter.save()
                painter.setClipRect(left, 0, right - left, self.height())
                self._paint_side(painter, scene, side, layer)
                painter.restore()
            painter.setPen(QPen(QColor(palette().text), 2))
            painter.drawLine(QLineF(x, 0, x, self.height()))
        if self.crop_editing and not self.raw:
            overlays.paint_crop(painter, scene, self.crop_preview or scene.page_rect)
        if self.tool is tools.edit_anchors and not self.raw:
            self._paint_anchors(painter, scene)
        elif self.tool is tools.choose and not self.raw:
            self._chosen.paint(painter, scene)
        if not self.raw:
            overlays.paint_legend_of(painter, scene, self.showing)
        if self.specks and not self.raw:
            self._specks.paint(painter, scene, self.specks)
        if self.frame is not None:
            overlays.paint_frame(painter, self.frame)
        self._paint_setting(painter, scene)

    def _paint_setting(self, painter: QPainter, scene: Scene) -> None:
        """Paint what is being set just now, and the magnifier."""
        if self.corners is not None:
            overlays.paint_corners(painter, scene, self.corners)
        if self.sketch is not None:
            overlays.paint_stroke(painter, scene, self.sketch.points, self.sketch.width_px, self.sketch.colour)
        if self.ruler is not None:
            overlays.paint_ruler(painter, *self.ruler)
        if self._at is None:
            return
        brushing = self.tool in touch_tools.TOOLS
        if self.tool is ink_tools.nib and self.sketch is None:
            overlays.paint_nib(painter, self._at, 0.5 * self.ink_brush.width_px * scene.camera.zoom)
        if (brushing and self.brush.magnifier) or self.corners is not None:
            overlays.paint_magnifier(painter, scene, self._at, self._paint_magnified)
        if brushing and self.tool is not touch_tools.pour and self.sketch is None:
            overlays.paint_nib(painter, self._at, 0.5 * self.brush.width_px * scene.camera.zoom)

    def _paint_magnified(self, painter: QPainter, scene: Scene) -> None:
        self._paint_side(painter, scene, self.showing, ArtworkLayer())
        if self.corners is not None:
            overlays.paint_corners(painter, scene, self.corners)

    def _paint_side(self, painter: QPainter, scene: Scene, showing: Showing, artwork: ArtworkLayer) -> None:
        if self.raw:
            self._picture.paint(painter, scene, Showing.SOURCE)
            return
        if self.crop_editing and showing is Showing.CLEANED:
            self._picture.paint(painter, scene, Showing.SOURCE)
        if showing is Showing.PROOF:
            if self.proof is not None:
                scene = replace(scene, artwork=self.proof, presentation=scene.presentation.with_artwork(self.proof))
            showing = Showing.FILLED
        if showing in (Showing.FILLED, Showing.OUTLINE, Showing.DEVIATION):
            painter.fillRect(scene.rect_on_screen(scene.page_rect), QColor(palette().page))
        else:
            self._picture.paint(painter, scene, Showing.CLEANED if showing is Showing.OVER else showing)
        if showing is Showing.DEVIATION:
            if self.peeking:
                self._picture.paint(painter, scene, Showing.CLEANED)
            else:
                artwork.paint(painter, scene, filled=True, outlined=False, colour=tokens.DEVIATION_FILL)
            self._ribbon.paint(painter, scene)
        if showing in ARTWORK_VIEWS:
            if self.peeking:
                self._picture.paint(painter, scene, Showing.CLEANED)
            artwork.paint(
                painter,
                scene,
                filled=showing is Showing.FILLED and not self.peeking,
                outlined=showing is not Showing.FILLED or self.peeking,
            )

    def _paint_anchors(self, painter: QPainter, scene: Scene) -> None:
        if not self._anchors.paint(painter, scene, scene.selection.anchors):
            text = "Zoom in to see the anchors"
            width = painter.fontMetrics().horizontalAdvance(text) + 20
            rect = QRectF((self.width() - width) / 2, self.height() - 40, width, 26)
            painter.fillRect(rect, QColor(palette().panel))
            painter.setPen(QColor(palette().text))
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)

    # the pointer

    def _pointer(
        self, event: QMouseEvent, released: bool = False, double: bool = False, pressed: bool = False
    ) -> Pointer:
        at = event.position()
        x, y = self.camera.to_picture(at.x(), at.y(), self.width(), self.height())
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        return Pointer(at, x, y, shift, released, double, pressed)

    def _tool_for(self, event: QMouseEvent) -> Tool | None:
        if event.button() == Qt.MouseButton.MiddleButton or self._space:
            return tools.pan
        if event.button() != Qt.MouseButton.LeftButton:
            return None
        at = event.position()
        if self._on_seam(at):
            return tools.seam
        if self.corners is not None:
            return touch_tools.drag_corner
        edge = self._crop_edge_at(at)
        if edge is not None:
            return tools.crop_edge(edge)
        return self.tool if self.tool is not None else tools.pan

    def _on_seam(self, at: QPointF) -> bool:
        if self.document.presentation is None:
            return False
        if self.seam is None:
            return min(at.x(), self.width() - at.x()) < tokens.SEAM_GRIP_PX
        return abs(at.x() - self.seam * self.width()) < tokens.SEAM_GRIP_PX / 2

    def _crop_edge_at(self, at: QPointF) -> str | None:
        scene = self.scene()
        hands_free = self.tool in (None, tools.pan, tools.crop_frame)
        if not self.crop_editing or self.raw or scene is None or not hands_free:
            return None
        kept = scene.rect_on_screen(scene.page_rect)
        near = tokens.HIT_PX
        for name, grip in overlays.crop_grips(kept).items():
            upright = name in ("left", "right")
            off = abs(at.x() - grip.x1()) if upright else abs(at.y() - grip.y1())
            low, high = (kept.top(), kept.bottom()) if upright else (kept.left(), kept.right())
            along = at.y() if upright else at.x()
            if off <= near and low - near <= along <= high + near:
                return name
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a drag with the tool that is called for."""
        self._begin(event, double=False)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Begin a drag, as a double click."""
        self._begin(event, double=True)

    def _begin(self, event: QMouseEvent, double: bool) -> None:
        if self._drag is not None:  # a polygon takes several presses
            self._advance(self._pointer(event, double=double, pressed=True))
            return
        if self.scene() is None:
            return
        tool = self._tool_for(event)
        if tool is not None:
            self._dragged_in = self.document.artwork
            self._drag = tool(self, self._pointer(event, double=double))
            self._advance(None)

    def _advance(self, pointer: Pointer | None) -> None:
        drag = self._drag
        if drag is None:
            return
        try:
            if pointer is None:
                next(drag)
            else:
                drag.send(pointer)
        except StopIteration:
            self._drag = None
            self.preview = self.lifted = None
            self.update()

    def end_drag(self) -> bool:
        """Give up a drag going on; tell whether there was one."""
        # a tool that tells of its end is about to end by itself
        if self._drag is None or getgeneratorstate(self._drag) == GEN_RUNNING:
            return False
        self._drag.close()
        self._drag = None
        self.preview = self.lifted = self.frame = self.crop_preview = self.sketch = self.ruler = None
        self.update()
        return True

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Go on with a drag; else show what a press would do."""
        pointer = self._pointer(event)
        self._at = pointer.at
        if self.corners is not None or self.tool in touch_tools.TOOLS:
            self.update()
        self.pointed.emit(pointer.x, pointer.y)
        if self._drag is not None:
            self._advance(pointer)
        else:
            self._show_cursor(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End a drag."""
        self._advance(self._pointer(event, released=True))

    def _show_cursor(self, at: QPointF) -> None:
        edge = self._crop_edge_at(at)
        if self._space:
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif self.tool in (tools.pick, tools.measure, tools.level, tools.crop_frame) and edge is None:
            self.setCursor(Qt.CursorShape.CrossCursor)
        elif self._on_seam(at):
            self.setCursor(Qt.CursorShape.SplitHCursor)
        elif edge in ("left", "right"):
            self.setCursor(Qt.CursorShape.SizeHorCursor)
        elif edge is not None:
            self.setCursor(Qt.CursorShape.SizeVerCursor)
        else:
            self.unsetCursor()

    def leaveEvent(self, event: QEvent) -> None:
        """Tell that the pointer is elsewhere."""
        self._at = None
        self.update()
        self.left.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom about the pointer; sideways wheels pan."""
        steps: QPoint = event.angleDelta()
        if steps.y():
            self.zoom_by(1.2 ** (steps.y() / 120.0), event.position())
        elif steps.x():
            self.set_camera(self.camera.panned(steps.x() / 2, 0))
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Hold the space bar to pan."""
        if event.key() == Qt.Key.Key_Space:
            self._space = True
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._drag is not None and self._at is not None:
            x, y = self.camera.to_picture(self._at.x(), self._at.y(), self.width(), self.height())
            self._advance(Pointer(self._at, x, y, False, released=False, double=True))
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        """Let go of pan."""
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
            self.unsetCursor()
        else:
            super().keyReleaseEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep the view; tell that the frame has changed."""
        self.camera_changed.emit()
