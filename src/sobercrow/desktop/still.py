"""Pictures of what stands still, kept from frame to frame."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QImage, QPainter

from sobercrow.desktop.scene import Scene

MARGIN_PX = 128
"""So much more than the view is painted while panning, on every side."""
OFF_GRID_PX = 0.01
"""A view at rest is painted anew if the kept picture would lie off by more."""

Draw = Callable[[QPainter, Scene], None]


class Still:
    """What some layer painted last. As long as nothing but the view's place changes, it is only shifted."""

    def __init__(self) -> None:
        """Start with nothing kept."""
        self._key: tuple[object, ...] = ()
        self._scene: Scene | None = None
        self._image = QImage()

    def paint(self, painter: QPainter, scene: Scene, key: tuple[object, ...], draw: Draw) -> None:
        """Paint what was kept under a key, or have it painted by `draw` and keep it.

        Parts of the key are compared by identity, plain ones by value.
        """
        ratio = painter.device().devicePixelRatioF()
        key = (*key, scene.camera.zoom, ratio)
        shift = self._shift(scene) if _same(key, self._key) else None
        if shift is None:
            self._make(scene, key, ratio, draw)
            shift = self._shift(scene)
            assert shift is not None
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        painter.drawImage(shift, self._image)
        painter.restore()

    def forget(self) -> None:
        """Let go of what was kept."""
        self._key, self._scene, self._image = (), None, QImage()

    def _make(self, scene: Scene, key: tuple[object, ...], ratio: float, draw: Draw) -> None:
        before = self._scene
        panning = before is not None and before.camera.zoom == scene.camera.zoom and scene.moving
        margin = 2 * MARGIN_PX if panning else 0
        wide, high = scene.width + margin, scene.height + margin
        size = QSize(math.ceil(wide * ratio), math.ceil(high * ratio))
        if size != self._image.size():
            self._image = QImage(size, QImage.Format.Format_ARGB32_Premultiplied)
        self._image.setDevicePixelRatio(ratio)
        self._image.fill(Qt.GlobalColor.transparent)
        self._key, self._scene = key, replace(scene, width=wide, height=high)
        painter = QPainter(self._image)
        draw(painter, self._scene)
        painter.end()

    def _shift(self, scene: Scene) -> QPointF | None:
        """Where the kept picture lies in the view; None if it does not cover it."""
        kept = self._scene
        if kept is None:
            return None
        ratio = self._image.devicePixelRatio()
        x = (kept.camera.x - scene.camera.x) * scene.camera.zoom + (scene.width - kept.width) / 2
        y = (kept.camera.y - scene.camera.y) * scene.camera.zoom + (scene.height - kept.height) / 2
        whole_x, whole_y = round(x * ratio) / ratio, round(y * ratio) / ratio
        if not scene.moving and max(abs(x - whole_x), abs(y - whole_y)) > OFF_GRID_PX:
            return None
        # nothing is missing where the artwork itself ends
        left, top, right, bottom = kept.content_on_screen()
        inside = (
            whole_x <= max(0.0, x + left)
            and whole_y <= max(0.0, y + top)
            and whole_x + kept.width >= min(scene.width, x + right)
            and whole_y + kept.height >= min(scene.height, y + bottom)
        )
        return QPointF(whole_x, whole_y) if inside else None


def _same(one: tuple[object, ...], other: tuple[object, ...]) -> bool:
    return len(one) == len(other) and all(
        a is b or (isinstance(a, (int, float, str)) and a == b) for a, b in zip(one, other, strict=True)
    )
