"""How the window was left: its size, the width of the panel, folds, and what the canvas showed in each step."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray

from sobercrow.core.errors import SettingError
from sobercrow.core.outside import MOST_JSON_BYTES, json_of, reading
from sobercrow.desktop import tokens
from sobercrow.desktop.controls import Fold
from sobercrow.desktop.find.places import folds_of
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.steps import LOOKS, Step

if TYPE_CHECKING:
    from sobercrow.desktop.window import MainWindow

KEY, GEOMETRY = "left", "geometry"
AT_WORK = ("Match", "Even weights", "Simulated cutter")
"""Folds that begin work when they are opened: each start begins with them folded."""


def keep(window: MainWindow) -> None:
    """Remember how a window is left."""
    plain = {
        "panel": window.panel_ground.width(),
        "folds": {name: fold.head.isChecked() for name, fold in _folds(window)},
        "views": {step.value: showing.name for step, showing in window.chosen_views.items()},
    }
    window.preferences.setValue(GEOMETRY, window.saveGeometry())
    window.preferences.setValue(KEY, json.dumps(plain))


def bring_back(window: MainWindow) -> None:
    """Put a window as one was left; what was kept and is none now is passed over."""
    geometry = window.preferences.value(GEOMETRY)
    if isinstance(geometry, QByteArray):
        window.restoreGeometry(geometry)
    text = str(window.preferences.value(KEY, ""))
    if not text:
        return
    try:
        with reading(SettingError, ""):
            plain = json_of(text.encode(), MOST_JSON_BYTES)
            width, folds, views = int(plain["panel"]), dict(plain["folds"]), dict(plain["views"])
    except SettingError:
        return
    width = min(max(width, tokens.PANEL_WIDTH), tokens.MOST_PANEL_WIDTH)
    window.splitter.setSizes([max(window.width() - tokens.RAIL_WIDTH - width, 1), width])
    for name, fold in _folds(window):
        if name in folds:
            fold.head.setChecked(bool(folds[name]))
    for step in Step:
        showing = next((one for one in LOOKS[step].views if one.name == views.get(step.value)), None)
        if showing is not None and showing is not Showing.WRITTEN:
            window.chosen_views[step] = showing


def _folds(window: MainWindow) -> Iterator[tuple[str, Fold]]:
    """The folds of all panels, each called by its step and what it lies in."""
    for step, panel in window.panels.items():
        for fold in panel.column.findChildren(Fold):
            title = fold.head.text()
            if title not in AT_WORK:
                yield " › ".join([step.value, *(outer.head.text() for outer in folds_of(fold)), title]), fold
