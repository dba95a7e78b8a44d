"""The chosen stretch: the radius if it is an arc, and how far it runs from the drawing."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QPushButton

from sobercrow.core.artwork.lines import make_arc
from sobercrow.core.artwork.stretches import Stretch, contour_of, part_of, stretch_of
from sobercrow.core.geometry.arcs import arcs_of
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.inspect.deviation import SPACING_PX, Deviation, deviation_along
from sobercrow.core.settings import mm_to_px, px_to_mm
from sobercrow.desktop.controls import group_column, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.ribbon import Ribbon
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.small_fields import SmallField
from sobercrow.desktop.worker import Worker


class RibbonMark:
    """The ribbon of a stretch, laid over the artwork."""

    def __init__(self, away: Deviation) -> None:
        """Make it of how far the border is away."""
        self.away = away
        self._ribbon = Ribbon(away)

    def __call__(self, painter: QPainter, scene: Scene) -> None:
        """Paint it."""
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scene.to_picture(painter)
        self._ribbon.paint(painter, scene.camera.zoom)
        painter.restore()


class StretchPart(QObject):
    """Radius and deviation of the chosen stretch; `shown` gives the ribbon to be laid over it, or None."""

    shown = Signal(object)

    def __init__(self, document: Document) -> None:
        """Work on a document's chosen stretch."""
        super().__init__()
        self._document = document
        self.radius = SmallField(
            "Arc radius", "Of the arc the stretch is; another makes it that arc.", 0.01, 5000.0, "mm"
        )
        self.radius.changed.connect(self._take_radius)
        self.told = label(muted=True)
        self.ribbon = QPushButton("Show where")
        self.ribbon.setToolTip("Show where\nLays the deviation of this stretch over the artwork.")
        self.ribbon.setAccessibleName("Show where the stretch strays")
        self.ribbon.setCheckable(True)
        self.ribbon.toggled.connect(self.refresh)
        self.group = group_column(self.radius, row_of(self.told, self.ribbon))
        self._of: tuple[Deviation | None, Contour | None] = (None, None)
        self._mark: RibbonMark | None = None
        self._worker = Worker()
        self._worker.produced.connect(self._take)

    def _stretch(self) -> Stretch | None:
        artwork = self._document.artwork
        return stretch_of(artwork, self._document.choice.anchors) if artwork is not None else None

    def _take_radius(self, radius_mm: float) -> None:
        artwork = self._document.artwork
        if artwork is not None:
            self._document.edit("Set radius", make_arc, self._document.choice, mm_to_px(radius_mm, artwork.dpi))

    def refresh(self) -> None:
        """Show the present state."""
        artwork, stretch = self._document.artwork, self._stretch()
        self.group.setVisible(stretch is not None)
        if artwork is None or stretch is None:
            self.shown.emit(None)
            return
        part = part_of(contour_of(artwork, stretch), stretch.first, stretch.pieces)
        arcs = arcs_of(part.curves())
        arc = arcs[0][1] if len(arcs) == 1 else None
        self.radius.setVisible(arc is not None)
        if arc is not None:
            self.radius.show_value(px_to_mm(arc.radius, artwork.dpi))
        presentation = self._document.presentation
        if presentation is not None and self._document.is_complete:
            self._work_out(presentation.deviation, part)

    def _work_out(self, whole: Deviation, part: Contour) -> None:
        """Have the deviation of the stretch worked out, unless that was done."""
        if self._of[0] is whole and self._of[1] == part:
            self._show()
            return
        self._of, self._mark = (whole, part), None
        line = part.sampled(SPACING_PX)
        self._worker.submit(lambda give, _report: give(RibbonMark(deviation_along(whole, line))))

    def _take(self, _number: int, mark: object) -> None:
        assert isinstance(mark, RibbonMark)
        self._mark = mark
        self._show()

    def close(self) -> None:
        """End the worker."""
        self._worker.close()

    def _show(self) -> None:
        mark = self._mark
        if mark is None or not self.group.isVisible():
            return
        away = mark.away.away
        self.told.setText(
            f"Deviation {away.mean():.2f} px, {away.max():.2f} at most" if len(away) else "No drawn border beside it"
        )
        self.shown.emit(mark if self.ribbon.isChecked() and len(away) else None)
