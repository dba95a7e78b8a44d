"""What a control is called and where in its panel it lies."""

from __future__ import annotations

import re

from PySide6.QtWidgets import QAbstractButton, QWidget

from sobercrow.desktop.controls import Fold

_KEYS = re.compile(r" \([^()]*\)$")


def name_of(control: QWidget) -> str:
    """Return the name of a control, without its keys; nothing for one without."""
    name = control.accessibleName() or (control.text() if isinstance(control, QAbstractButton) else "")
    return name or _KEYS.sub("", control.toolTip().partition("\n")[0])


def folds_of(control: QWidget) -> list[Fold]:
    """Return the folds a control lies in, the outermost first."""
    folds: list[Fold] = []
    parent = control.parentWidget()
    while parent is not None:
        if isinstance(parent, Fold):
            folds.insert(0, parent)
        parent = parent.parentWidget()
    return folds
