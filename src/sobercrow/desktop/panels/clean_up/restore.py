"""What was done to the picture before it came: compressed, enlarged, dithered, screened, sharpened; undone by boxes."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PySide6.QtWidgets import QWidget

from sobercrow.core.cleanup.restore import averages_dots, own_size, undoes_compression, undoes_sharpening
from sobercrow.desktop.controls import label, tick
from sobercrow.desktop.panels.clean_up.part import Part
from sobercrow.desktop.presentation import Presentation

BOXES = {
    "compression": ("Undo compression", "The picture before it was compressed, as far as the file tells."),
    "own_size": ("Own size", "Traces at the size at which its pixels are its own; millimetres stay."),
    "screen": ("Average dots", "Makes of the dots of a halftone or a dither the tones they stand for."),
    "sharpening": ("Undo sharpening", "Takes away the rims that sharpening left beside edges."),
}
SUMMARIES = {
    "compression": "uncompressed",
    "own_size": "own size",
    "screen": "dots averaged",
    "sharpening": "unsharpened",
}


class RestorePart(Part):
    """Compression, enlarging, dots and sharpening undone."""

    title = "As it was"

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        self.boxes = {name: tick(title, help_) for name, (title, help_) in BOXES.items()}
        for name, box in self.boxes.items():
            box.clicked.connect(lambda on, name=name: self._set(name, on))
        self.none = label("Nothing was found that was done to this picture before.", muted=True)
        return [*self.boxes.values(), self.none]

    def _set(self, name: str, on: bool) -> None:
        title = BOXES[name][0]
        if on == self._automatic(name):
            self.change(title, None, name, **{name: None})
        else:
            self.change(title if on else f"{title} off", None, name, **{name: on})

    def _automatic(self, name: str) -> bool:
        presentation = self.document.presentation
        return presentation is not None and self._done(presentation, name, None)

    def _done(self, presentation: Presentation, name: str, wish: bool | None) -> bool:
        """Whether something is undone if it is wished so, or left to be chosen."""
        results, source = presentation.results, presentation.source.levels[0]
        history, nature = results.history, results.nature
        wished: dict[str, Any] = {name: wish}
        settings = replace(self.settings.in_force(), **wished)
        kind = settings.kind or nature.kind
        if name == "compression":
            return undoes_compression(history, settings, kind, nature)
        if name == "own_size":
            size = source.width(), source.height()
            return history.enlargement is not None and own_size(history, settings, kind, *size) != size
        if name == "sharpening":
            return undoes_sharpening(history, settings, kind)
        return averages_dots(history, settings)

    def refresh(self, presentation: Presentation) -> None:
        """Show the present state."""
        settings = self.settings.in_force()
        possible = [name for name in BOXES if self._done(presentation, name, True)]
        for name, box in self.boxes.items():
            box.setChecked(self._done(presentation, name, getattr(settings, name)))
            box.setVisible(name in possible)
        self.none.setVisible(not possible)

    def summary(self, presentation: Presentation) -> str:
        """Return how things stand, in a few words."""
        settings = self.settings.in_force()
        done = [SUMMARIES[name] for name in BOXES if self._done(presentation, name, getattr(settings, name))]
        return " · ".join(done)
