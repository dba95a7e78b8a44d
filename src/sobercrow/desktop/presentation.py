"""Pictures of results, made in the worker so that the window's thread only has to paint them."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QBuffer, QByteArray, QIODevice, Qt
from PySide6.QtGui import QColor, QImage, QImageWriter, QPainter, QPen

from sobercrow.core.arrays import F32
from sobercrow.core.artwork.hit import artwork_box
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.table import anchor_table
from sobercrow.core.cleanup.check import Finding
from sobercrow.core.cleanup.light import Light
from sobercrow.core.inks.error import colour_error
from sobercrow.core.inks.separation import OneInk
from sobercrow.core.inspect.deviation import Deviation, Figures
from sobercrow.core.results import Results
from sobercrow.core.settings.recipes import Recipe
from sobercrow.desktop import tokens
from sobercrow.desktop.painting import paint_shape
from sobercrow.desktop.paths import paths
from sobercrow.desktop.ribbon import Ribbon

THUMB_SCALE = 2
MARGIN_PX = 3


class Pyramid:
    """An image and its halves, quarters and so on, so that drawing it small is quick and smooth."""

    def __init__(self, pixels: NDArray[np.uint8]) -> None:
        """Reduce (height, width, 3) pixels until they are small."""
        self.levels = [_screen_image(pixels)]
        while min(pixels.shape[:2]) >= 2 and pixels.shape[0] * pixels.shape[1] > 400_000:
            size = (max(1, pixels.shape[1] // 2), max(1, pixels.shape[0] // 2))
            pixels = np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)
            self.levels.append(_screen_image(pixels))

    def at(self, scale: float) -> QImage:
        """Return the level to draw at `scale` screen pixels per picture pixel."""
        level = 0
        while level + 1 < len(self.levels) and scale * 2 ** (level + 1) <= 1.0:
            level += 1
        return self.levels[level]


@dataclass(frozen=True, slots=True, eq=False)
class Presentation:
    """A result with what the window shows of it.

    `source` is the picture as brought in; `shade` the light that was evened out, if any; `artwork` is the refined
    artwork where there is one, else the traced; `figures` are its figures. `tones` are those of one ink while nothing
    but a threshold decides; `owners` says whose each pixel is, `error` how unlike its ink. `deviation` is that of the
    artwork, `ribbon` shows it along the border, `worst` the worst places, `suits` the recipe that
    suits the picture. Images of a draft have fewer pixels than the picture; they are drawn at its full size all the
    same.
    """

    results: Results
    artwork: Artwork
    figures: Figures
    source: Pyramid
    shade: QImage | None
    cleaned: Pyramid
    tones: QImage | None
    owners: QImage
    error: QImage
    deviation: Deviation
    ribbon: Ribbon
    worst: list[tuple[float, float, float]]
    suits: Recipe
    thumbnails: dict[str, QImage]

    @property
    def is_draft(self) -> bool:
        """Tell whether a fuller result is still to come."""
        return self.results.is_draft

    def in_colours(self, solo: int | None = None, alone: bool = False) -> QImage:
        """Return the inks in their colours; or one alone, the others pale."""
        inks = self.results.separation.inks
        image = QImage(self.owners)
        colours = [QColor(ink.colour).rgb() for ink in inks]
        if alone:
            colours = [c if k == solo else QColor(tokens.LIGHT.hair).rgb() for k, c in enumerate(colours)]
        image.setColorTable(colours + [0xFF000000] * (256 - len(colours)))
        return image

    def with_artwork(self, artwork: Artwork) -> Presentation:
        """Return the same with other artwork, as while it is being dragged; figures stay as they were."""
        return replace(self, artwork=artwork)

    def with_findings(self, findings: tuple[Finding, ...]) -> Presentation:
        """Return the same with what the picture check found."""
        return replace(self, results=replace(self.results, findings=findings))


def present(
    results: Results, artwork: Artwork, away: Deviation, suits: Recipe, source: Pyramid, source_thumbnail: QImage
) -> Presentation:
    """Make images and thumbnails of a result with the artwork it comes to. Runs in the worker."""
    cleaned = Pyramid(results.cleaned.pixels)
    separation = results.separation
    plain = isinstance(separation, OneInk) and separation.field.grey is separation.grey
    tones = grey_image(separation.grey) if isinstance(separation, OneInk) and plain else None
    own = separation.own
    owners = grey_image(own)
    error = error_image(colour_error(results.cleaned.pixels, own, separation.inks))
    paths.keep(artwork.shapes)  # so that the window's thread finds them ready, and boxes, anchors and shares too
    anchor_table(artwork)
    artwork_box(artwork)
    _ = separation.coverage
    drawing = artwork_thumbnail(artwork, outline=False)
    shown = Presentation(
        results,
        artwork,
        results.figures if artwork is results.artwork else away.figures(artwork),
        source,
        shade_image(results.sheet.shade),
        cleaned,
        tones,
        owners,
        error,
        away,
        Ribbon(away),
        away.worst(),
        suits,
        {
            "bring_in": source_thumbnail,
            "clean_up": thumbnail(cleaned.levels[-1]),
            "trace": artwork_thumbnail(artwork, outline=True),
            "refine": drawing,
            "hand_over": drawing,
        },
    )
    shown.thumbnails["inks"] = thumbnail(shown.in_colours())
    return shown


def _screen_image(pixels: NDArray[np.uint8]) -> QImage:
    return rgb_image(pixels).convertToFormat(QImage.Format.Format_RGB32)


def rgb_image(pixels: NDArray[np.uint8]) -> QImage:
    """Return an image of (height, width, 3) pixels that owns its memory."""
    height, width = pixels.shape[:2]
    view = np.ascontiguousarray(pixels)
    return QImage(view.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy()


def grey_image(grey: NDArray[np.uint8]) -> QImage:
    """Return an indexed image whose index is the tone."""
    height, width = grey.shape
    view = np.ascontiguousarray(grey)
    image = QImage(view.data, width, height, width, QImage.Format.Format_Indexed8).copy()
    image.setColorTable([0xFF000000 | (v << 16) | (v << 8) | v for v in range(256)])
    return image


def error_image(error: F32) -> QImage:
    """Return an image of differences ΔE00: pale where there is none, darker steps by `ERROR_STEPS`."""
    steps = np.searchsorted(np.array([least for least, _ in tokens.ERROR_STEPS]), error, side="right")
    image = grey_image(steps.astype(np.uint8))
    colours = [QColor(tokens.ERROR_NONE).rgb(), *(QColor(colour).rgb() for _, colour in tokens.ERROR_STEPS)]
    image.setColorTable(colours + [0xFF000000] * (256 - len(colours)))
    return image.convertToFormat(QImage.Format.Format_RGB32)


def ink_image(tones: QImage, threshold: int) -> QImage:
    """Return the same tones shown as ink and paper; only the colour table differs."""
    image = QImage(tones)
    image.setColorTable([0xFF000000] * (threshold + 1) + [0xFFFFFFFF] * (255 - threshold))
    return image


def shade_image(shade: Light | None) -> QImage | None:
    """Return the paper's tones as they were before the light was evened out."""
    if shade is None:
        return None
    size = (8 * shade.paper.shape[1], 8 * shade.paper.shape[0])
    fine = cv2.resize(shade.paper, size, interpolation=cv2.INTER_CUBIC)
    tones = np.clip(np.rint(fine), 0, 255).astype(np.uint8)
    return grey_image(tones).convertToFormat(QImage.Format.Format_RGB32)


