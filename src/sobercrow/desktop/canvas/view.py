"""The canvas: shows a step's result, or two at a seam, and hands the pointer to the tools."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QEvent, QLineF, QPoint, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QImage,
    QInputDevice,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QSinglePointEvent,
    QTabletEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from sobercrow.core.artwork.hit import union_box
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.cleanup.sheet import SheetMap, sheet_map
from sobercrow.core.inks.separation import OneInk
from sobercrow.core.results import Results
from sobercrow.core.settings import ASSUMED_DPI
from sobercrow.desktop import tokens
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.canvas import overlays
from sobercrow.desktop.canvas.artwork_layer import ArtworkLayer
from sobercrow.desktop.canvas.board import CanvasBoard
from sobercrow.desktop.canvas.dragging import DIGITS, Dragging
from sobercrow.desktop.canvas.layers import PictureLayer, RibbonLayer
from sobercrow.desktop.canvas.pen import Pen
from sobercrow.desktop.document import Document
from sobercrow.desktop.painting import page_brush
from sobercrow.desktop.scene import Scene, Showing
from sobercrow.desktop.strengths import Strengths
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import ENTER, Pointer, Tool

SETTLE_MS = 150
"""So long after the last move of the view it is painted at its best."""

HELD = (Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ControlModifier)

Mark = Callable[[QPainter, Scene], None]
"""Paints something over the artwork."""

ARTWORK_VIEWS = (Showing.FILLED, Showing.OUTLINE, Showing.OVER)


class Canvas(QWidget):
    """The drawing on the desk. Owns the camera and the seam, and hands the pointer to the tool that is called for."""

    pointed = Signal(float, float)
    left = Signal()
    camera_changed = Signal()
    seam_changed = Signal()

    def __init__(self, document: Document) -> None:
        """Show a document."""
        super().__init__()
        self.document = document
        self.camera = Camera()
        self.showing = Showing.OVER
        self.other_side = Showing.CLEANED
        self.strengths = Strengths()
        self.page = ""
        self.proof: Artwork | None = None
        self.sheet: QRectF | None = None
        self.written: tuple[QRectF, QImage] | None = None
        self.seam: float | None = None
        self.peeking = False
        self.board = CanvasBoard(document, self)
        self.tool: Tool | None = None
        self.hand: Tool | None = None
        self.eraser: Tool | None = None
        self.pen = Pen()
        self.standing: Sequence[Tool] = ()
        self.marks: dict[str, Mark] = {}
        self.whole_sheet = False
        self.raw = False
        self.solo: int | None = None
        self._at: QPointF | None = None
        self._last = QPointF()  # where the pointer was last seen, even if it has left
        self.drag = Dragging(self.board)
        self._space = False
        self._fit_next = True
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self.update)
        self._picture, self._artwork, self._beyond_seam = PictureLayer(), ArtworkLayer(), ArtworkLayer()
        self._tint = ArtworkLayer()
        self._ribbon = RibbonLayer()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Drawing")
        self.setMinimumSize(300, 200)
        document.opened.connect(self._opened)
        document.presented.connect(self._presented)
        document.choice_changed.connect(self.update)
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
            self.board.preview if self.board.preview is not None else presentation.artwork,
            threshold,
            self.solo,
            place,
            sheet,
            self.camera,
            float(self.width()),
            float(self.height()),
            self.document.choice,
            self._settle.isActive() or self.board.lifted is not None,
            self.board.lifted,
            self.raw,
            self.board.guides,
        )

    def _uncropped(self, results: Results) -> QRectF:
        """The whole sheet without its crop, in pixels of the cleaned picture."""
        source, clean_up = self.document.source, results.settings.clean_up.in_force()
        if clean_up.crop is None or source is None:
            return QRectF(0, 0, results.place.width, results.place.height)
        whole = sheet_map(source.width, source.height, clean_up, with_crop=False)
        across, down = results.sheet_scale
        left, top = clean_up.crop.left, clean_up.crop.top
        return QRectF(-left * across, -top * down, whole.width * across, whole.height * down)

    def set_raw(self, raw: bool) -> None:
        """Show the picture as it was brought in, by itself and in its own pixels, or what became of it."""
        if raw != self.raw:
            self.raw = raw
            self.fit()
            self.update()

    def show_solo(self, ink: int | None) -> None:
        """Choose which ink is shown where one is shown alone."""
        self.solo = ink
        self.update()

    def set_mark(self, name: str, mark: Mark | None) -> None:
        """Paint something over the artwork under a name, until it is taken away by None."""
        if mark is not None:
            self.marks[name] = mark
        else:
            self.marks.pop(name, None)
        self.update()

    def dpi(self) -> float:
        """Return the resolution of what is shown: of the artwork, or of the picture as brought in."""
        presentation = self.document.presentation
        if presentation is None:
            return ASSUMED_DPI
        return presentation.artwork.dpi / (presentation.results.enlarged if self.raw else 1.0)

    def set_showing(self, showing: Showing) -> None:
        """Choose what is shown, right of the seam if there is one."""
        self.showing = showing
        self.update()

    def set_page(self, page: str) -> None:
        """Choose what lies behind the artwork while one looks: a colour, CHEQUERED, or nothing for paper."""
        self.page = page
        self.update()

    def set_sheet(self, sheet: QRectF | None) -> None:
        """Choose what artwork lies on: a page in pixels of the picture, or None for the picture's own."""
        is_new = (self.sheet is None) is not (sheet is None)
        self.sheet = sheet
        if is_new:
            self.fit()
        self.update()

    def set_written(self, written: tuple[QRectF, QImage] | None) -> None:
        """Take a file that was written as a picture, and where it lies in pixels of the picture."""
        self.written = written
        self.update()

    def set_strengths(self, strengths: Strengths) -> None:
        """Choose how strongly drawing and fill show where artwork lies over the drawing."""
        self.strengths = strengths
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
            rect = self.sheet or (scene.sheet_rect if self.whole_sheet else scene.page_rect)
            if self.showing is Showing.WRITTEN and self.written is not None:
                rect = self.written[0]  # plates have room for marks around the page
            self.set_camera(
                Camera.fitting((rect.left(), rect.top(), rect.right(), rect.bottom()), self.width(), self.height())
            )

    def fit_chosen(self) -> None:
        """Show the chosen shapes as large as they go."""
        artwork = self.document.artwork
        if artwork is None:
            return
        indices = self.document.choice.shapes | {a.shape for a in self.document.choice.anchors}
        box = union_box(artwork.shapes[s] for s in indices)
        if box is not None:
            self.set_camera(Camera.fitting(box, self.width(), self.height()))

    def shapes_in_view(self) -> frozenset[int]:
        """Return the shapes of which something is in view."""
        scene = self.scene()
        if scene is None:
            return frozenset()
        left, top, right, bottom = scene.visible()
        boxes = [shape.bounds() for shape in scene.artwork.shapes]
        return frozenset(
            k for k, b in enumerate(boxes) if b[0] <= right and b[1] <= bottom and b[2] >= left and b[3] >= top
        )

    def zoom_by(self, factor: float, at: QPointF | None = None) -> None:
        """Zoom about a point of the screen, or about the middle."""
        point = at if at is not None else QPointF(self.width() / 2, self.height() / 2)
        self.set_camera(self.camera.zoomed(factor, point.x(), point.y(), self.width(), self.height()))

    def zoom_to(self, zoom: float) -> None:
        """Show at an exact zoom, 1 being one screen pixel per picture pixel."""
        self.zoom_by(zoom / self.camera.zoom)

    def _opened(self) -> None:
        self._fit_next = True
        self.drag.give_up()
        self.update()

    def _presented(self) -> None:
        self.drag.follow_artwork()
        if not self.drag.is_on:
            self.board.clear()
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
        if not self.raw:
            overlays.paint_legend_of(painter, scene, self.showing)
        in_hand = [self.tool] if self.tool is not None else []
        for tool in (*reversed(self.standing), *in_hand):
            tool.prepare(self.board)
            tool.paint(painter, scene, self._at)
        for mark in () if self.raw else self.marks.values():
            mark(painter, scene)
        if self._at is not None and any(tool.magnifies for tool in (*self.standing, *in_hand)):
            overlays.paint_magnifier(painter, scene, self._at, self._paint_magnified)

    def _paint_magnified(self, painter: QPainter, scene: Scene) -> None:
        self._paint_side(painter, scene, self.showing, ArtworkLayer())
        for tool in self.standing:
            if tool.magnifies:
                tool.paint(painter, scene, None)

    def _paint_side(self, painter: QPainter, scene: Scene, showing: Showing, artwork: ArtworkLayer) -> None:
        if self.raw:
            self._picture.paint(painter, scene, Showing.SOURCE)
            return
        if self.whole_sheet and showing is Showing.CLEANED:
            self._picture.paint(painter, scene, Showing.SOURCE)
        if showing is Showing.PROOF:
            if self.proof is not None:
                scene = replace(scene, artwork=self.proof, presentation=scene.presentation.with_artwork(self.proof))
            showing = Showing.FILLED
        if showing is Showing.WRITTEN:
            self._paint_written(painter, scene)
        elif showing in ARTWORK_VIEWS or showing is Showing.DEVIATION:
            painter.fillRect(scene.rect_on_screen(self.sheet or scene.page_rect), page_brush(self.page))
        else:
            self._picture.paint(painter, scene, showing)
        if showing is Showing.OVER:
            painter.setOpacity(self.strengths.drawing)
            self._picture.paint(painter, scene, Showing.CLEANED)
            painter.setOpacity(1.0)
        if showing is Showing.DEVIATION:
            if self.peeking:
                self._picture.paint(painter, scene, Showing.CLEANED)
            else:
                artwork.paint(painter, scene, filled=True, outlined=False, colour=tokens.DEVIATION_FILL)
            self._ribbon.paint(painter, scene)
        if showing in ARTWORK_VIEWS:
            if self.peeking:
                self._picture.paint(painter, scene, Showing.CLEANED)
            elif showing is Showing.OVER and self.strengths.fill > 0.0:
                painter.setOpacity(self.strengths.fill)
                self._tint.paint(painter, scene, filled=True, outlined=False)
                painter.setOpacity(1.0)
            artwork.paint(
                painter,
                scene,
                filled=showing is Showing.FILLED and not self.peeking,
                outlined=showing is not Showing.FILLED or self.peeking,
            )

    def _paint_written(self, painter: QPainter, scene: Scene) -> None:
        """The file that was written, read again, on what lies behind while one looks."""
        if self.written is None:
            painter.fillRect(scene.rect_on_screen(self.sheet or scene.page_rect), page_brush(self.page))
            return
        rect, image = self.written
        painter.fillRect(scene.rect_on_screen(rect), page_brush(self.page))
        self._picture.paint_image(painter, scene, image, rect)

    # the pointer

    def _pointer(
        self, event: QSinglePointEvent, released: bool = False, double: bool = False, pressed: bool = False
    ) -> Pointer:
        at, held = event.position(), event.modifiers()
        x, y = self.camera.to_picture(at.x(), at.y(), self.width(), self.height())
        shift, alt, ctrl = (bool(held & key) for key in HELD)
        return Pointer(at, x, y, shift, alt, ctrl, released, double, pressed, width=self.pen.width(event))

    def _tool_at(self, at: QPointF) -> Tool | None:
        for tool in self.standing:
            if tool.grabs(self.board, at, self.tool):
                return tool
        return self.tool

    def _tool_for(self, event: QSinglePointEvent) -> Tool | None:
        if event.button() == Qt.MouseButton.MiddleButton or self._space:
            return self.hand
        if event.button() != Qt.MouseButton.LeftButton:
            return None
        if isinstance(event, QTabletEvent) and self.pen.is_erasing:
            return self.eraser
        return self._tool_at(event.position()) or self.hand

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a drag with the tool that is called for."""
        self._begin(event, double=False)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Begin a drag, as a double click."""
        self._begin(event, double=True)

    def _begin(self, event: QSinglePointEvent, double: bool) -> None:
        if self.drag.is_on:  # a polygon takes several presses
            self.drag.go_on(self._pointer(event, double=double, pressed=True))
            return
        if self.scene() is None:
            return
        tool = self._tool_for(event)
        if tool is not None:
            self._at = self._last = event.position()
            self.drag.begin(tool, self._pointer(event, double=double))
            self._show_cursor(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Go on with a drag; else show what a press would do."""
        self._move(event)

    def _move(self, event: QSinglePointEvent) -> None:
        pointer = self._pointer(event)
        self._at = self._last = pointer.at
        in_hand = (self.tool,) if self.tool is not None else ()
        if any(tool.follows or tool.magnifies for tool in (*self.standing, *in_hand)):
            self.update()
        self.pointed.emit(pointer.x, pointer.y)
        if self.drag.is_on:
            self.drag.go_on(pointer)
        else:
            self._show_cursor(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End a drag."""
        self._release(event)

    def _release(self, event: QSinglePointEvent) -> None:
        self.drag.go_on(self._pointer(event, released=True))
        self._show_cursor(event.position())

    def tabletEvent(self, event: QTabletEvent) -> None:
        """Draw with a pen: at its fine places, as wide as it is pressed; its other end scrapes."""
        is_double = self.pen.take(event)
        if event.type() == QEvent.Type.TabletPress:
            self._begin(event, is_double)
        elif event.type() == QEvent.Type.TabletMove:
            self._move(event)
        else:
            self._release(event)
        event.accept()  # else it comes as an event of a mouse once more

    def _show_cursor(self, at: QPointF) -> None:
        tool = self.drag.tool or self._tool_at(at)
        cursor = tool.cursor(self.board, at) if tool is not None and self.scene() is not None else None
        if self._space and not self.drag.is_on:
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif cursor is not None:
            self.setCursor(cursor)
        else:
            self.unsetCursor()

    def leaveEvent(self, event: QEvent) -> None:
        """Tell that the pointer is elsewhere."""
        self._at = None
        self.update()
        self.left.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom about the pointer; sideways wheels, and two fingers on a trackpad, pan."""
        steps: QPoint = event.angleDelta()
        fingers = event.pixelDelta()
        if fingers and _is_trackpad(event) and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.set_camera(self.camera.panned(fingers.x(), fingers.y()))
        elif steps.y():
            self.zoom_by(1.2 ** (steps.y() / 120.0), event.position())
        elif steps.x():
            self.set_camera(self.camera.panned(steps.x() / 2, 0))
        event.accept()

    def event(self, event: QEvent) -> bool:
        """Take keys that are for the drag going on before they run a command or move the focus; zoom by a pinch."""
        if isinstance(event, QNativeGestureEvent) and event.gestureType() == Qt.NativeGestureType.ZoomNativeGesture:
            self.zoom_by(1.0 + event.value(), event.position())
            return True
        if isinstance(event, QKeyEvent) and self.drag.wants(event):
            if event.type() == QEvent.Type.ShortcutOverride:
                event.accept()
                return True
            if event.type() == QEvent.Type.KeyPress:
                self.keyPressEvent(event)
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Hold the space bar to pan."""
        if event.key() == Qt.Key.Key_Space:
            self._space = True
        elif event.key() == Qt.Key.Key_Escape and self.drag.is_on:
            self.drag.give_up()
        elif self.drag.wants(event):
            x, y = self.camera.to_picture(self._last.x(), self._last.y(), self.width(), self.height())
            text, key = (event.text(), None) if event.text() in DIGITS else ("", Qt.Key(event.key()))
            shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.drag.go_on(Pointer(self._last, x, y, shift, double=key in ENTER, key=key, text=text))
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


def _is_trackpad(event: QWheelEvent) -> bool:
    """Tell whether fingers scroll rather than a wheel, whose turns have no phase."""
    device = event.device()
    is_touch = device is not None and device.type() == QInputDevice.DeviceType.TouchPad
    return is_touch or event.phase() != Qt.ScrollPhase.NoScrollPhase
