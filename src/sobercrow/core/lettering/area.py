"""Lettering in an area of a picture: traced for itself, however small it is, and by whatever colour it stands out."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.edits import in_place, with_shapes
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.inks.colour import hex_of_rgb, lab_of
from sobercrow.core.inks.separation import separate
from sobercrow.core.lettering.letters import lettering_in
from sobercrow.core.lettering.matches import Match
from sobercrow.core.lettering.setting import as_group, glyph_contours
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import InkKind, Inks, Tracing
from sobercrow.core.tracing.outlines import trace

Box = tuple[float, float, float, float]
"""Left, top, right, bottom in px."""

LEAST_SIDE_PX, MOST_PIXELS = 6, 4_000_000
LARGE_PX, MOST_TIMES = 160, 8
"""An area that is lower is enlarged before it is traced, up to so many times."""
EDGE_PX = 2
HALF = 128
BLUR_PX, SHARPEN = 1.0, 2.0
"""What was enlarged is sharpened against a blur so wide, by so many times the difference."""
FULL, INKED = 99.0, 0.93
"""Ink is what is further from the ground than so many per cent of pixels; its colour that of those so near to it."""
LEAST_CONTRAST = 8.0
INSIDE = 0.5
"""Shapes of which so much of the box lies in the area make way for what is set there."""


def lettering_in_area(picture: Picture, box: Box, width_px: float | None = None) -> tuple[Shape, ...]:
    """Return what is drawn in an area of a picture as shapes in the colour they have.

    What differs from the ground around the area's edge is ink, dark or light; what runs out of the area is left out.
    The area and the shapes are in pixels of the picture, or of artwork that is `width_px` wide.

    Raises
    ------
    LetteringError
        If the area is too small, or nothing is drawn in it.
    """
    height, width = picture.pixels.shape[:2]
    finer = width / width_px if width_px is not None else 1.0
    box = (box[0] * finer, box[1] * finer, box[2] * finer, box[3] * finer)
    left, top = max(int(box[0]), 0), max(int(box[1]), 0)
    right, bottom = min(int(np.ceil(box[2])), width), min(int(np.ceil(box[3])), height)
    if min(right - left, bottom - top) < LEAST_SIDE_PX:
        raise LetteringError("This area is too small; frame a whole line of lettering.")
    part = np.ascontiguousarray(picture.pixels[top:bottom, left:right])
    away, colour = _away_from_ground(part)
    grey: U8 = np.asarray(np.rint(255.0 * (1.0 - away)), dtype=np.uint8)
    times = min(max(round(LARGE_PX / (bottom - top)), 1), MOST_TIMES)
    while times > 1 and times**2 * grey.size > MOST_PIXELS:
        times -= 1
    large = _sharpened(grey, times) if times > 1 else grey
    inks = Inks(kind=InkKind.ONE, threshold=HALF)
    separation = separate(Picture(np.repeat(large[..., None], 3, axis=2), picture.dpi), inks)
    artwork = trace(separation, Tracing(true_shapes=False)).artwork
    scale = grey.shape[1] / artwork.width_px
    found = []
    for shape in artwork.shapes:
        own = shape.scaled(scale)
        x0, y0, x1, y1 = own.bounds()
        if min(x0, y0) > 0.5 and x1 < grey.shape[1] - 0.5 and y1 < grey.shape[0] - 0.5:
            found.append(replace(own.moved(float(left), float(top)).scaled(1.0 / finer), fill=colour))
    if not found:
        raise LetteringError("There is no lettering in this area; frame a whole line, with some ground around it.")
    letters = lettering_in(Artwork((Layer("Area", tuple(found)),), artwork.width_px, artwork.height_px, picture.dpi))
    return tuple(found[k] for k in sorted(letters))


def _sharpened(grey: U8, times: int) -> U8:
    """Tones enlarged, and small gaps that blur has closed opened again (unsharp masking: common practice)."""
    size = grey.shape[1] * times, grey.shape[0] * times
    large = cv2.resize(grey, size, interpolation=cv2.INTER_CUBIC).astype(np.float32)
    soft = cv2.GaussianBlur(large, (0, 0), BLUR_PX * times)
    return np.asarray(np.clip(large + SHARPEN * (large - soft), 0.0, 255.0), dtype=np.uint8)


def _away_from_ground(part: U8) -> tuple[F64, str]:
    """How far every pixel is on the way from the ground's colour to the ink's, 0–1, and the ink's colour."""
    pixels = (part if part.ndim == 3 else np.repeat(part[..., None], 3, axis=2)).astype(np.float64)
    rim = np.ones(pixels.shape[:2], dtype=np.bool_)
    rim[EDGE_PX:-EDGE_PX, EDGE_PX:-EDGE_PX] = False
    ground = np.median(pixels[rim], axis=0)
    away = np.linalg.norm(lab_of(pixels) - lab_of(ground), axis=2)
    full = float(np.percentile(away, FULL))
    if full < LEAST_CONTRAST:
        raise LetteringError("There is no lettering in this area: it has one colour.")
    ink = np.median(pixels[away >= INKED * full], axis=0)
    way = ink - ground
    return np.clip((pixels - ground) @ way / max(float(way @ way), 1.0), 0.0, 1.0), hex_of_rgb(ink)


def set_in_area(artwork: Artwork, box: Box, match: Match, own_spacing: float, colour: str) -> Edited:
    """Return artwork with a match set as one group of a colour; traced shapes that lie in the area make way for it.

    Raises
    ------
    LetteringError
        If the typeface cannot be read.
    """
    fresh = [Shape(contours, colour) for contours in glyph_contours(match, own_spacing)]
    gone = frozenset(k for k, shape in enumerate(artwork.shapes) if _share_inside(shape.bounds(), box) >= INSIDE)
    made = in_place(artwork, gone, max(gone), fresh) if gone else with_shapes(artwork, fresh)
    return as_group(made, match, own_spacing)


def _share_inside(own: Box, box: Box) -> float:
    wide = min(own[2], box[2]) - max(own[0], box[0])
    high = min(own[3], box[3]) - max(own[1], box[1])
    area = max((own[2] - own[0]) * (own[3] - own[1]), 1e-9)
    return max(wide, 0.0) * max(high, 0.0) / area
