"""Taking a photo of a sheet."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QDialog, QLabel, QVBoxLayout, QWidget

from sobercrow.core.picture.devices import Camera
from sobercrow.core.picture.picture import Picture
from sobercrow.desktop.controls import button, label, row_of
from sobercrow.desktop.devices.devices import TakesSheets
from sobercrow.desktop.devices.sheet_choice import SheetChoice
from sobercrow.desktop.help.dialog import HelpedDialog
from sobercrow.desktop.presentation import rgb_image
from sobercrow.desktop.worker import Worker

VIEW_WIDTH, VIEW_HEIGHT = 480, 360


class PhotoDialog(HelpedDialog):
    """Takes photos until one is kept; `taken` holds the picture and its file."""

    def __init__(self, camera: Camera, parent: QWidget | None = None) -> None:
        """Show the camera's view."""
        super().__init__(parent, "Take a photo")
        self.taken: tuple[Picture, bytes] | None = None
        self._camera = camera
        self._worker = Worker()
        self.said = label(muted=True)
        self._worker.produced.connect(self._take)
        self._worker.failed.connect(lambda _n, sentence: self.said.setText(sentence))
        self.view = QLabel()
        self.view.setFixedSize(VIEW_WIDTH, VIEW_HEIGHT)
        self.view.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.again = button("Another", "Another photo\nThe camera looks from elsewhere.")
        self.again.clicked.connect(self.shoot)
        self.keep = button("Bring in", "Bring in\nTakes this photo.", main=True)
        self.keep.clicked.connect(self.accept)
        layout = QVBoxLayout(self)
        layout.addWidget(label(camera.name, title=True))
        if isinstance(camera, TakesSheets):
            self.choice = SheetChoice(camera)
            self.choice.laid.connect(self.shoot)
            layout.addWidget(self.choice)
        layout.addWidget(self.view)
        layout.addWidget(self.said)
        layout.addWidget(row_of(self.again, self.keep))
        self.shoot()

    def shoot(self) -> None:
        """Take a photo."""
        self.keep.setEnabled(False)
        self.said.setText("Taking the photo …")
        self._worker.submit(lambda give, _report: give(self._camera.shoot()))

    def _take(self, _number: int, result: object) -> None:
        if isinstance(result, tuple):
            self.taken = result
            picture = result[0].reduced(result[0].width / VIEW_WIDTH)
            self.view.setPixmap(QPixmap.fromImage(rgb_image(picture.pixels)))
            self.said.setText(f"{result[0].width} × {result[0].height} px")
            self.keep.setEnabled(True)

    def done(self, code: int) -> None:
        """End the camera's thread; without “Bring in” nothing is taken."""
        if code != QDialog.DialogCode.Accepted:
            self.taken = None
        self._worker.close()
        super().done(code)
