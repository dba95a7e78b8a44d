"""The cutter: what it is given, where its blade is, what it says at the end."""

from __future__ import annotations

from dataclasses import dataclass
from time import monotonic

from PySide6.QtCore import QObject, Signal

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.formats.hpgl import HpglSettings, hpgl_of, parse_hpgl, planned
from sobercrow.core.handover.cutter import Blade, CutReport, Cutter
from sobercrow.core.handover.page import laid
from sobercrow.core.settings import mm_to_px
from sobercrow.core.stopping import go_on
from sobercrow.desktop.controls import Fold, doing, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.page_marks import BladeMark
from sobercrow.desktop.worker import Give, Report, Worker

FRAME_S = 0.03


@dataclass(frozen=True, slots=True, eq=False)
class _Cut:
    """What is being cut: its lines in pixels of the picture, and what the shortest way saves, in mm."""

    lines: list[F64]
    saved_mm: float
    page: Artwork
    shift: tuple[float, float]


class CutterPart(QObject):
    """Sends the artwork to the cutter; shows its blade on the canvas, its time, length and order, and can stop it."""

    shown = Signal(object)

    def __init__(self, document: Document, cutter: Cutter | None) -> None:
        """Work with a cutter, if there is one."""
        super().__init__()
        self._document, self._cutter = document, cutter
        self._cut: _Cut | None = None
        self.report: CutReport | None = None
        self._worker = Worker()
        self._worker.produced.connect(self._take)
        self._worker.failed.connect(lambda _number, sentence: self._end(sentence))
        self.start = doing("Cut", "Sends the plotter file, as it is set above, to the cutter.", self.cut)
        self.stop = doing("Stop cutting", "Lifts the blade; what is cut is cut.", self.halt)
        self.told = label("Cuts the artwork as it lies on its page.", muted=True)
        name = cutter.name if cutter is not None else ""
        self.fold = Fold(name or "Cutter", self.told, row_of(self.start, self.stop))
        if cutter is None:
            self.fold.hide()
        self.stop.setEnabled(False)
        self.setParent(self.fold)

    def close(self) -> None:
        """Stop the cutter."""
        self._worker.close()

    def cut(self) -> None:
        """Begin to cut."""
        cutter, artwork, one = self._cutter, self._document.artwork, self._document.state.hand_over
        if cutter is None or artwork is None:
            return
        settings = one.settings_for("hpgl")
        assert isinstance(settings, HpglSettings)
        sheet = one.sheet
        self.report, self._cut = None, None
        self.start.setEnabled(False)
        self.stop.setEnabled(True)

        def work(give: Give, _report: Report) -> None:
            page = laid(artwork, sheet)
            way, moved = planned(page, settings), artwork.shapes[0].bounds()
            data = hpgl_of(page, way, settings)
            shift = page.shapes[0].bounds()[0] - moved[0], page.shapes[0].bounds()[1] - moved[1]
            lines = [_on_picture(line.points, page, shift) for line in parse_hpgl(data)]
            give(_Cut(lines, way.unsorted_mm - way.travel_mm, page, shift))
            last = 0.0

            def watch(blade: Blade) -> None:
                nonlocal last
                go_on()
                if monotonic() - last >= FRAME_S:
                    last = monotonic()
                    give(blade)

            give(cutter.cut(data, watch))

        self._worker.submit(work)

    def halt(self) -> None:
        """Stop where it is."""
        self._worker.stop()
        self._cut = None  # where the blade was when it was stopped is told no more
        self._end("Stopped; the blade is up.")

    def _take(self, _number: int, told: object) -> None:
        if isinstance(told, _Cut):
            self._cut = told
        elif isinstance(told, Blade) and self._cut is not None:
            cut = self._cut
            at = _on_picture_point(told, cut.page, cut.shift)
            self.shown.emit(BladeMark(cut.lines, told.line, at, told.is_down))
            way = "down" if told.is_down else "up"
            so_far = f"{100 * told.share:.0f} % · {told.seconds:.0f} s"
            self.told.setText(f"Line {told.line + 1} of {len(cut.lines)} · blade {way} · {so_far}")
        elif isinstance(told, CutReport) and self._cut is not None:
            self.report = told
            fallen = ""
            if told.fallen:
                one = len(told.fallen) == 1
                fallen = f" {len(told.fallen)} {'line lies' if one else 'lines lie'} in pieces that fell out before."
            self._end(
                f"{told.lines} lines, {told.cut_mm:.0f} mm cut and {told.travel_mm:.0f} mm between them in "
                f"{told.seconds:.0f} s; the order saves {max(self._cut.saved_mm, 0.0):.0f} mm.{fallen}"
            )

    def _end(self, sentence: str) -> None:
        self.told.setText(sentence)
        self.start.setEnabled(True)
        self.stop.setEnabled(False)
        if self.report is None:
            self.shown.emit(None)

    def leave(self) -> None:
        """Take the blade off the canvas."""
        self.shown.emit(None)


def _on_picture(points: F64, page: Artwork, shift: tuple[float, float]) -> F64:
    """Points of the bed in mm, y up, in pixels of the picture."""
    scale = mm_to_px(1.0, page.dpi)
    return points * (scale, -scale) + (-shift[0], page.height_px - shift[1])


def _on_picture_point(blade: Blade, page: Artwork, shift: tuple[float, float]) -> tuple[float, float]:
    scale = mm_to_px(1.0, page.dpi)
    return blade.x_mm * scale - shift[0], page.height_px - blade.y_mm * scale - shift[1]
