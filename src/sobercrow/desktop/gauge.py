"""The gauge line: place, zoom, figures, progress and stop."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QPushButton, QWidget

from sobercrow.core.settings import Unit, px_to_mm
from sobercrow.desktop.canvas.view import Canvas
from sobercrow.desktop.document import Document

HEIGHT_PX = 30
QUIET_MS = 300
MESSAGE_MS, OFFER_MS = 12_000, 60_000


@dataclass(frozen=True, slots=True)
class Offer:
    """What can be done about what is said: the button's title, its help, and the work."""

    title: str
    help: str
    take: Callable[[], object]


class Gauge(QWidget):
    """One line under everything. Progress shows once work has gone on for 0.3 s."""

    def __init__(self, document: Document, canvas: Canvas) -> None:
        """Show the figures of a document and the place under the pointer."""
        super().__init__()
        self.setObjectName("gauge")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(HEIGHT_PX)
        self._document, self._canvas = document, canvas
        self._point: tuple[float, float] | None = None
        self.unit = Unit.MM
        self.place, self.message, self.figures = QLabel(), QLabel(), QLabel()
        self.message.setProperty("warning", False)
        self.offered = QPushButton()
        self.offered.setFlat(True)
        self.offered.setMaximumHeight(HEIGHT_PX - 4)
        self.offered.clicked.connect(self._take_offer)
        self._offer: Offer | None = None
        self.step = QLabel()
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setRange(0, 1000)
        self.bar.setFixedWidth(90)
        self.stop = QPushButton("Stop")
        self.stop.setFlat(True)
        self.stop.setToolTip("Stop\nStops the work going on; what is shown stays.")
        self.stop.clicked.connect(document.stop)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 0, 14, 0)
        layout.setSpacing(12)
        layout.addWidget(self.place)
        layout.addWidget(self.message, 1)
        layout.addWidget(self.offered)
        self.offered.hide()
        for part in (self.step, self.bar, self.stop):
            layout.addWidget(part)
            part.hide()
        layout.addWidget(self.figures)
        self._slow = QTimer(self)
        self._slow.setSingleShot(True)
        self._slow.timeout.connect(self._show_progress)
        self._fade = QTimer(self)
        self._fade.setSingleShot(True)
        self._fade.timeout.connect(self._clear)
        document.busy_changed.connect(self._busy)
        document.progressed.connect(self._progress)
        for signal in (document.presented, document.opened):
            signal.connect(self.refresh)
        document.said.connect(lambda text: self.say(text, warning=False))
        canvas.pointed.connect(self._pointed)
        canvas.left.connect(self._left)
        canvas.camera_changed.connect(self.refresh)

    def warn(self, text: str) -> None:
        """Say one sentence as a warning."""
        self.say(text, warning=True)

    def say(self, text: str, *, warning: bool, offer: Offer | None = None) -> None:
        """Say one sentence for a while; what is offered beside it is done by a button, and it stays longer."""
        self.message.setProperty("warning", warning)
        self.message.style().unpolish(self.message)
        self.message.setText(text)
        self.message.setToolTip(text)
        self._offer = offer
        if offer is not None:
            self.offered.setText(offer.title)
            self.offered.setToolTip(offer.help)
        self.offered.setVisible(offer is not None)
        self._fade.start(MESSAGE_MS if offer is None else OFFER_MS)

    def _take_offer(self) -> None:
        offer = self._offer
        self._clear()
        if offer is not None:
            offer.take()

    def _clear(self) -> None:
        self.message.clear()
        self.offered.hide()

    def set_unit(self, unit: Unit) -> None:
        """Show the place in another unit."""
        self.unit = unit
        self.refresh()

    def _pointed(self, x: float, y: float) -> None:
        self._point = (x, y)
        self.refresh()

    def _left(self) -> None:
        self._point = None
        self.refresh()

    def refresh(self) -> None:
        """Show place, zoom and figures as they are now."""
        presentation = self._document.presentation
        if presentation is None:
            self.place.clear()
            self.figures.clear()
            return
        dpi = presentation.artwork.dpi
        parts = [f"{100 * self._canvas.camera.zoom:.0f} %"]
        if self._point is not None:
            x, y = self._point
            shown = self._canvas.dpi()
            unit, decimals = self.unit, self.unit.decimals
            lengths = (f"{px_to_mm(v, shown) / unit.in_mm:.{decimals}f}" for v in (x, y))
            # px of the web beside px of the picture would be mistaken for them
            name = "px of the web" if unit is Unit.PX else unit.value
            parts = [f"{', '.join(lengths)} {name}", f"{x:.1f}, {y:.1f} px", *parts]
        self.place.setText(" · ".join(parts))
        artwork, figures = presentation.artwork, presentation.figures
        shapes = len(artwork.shapes)
        draft = "draft · " if presentation.is_draft else ""
        self.figures.setText(
            f"{draft}{shapes} shape{'s' if shapes != 1 else ''} · {artwork.anchor_count} anchors · "
            f"deviation {figures.deviation_mean_px:.2f} mean, {figures.deviation_max_px:.2f} largest px"
        )
        self.figures.setToolTip(
            "Deviation\nDistance from the drawn border to the artwork's edge: "
            f"mean {px_to_mm(figures.deviation_mean_px, dpi):.4f} mm, 99 % within {figures.deviation_p99_px:.2f} px, "
            f"largest {px_to_mm(figures.deviation_max_px, dpi):.3f} mm."
        )

    def _busy(self, busy: bool) -> None:
        if busy:
            self._slow.start(QUIET_MS)
        else:
            self._slow.stop()
            for part in (self.step, self.bar, self.stop):
                part.hide()

    def _show_progress(self) -> None:
        for part in (self.step, self.bar, self.stop):
            part.show()

    def _progress(self, step: str, share: float) -> None:
        self.step.setText(step)
        self.bar.setValue(round(1000 * share))
