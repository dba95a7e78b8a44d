"""What a tool is given of the window; see `desktop.tool.Board`."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.snapping import Guide
from sobercrow.core.picture.picture import Picture
from sobercrow.desktop import tokens
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.document import Document
from sobercrow.desktop.editing.in_turn import Waiting
from sobercrow.desktop.scene import Lifted, Scene
from sobercrow.desktop.worker import Worker

if TYPE_CHECKING:
    from sobercrow.desktop.canvas.view import Canvas


class CanvasBoard:
    """Gives a tool the document and the view, and keeps what it shows while something is dragged."""

    def __init__(self, document: Document, canvas: Canvas) -> None:
        """Start with nothing shown."""
        self._document, self._canvas = document, canvas
        self.preview: Artwork | None = None
        self.lifted: Lifted | None = None
        self._worker: Worker | None = None
        self._done: Callable[[Any], None] | None = None
        self._asked = -1

    @property
    def artwork(self) -> Artwork | None:
        """The artwork as it stands."""
        return self._document.artwork

    @property
    def chosen(self) -> Choice:
        """What is chosen in it."""
        return self._document.choice

    @property
    def camera(self) -> Camera:
        """Where the view looks."""
        return self._canvas.camera

    @property
    def guides(self) -> tuple[Guide, ...]:
        """The guides that lie across the drawing."""
        return self._document.state.guides

    @property
    def seam(self) -> float | None:
        """Where the seam is, as a share of the width; None without one."""
        return self._canvas.seam

    def scene(self) -> Scene | None:
        """All there is to paint; None before there is a result."""
        return self._canvas.scene()

    def reach_px(self) -> float:
        """How near is near enough to hit something, in picture pixels."""
        return tokens.HIT_PX / self._canvas.camera.zoom

    def look(self, camera: Camera) -> None:
        """Look elsewhere."""
        self._canvas.set_camera(camera)

    def update(self) -> None:
        """Have the marks painted anew."""
        self._canvas.update()

    def choose(self, choice: Choice) -> None:
        """Choose something in place of what is chosen."""
        self._document.choose(choice)

    def show(self, artwork: Artwork | None) -> None:
        """Show artwork as it would become; None shows it as it is."""
        self.preview = artwork
        self._canvas.update()

    def lift(self, shapes: frozenset[int], dx: float, dy: float) -> None:
        """Show shapes carried elsewhere, in picture pixels; nothing of them is worked out before they are laid."""
        self.lifted = Lifted(shapes, dx, dy)
        self._canvas.update()

    def clear(self) -> None:
        """Show everything as it is."""
        self.preview = self.lifted = None

    def change(self, name: str, artwork: Artwork, choice: Choice | None = None) -> None:
        """Take edited artwork as one named change, and what is chosen after it if that is something else."""
        self._document.refine(name, artwork, choice=choice)

    def edit(self, name: str, function: Callable[..., Artwork | Edited], *arguments: Any) -> None:
        """Apply an edit to the artwork as one named change; tells if it does not apply."""
        self._document.edit(name, function, *arguments)

    def edit_in_turn(self, edit: Waiting) -> None:
        """Apply an edit that takes long: it is worked out in the background, once those asked for before it are."""
        self._document.edit_in_turn(edit)

    def colour_at(self, x: float, y: float) -> str | None:
        """Return the colour of the cleaned picture at a place of it, or None beside it."""
        presentation, artwork = self._document.presentation, self.artwork
        if presentation is None or artwork is None:
            return None
        pixels = presentation.results.cleaned.pixels
        scale = pixels.shape[1] / artwork.width_px
        row, column = int(y * scale), int(x * scale)
        if not (0 <= row < pixels.shape[0] and 0 <= column < pixels.shape[1]):
            return None
        r, g, b = (int(v) for v in pixels[row, column])
        return f"#{r:02x}{g:02x}{b:02x}"

    def cleaned(self) -> tuple[Picture, float] | None:
        """Return the cleaned picture and how large its pixels are in the artwork, or None before there is a result."""
        presentation, artwork = self._document.presentation, self.artwork
        if presentation is None or artwork is None:
            return None
        picture = presentation.results.cleaned
        return picture, artwork.width_px / picture.width

    def ask(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Have something worked out in the background, and tell `done`; the newest request wins."""
        if self._worker is None:
            self._worker = Worker()
            self._worker.produced.connect(self._answer)
        self._done = done
        self._asked = self._worker.submit(lambda give, _report: give(work()))

    def _answer(self, number: int, made: object) -> None:
        if number == self._asked and self._done is not None:
            self._done(made)

    def close(self) -> None:
        """End what works in the background."""
        if self._worker is not None:
            self._worker.close()

    def refuse(self, sentence: str) -> None:
        """Say why something cannot be done."""
        self._document.failed.emit(sentence)

    def say(self, sentence: str) -> None:
        """Say what was done."""
        self._document.said.emit(sentence)

    def set_guides(self, name: str, guides: tuple[Guide, ...]) -> None:
        """Lay other guides across the drawing, as one named change."""
        self._document.set_guides(name, guides)

    def set_seam(self, share: float | None) -> None:
        """Put the seam at a share of the width of the view, or put it away."""
        self._canvas.set_seam(share)
