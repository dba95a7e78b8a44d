"""What a control is called and where in its panel it lies."""

from __future__ import annotations

import re
from collections.abc import Iterator

from PySide6.QtWidgets import QAbstractButton, QWidget

from sobercrow.desktop.controls import Fold

_KEYS = re.compile(r" \([^()]*\)$")


def own_name(control: QWidget) -> str:
    """Return what a control is called for screen readers, or the text on it; nothing for one without."""
    return control.accessibleName() or (control.text() if isinstance(control, QAbstractButton) else "")


def name_of(control: QWidget) -> str:
    """Return the name of a control, if need be from its tip and without its keys; nothing for one without."""
    return own_name(control) or _KEYS.sub("", control.toolTip().partition("\n")[0])


def within(widget: QWidget | None) -> Iterator[QWidget]:
    """Go through a widget and all it lies in, from the inside outwards, but not its window."""
    while widget is not None and not widget.isWindow():
        yield widget
        widget = widget.parentWidget()


def folds_of(control: QWidget) -> list[Fold]:
    """Return the folds a control lies in, the outermost first."""
    return [part for part in within(control) if isinstance(part, Fold) and part is not control][::-1]
