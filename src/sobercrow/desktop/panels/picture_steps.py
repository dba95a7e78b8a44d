"""The panels of the steps that work on the picture: Bring in, Clean up, Inks."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

from sobercrow.core.cleanup.clean import turn
from sobercrow.core.settings import DPI, Inks, Levels, meaning_of, px_to_mm
from sobercrow.desktop.controls import NumberField, Panel, button, hair_line, label, panel_column, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.histogram import Histogram, Mark


class BringInPanel(Panel):
    """What was brought in, and how large it truly is."""

    def __init__(self, document: Document) -> None:
        """Show a document's source."""
        super().__init__()
        self._document = document
        self.name, self.pixels = label(strong=True), label(muted=True)
        self.dpi = NumberField(DPI, curved=True)
        self.dpi.changed.connect(lambda value: self._set(value))
        self.dpi.reset.connect(lambda: self._set(None))
        self.true_size = label(strong=True)
        self.column = panel_column(self.name, self.pixels, hair_line(), self.dpi, self.true_size)

    def _set(self, dpi: float | None) -> None:
        settings = self._document.state.settings
        self._document.change_settings(
            "Set resolution", replace(settings, bring_in=replace(settings.bring_in, dpi=dpi)), merge="dpi"
        )

    def refresh(self) -> None:
        """Show the present state."""
        source = self._document.source
        if source is None:
            return
        given = self._document.state.settings.bring_in.dpi
        dpi = given or source.dpi
        self.name.setText(source.name)
        self.pixels.setText(f"{source.width} × {source.height} px")
        note = "Taken from the file. Sets the true size."
        if given is not None:
            note = "Set by you. Sets the true size."
        elif not source.dpi_stated:
            note = "The file states no resolution, so 300 dpi is assumed. Set it if you know better."
        self.dpi.show_value(dpi, given is None, note)
        width, height = px_to_mm(source.width, dpi), px_to_mm(source.height, dpi)
        self.true_size.setText(f"{width:.1f} × {height:.1f} mm in true size")


