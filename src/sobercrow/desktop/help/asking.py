"""What one asks about with F1: what the pointer is on, or what has the focus, by its names."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtGui import QCursor
from PySide6.QtWidgets import QApplication, QWidget

from sobercrow.desktop.find.places import folds_of, name_of, within
from sobercrow.desktop.help.guide_window import show_guide
from sobercrow.desktop.proof_sheet import ProofSheet
from sobercrow.desktop.rail import Rail, StepCard
from sobercrow.desktop.seam_pill import SeamPill
from sobercrow.desktop.several.page import SeveralPage
from sobercrow.desktop.start import StartPage
from sobercrow.desktop.steps import LOOKS
from sobercrow.desktop.view_bar import ViewBar

if TYPE_CHECKING:
    from sobercrow.desktop.window import MainWindow

STANDS_FOR = (
    (StartPage, ("Bring in",)),
    (SeveralPage, ("Several at once",)),
    (ProofSheet, ("Trace", "Proofs")),
    (SeamPill, ("Looking", "Seam and peek")),
    (ViewBar, ("Looking", "Views")),
    (Rail, ("Looking", "Steps")),
)
"""Parts of the window that are no controls of a step, and the passage about each."""


def ask(window: MainWindow) -> None:
    """Open the guide at what is asked about now."""
    show_guide(window, trail_of(window, asked_about(window)))


def asked_about(window: MainWindow) -> QWidget | None:
    """Return the control under the pointer if there is one, else that with the focus, else what the pointer is on."""
    under = QApplication.widgetAt(QCursor.pos())
    if under is not None and under.window() is not window:
        under = None
    focus = window.focusWidget()
    if under is not None and _is_named(window, under):
        return under
    return focus if focus is not None and _is_named(window, focus) else under


def _is_named(window: MainWindow, widget: QWidget) -> bool:
    return widget is not window.canvas and bool(_own_name(widget))


def _own_name(widget: QWidget) -> str:
    """The name of a widget, or of the nearest it is a part of, such as a number's field of its box."""
    return next(filter(None, map(name_of, within(widget))), "")


def trail_of(window: MainWindow, widget: QWidget | None) -> tuple[str, ...]:
    """Return the names of what a widget lies in, and its own; on the canvas, those of the tool in hand."""
    step = LOOKS[window.step].title
    if window.several.is_on:
        return ("Several at once", _own_name(widget) if widget is not None else "")
    if window.document.source is None:
        return (LOOKS[next(iter(LOOKS))].title,)
    if isinstance(widget, StepCard):
        return (LOOKS[widget.step].title,)
    if widget is not None:
        if widget in window.tool_bar.buttons.values():
            return step, name_of(widget)
        parts, own = list(within(widget)), _own_name(widget)
        if own and window.view_bar in parts:
            return "Looking", own
        for kind, trail in STANDS_FOR:
            if any(isinstance(part, kind) for part in parts):
                return trail
        if window.panel_ground.isAncestorOf(widget):
            return step, *(fold.head.text() for fold in folds_of(widget)), own
    tool = window.canvas.tool
    return (step,) if tool is None else (step, window.menus.commands[f"tool-{tool.id}"].title)
