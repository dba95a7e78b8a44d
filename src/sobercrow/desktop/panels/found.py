"""What was found in the artwork: true shapes, and the places where it strays most."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QObject, QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import QListWidgetItem, QWidget

from sobercrow.core.geometry.forms import Mirror, Rectangle, Regular, Related, Relation, kind_of
from sobercrow.core.settings import Tracing, px_to_mm
from sobercrow.core.tracing.true_shapes import TrueShape, is_refused, size_of
from sobercrow.desktop.controls import fill_list, label, text_list, tick
from sobercrow.desktop.document import Document

CLOSE_ZOOM = 12.0


class Wishes(QObject):
    """What the parts ask of the window: to look at a place so large, to show the deviation, or the proof sheet."""

    look = Signal(float, float, float)
    deviation = Signal()
    sheet = Signal()


class FormsPart:
    """The true shapes found; unticked ones are drawn by free curves."""

    def __init__(self, document: Document, wishes: Wishes, change: Callable[[str, Tracing], None]) -> None:
        """Work on a document; `change` takes new settings as a named change."""
        self._document, self._wishes, self._change = document, wishes, change
        self._shown: list[TrueShape] = []
        self.all = tick(
            "Draw true shapes as such",
            "Circles, ellipses, rectangles, bars and mirror symmetry; else all is free curves.",
        )
        self.all.clicked.connect(lambda on: self._change("Set true shapes", replace(self._settings, true_shapes=on)))
        self.list = text_list("True shapes")
        self.list.itemChanged.connect(self._ticked)
        self.list.itemClicked.connect(self._look)
        self.note = label(muted=True)

    @property
    def _settings(self) -> Tracing:
        return self._document.state.settings.tracing

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        return [self.all, self.note, self.list]

    def _ticked(self, item: QListWidgetItem) -> None:
        found = self._shown[self.list.row(item)]
        wanted = item.checkState() == Qt.CheckState.Checked
        if wanted != found.refused:
            return
        here = (found.form.x, found.form.y, size_of(found.form))
        left = tuple(p for p in self._settings.refused if not is_refused(found.form, [p]))
        refused = left if wanted else (*left, here)
        self._change("Take true shape" if wanted else "Refuse true shape", replace(self._settings, refused=refused))

    def _look(self, item: QListWidgetItem) -> None:
        form = self._shown[self.list.row(item)].form
        self._wishes.look.emit(form.x, form.y, 0.0)

    def refresh(self) -> None:
        """Show the present state."""
        presentation = self._document.presentation
        if presentation is None:
            return
        self.all.setChecked(self._settings.true_shapes)
        if presentation.is_draft:
            return  # they are looked for in the full result
        forms, dpi = list(presentation.results.forms), presentation.artwork.dpi
        if forms != self._shown or self.list.count() != len(forms):
            blocker = QSignalBlocker(self.list)
            self._shown = forms
            fill_list(self.list, [f"{name_of(found.form, dpi)}, {found.deviation_px:.2f} px off" for found in forms])
            for row, found in enumerate(forms):
                item = self.list.item(row)
                item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                item.setCheckState(Qt.CheckState.Unchecked if found.refused else Qt.CheckState.Checked)
            blocker.unblock()
        self.list.setVisible(bool(forms))
        drawn = sum(not found.refused for found in forms)
        self.note.setText(f"{drawn} of {len(forms)} are drawn as such." if forms else "None were found.")

    def told(self) -> str:
        """Return how many there are, for the heading."""
        return str(len(self._shown)) if self._shown else ""


def name_of(form: Regular, dpi: float) -> str:
    """Return what a form is called, with its size in mm."""
    if isinstance(form, Related):
        return _name_of_relation(form)
    if isinstance(form, Mirror):
        lean = round(form.angle_deg, 1) % 180.0
        way = {0.0: "level", 90.0: "upright"}.get(lean, f"at {lean:.1f}°")
        return f"Mirrored{' twice' if form.twofold else ''}, axis {way}"
    kind = kind_of(form).capitalize()
    if isinstance(form, Rectangle):
        rounded = " rounded," if form.radius else ""
        return f"{kind},{rounded} {px_to_mm(form.width, dpi):.2f} × {px_to_mm(form.height, dpi):.2f} mm"
    if form.is_circle:
        return f"{kind}, radius {px_to_mm(form.rx, dpi):.2f} mm"
    return f"{kind}, {px_to_mm(2 * form.rx, dpi):.2f} × {px_to_mm(2 * form.ry, dpi):.2f} mm"


def _name_of_relation(form: Related) -> str:
    count = form.count
    return {
        Relation.STRAIGHT: f"{count} side{'s' * (count > 1)} made straight",
        Relation.DIRECTIONS: f"{count} side{'s' * (count > 1)} parallel or at right angles to others",
        Relation.MIDDLE: f"{count} circles about one middle",
        Relation.ALIKE: f"{count} circles alike",
        Relation.REPEATED: f"{count} copies of a part alike",
        Relation.STROKES: f"{count} strokes equally wide",
        Relation.AXIS: f"{count} parts on one axis",
    }[form.relation]


class DeviationPart:
    """The figures of all shapes or those chosen, and the five worst places with a jump to each."""

    def __init__(self, document: Document, wishes: Wishes) -> None:
        """Work on a document."""
        self._document, self._wishes = document, wishes
        self._places: list[tuple[float, float, float]] = []
        self.figures = label(muted=True)
        self.list = text_list("Places where the artwork strays most")
        self.list.itemClicked.connect(self._look)
        self.list.itemActivated.connect(self._look)

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        return [self.figures, label("Where it strays most; click to look:"), self.list]

    def _look(self, item: QListWidgetItem) -> None:
        x, y, _ = self._places[self.list.row(item)]
        self._wishes.deviation.emit()
        self._wishes.look.emit(x, y, CLOSE_ZOOM)

    def refresh(self) -> None:
        """Show the present state."""
        presentation = self._document.presentation
        if presentation is None:
            return
        dpi, chosen = presentation.artwork.dpi, self._document.choice.shapes
        valid = frozenset(k for k in chosen if k < len(presentation.artwork.shapes))
        figures = presentation.deviation.figures(presentation.artwork, valid)
        whose = f"{len(valid)} chosen shapes" if len(valid) > 1 else "The chosen shape" if valid else "All shapes"
        self.figures.setText(
            f"{whose}: mean {figures.deviation_mean_px:.2f} px, 99 % within {figures.deviation_p99_px:.2f} px, largest "
            f"{figures.deviation_max_px:.2f} px ({px_to_mm(figures.deviation_max_px, dpi):.3f} mm)."
        )
        places = presentation.worst
        if places != self._places or self.list.count() != len(places):
            self._places = places
            fill_list(
                self.list,
                [f"{away:.2f} px at {px_to_mm(x, dpi):.1f}, {px_to_mm(y, dpi):.1f} mm" for x, y, away in places],
            )

    def told(self) -> str:
        """Return the largest deviation, for the heading."""
        return f"{self._places[0][2]:.2f} px" if self._places else ""
