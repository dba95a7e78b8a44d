"""Small dialogs in the look in use."""

from __future__ import annotations

from PySide6.QtWidgets import QMessageBox, QWidget

from sobercrow.desktop.theme import dress

Buttons = QMessageBox.StandardButton


def ask(parent: QWidget, title: str, text: str, buttons: Buttons, usual: Buttons) -> Buttons:
    """Ask a question over a window; return the button that was pressed, `usual` being the one Enter presses."""
    box = QMessageBox(QMessageBox.Icon.NoIcon, title, text, buttons, parent)
    box.setDefaultButton(usual)
    dress(box)
    return Buttons(box.exec())


def tell(parent: QWidget, title: str, text: str) -> None:
    """Show a text over a window."""
    ask(parent, title, text, Buttons.Ok, Buttons.Ok)
