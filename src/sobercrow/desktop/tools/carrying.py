"""Carrying whole shapes, and showing what an edit would make of the artwork while it is dragged."""

from __future__ import annotations

from collections.abc import Callable, Generator

from sobercrow.core.artwork import edits
from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import EditError
from sobercrow.desktop.paths import paths
from sobercrow.desktop.tool import Board, Drag, Pointer, is_far
from sobercrow.desktop.tools.figures import Figures


def preview(board: Board, start: Pointer, edit: Callable[[Pointer], Artwork], figures: Figures | None = None) -> Drag:
    """Show what an edit would make of the artwork, until the pointer is let go, or Enter takes the figures typed.

    Where it does not apply, the last that did stays shown.
    """
    pointer = start
    while not pointer.released:
        pointer = yield
        done = figures is not None and figures.take(pointer)
        if is_far(start.at, pointer.at) or (figures is not None and figures.is_typed):
            try:
                board.show(edit(pointer))
            except EditError:
                board.update()
        if done:
            return


def pulled(
    board: Board, start: Pointer, name: str, edit: Callable[[Pointer], Edited], figures: Figures
) -> Generator[None, Pointer, None]:
    """Pull something by a grip: show what comes of it, tell its figures, and do it as one change when it is let go."""
    made: list[Edited] = []

    def shown(pointer: Pointer) -> Artwork:
        made[:] = [edit(pointer)]
        return made[0].artwork

    yield from preview(board, start, shown, figures)
    figures.clear()
    if made:
        board.change(name, made[0].artwork, made[0].choice)


def carry(
    board: Board,
    start: Pointer,
    shapes: frozenset[int],
    figures: Figures,
    way: Callable[[Pointer], tuple[float, float]],
) -> Generator[None, Pointer, tuple[float, float] | None]:
    """Carry whole shapes until the pointer is let go; returns how far, or None after a mere click.

    `way` tells how far they come, in picture pixels, with the pointer at a place.
    """
    pointer = start
    carried: tuple[float, float] | None = None
    while not pointer.released:
        pointer = yield
        done = figures.take(pointer)
        if carried is not None or is_far(start.at, pointer.at):
            carried = way(pointer)
            board.lift(shapes, *carried)
        if done:
            break
    figures.clear()
    return carried


def lay(board: Board, name: str, shapes: frozenset[int], carried: tuple[float, float]) -> None:
    """Lay shapes where they were carried to."""
    before = board.artwork
    board.edit(name, edits.move_shapes, shapes, *carried)
    after = board.artwork
    if before is not None and after is not None:
        for k in shapes:
            paths.carry(before.shapes[k], after.shapes[k], *carried)
