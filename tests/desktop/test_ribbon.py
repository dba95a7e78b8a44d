"""The ribbon of deviation shows the worst of every piece, at any zoom."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtGui import QColor, QImage, QPainter

from sobercrow.core.inspect.deviation import Deviation
from sobercrow.desktop import tokens
from sobercrow.desktop.ribbon import LEVELS, Ribbon

RINGS, COUNT = 40, 1000


def deviation(away: np.ndarray) -> Deviation:
    """The same ring many times, its points half a px apart."""
    angle = np.linspace(0, 2 * np.pi, COUNT, endpoint=False)
    points = 100 + 80 * np.column_stack([np.cos(angle), np.sin(angle)])
    starts = np.arange(RINGS + 1) * COUNT
    return Deviation(np.tile(points, (RINGS, 1)), away, np.zeros(len(away), np.int64), starts)


@pytest.mark.parametrize("zoom", [0.5, 1.0, 3.0])
def test_a_bad_place_is_seen_at_every_zoom(qapp, zoom: float) -> None:
    away = np.zeros(RINGS * COUNT)
    away[123:129] = 1.4
    ribbon = Ribbon(deviation(away))
    assert 1 < len(ribbon._levels) <= LEVELS
    image = QImage(700, 700, QImage.Format.Format_RGB32)
    image.fill(QColor("#ffffff"))
    painter = QPainter(image)
    painter.scale(zoom, zoom)
    ribbon.paint(painter, zoom)
    painter.end()
    dark = QColor(tokens.DEVIATION_STEPS[-1][1])
    pixels = np.array(image.constBits()).reshape(700, 700, 4)[..., 2::-1].astype(int)
    assert (np.abs(pixels - (dark.red(), dark.green(), dark.blue())).max(axis=2) < 60).any()
