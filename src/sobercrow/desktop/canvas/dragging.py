"""The drag going on: a tool's generator, driven by the events of the pointer and of some keys."""

from __future__ import annotations

from inspect import GEN_RUNNING, getgeneratorstate

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

from sobercrow.core.artwork.model import Artwork
from sobercrow.desktop.tool import ENTER, Board, Drag, Pointer, Tool

KEYS = (*ENTER, Qt.Key.Key_Backspace, Qt.Key.Key_Tab, Qt.Key.Key_Escape)
DIGITS = frozenset("0123456789.,-")


class Dragging:
    """At most one drag at a time; it is begun by a press, and over when its generator is."""

    def __init__(self, board: Board) -> None:
        """Start with no drag."""
        self._board = board
        self._drag: Drag | None = None
        self._taken_in: Artwork | None = None
        self.tool: Tool | None = None

    @property
    def is_on(self) -> bool:
        """Whether a drag is going on."""
        return self._drag is not None

    def begin(self, tool: Tool, start: Pointer) -> None:
        """Begin a drag with a tool."""
        self._taken_in, self.tool = self._board.artwork, tool
        self._drag = tool.press(self._board, start)
        self.go_on(None)

    def go_on(self, pointer: Pointer | None) -> None:
        """Tell the drag of an event; None for its beginning."""
        drag = self._drag
        if drag is None:
            return
        try:
            if pointer is None:
                next(drag)
            else:
                drag.send(pointer)
        except StopIteration:
            self._over()

    def give_up(self) -> bool:
        """End the drag without its being done; tell whether there was one."""
        # a tool that tells of its end is about to end by itself
        if self._drag is None or getgeneratorstate(self._drag) == GEN_RUNNING:
            return False
        self._drag.close()
        if self.tool is not None:
            self.tool.let_go()
        self._over()
        return True

    def follow_artwork(self) -> None:
        """Let go of what was taken hold of in artwork that is there no more."""
        if self.tool is not None and self.tool.works_on_artwork and self._board.artwork is not self._taken_in:
            self.give_up()

    def wants(self, event: QKeyEvent) -> bool:
        """Tell whether a key is for the drag, rather than for a command."""
        held = event.modifiers() & ~(Qt.KeyboardModifier.KeypadModifier | Qt.KeyboardModifier.ShiftModifier)
        return self.is_on and not held and (event.key() in KEYS or event.text() in DIGITS)

    def _over(self) -> None:
        self._drag = self.tool = None
        self._board.clear()
        self._board.update()