def png_of(image: QImage) -> bytes:
    """Return an image as PNG."""
    packed = QByteArray()
    buffer = QBuffer(packed)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    QImageWriter(buffer, QByteArray(b"PNG")).write(image)
    return bytes(packed.data())


def thumbnail(image: QImage) -> QImage:
    """Return a small copy that fits the step cards."""
    width, height = tokens.THUMB_WIDTH * THUMB_SCALE, tokens.THUMB_HEIGHT * THUMB_SCALE
    rough = image.scaled(
        4 * width, 4 * height, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.FastTransformation
    )
    if rough.width() > image.width():
        rough = image
    return rough.convertToFormat(QImage.Format.Format_RGB32).scaled(
        width, height, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
    )


def artwork_thumbnail(artwork: Artwork, outline: bool) -> QImage:
    """Return the artwork small, on white."""
    width, height = tokens.THUMB_WIDTH * THUMB_SCALE, tokens.THUMB_HEIGHT * THUMB_SCALE
    scale = min(width / artwork.width_px, height / artwork.height_px)
    image = QImage(
        max(1, round(artwork.width_px * scale)), max(1, round(artwork.height_px * scale)), QImage.Format.Format_RGB32
    )
    image.fill(QColor(tokens.LIGHT.page))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(scale, scale)
    for k, shape in enumerate(artwork.shapes):
        if k in artwork.out_of_sight:
            continue
        if outline:
            painter.strokePath(paths.of(shape), _thin(tokens.LIGHT.accent))
        else:
            paint_shape(painter, shape, paths.of(shape))
    painter.end()
    return image


def _thin(colour: str) -> QPen:
    pen = QPen(QColor(colour), 2.0)
    pen.setCosmetic(True)
    return pen
