"""What the canvas paints, in order: desk, picture, artwork, marks. Each layer is small and knows only the scene."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QLineF, QRectF, QSizeF, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from sobercrow.core.arrays import F64
from sobercrow.desktop import tokens
from sobercrow.desktop.presentation import Pyramid, ink_image
from sobercrow.desktop.scene import Scene, Showing
from sobercrow.desktop.still import Still
from sobercrow.desktop.theme import palette


class PictureLayer:
    """Pixels: smooth when small, crisp when large, with a pixel grid when very large."""

    def __init__(self) -> None:
        """Start with nothing kept."""
        self._ink_key: tuple[object, ...] | None = None
        self._ink = QImage()

    def paint(self, painter: QPainter, scene: Scene, showing: Showing) -> None:
        """Paint the sheet, the cleaned picture or its inks."""
        if showing is Showing.SOURCE:
            self._source(painter, scene)
        elif showing is Showing.SHADE:
            self._shade(painter, scene)
        elif showing in (Showing.INKS, Showing.SOLO):
            self._draw(painter, scene, self._inks(scene, showing is Showing.SOLO), scene.page_rect)
        elif showing is Showing.ERROR:
            self._draw(painter, scene, scene.presentation.error, scene.page_rect)
        else:
            self._draw(painter, scene, self._cleaned(scene), scene.page_rect)

    def _source(self, painter: QPainter, scene: Scene) -> None:
        """The picture brought in, laid so that the drawing in it lies where it does when cleaned."""
        m = scene.place.matrix
        zoom = scene.camera.zoom * float(np.hypot(m[0, 0], m[1, 0]))
        image = scene.presentation.source.at(zoom)
        whole = scene.presentation.source.levels[0]
        if not (m[0, 1] or m[1, 0] or m[2, 0] or m[2, 1]) and m[0, 0] > 0 and m[1, 1] > 0:
            rect = QRectF(m[0, 2], m[1, 2], m[0, 0] * whole.width(), m[1, 1] * whole.height())
            self._draw(painter, scene, image, rect)
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, zoom < tokens.CRISP_ZOOM)
        shrink = np.diag([whole.width() / image.width(), whole.height() / image.height(), 1.0])
        x, y = scene.camera.to_screen(0.0, 0.0, scene.width, scene.height)
        view = np.array([[scene.camera.zoom, 0, x], [0, scene.camera.zoom, y], [0, 0, 1.0]])
        t = view @ m @ shrink
        # Qt multiplies rows from the left, so its matrix is ours on its side
        painter.setTransform(QTransform(*(float(v) for v in t.T.ravel())), True)
        painter.drawImage(0, 0, image)
        painter.restore()

    def _shade(self, painter: QPainter, scene: Scene) -> None:
        shade = scene.presentation.shade
        target = scene.rect_on_screen(scene.page_rect)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if shade is not None:
            painter.drawImage(target, shade)
            return
        painter.fillRect(target, QColor(palette().page))
        painter.setPen(QColor(palette().muted))
        painter.drawText(
            target, Qt.AlignmentFlag.AlignCenter, "No shade was taken out: the light is even, or left as it is."
        )

    @staticmethod
    def _cleaned(scene: Scene) -> QImage:
        pyramid: Pyramid = scene.presentation.cleaned
        return pyramid.at(scene.camera.zoom * scene.presentation.results.reduction)

    def _inks(self, scene: Scene, alone: bool) -> QImage:
        """The inks in their colours, or one of them alone."""
        shown = scene.presentation
        key = (shown.owners.cacheKey(), scene.threshold, scene.solo if alone else None, alone)
        if key != self._ink_key:
            self._ink_key = key
            if scene.threshold is not None and shown.tones is not None and not alone:
                image = ink_image(shown.tones, scene.threshold)
            else:
                image = shown.in_colours(scene.solo if alone else None, alone)
            self._ink = image.convertToFormat(QImage.Format.Format_RGB32)
        return self._ink

    def paint_image(self, painter: QPainter, scene: Scene, image: QImage, rect: QRectF) -> None:
        """Paint any picture over a rectangle of picture pixels."""
        self._draw(painter, scene, image, rect)

    def _draw(self, painter: QPainter, scene: Scene, image: QImage, rect: QRectF) -> None:
        left, top, right, bottom = scene.visible()
        seen = rect.intersected(QRectF(left, top, right - left, bottom - top))
        if seen.isEmpty():
            return
        zoom = scene.camera.zoom
        across, down = image.width() / rect.width(), image.height() / rect.height()
        # whole pixels only, so that what is drawn does not swim while panning
        first_x, first_y = int((seen.left() - rect.left()) * across), int((seen.top() - rect.top()) * down)
        last_x = min(image.width(), int((seen.right() - rect.left()) * across) + 2)
        last_y = min(image.height(), int((seen.bottom() - rect.top()) * down) + 2)
        part = QRectF(first_x, first_y, last_x - first_x, last_y - first_y)
        target = QRectF(
            rect.left() + part.left() / across,
            rect.top() + part.top() / down,
            part.width() / across,
            part.height() / down,
        )
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, zoom / across < tokens.CRISP_ZOOM)
        painter.drawImage(scene.rect_on_screen(target), image, part)
        if zoom >= tokens.GRID_ZOOM and across == 1.0:
            self._grid(painter, scene, seen)

    @staticmethod
    def _grid(painter: QPainter, scene: Scene, seen: QRectF) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(QPen(QColor(120, 120, 120, 70), 1))
        for x in range(int(np.floor(seen.left())), int(np.ceil(seen.right())) + 1):
            painter.drawLine(QLineF(scene.on_screen(x, seen.top()), scene.on_screen(x, seen.bottom())))
        for y in range(int(np.floor(seen.top())), int(np.ceil(seen.bottom())) + 1):
            painter.drawLine(QLineF(scene.on_screen(seen.left(), y), scene.on_screen(seen.right(), y)))


class SpeckMarks:
    """Specks to be cleared away, hatched."""

    def __init__(self, outlines: list[F64]) -> None:
        """Take regions given by their outlines in picture pixels."""
        self.outlines = outlines

    def __call__(self, painter: QPainter, scene: Scene) -> None:
        """Paint them."""
        path = QPainterPath()
        path.setFillRule(Qt.FillRule.WindingFill)
        for line in self.outlines:
            if len(line) > 2:
                path.addPolygon(QPolygonF([scene.on_screen(x, y) for x, y in line.tolist()]))
                path.closeSubpath()
            else:
                path.addRect(QRectF(scene.on_screen(*line[0]), QSizeF(1, 1)))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rust = QColor(palette().warning_mark)
        painter.setPen(QPen(QColor(tokens.LIGHT.page), 4.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        painter.setPen(QPen(rust, 1.6))
        painter.setBrush(QBrush(rust, Qt.BrushStyle.BDiagPattern))
        painter.drawPath(path)


class RibbonLayer:
    """How far the artwork's edge is from the drawn border: a ribbon along it, wider and darker where it is further."""

    def __init__(self) -> None:
        """Start with nothing kept."""
        self._still = Still()

    def paint(self, painter: QPainter, scene: Scene) -> None:
        """Paint the ribbon over the artwork, which is shown pale."""
        self._still.paint(painter, scene, (scene.presentation.ribbon,), self._draw)

    @staticmethod
    def _draw(painter: QPainter, scene: Scene) -> None:
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scene.to_picture(painter)
        scene.presentation.ribbon.paint(painter, scene.camera.zoom)
        painter.restore()
