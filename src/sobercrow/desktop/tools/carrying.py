"""Carrying whole shapes, and showing what an edit would make of the artwork while it is dragged."""

from __future__ import annotations

from collections.abc import Callable, Generator

from sobercrow.core.artwork import edits
from sobercrow.core.artwork.model import Artwork
from sobercrow.desktop.paths import paths
from sobercrow.desktop.tool import Board, Drag, Pointer, is_far


def preview(board: Board, start: Pointer, edit: Callable[[Pointer], Artwork]) -> Drag:
    """Show what an edit would make of the artwork, until the pointer is let go."""
    pointer = start
    while not pointer.released:
        pointer = yield
        if is_far(start.at, pointer.at):
            board.show(edit(pointer))


def carry(board: Board, start: Pointer, shapes: frozenset[int]) -> Generator[None, Pointer, tuple[float, float] | None]:
    """Carry whole shapes until the pointer is let go; returns how far, or None after a mere click."""
    pointer = start
    while not pointer.released:
        pointer = yield
        if board.lifted is not None or is_far(start.at, pointer.at):
            board.lift(shapes, pointer.x - start.x, pointer.y - start.y)
    return (pointer.x - start.x, pointer.y - start.y) if board.lifted is not None else None


def lay(board: Board, name: str, shapes: frozenset[int], carried: tuple[float, float]) -> None:
    """Lay shapes where they were carried to."""
    before = board.artwork
    board.edit(name, edits.move_shapes, shapes, *carried)
    after = board.artwork
    if before is not None and after is not None:
        for k in shapes:
            paths.carry(before.shapes[k], after.shapes[k], *carried)
