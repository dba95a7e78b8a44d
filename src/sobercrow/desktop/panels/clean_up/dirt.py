"""Dirt: compression, grain, guide lines; and enlarging."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from sobercrow.core.cleanup.pale_lines import told_lines
from sobercrow.desktop.controls import button, label
from sobercrow.desktop.panels.clean_up.part import Part
from sobercrow.desktop.presentation import Presentation


class DirtPart(Part):
    """Smooth dirt, take out guide lines."""

    title = "Dirt and lines"

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        self.automatic = button(
            "Choose automatically", "Choose automatically\nAs much as the picture's noise asks for."
        )
        self.automatic.setCheckable(True)
        self.automatic.clicked.connect(lambda: self.change("Choose smoothing automatically", smooth=None))
        self.found = label(muted=True)
        return [self.number("smooth", "Dirt", None), self.automatic, self.number("guides", "Lines", 0.0), self.found]

    def refresh(self, presentation: Presentation) -> None:
        """Show the present state."""
        super().refresh(presentation)
        settings, sheet = self.settings, presentation.results.sheet
        self.fields["smooth"].show_value(
            settings.smooth if settings.smooth is not None else sheet.smoothing, settings.smooth is None
        )
        self.automatic.setChecked(settings.smooth is None)
        self.fields["guides"].show_value(settings.guides, settings.guides == 0.0)
        told = told_lines(sheet.guides) or "nothing"
        self.found.setText(f"{told[0].upper()}{told[1:]} taken out." if settings.in_force().guides else "")

    def summary(self, presentation: Presentation) -> str:
        """Return how things stand, in a few words."""
        sheet = presentation.results.sheet
        words = [f"smoothed {sheet.smoothing:.0f} %"] if sheet.smoothing else []
        if sheet.guides:
            words.append(f"{len(sheet.guides)} lines out")
        return " · ".join(words)


class EnlargePart(Part):
    """Make a small picture larger."""

    title = "Enlarge"

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        self.size = label(muted=True)
        return [self.number("enlarge", "Enlarge", 1), self.size]

    def refresh(self, presentation: Presentation) -> None:
        """Show the present state."""
        super().refresh(presentation)
        self.fields["enlarge"].show_value(self.settings.enlarge, self.settings.enlarge == 1)
        place = presentation.results.place
        self.size.setText(f"{place.width} × {place.height} px; worth it below 400 px.")

    def summary(self, presentation: Presentation) -> str:
        """Return how things stand, in a few words."""
        factor = self.settings.in_force().enlarge
        return f"{factor} ×" if factor > 1 else ""
