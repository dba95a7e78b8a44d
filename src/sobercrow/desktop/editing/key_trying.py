"""Keys of edits that show what they would do while they are held, and do it when they are let go."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QWidget

from sobercrow.desktop.document import Document
from sobercrow.desktop.editing.edit import Edit
from sobercrow.desktop.editing.runner import Runner
from sobercrow.desktop.editing.try_button import HOLD_MS


class KeyTrying(QObject):
    """Takes the keys of edits before they run a command. Pressed quickly they do their work at once.

    Held, the result is shown; Esc gives it up.
    """

    def __init__(self, window: QWidget, document: Document, runner: Runner, edits: Iterable[Edit]) -> None:
        """Take the keys that come to a window."""
        super().__init__(window)
        self._document, self._runner = document, runner
        self._edits = {QKeySequence(key).toString(): edit for edit in edits for key in edit.keys}
        self._held: tuple[int, Edit] | None = None
        self._shown = False
        self._hold = QTimer(self)
        self._hold.setSingleShot(True)
        self._hold.timeout.connect(self._show)
        window.installEventFilter(self)

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        """Take a key that is for an edit."""
        if not isinstance(event, QKeyEvent):
            return False
        if event.type() == QEvent.Type.KeyRelease:
            return self._released(event)
        is_ours = self._asked(event) is not None or (self._held is not None and event.key() == Qt.Key.Key_Escape)
        if is_ours and event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
        if is_ours and event.type() == QEvent.Type.KeyPress:
            self._pressed(event)
        return is_ours

    def _asked(self, event: QKeyEvent) -> Edit | None:
        """The edit a key is for, if enough is chosen for it."""
        edit = self._edits.get(QKeySequence(event.keyCombination()).toString())
        return edit if edit is not None and self._document.artwork and edit.fits(self._document.choice) else None

    def _pressed(self, event: QKeyEvent) -> None:
        if event.isAutoRepeat():
            return
        if event.key() == Qt.Key.Key_Escape:
            self._let_go()
            return
        edit = self._asked(event)
        if edit is not None:
            self._held = (event.key(), edit)
            self._hold.start(HOLD_MS)

    def _released(self, event: QKeyEvent) -> bool:
        if self._held is None or event.key() != self._held[0] or event.isAutoRepeat():
            return self._held is not None and event.key() == self._held[0]
        edit = self._held[1]
        self._let_go()
        self._runner.run(edit)
        return True

    def _show(self) -> None:
        if self._held is not None:
            self._shown = True
            self._runner.show(self._held[1], True)

    def _let_go(self) -> None:
        self._hold.stop()
        if self._shown and self._held is not None:
            self._runner.show(self._held[1], False)
        self._held, self._shown = None, False
