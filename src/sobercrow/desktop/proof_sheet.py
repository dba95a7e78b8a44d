"""The proof sheet: proofs side by side at one place and one zoom."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from sobercrow.core.artwork.proofs import Proof, differing
from sobercrow.desktop import tokens
from sobercrow.desktop.canvas.artwork_layer import ArtworkLayer
from sobercrow.desktop.canvas.layers import PictureLayer
from sobercrow.desktop.canvas.view import Canvas
from sobercrow.desktop.controls import button, label
from sobercrow.desktop.document import Document
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.theme import palette

MOST_TOLD = 4
"""Differing settings told below a proof; the others are in the tooltip."""


class ProofView(QWidget):
    """One proof, seen by the canvas's camera; dragging and the wheel move all of them."""

    def __init__(self, canvas: Canvas, proof: Proof) -> None:
        """Show a proof."""
        super().__init__()
        self._canvas, self._proof = canvas, proof
        self._artwork, self._picture = ArtworkLayer(), PictureLayer()
        self._held: QPointF | None = None
        self.setMinimumSize(160, 120)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.setAccessibleName(proof.name)
        canvas.camera_changed.connect(self.update)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the proof as the canvas shows artwork."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(palette().desk))
        seen = self._canvas.scene()
        if seen is None:
            return
        scene = replace(seen, artwork=self._proof.artwork, width=float(self.width()), height=float(self.height()))
        showing = self._canvas.showing
        painter.fillRect(scene.rect_on_screen(scene.page_rect), QColor(palette().page))
        if showing is Showing.OVER or self._canvas.peeking:
            self._picture.paint(painter, scene, Showing.CLEANED)
        outlined = showing in (Showing.OVER, Showing.OUTLINE) or self._canvas.peeking
        self._artwork.paint(painter, scene, filled=not outlined, outlined=outlined)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of the drawing."""
        self._held = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move all views along."""
        if self._held is not None:
            step = event.position() - self._held
            self._held = event.position()
            self._canvas.set_camera(self._canvas.camera.panned(step.x(), step.y()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        self._held = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom all views about the pointer."""
        place, factor = event.position(), 1.2 ** (event.angleDelta().y() / 120.0)
        camera = self._canvas.camera.zoomed(factor, place.x(), place.y(), float(self.width()), float(self.height()))
        self._canvas.set_camera(camera)
        event.accept()


class ProofSheet(QWidget):
    """Proofs in equal frames, with their figures and what differs; `closed` when one is adopted or it is left,
    `compared` with the proof to be laid beside the present result.
    """

    closed = Signal()
    compared = Signal(object)

    def __init__(self, document: Document, canvas: Canvas) -> None:
        """Show a document's proofs, seen by a canvas's camera."""
        super().__init__()
        self._document, self._canvas = document, canvas
        self._shown: tuple[Proof, ...] = ()
        self.views: list[ProofView] = []
        self.adopt: list[QWidget] = []
        self.drop: list[QWidget] = []
        self.compare: list[QWidget] = []
        self.told: list[str] = []
        layout = QVBoxLayout(self)
        layout.setContentsMargins(tokens.RHYTHM, tokens.RHYTHM, tokens.RHYTHM, tokens.RHYTHM)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setObjectName("panel")
        head = QHBoxLayout()
        head.addWidget(label("Proof sheet", title=True), 1)
        self.leave = button("Back to the canvas", "Back to the canvas (Esc)\nProofs stay kept.")
        self.leave.clicked.connect(self.closed)
        head.addWidget(self.leave)
        layout.addLayout(head)
        self._grid_holder: QWidget | None = None
        document.state_changed.connect(self.refresh)

    def refresh(self) -> None:
        """Show the present proofs."""
        proofs = self._document.state.proofs
        if proofs == self._shown or not self.isVisible():
            return
        self._shown = proofs
        self._lay_out()

    def showEvent(self, event: object) -> None:
        """Look at the same place as the canvas did, all of it."""
        self._shown = self._document.state.proofs
        self._lay_out()

    def _lay_out(self) -> None:
        if self._grid_holder is not None:
            self._grid_holder.deleteLater()
        self.views, self.adopt, self.drop, self.compare = [], [], [], []
        self._grid_holder = QWidget()
        grid = QGridLayout(self._grid_holder)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(tokens.RHYTHM)
        count = len(self._shown)
        columns = 2 if count in (2, 4) else min(max(count, 1), 3)
        differ = differing(self._shown)
        self.told = [", ".join(texts) for texts in differ]
        if not self._shown:
            grid.addWidget(label("No proof is kept yet. Keep one (K), change something, and keep another.", muted=True))
        for k, proof in enumerate(self._shown):
            grid.addWidget(self._frame(proof, differ[k]), k // columns, k % columns)
        layout = self.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addWidget(self._grid_holder, 1)

    def _frame(self, proof: Proof, differs: list[str]) -> QWidget:
        frame = QWidget()
        column = QVBoxLayout(frame)
        column.setContentsMargins(0, 0, 0, 0)
        view = ProofView(self._canvas, proof)
        self.views.append(view)
        column.addWidget(view, 1)
        row = QHBoxLayout()
        row.addWidget(label(proof.name, strong=True), 1)
        for name, tip, work, kept in (
            ("Adopt", "Goes on from this proof.", self._adopt, self.adopt),
            ("Compare", "Lays it on the other side of the seam.", self.compared.emit, self.compare),
            ("Drop", "Lets go of this proof.", self._document.drop_proof, self.drop),
        ):
            made = button(name, f"{name}\n{tip}", main=name == "Adopt")
            made.clicked.connect(lambda _c, work=work: work(proof))
            kept.append(made)
            row.addWidget(made)
        column.addLayout(row)
        figures = (
            f"{len(proof.artwork.shapes)} shapes, {proof.artwork.anchor_count} anchors, deviation "
            f"{proof.deviation_mean_px:.2f} mean, {proof.deviation_max_px:.2f} largest px"
        )
        column.addWidget(label(figures, muted=True))
        more = f" and {len(differs) - MOST_TOLD} more" if len(differs) > MOST_TOLD else ""
        text = label(", ".join(differs[:MOST_TOLD]) + more if differs else "All settings alike.")
        text.setToolTip(", ".join(differs))
        column.addWidget(text)
        return frame

    def _adopt(self, proof: Proof) -> None:
        self._document.adopt_proof(proof)
        self.closed.emit()
