"""The panel of the Hand over step."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, Signal

from sobercrow.core.errors import SoberCrowError
from sobercrow.core.handover.cutter import Cutter
from sobercrow.core.handover.page import Lie, lie_of, outside
from sobercrow.core.settings import Unit
from sobercrow.desktop.controls import Panel, button, hair_line, label, panel_column
from sobercrow.desktop.document import Document
from sobercrow.desktop.page_marks import PageMark, rect_of, rgba_image
from sobercrow.desktop.panels.hand_over.check import CheckPart
from sobercrow.desktop.panels.hand_over.cutter import CutterPart
from sobercrow.desktop.panels.hand_over.format import FormatPart, Made
from sobercrow.desktop.panels.hand_over.sets import SetsPart
from sobercrow.desktop.panels.hand_over.size import SizePart


class HandOverPanel(Panel):
    """What leaves the program, how large, on which page, as which files; and what stands in the way."""

    project_wanted = Signal()
    sheet_shown = Signal(object)
    page_shown = Signal(object)
    written_shown = Signal(object)
    can_lay = Signal(bool)

    def __init__(
        self,
        document: Document,
        name: Callable[[], str],
        cutter: Cutter | None = None,
        unit: Unit = Unit.MM,
        keep_unit: Callable[[Unit], None] = lambda _unit: None,
    ) -> None:
        """Show a document's artwork as it will be handed over."""
        super().__init__()
        self._document = document
        self.lie: Lie | None = None
        self.is_active = False
        self.laying = SizePart(document, unit, keep_unit)
        self.format = FormatPart(document, name)
        self.format.made.connect(self._show_written)
        self.check = CheckPart(document)
        self.sets = SetsPart(document)
        self.cutter = CutterPart(document, cutter)
        self.keep = button("Save project", "Save project (Ctrl+S)\nKeeps picture, settings and edits to go on later.")
        self.keep.clicked.connect(self.project_wanted)
        self.column = panel_column(
            self.laying.size,
            self.laying.fold,
            hair_line(),
            self.format.group,
            self.check.fold,
            self.sets.fold,
            self.cutter.fold,
            hair_line(),
            label("To go on later", strong=True),
            self.keep,
        )

    def close_workers(self) -> None:
        """End what works in the background."""
        self.format.close_worker()
        self.check.close()
        self.cutter.close()

    def set_active(self, on: bool) -> None:
        """Show the page and what was found on the canvas while this step is on, and take them away after it."""
        self.is_active = self.format.is_active = self.check.is_active = on
        if not on:
            self.sheet_shown.emit(None)
            self.page_shown.emit(None)
            self.check.shown.emit(None)
            self.cutter.leave()

    def refresh(self) -> None:
        """Show the present state."""
        artwork = self._document.artwork
        if artwork is None:
            return
        sheet = self._document.state.hand_over.sheet
        try:
            self.lie = lie_of(artwork, sheet)
        except SoberCrowError as fault:
            self.lie = None
            self._document.failed.emit(str(fault))
        self.laying.refresh(self.lie)
        if self.is_active:
            self._show_page()
        if self.lie is not None:
            self.laying.tell_outside(len(outside(artwork, self.lie)))
        self.can_lay.emit(not sheet.page.is_fitted)
        self.check.refresh(self.lie)
        self.format.refresh()
        self.sets.refresh()

    def _show_page(self, dx: float = 0.0, dy: float = 0.0) -> None:
        """Show the page on the canvas, dragged so far."""
        if self.lie is None:
            return
        lie = self.lie._replace(dx=self.lie.dx - dx, dy=self.lie.dy - dy)
        margin = self._document.state.hand_over.sheet.page.margin_mm
        self.sheet_shown.emit(rect_of(lie))
        self.page_shown.emit(PageMark(lie, margin, self.laying.told_of(lie)))

    def pull_page(self, dx: float, dy: float, done: bool) -> None:
        """Follow the page while it is dragged, and lay the artwork so once it is let go."""
        self._show_page(dx, dy)
        if done and self.lie is not None:
            self.laying.drag(self.lie, dx, dy)

    def _show_written(self, made: object) -> None:
        """Show the file that was made, on the page."""
        if not isinstance(made, Made) or self.lie is None:
            self.written_shown.emit(None)
            return
        # plates have room around the page
        extra = 0.5 * (made.page.width_px - self.lie.width_px), 0.5 * (made.page.height_px - self.lie.height_px)
        rect: QRectF = rect_of(self.lie).adjusted(-extra[0], -extra[1], extra[0], extra[1])
        self.written_shown.emit((rect, rgba_image(made.pixels)))
