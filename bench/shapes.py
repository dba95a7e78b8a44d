"""How long choosing alike takes among 5,000 shapes, and a frame of the layer list with 2,000 rows: python shapes.py."""

from __future__ import annotations

import os
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PySide6.QtWidgets import QApplication

from combine import letter, moved
from sobercrow.core.artwork import alike
from sobercrow.core.artwork.alike import Alike
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.desktop.panels.refine.layers import LayerList, LayerRows


def main() -> None:
    """Print both."""
    random = np.random.default_rng(9)
    colours = ("#000000", "#a33e2e", "#1d4f79")
    shapes = [Shape(moved(letter(random), *random.uniform(0, 4000, 2)), colours[k % 3]) for k in range(5000)]
    artwork = Artwork((Layer("Ink", tuple(shapes)),), 4200.0, 4200.0, 300.0)
    for by in list(Alike):
        took = []
        for k in (0, 1, 2, 3):
            began = time.perf_counter()
            found = alike.alike(artwork, [k], by)
            took.append(1000 * (time.perf_counter() - began))
        print(
            f"same {by.value}: {took[0]:.0f} ms the first time, {np.median(took[1:]):.1f} ms after ({len(found)} found)"
        )
    application = QApplication([])
    rows = LayerRows()
    rows.show(Artwork((Layer("Ink", tuple(shapes[:2000])),), 4200.0, 4200.0, 300.0))
    rows.fold(rows.rows[0])
    view = LayerList(rows, frozenset)
    view.resize(270, 240)
    view.show()
    took = []
    for k in range(0, 2000, 9):
        view.verticalScrollBar().setValue(k)
        began = time.perf_counter()
        view.viewport().repaint()
        took.append(1000 * (time.perf_counter() - began))
    print(f"a frame of the layer list, 2,000 rows: {np.median(took):.1f} ms ({max(took):.0f} at most)")
    application.quit()


if __name__ == "__main__":
    main()
