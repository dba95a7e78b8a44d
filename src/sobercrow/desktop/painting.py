"""Shapes painted with what they are filled and stroked with."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QGradient,
    QImage,
    QLinearGradient,
    QPainter,
    QPainterPath,
    QPen,
    QRadialGradient,
    QTransform,
)

from sobercrow.core.artwork.model import Shape
from sobercrow.core.artwork.paint import Fill, Gradient, Spread, Stroke
from sobercrow.core.geometry.offset import MITRE_LIMIT, Ends, Joins
from sobercrow.desktop import tokens

CHEQUERED, SQUARE_PX = "chequered", 8
CAPS = {Ends.ROUND: Qt.PenCapStyle.RoundCap, Ends.FLAT: Qt.PenCapStyle.FlatCap, Ends.SQUARE: Qt.PenCapStyle.SquareCap}
CORNERS = {
    Joins.ROUND: Qt.PenJoinStyle.RoundJoin,
    Joins.MITRE: Qt.PenJoinStyle.SvgMiterJoin,
    Joins.BEVEL: Qt.PenJoinStyle.BevelJoin,
}


def paint_shape(painter: QPainter, shape: Shape, path: QPainterPath, colour: QColor | None = None) -> None:
    """Paint a shape, its path given: filled, stroked, or both; all in one colour if it is given."""
    if shape.fill is not None:
        painter.fillPath(path, brush_of(shape.fill) if colour is None else QBrush(colour))
    if shape.stroke is not None:
        painter.strokePath(path, pen_of(shape.stroke, colour))


def brush_of(fill: Fill) -> QBrush:
    """Return a fill as a brush, in picture pixels."""
    if not isinstance(fill, Gradient):
        return QBrush(QColor(fill)) if fill is not None else QBrush()
    linear = fill.spread is Spread.LINEAR
    made: QGradient = QLinearGradient(0.0, 0.0, 1.0, 0.0) if linear else QRadialGradient(QPointF(0.0, 0.0), 1.0)
    for stop in fill.stops:
        made.setColorAt(stop.at, QColor(stop.colour))
    brush, way = QBrush(made), fill.way
    brush.setTransform(QTransform(way.a, way.b, way.c, way.d, way.e, way.f))
    return brush


def pen_of(stroke: Stroke, colour: QColor | None = None) -> QPen:
    """Return a stroke as a pen, in picture pixels; in another colour if it is given."""
    shade = QColor(stroke.colour) if colour is None else colour
    made = QPen(shade, stroke.width_px, c=CAPS[stroke.ends], j=CORNERS[stroke.joins])
    made.setMiterLimit(MITRE_LIMIT)
    return made


def page_brush(page: str) -> QBrush:
    """Return what is painted behind artwork: a colour, a chequered ground, or white paper."""
    if page != CHEQUERED:
        return QBrush(QColor(page or tokens.LIGHT.page))
    tile = QImage(2 * SQUARE_PX, 2 * SQUARE_PX, QImage.Format.Format_RGB32)
    tile.fill(QColor(tokens.LIGHT.page))
    painter = QPainter(tile)
    for x, y in ((0, 0), (SQUARE_PX, SQUARE_PX)):
        painter.fillRect(x, y, SQUARE_PX, SQUARE_PX, QColor(tokens.LIGHT.hair))
    painter.end()
    return QBrush(tile)
