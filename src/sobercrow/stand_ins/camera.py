"""A simulated camera: the sheet on a desk, slanted, unevenly lit, softened, compressed."""

from __future__ import annotations

import io
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from sobercrow.core.arrays import F32, F64
from sobercrow.core.picture.decode import decode_picture
from sobercrow.core.picture.picture import Picture
from sobercrow.stand_ins.sheets import SheetOfPaper, demo_sheets, sheet_from_file

WIDTH, HEIGHT = 2000, 1500
DESK = (112.0, 98.0, 84.0)
JPEG_QUALITY = 82
MARGIN_PX = 40
"""The camera sees at least so much of the desk on every side."""


class SimulatedCamera:
    """Takes a photo of a sheet, each time from another place; takes the shape of `Camera`."""

    name = "Simulated camera"

    def __init__(self, seed: int = 1) -> None:
        """Put the first sheet before the camera; `seed` decides where it stands first."""
        self.sheets = demo_sheets()
        self._sheet, self._seed = self.sheets[0], seed

    def lay(self, sheet: SheetOfPaper) -> None:
        """Put another sheet before the camera."""
        self._sheet = sheet

    def lay_file(self, path: Path) -> None:
        """Put a picture file before the camera."""
        self.lay(sheet_from_file(path))

    def shoot(self) -> tuple[Picture, bytes]:
        """Return a photo and its JPEG file."""
        random = np.random.default_rng(self._seed)
        self._seed += 1
        sheet = self._sheet.read()
        sheet = sheet.reduced(max(1.0, max(sheet.width / WIDTH, sheet.height / HEIGHT)))
        tilt, towards, spin = random.uniform(12, 28), random.uniform(0, 360), random.uniform(-6, 6)
        corners = pinhole_corners((sheet.width, sheet.height), (WIDTH, HEIGHT), tilt, towards, spin)
        flat = np.array([(0, 0), (sheet.width, 0), (sheet.width, sheet.height), (0, sheet.height)], np.float32)
        warp = cv2.getPerspectiveTransform(flat - 0.5, (corners - 0.5).astype(np.float32))
        size = (WIDTH, HEIGHT)
        laid = cv2.warpPerspective(sheet.pixels, warp, size, flags=cv2.INTER_AREA).astype(np.float32)
        cover = cv2.warpPerspective(np.ones((sheet.height, sheet.width), np.float32), warp, size, flags=cv2.INTER_AREA)[
            ..., None
        ]
        grain = random.standard_normal((HEIGHT, WIDTH), dtype=np.float32)
        desk = np.array(DESK, np.float32) + cv2.GaussianBlur(grain, (0, 0), 10.0)[..., None] * 50.0
        y, x = np.mgrid[:HEIGHT, :WIDTH].astype(np.float32)
        angle = random.uniform(0, 2 * np.pi)
        along = ((x / WIDTH - 0.5) * np.cos(angle) + (y / HEIGHT - 0.5) * np.sin(angle)) / 0.7
        light: F32 = 0.78 - 0.2 * along - 0.12 * ((x / WIDTH - 0.5) ** 2 + (y / HEIGHT - 0.5) ** 2)
        seen = cv2.GaussianBlur((laid + desk * (1 - cover)) * light[..., None], (0, 0), 1.0)
        seen = seen + random.standard_normal(seen.shape, dtype=np.float32) * np.float32(1.8)
        memory = io.BytesIO()
        Image.fromarray(np.clip(np.rint(seen), 0, 255).astype(np.uint8)).save(memory, "JPEG", quality=JPEG_QUALITY)
        name = f"Photo of {self._sheet.name.lower()}.jpg"
        return decode_picture(memory.getvalue(), name), memory.getvalue()


def pinhole_corners(
    sheet: tuple[int, int], view: tuple[int, int], tilt_deg: float, towards_deg: float, spin_deg: float
) -> F64:
    """Return where a pinhole camera sees the corners of a sheet, (4, 2) from the top left clockwise, in pixels.

    The sheet is tilted towards a direction and spun in its own plane; the camera steps back until all of it is in view.
    """
    width, height = sheet
    focal = 1.1 * float(np.hypot(*view))
    towards, tilt = np.radians(towards_deg), np.radians(tilt_deg)
    axis = np.array([np.cos(towards), np.sin(towards), 0.0]) * tilt
    turn = cv2.Rodrigues(axis)[0] @ cv2.Rodrigues(np.array([0, 0, np.radians(spin_deg)]))[0]
    flat = np.array([(0, 0), (width, 0), (width, height), (0, height)], np.float64) - (width / 2, height / 2)
    distance = focal * max(width / view[0], height / view[1]) / 0.8
    while True:
        placed = np.column_stack([flat, np.zeros(4)]) @ turn.T + (0, 0, distance)
        seen = placed[:, :2] / placed[:, 2:] * focal + (view[0] / 2, view[1] / 2)
        if (seen > MARGIN_PX).all() and (seen < np.array(view) - MARGIN_PX).all():
            return np.asarray(seen)
        distance *= 1.02
