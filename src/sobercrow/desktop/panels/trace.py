"""The panel of the Trace step."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Any

from sobercrow.core.inks.separation import SeveralInks
from sobercrow.core.settings import Meet, TraceKind, Tracing, meaning_of, px2_to_mm2, px_to_mm
from sobercrow.desktop.controls import (
    Fold,
    NumberField,
    Panel,
    button,
    choices,
    group_column,
    label,
    panel_column,
    row_of,
    tick,
)
from sobercrow.desktop.document import Document
from sobercrow.desktop.panels.found import DeviationPart, FormsPart, Wishes
from sobercrow.desktop.panels.order import OrderPart
from sobercrow.desktop.panels.recipes import RecipePart
from sobercrow.desktop.panels.sketch import SketchPart
from sobercrow.desktop.state import told_of

CURVED = {"tolerance_px", "speck_px2", "hole_px2", "overlap_px"}
KINDS = {TraceKind.OUTLINES: "Outlines", TraceKind.CENTRE_LINES: "Centre lines", TraceKind.ONE_LINE: "One line"}
KIND_TIPS = {
    TraceKind.OUTLINES: "Filled shapes, for most artwork.",
    TraceKind.CENTRE_LINES: "Strokes with a width, for pens, engraving and plotting.",
    TraceKind.ONE_LINE: "Of a rough sketch: strokes laid over each other become one line.",
}
MEETINGS = {Meet.UNDERLAID: "Underlaid", Meet.FLUSH: "Flush"}
MEETING_TIPS = {
    Meet.FLUSH: "Edge to edge: neighbours share each border exactly.",
    Meet.UNDERLAID: "Lower inks run on beneath upper ones, so that nothing shows between.",
}


class TracePanel(Panel):
    """How closely the line follows the drawing, and how regular it becomes."""

    def __init__(self, document: Document) -> None:
        """Show a document's trace settings."""
        super().__init__()
        self._document = document
        self._before: tuple[int, float] | None = None
        self._shown: tuple[int, float] | None = None
        self.fields = {
            name: self._field(name)
            for name in (
                "detail",
                "overlap_px",
                "tolerance_px",
                "corner_angle_deg",
                "speck_px2",
                "hole_px2",
                "square_up_deg",
                "straighten_deg",
                "weight_px",
            )
        }
        self.detail = self.fields["detail"]
        self.effect = label(muted=True)
        self.wishes = Wishes()
        self.kinds = choices(KINDS, lambda kind: self._change(f"Draw {KINDS[kind].lower()}", kind=kind), KIND_TIPS)
        self.keep_areas = tick("Keep areas filled", "Ink much wider than the strokes stays filled.")
        self.keep_areas.clicked.connect(lambda on: self._change("Set areas", keep_areas=on))
        self.follow = tick("Follow the pen's width", "Strokes swell and taper as the pen did, as filled shapes.")
        self.follow.clicked.connect(lambda on: self._change("Set the pen's width", follow_pen=on))
        self.sketch = SketchPart(document, self._change, self._set)
        self.meets = choices(
            MEETINGS, lambda meet: self._change(f"Let inks meet {meet.value}", meet=meet), MEETING_TIPS
        )
        self.order = OrderPart(document, self._take)
        self.meeting = Fold("How inks meet", row_of(*self.meets.values()), self.fields["overlap_px"], open_=True)
        self.lying = Fold("Which lies on top", *self.order.widgets())
        fine = [self.fields[name] for name in ("tolerance_px", "corner_angle_deg", "speck_px2", "hole_px2")]
        self.anyway = tick("However much there is", "Traces even what is mostly grain; it may take minutes.")
        self.anyway.clicked.connect(lambda on: self._change("Set how much is traced", anyway=on))
        self.fine = Fold("Fine settings", *fine, self.anyway)
        self.regular = Fold("Straight and level", self.fields["square_up_deg"], self.fields["straighten_deg"])
        self.heavier = Fold("Weight", self.fields["weight_px"])
        self.forms = FormsPart(document, self.wishes, self._take)
        self.deviation = DeviationPart(document, self.wishes)
        self.recipes = RecipePart(document)
        self.folds: dict[RecipePart | FormsPart | DeviationPart, Fold] = {
            self.recipes: Fold("Recipe", *self.recipes.widgets()),
            self.forms: Fold("True shapes", *self.forms.widgets()),
            self.deviation: Fold("Deviation", *self.deviation.widgets()),
        }
        self.kept = label()
        self.release = button("Release", "Release\nHas everything traced anew, also what was refined by hand.")
        self.release.clicked.connect(document.release_handwork)
        self.handwork = group_column(self.kept, self.release)
        self.keep_proof = button("Keep a proof", "Keep a proof (K)\nKeeps the present result with its settings.")
        self.keep_proof.clicked.connect(document.keep_proof)
        self.show_sheet = button("Proof sheet", "Proof sheet (Shift+K)\nLays the proofs side by side.")
        self.show_sheet.clicked.connect(self.wishes.sheet)
        self.column = panel_column(
            row_of(*self.kinds.values()),
            self.keep_areas,
            self.follow,
            *self.sketch.widgets(),
            self.detail,
            self.effect,
            self.handwork,
            row_of(self.keep_proof, self.show_sheet),
            self.folds[self.recipes],
            self.meeting,
            self.lying,
            self.fine,
            self.regular,
            self.heavier,
            self.folds[self.forms],
            self.folds[self.deviation],
        )
        document.opened.connect(self._forget)
        document.choice_changed.connect(self.deviation.refresh)

    def _field(self, name: str) -> NumberField:
        made = NumberField(meaning_of(Tracing, name), large=name == "detail", curved=name in CURVED)
        made.changed.connect(partial(self._set, name))
        made.reset.connect(lambda: self._set(name, getattr(Tracing(), name)))
        return made

    def _forget(self) -> None:
        self._before = self._shown = None

    def _set(self, name: str, value: float | None) -> None:
        settings = self._document.state.settings
        title = f"Set {meaning_of(Tracing, name).label.lower()}"
        tracing = replace(settings.tracing, **{name: value})  # type: ignore[arg-type]
        if self._before is None or self._shown is not None:
            self._before = self._shown or self._before
        self._document.change_settings(title, replace(settings, tracing=tracing), merge=f"trace {name}")

    def _change(self, name: str, **fields: Any) -> None:
        self._take(name, replace(self._document.state.settings.tracing, **fields))
        self.refresh()

    def _take(self, name: str, tracing: Tracing) -> None:
        self._document.change_settings(name, replace(self._document.state.settings, tracing=tracing))

    def refresh(self) -> None:
        """Show the present state."""
        presentation = self._document.presentation
        if presentation is None:
            return
        tracing, dpi = self._document.state.settings.tracing, presentation.artwork.dpi
        separation = presentation.results.separation
        several = isinstance(separation, SeveralInks) and len(separation.drawn) > 1
        flush = several and tracing.meet is Meet.FLUSH
        lines = tracing.kind is TraceKind.CENTRE_LINES
        for kind, choice in self.kinds.items():
            choice.setChecked(kind is tracing.kind)
        self.keep_areas.setVisible(lines)
        self.follow.setVisible(lines)
        self.follow.setChecked(tracing.follow_pen)
        self.keep_areas.setChecked(tracing.keep_areas)
        one_line = tracing.kind is TraceKind.ONE_LINE
        self.sketch.refresh(presentation.results.sketch, one_line)
        self.meeting.setVisible(several and not lines and not one_line)
        self.lying.setVisible(several)
        self.order.refresh()
        self.anyway.setVisible(tracing.anyway)
        self.anyway.setChecked(tracing.anyway)
        self.regular.setVisible(not lines and not one_line)
        self.heavier.setVisible(not lines and not one_line)
        for name in ("corner_angle_deg", "speck_px2", "hole_px2"):
            self.fields[name].setVisible(not one_line)
        for meet, made in self.meets.items():
            made.setChecked(meet is tracing.meet)
        self.fields["overlap_px"].setEnabled(not flush)
        self.fields["weight_px"].setEnabled(not flush)
        shown = {
            "tolerance_px": tracing.effective_tolerance_px,
            "corner_angle_deg": tracing.effective_corner_angle_deg,
            "speck_px2": tracing.effective_speck_px2,
            "hole_px2": tracing.effective_hole_px2,
        }
        for name, field in self.fields.items():
            own = getattr(tracing, name)
            value = shown.get(name, own)
            note = field.meaning.help
            if field.meaning.unit == "px":
                note = f"{px_to_mm(value, dpi):.3f} mm. {note}"
            elif field.meaning.unit == "px²":
                note = f"{px2_to_mm2(value, dpi):.3f} mm². {note}"
            if name == "weight_px" and flush:
                note = "Inks that meet flush share their borders; let them meet underlaid to change the weight."
            field.show_value(value, own == getattr(Tracing(), name), note)
        handwork = self._document.state.handwork
        self.handwork.setVisible(handwork is not None)
        proofs = len(self._document.state.proofs)
        self.show_sheet.setText(f"Proof sheet ({proofs})" if proofs else "Proof sheet")
        self.show_sheet.setEnabled(proofs > 0)
        self.kept.setText(f"{told_of(handwork)}." if handwork is not None else "")
        for part, fold in self.folds.items():
            part.refresh()
            fold.state.setText(part.told())
        self._tell_effect()

    def _tell_effect(self) -> None:
        """Say what the last change did."""
        presentation = self._document.presentation
        if presentation is not None and self._document.is_complete:
            figures = presentation.figures
            now = (figures.anchors, figures.deviation_max_px)
            if now != self._shown:
                if self._shown is not None:
                    self._before = self._shown
                self._shown = now
        if self._shown is not None and self._before is not None:
            self.effect.setText(
                f"Last change: anchors {self._before[0]} to {self._shown[0]}, largest deviation "
                f"{self._before[1]:.2f} to {self._shown[1]:.2f} px."
            )
        elif self._shown is None:
            self.effect.clear()
        else:
            self.effect.setText(f"{self._shown[0]} anchors, largest deviation {self._shown[1]:.2f} px.")