class CleanUpPanel(Panel):
    """Tones and the shape of the sheet."""

    def __init__(self, document: Document) -> None:
        """Show a document's clean-up settings."""
        super().__init__()
        self._document = document
        self.histogram = Histogram("Tones of the picture")
        self.histogram.dragged.connect(self._dragged)
        self.automatic = button("Choose automatically", "Choose automatically\nInk goes to black and paper to white.")
        self.automatic.setCheckable(True)
        self.automatic.clicked.connect(self._automatic)
        self.fields = {
            name: NumberField(meaning_of(Levels, name), curved=name == "midtone")
            for name in ("black", "midtone", "white")
        }
        for name, part in self.fields.items():
            part.changed.connect(lambda value, name=name: self._set(name, value))
            part.reset.connect(lambda name=name: self._set(name, getattr(Levels(), name)))
        self.left = button("Turn left", "Turn left (Ctrl+L)\nTurns the picture by a quarter, anticlockwise.")
        self.right = button("Turn right", "Turn right (Ctrl+R)\nTurns the picture by a quarter, clockwise.")
        self.left.clicked.connect(lambda: self.turn(-1))
        self.right.clicked.connect(lambda: self.turn(1))
        self.crop_size = label(muted=True)
        self.uncrop = button("Whole picture", "Whole picture\nTakes the crop away.")
        self.uncrop.clicked.connect(lambda: self.set_crop(None))
        self.column = panel_column(
            label("Tones", strong=True),
            self.histogram,
            self.automatic,
            *self.fields.values(),
            hair_line(),
            label("Sheet", strong=True),
            row_of(self.left, self.right),
            self.crop_size,
            self.uncrop,
        )

    def _change(self, name: str, merge: str | None = None, **changes: Any) -> None:
        settings = self._document.state.settings
        self._document.change_settings(
            name, replace(settings, clean_up=replace(settings.clean_up, **changes)), merge=merge
        )

    def _levels(self) -> Levels:
        presentation = self._document.presentation
        given = self._document.state.settings.clean_up.levels
        if given is not None:
            return given
        return presentation.results.levels if presentation is not None else Levels()

    def _set(self, name: str, value: float) -> None:
        levels = self._levels()
        titles = {"black": "Move black point", "midtone": "Move midtone", "white": "Move white point"}
        if name == "black":
            levels = replace(levels, black=min(round(value), levels.white - 1))
        elif name == "white":
            levels = replace(levels, white=max(round(value), levels.black + 1))
        else:
            levels = replace(levels, midtone=round(min(max(value, 0.1), 10.0), 2))
        self._change(titles[name], merge=f"levels {name}", levels=levels)

    def _dragged(self, name: str, tone: float) -> None:
        if name != "midtone":
            self._set(name, tone)
            return
        levels = self._levels()
        share = (tone - levels.black) / (levels.white - levels.black)
        # the tone dragged to is the one that becomes middle grey: share ** (1 / midtone) = 1/2
        self._set("midtone", math.log(min(max(share, 0.002), 0.998)) / math.log(0.5))

    def _automatic(self) -> None:
        levels = self._levels()
        if self._document.state.settings.clean_up.levels is None:
            self._change("Set tones by hand", levels=levels)
        else:
            self._change("Choose tones automatically", levels=None)

    def turn(self, clockwise: int) -> None:
        """Turn the picture by quarters."""
        source, settings = self._document.source, self._document.state.settings
        if source is not None:
            turned = turn(settings.clean_up, source, clockwise)
            self._document.change_settings("Turn picture", replace(settings, clean_up=turned))

    def set_crop(self, crop: object) -> None:
        """Crop, or with None take the crop away."""
        self._change("Crop" if crop is not None else "Take crop away", crop=crop)

    def refresh(self) -> None:
        """Show the present state."""
        presentation = self._document.presentation
        if presentation is None:
            return
        levels, automatic = self._levels(), self._document.state.settings.clean_up.levels is None
        middle = levels.black + (levels.white - levels.black) * 0.5**levels.midtone
        marks = [
            Mark("black", levels.black, "#000000"),
            Mark("midtone", middle, "#808080"),
            Mark("white", levels.white, "#ffffff"),
        ]
        self.histogram.show_tones(presentation.results.sheet_tones, marks)
        self.automatic.setChecked(automatic)
        for name, part in self.fields.items():
            value = getattr(levels, name)
            part.show_value(value, automatic or value == getattr(Levels(), name))
        crop = self._document.state.settings.clean_up.crop
        dpi = presentation.artwork.dpi
        if crop is None:
            self.crop_size.setText("Drag the edges of the picture to crop it.")
        else:
            width, height = crop.right - crop.left, crop.bottom - crop.top
            self.crop_size.setText(
                f"Cropped to {width} × {height} px, {px_to_mm(width, dpi):.1f} × {px_to_mm(height, dpi):.1f} mm."
            )
        self.uncrop.setEnabled(crop is not None)


class InksPanel(Panel):
    """What is ink and what is paper."""

    def __init__(self, document: Document) -> None:
        """Show a document's threshold."""
        super().__init__()
        self._document = document
        self.histogram = Histogram("Tones of the cleaned picture, with the threshold")
        self.histogram.dragged.connect(lambda _name, tone: self._set(tone))
        self.threshold = NumberField(meaning_of(Inks, "threshold"), large=True)
        self.threshold.changed.connect(self._set)
        self.threshold.reset.connect(lambda: self._set(None))
        self.coverage = label(muted=True)
        self.column = panel_column(
            label("Ink and paper", strong=True), self.histogram, self.threshold, hair_line(), self.coverage
        )

    def _set(self, threshold: float | None) -> None:
        settings = self._document.state.settings
        value = None if threshold is None else min(max(round(threshold), 0), 255)
        self._document.change_settings("Move threshold", replace(settings, inks=Inks(value)), merge="threshold")

    def refresh(self) -> None:
        """Show the present state."""
        presentation = self._document.presentation
        if presentation is None:
            return
        separation = presentation.results.separation
        given = self._document.state.settings.inks.threshold
        threshold = separation.neutral if given is None else given
        self.threshold.show_value(
            threshold,
            given is None,
            f"Tones up to {threshold} count as ink; higher makes the drawing heavier. "
            f"Automatic choice: {separation.neutral}.",
        )
        self.histogram.show_tones(separation.tones, [Mark("threshold", threshold, "#1D7972")], split=threshold)
        ink = 100 * separation.tones[: threshold + 1].sum() / max(separation.tones.sum(), 1)
        self.coverage.setText(f"Ink covers {ink:.1f} % of the picture; the rest is paper and is not traced.")
