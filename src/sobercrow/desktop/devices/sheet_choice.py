"""Which sheet lies on a simulated device."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QFileDialog, QVBoxLayout, QWidget

from sobercrow.core.picture.decode import SUFFIXES
from sobercrow.desktop.controls import label
from sobercrow.desktop.devices.devices import TakesSheets

OTHER = "A picture file …"


class SheetChoice(QWidget):
    """A list of the sheets there are, and any picture file."""

    laid = Signal()

    def __init__(self, device: TakesSheets) -> None:
        """Choose for a device; what lay on it last stays."""
        super().__init__()
        self._device = device
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.list = QComboBox()
        self.list.setAccessibleName("Sheet")
        self.list.addItems([sheet.name for sheet in device.sheets] + [OTHER])
        self.list.activated.connect(self._take)
        layout.addWidget(label("Sheet", strong=True))
        layout.addWidget(self.list)
        device.lay(device.sheets[0])

    def _take(self, index: int) -> None:
        if index < len(self._device.sheets):
            self._device.lay(self._device.sheets[index])
        else:
            kinds = " ".join(f"*{s}" for s in SUFFIXES)
            chosen, _ = QFileDialog.getOpenFileName(self, "Lay a picture file on the device", "", f"Pictures ({kinds})")
            if not chosen:
                return
            self._device.lay_file(Path(chosen))
        self.laid.emit()
