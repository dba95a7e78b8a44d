"""What a tool is: its drag, its marks, its cursor, and the narrow board it works on."""

from __future__ import annotations

from collections.abc import Callable, Generator
from dataclasses import dataclass
from typing import Any, ClassVar, Protocol

from PySide6.QtCore import QObject, QPointF, Qt
from PySide6.QtGui import QPainter

from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.snapping import Guide
from sobercrow.core.picture.picture import Picture
from sobercrow.desktop import tokens
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.editing.in_turn import Waiting
from sobercrow.desktop.scene import Lifted, Scene
from sobercrow.desktop.steps import Step

ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


@dataclass(frozen=True, slots=True)
class Pointer:
    """One event of the pointer: where on screen and in the picture, which keys are held, whether it was let go.

    `width` is the share of the full width at which a pen's pressure draws, 1 for a mouse.
    `key` names a key pressed while something is dragged, such as Enter or Backspace, and `text` a digit that was typed;
    the place is then where the pointer was last.
    """

    at: QPointF
    x: float
    y: float
    shift: bool = False
    alt: bool = False
    ctrl: bool = False
    released: bool = False
    double: bool = False
    pressed: bool = False
    key: Qt.Key | None = None
    text: str = ""
    width: float = 1.0


Drag = Generator[None, Pointer, None]


class Board(Protocol):
    """All that a tool is given of the window: artwork, what is chosen, places, a preview, one named change."""

    preview: Artwork | None
    lifted: Lifted | None

    @property
    def artwork(self) -> Artwork | None:
        """The artwork as it stands."""

    @property
    def chosen(self) -> Choice:
        """What is chosen in it."""

    @property
    def camera(self) -> Camera:
        """Where the view looks."""

    @property
    def guides(self) -> tuple[Guide, ...]:
        """The guides that lie across the drawing."""

    @property
    def seam(self) -> float | None:
        """Where the seam is, as a share of the width; None without one."""

    def scene(self) -> Scene | None:
        """All there is to paint; None before there is a result."""

    def reach_px(self) -> float:
        """How near is near enough to hit something, in picture pixels."""

    def look(self, camera: Camera) -> None:
        """Look elsewhere."""

    def update(self) -> None:
        """Have the marks painted anew."""

    def choose(self, choice: Choice) -> None:
        """Choose something in place of what is chosen."""

    def show(self, artwork: Artwork | None) -> None:
        """Show artwork as it would become; None shows it as it is."""

    def clear(self) -> None:
        """Show everything as it is."""

    def lift(self, shapes: frozenset[int], dx: float, dy: float) -> None:
        """Show shapes carried elsewhere, in picture pixels; nothing of them is worked out before they are laid."""

    def change(self, name: str, artwork: Artwork, choice: Choice | None = None) -> None:
        """Take edited artwork as one named change, and what is chosen after it if that is something else."""

    def edit(self, name: str, function: Callable[..., Artwork | Edited], *arguments: Any) -> None:
        """Apply an edit to the artwork as one named change; tells if it does not apply."""

    def edit_in_turn(self, edit: Waiting) -> None:
        """Apply an edit that takes long: it is worked out in the background, once those asked for before it are."""

    def colour_at(self, x: float, y: float) -> str | None:
        """Return the colour of the cleaned picture at a place of it, or None beside it."""

    def cleaned(self) -> tuple[Picture, float] | None:
        """Return the cleaned picture and how large its pixels are in the artwork, or None before there is a result."""

    def ask(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Have something worked out in the background, and tell `done`; the newest request wins."""

    def refuse(self, sentence: str) -> None:
        """Say why something cannot be done."""

    def say(self, sentence: str) -> None:
        """Say what was done."""

    def set_guides(self, name: str, guides: tuple[Guide, ...]) -> None:
        """Lay other guides across the drawing, as one named change."""

    def set_seam(self, share: float | None) -> None:
        """Put the seam at a share of the width of the view, or put it away."""


class Tool(QObject):
    """One tool: what it is called, the step it belongs to, and what it does with the pointer.

    It holds its own state, and what it makes of the picture, the inks or a place it tells by signals of its own.
    """

    id: ClassVar[str]
    title: ClassVar[str]
    help: ClassVar[str]
    step: ClassVar[Step]
    menu: ClassVar[str] = "Artwork"
    key: ClassVar[str] = ""
    shares: ClassVar[str] = ""
    """The id of a tool of another step whose key takes up this one in its own step."""
    icon: ClassVar[str] = ""
    """Without an icon it has no place in the tool bar."""
    starts_group: ClassVar[bool] = False
    listed: ClassVar[bool] = True
    """Whether it is a command of its own; others are taken up by a button of a panel."""
    works_on_artwork: ClassVar[bool] = False
    """What was taken hold of is let go of when another artwork comes in."""
    keeps_shapes: ClassVar[bool] = False
    """Whether the shapes that are chosen stay chosen when it is taken up: it works on those."""
    settings: Any = None
    """A settings object whose fields stand at the head of the panel while the tool is in hand."""

    def press(self, board: Board, start: Pointer) -> Drag:
        """Begin a drag where the pointer went down: yields for every move, and ends with the release."""
        raise NotImplementedError

    def prepare(self, board: Board) -> None:
        """Have what it needs to know of the artwork worked out; called before its marks are painted."""

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint its marks over the artwork; `at` is where the pointer is, or None if it is elsewhere."""

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return the cursor to be shown at a place."""
        return None

    def grabs(self, board: Board, at: QPointF, in_hand: Tool | None) -> bool:
        """Tell whether a press there is meant for it, whatever tool is in hand."""
        return False

    @property
    def magnifies(self) -> bool:
        """Whether what lies under the pointer is shown larger."""
        return False

    @property
    def follows(self) -> bool:
        """Whether its marks change with the pointer while nothing is dragged."""
        return False

    def let_go(self) -> None:
        """Forget what was being dragged."""


def is_far(a: QPointF, b: QPointF) -> bool:
    """Tell whether the pointer has moved far enough for a drag."""
    return (a - b).manhattanLength() > tokens.DRAG_THRESHOLD_PX


def panned(board: Board, start: Pointer) -> Drag:
    """Have the view follow the pointer until it is let go."""
    pointer, last = start, start.at
    while not pointer.released:
        pointer = yield
        board.look(board.camera.panned(pointer.at.x() - last.x(), pointer.at.y() - last.y()))
        last = pointer.at


def waited(start: Pointer) -> Generator[None, Pointer, Pointer]:
    """Wait until the pointer is let go; returns where that was."""
    pointer = start
    while not pointer.released:
        pointer = yield
    return pointer
