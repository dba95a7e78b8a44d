"""Lettering as it would be set, over the drawing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from sobercrow.core.artwork.model import Shape
from sobercrow.core.lettering.baseline import Arc, Drawn, three_places
from sobercrow.core.lettering.matches import Match
from sobercrow.core.lettering.setting import glyph_contours
from sobercrow.core.lettering.weight import heavier_px
from sobercrow.desktop.paths import shape_path
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.theme import palette

LINE_PX = 1.6
LAST_EM = 0.5
"""The last grip of a base line stands about below the middle of the last letter."""


class MatchMark:
    """Lettering as it would be set, dashed, and the base line it stands on."""

    def __init__(self, one: Match, own_spacing: float, drawn: Sequence[Shape]) -> None:
        """Make its paths, and measure how much heavier the drawn letters are. Runs in a worker."""
        self.letters = QPainterPath()
        for contours in glyph_contours(one, own_spacing):
            self.letters.addPath(shape_path(Shape(contours)))
        self.heavier_px = heavier_px(glyph_contours(replace(one, bolder_px=0.0), 0.0), drawn)
        self.line = QPainterPath()
        base, last = one.baseline, one.letters[-1]
        first_foot, last_foot = (one.letters[0].x, one.letters[0].y), last.along(LAST_EM * one.size_px)
        self.places = three_places(base, np.array(first_foot), np.array(last_foot))
        if isinstance(base, Arc):
            self.line.addEllipse(QPointF(base.x, base.y), base.radius_px, base.radius_px)
        elif isinstance(base, Drawn):
            self.line.addPolygon(QPolygonF([QPointF(x, y) for x, y in base.places]))
        else:
            ends = base.seen(self.places)[[0, 2], 0]
            reach = one.size_px
            for along, draw in ((ends[0] - reach, self.line.moveTo), (ends[1] + 2 * reach, self.line.lineTo)):
                draw(QPointF(*base.at(float(along))[:2]))

    def __call__(self, painter: QPainter, scene: Scene) -> None:
        """Paint them."""
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        scene.to_picture(painter)
        for path, style in ((self.line, Qt.PenStyle.DashDotLine), (self.letters, Qt.PenStyle.SolidLine)):
            for colour, width in ((palette().page, 2.0 * LINE_PX), (palette().mark, LINE_PX)):
                pen = QPen(QColor(colour), width, style)
                pen.setCosmetic(True)
                painter.strokePath(path, pen)
        painter.restore()
