"""One ink: a threshold, a local one, or limits."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from sobercrow.core.inks.separation import OneInk
from sobercrow.core.settings import Inks, meaning_of
from sobercrow.desktop.controls import NumberField, choices, group_column, hair_line, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.histogram import Histogram, Mark
from sobercrow.desktop.panels.inks.part import InkPart, InkWishes
from sobercrow.desktop.theme import palette

WAYS = {"whole": "Threshold", "local": "Local", "limits": "Limits"}
TIPS = {
    "whole": "One tone parts ink from paper everywhere.",
    "local": "For uneven pictures: ink is what is darker than its surroundings.",
    "limits": "For pale artwork: tones between two limits are ink.",
}


class OnePart(InkPart):
    """What is ink by its tone."""

    def __init__(self, document: Document, wishes: InkWishes) -> None:
        """Work on a document."""
        super().__init__(document, wishes)
        self.histogram = Histogram("Tones of the cleaned picture, with the marks that part ink from paper")
        self.histogram.dragged.connect(self._dragged)
        self.ways = choices(WAYS, self._go, TIPS)
        self.threshold = NumberField(meaning_of(Inks, "threshold"), large=True)
        self.threshold.changed.connect(self._set)
        self.threshold.reset.connect(lambda: self._set(None))
        self.window, self.contrast = self.number("window_mm", whole=False), self.number("contrast")
        self.dark, self.light = self.number("dark_limit"), self.number("light_limit")
        self.coverage = label(muted=True)
        self.column = group_column(
            self.histogram,
            row_of(*self.ways.values()),
            self.threshold,
            self.window,
            self.contrast,
            self.light,
            self.dark,
            hair_line(),
            self.coverage,
        )

    def _go(self, way: str) -> None:
        self.set(f"Part ink by {WAYS[way].lower()}", None, local=way == "local", limited=way == "limits")
        self.refresh()

    def _set(self, threshold: float | None) -> None:
        value = None if threshold is None else min(max(round(threshold), 0), 255)
        self.set("Move threshold", "threshold", threshold=value)

    def _dragged(self, name: str, tone: float) -> None:
        if name == "threshold":
            self._set(tone)
        else:
            dark, light = self.settings.dark_limit, self.settings.light_limit
            value = min(round(tone), light) if name == "dark_limit" else max(round(tone), dark)
            self.set("Move limit", f"inks {name}", **{name: value})

    def refresh(self) -> None:
        """Show the present state."""
        separation, settings = self.separation, self.settings
        if not isinstance(separation, OneInk):
            return
        way = "local" if settings.local else "limits" if settings.limited else "whole"
        for key, made in self.ways.items():
            made.setChecked(key == way)
        shown: dict[str, tuple[QWidget, ...]] = {
            "whole": (self.threshold,),
            "local": (self.window, self.contrast),
            "limits": (self.light, self.dark),
        }
        for key, fields in shown.items():
            for field in fields:
                field.setVisible(key == way)
        threshold = separation.neutral if settings.threshold is None else settings.threshold
        self.threshold.show_value(
            threshold,
            settings.threshold is None,
            f"Tones up to {threshold} count as ink; higher makes the drawing heavier. "
            f"Automatic choice: {separation.neutral}.",
        )
        for name, field in (
            ("window_mm", self.window),
            ("contrast", self.contrast),
            ("dark_limit", self.dark),
            ("light_limit", self.light),
        ):
            field.show_value(getattr(settings, name), getattr(settings, name) == getattr(Inks(), name))
        marks = {
            "whole": [Mark("threshold", threshold, palette().accent)],
            "local": [],
            "limits": [
                Mark("dark_limit", settings.dark_limit, palette().text),
                Mark("light_limit", settings.light_limit, palette().page),
            ],
        }[way]
        self.histogram.show_tones(separation.tones, marks, split=threshold if way == "whole" else None)
        if separation.field.grey is separation.grey:  # at once, before the new separation is there
            ink = float(separation.tones[: threshold + 1].sum() / max(separation.tones.sum(), 1))
        else:
            ink = float(separation.coverage[0])
        self.coverage.setText(f"Ink covers {100 * ink:.1f} % of the picture; the rest is paper and is not traced.")
