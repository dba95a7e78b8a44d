"""A simulated flat-bed scanner: A4 bed, a little noise and softness, real resolutions."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np

from sobercrow.core.arrays import U8
from sobercrow.core.errors import PictureError
from sobercrow.core.picture.devices import Progress, Region, ScanMode, ScanRequest
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import mm_to_px
from sobercrow.stand_ins.sheets import SheetOfPaper, demo_sheets, sheet_from_file

LID = 251
"""Tone of the white lid beside the sheet."""
MARGIN_MM = 12.0
STRIPS = 40
SECONDS_A_SCAN = 1.2
PREVIEW_DPI = 75.0


class SimulatedScanner:
    """Scans whichever sheet was laid on its bed; takes the shape of `Scanner`."""

    name = "Simulated scanner"
    bed_mm = (210.0, 297.0)

    def __init__(self, wait: Callable[[float], None] = time.sleep) -> None:
        """Lay the first sheet on the bed; `wait` is how the carriage takes its time."""
        self.sheets = demo_sheets()
        self._sheet = self.sheets[0]
        self._picture: Picture | None = None
        self._wait = wait

    def lay(self, sheet: SheetOfPaper) -> None:
        """Lay another sheet on the bed."""
        self._sheet, self._picture = sheet, None

    def lay_file(self, path: Path) -> None:
        """Lay a picture file on the bed."""
        self.lay(sheet_from_file(path))

    def preview(self) -> Picture:
        """Return the whole bed at 75 dpi."""
        whole = Region(0.0, 0.0, *self.bed_mm)
        return Picture(self._read(whole, PREVIEW_DPI), PREVIEW_DPI, True, "Preview")

    def scan(self, request: ScanRequest, progress: Progress) -> Picture:
        """Return the region, read strip by strip.

        Raises
        ------
        Cancelled
            If `progress` raised it; nothing is kept then.
        PictureError
            If the region lies beside the bed.
        """
        region = request.region or Region(0.0, 0.0, *self.bed_mm)
        if region.left_mm >= self.bed_mm[0] or region.top_mm >= self.bed_mm[1]:
            raise PictureError("The region lies beside the scanner's bed; draw another.")
        for strip in range(STRIPS):
            progress(strip / STRIPS)
            self._wait(SECONDS_A_SCAN / STRIPS)
        pixels = self._read(region, request.dpi)
        if request.mode is not ScanMode.COLOUR:
            grey = np.asarray(cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY), dtype=np.uint8)
            if request.mode is ScanMode.BLACK_AND_WHITE:
                grey = np.where(grey < 128, 0, 255).astype(np.uint8)
            pixels = np.repeat(grey[..., None], 3, axis=2)
        progress(1.0)
        return Picture(pixels, request.dpi, True, f"Scan of {self._sheet.name.lower()}.png")

    def _read(self, region: Region, dpi: float) -> U8:
        """What the sensor sees: the sheet on the bed, its lid around it, with softness and noise."""
        sheet = self._picture = self._picture or self._sheet.read()
        width, height = (max(1, round(mm_to_px(mm, dpi))) for mm in (region.width_mm, region.height_mm))
        scale = dpi / sheet.dpi
        shift_x, shift_y = (mm_to_px(MARGIN_MM - edge, dpi) for edge in (region.left_mm, region.top_mm))
        pixels = sheet.reduced(1 / scale).pixels if scale < 1.0 else sheet.pixels
        scale_x, scale_y = sheet.width * scale / pixels.shape[1], sheet.height * scale / pixels.shape[0]
        matrix = np.array([[scale_x, 0, shift_x + 0.5 * scale_x - 0.5], [0, scale_y, shift_y + 0.5 * scale_y - 0.5]])
        laid = cv2.warpAffine(
            pixels,
            matrix,
            (width, height),
            flags=cv2.INTER_CUBIC,
            borderMode=cv2.BORDER_CONSTANT,
            borderValue=(LID,) * 3,
        )
        random = np.random.default_rng(21)
        seen = cv2.GaussianBlur(laid, (0, 0), 0.45).astype(np.float32)
        seen += random.normal(0, 1.0, (height, width, 1)).astype(np.float32)
        return np.clip(np.rint(seen), 0, 255).astype(np.uint8)
