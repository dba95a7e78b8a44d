"""The empty desk: how to begin."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtGui import QIcon, QImageReader, QPainter, QPixmap
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from sobercrow.desktop import tokens
from sobercrow.desktop.controls import button, label

DEMO_PICTURES = Path(__file__).parents[1] / "demo" / "pictures"
DEMO_TITLES = {
    "pen-lettering.png": "Pen lettering",
    "brush-lettering.jpg": "Brush lettering",
    "kite-drawing.png": "Inked kite",
    "pencil-sketch.png": "Pencil sketch",
    "sign-sketch.png": "Sketched sign",
    "badge-200.jpg": "Small badge",
    "swing-sign.jpg": "Sign, enlarged",
    "badge-photo.jpg": "Badge, photo",
    "tints.png": "Light tints",
}


DEMO_SIZE = QSize(140, 84)


def _blank(room: QSize) -> QIcon:
    frame = QPixmap(room)
    frame.fill(Qt.GlobalColor.transparent)
    return QIcon(frame)


def _framed(path: Path, room: QSize) -> QIcon:
    """A picture file, small, in the middle of a transparent frame of fixed size."""
    reader = QImageReader(str(path))
    size = reader.size()
    size.scale(room * 2, Qt.AspectRatioMode.KeepAspectRatio)
    reader.setScaledSize(size)
    frame = QPixmap(room * 2)
    frame.fill(Qt.GlobalColor.transparent)
    painter = QPainter(frame)
    painter.drawImage((frame.width() - size.width()) // 2, (frame.height() - size.height()) // 2, reader.read())
    painter.end()
    return QIcon(frame)


class StartPage(QWidget):
    """Ways to begin, the demo pictures, and recent files."""

    open_wanted = Signal()
    paste_wanted = Signal()
    several_wanted = Signal()
    scan_wanted = Signal()
    photo_wanted = Signal()
    path_wanted = Signal(Path)

    def __init__(self) -> None:
        """Lay out the page."""
        super().__init__()
        self._to_show: list[tuple[QToolButton, Path]] = []
        self._next = QTimer(self, interval=0)
        self._next.timeout.connect(self._show_next)
        self.setObjectName("start")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        outer = QVBoxLayout(self)
        card = QWidget()
        card.setObjectName("startCard")
        card.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        card.setMaximumWidth(760)
        layout = QVBoxLayout(card)
        layout.setContentsMargins(32, 28, 32, 28)
        layout.setSpacing(tokens.RHYTHM + 2)
        layout.addWidget(label("Bring in a drawing", title=True))
        layout.addWidget(
            label(
                "Open a scan, a photo, a small logo or a page of a PDF, paste one, or drop files on this window.",
                muted=True,
            )
        )
        row = QHBoxLayout()
        opener = button("Open a file", "Open a file (Ctrl+O)\nA picture or a saved project.", main=True)
        opener.clicked.connect(self.open_wanted)
        paster = button("Paste", "Paste (Ctrl+V)\nBrings in the picture on the clipboard.")
        paster.clicked.connect(self.paste_wanted)
        several = button("Several", "Several pictures\nTraced together, and handed over together.")
        several.clicked.connect(self.several_wanted)
        for one in (opener, several, paster):
            row.addWidget(one)
        self.scanner = button("Scan", "Scan\nBrings in a sheet from the scanner.")
        self.scanner.clicked.connect(self.scan_wanted)
        self.camera = button("Take a photo", "Take a photo\nBrings in a sheet through the camera.")
        self.camera.clicked.connect(self.photo_wanted)
        row.addWidget(self.scanner)
        row.addWidget(self.camera)
        row.addStretch(1)
        layout.addLayout(row)
        self._recent_title = label("Recent", strong=True)
        self._recent = QVBoxLayout()
        layout.addWidget(self._recent_title)
        layout.addLayout(self._recent)
        layout.addSpacing(8)
        self.show_recent([])
        layout.addWidget(label("Or try a picture of the Fen & Fetlock kite workshop", strong=True))
        grid = QGridLayout()
        grid.setSpacing(tokens.RHYTHM)
        for index, (name, title) in enumerate(DEMO_TITLES.items()):
            grid.addWidget(self._demo_button(DEMO_PICTURES / name, title), index // 4, index % 4)
        self._next.start()
        layout.addLayout(grid)
        outer.addStretch(1)
        outer.addWidget(card, 0, Qt.AlignmentFlag.AlignHCenter)
        outer.addStretch(1)

    def _demo_button(self, path: Path, title: str) -> QToolButton:
        made = QToolButton()
        made.setIcon(_blank(DEMO_SIZE))
        made.setIconSize(DEMO_SIZE)
        self._to_show.append((made, path))
        made.setText(title)
        made.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
        made.setFixedSize(160, 116)
        made.setToolTip(f"{title}\nOpens a demo picture.")
        made.clicked.connect(lambda: self.path_wanted.emit(path))
        return made

    def _show_next(self) -> None:
        """Show the next demo picture; reading all of them at once would keep the desk from being painted."""
        made, path = self._to_show.pop(0)
        made.setIcon(_framed(path, DEMO_SIZE))
        if not self._to_show:
            self._next.stop()

    def show_devices(self, scanner: bool, camera: bool) -> None:
        """Show the ways in by the devices there are."""
        self.scanner.setVisible(scanner)
        self.camera.setVisible(camera)

    def show_recent(self, paths: list[Path]) -> None:
        """Show recent files that are still there."""
        while self._recent.count():
            item = self._recent.takeAt(0)
            if item is not None and (link := item.widget()) is not None:
                link.deleteLater()
        there = [p for p in paths if p.exists()][:4]
        self._recent_title.setVisible(bool(there))
        for path in there:
            link = QToolButton()
            link.setText(f"{path.name}   {path.parent}")
            link.setToolTip(f"Open {path}")
            link.clicked.connect(lambda _checked, path=path: self.path_wanted.emit(path))
            self._recent.addWidget(link)
