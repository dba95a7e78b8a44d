"""Pictures of known shapes for the tests, drawn with exact area coverage by oversampling."""

from __future__ import annotations

import io
import math

import cv2
import numpy as np
import shapely
from fontTools.pens.qu2cuPen import Qu2CuPen
from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.ttLib import TTFont
from matplotlib import font_manager
from PIL import Image, ImageDraw, ImageFont

from sobercrow.core.arrays import F64, U8
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.artwork.placing import placed_shape
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.bezier import split
from sobercrow.core.geometry.contour import AnchorKind, Contour, directions
from sobercrow.core.inks.separation import Separation, separate
from sobercrow.core.lettering.glyphs import glyphs_of
from sobercrow.core.lettering.typefaces import LIBRARY, faces_of
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Inks

FINE = 16


def disc(size: int, x: float, y: float, radius: float) -> U8:
    """Return a black disc on white, (size, size) uint8."""
    at = (np.arange(size * FINE) + 0.5) / FINE
    inside = (at[None, :] - x) ** 2 + (at[:, None] - y) ** 2 <= radius**2
    return coverage(inside)


def polygon(size: int, points: list[tuple[float, float]]) -> U8:
    """Return a black convex polygon, its corners clockwise on screen, on white."""
    at = (np.arange(size * FINE) + 0.5) / FINE
    inside = np.ones((size * FINE, size * FINE), dtype=bool)
    for (ax, ay), (bx, by) in zip(points, points[1:] + points[:1], strict=True):
        inside &= (bx - ax) * (at[:, None] - ay) - (by - ay) * (at[None, :] - ax) >= 0
    return coverage(inside)


def coverage(inside: np.ndarray) -> U8:
    """Return tones from a fine mask: the share of each pixel that is covered."""
    height, width = inside.shape[0] // FINE, inside.shape[1] // FINE
    share = inside.reshape(height, FINE, width, FINE).mean(axis=(1, 3))
    return np.rint(255 * (1 - share)).astype(np.uint8)


def compressed(pixels: U8, quality: int) -> U8:
    """Return a picture (h, w, 3) as OpenCV writes it as JPEG, colour at half the resolution, and reads it again."""
    coded = cv2.imencode(".jpg", pixels[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])[1]
    return np.ascontiguousarray(cv2.imdecode(coded, cv2.IMREAD_COLOR)[..., ::-1])


def jpeg_file(pixels: U8, quality: int, **options: object) -> bytes:
    """Return pixels as a JPEG file of Pillow's libjpeg, colour at half the resolution unless said otherwise."""
    memory = io.BytesIO()
    Image.fromarray(pixels).save(memory, "JPEG", quality=quality, **options)
    return memory.getvalue()


def lettering(text: str, size_px: int = 96, face: str = "DejaVu Serif") -> U8:
    """Return black words on white in one of Matplotlib's bundled open typefaces."""
    path = font_manager.findfont(face, fallback_to_default=False)
    font = ImageFont.truetype(path, size_px)
    box = font.getbbox(text)
    image = Image.new("L", (int(box[2]) + 24, int(box[3]) + 24), 255)
    ImageDraw.Draw(image).text((12, 12), text, font=font, fill=0)
    return np.asarray(image)


def picture(grey: U8, dpi: float = 300.0) -> Picture:
    """Return tones as a picture."""
    return Picture(np.repeat(grey[..., None], 3, axis=2), dpi, name="test.png")


def separation(grey: U8, threshold: int | None = None) -> Separation:
    """Return tones parted into ink and paper."""
    return separate(picture(grey), Inks(threshold=threshold))


def glyph_contours(text: str, size_px: float = 96.0, face: str = "DejaVu Serif") -> list[Contour]:
    """Return the outlines of words in one of Matplotlib's bundled open typefaces, read by fontTools, as cubics."""
    font = TTFont(font_manager.findfont(face, fallback_to_default=False))
    glyphs, names, scale = font.getGlyphSet(), font.getBestCmap(), size_px / font["head"].unitsPerEm
    made, right = [], 8.0
    for character in text:
        pen = DecomposingRecordingPen(glyphs)
        glyphs[names[ord(character)]].draw(Qu2CuPen(pen, 0.01, all_cubic=True))
        for segments in _segments(pen.value):
            made.append(contour_of(segments * (scale, -scale) + (right, size_px)))
        right += glyphs[names[ord(character)]].width * scale
    return made


def _segments(value: list[tuple[str, tuple]]) -> list[np.ndarray]:
    found, current, here = [], [], np.zeros(2)
    for operator, points in value:
        at = [np.array(p, float) for p in points]
        if operator == "moveTo":
            here = at[0]
        elif operator == "lineTo":
            current.append([here, here, at[0], at[0]])
            here = at[0]
        elif operator == "curveTo":
            current.append([here, *at])
            here = at[-1]
        elif current:
            start = current[0][0]
            if np.hypot(*(start - here)) > 1e-6:
                current.append([here, here, start, start])
            found.append(np.array(current))
            current = []
    return found


def contour_of(segments: np.ndarray) -> Contour:
    """Return closed cubic segments (m, 4, 2) as a contour, a corner where it turns by more than a degree."""
    before = np.roll(segments, 1, axis=0)
    made = Contour(np.stack([before[:, 2], segments[:, 0], segments[:, 1]], axis=1), np.ones(len(segments), np.uint8))
    into, out = directions(made)
    kinds = np.where((into * out).sum(axis=1) > 0.9998, AnchorKind.SMOOTH, AnchorKind.CORNER).astype(np.uint8)
    return Contour(made.points, kinds)


def circle(x: float, y: float, r: float, *, corners: bool = False) -> Contour:
    """A circle by its middle and radius, of four cubics, ink on its right."""
    k = 0.5523 * r
    points = [
        ((x - k, y - r), (x, y - r), (x + k, y - r)),
        ((x + r, y - k), (x + r, y), (x + r, y + k)),
        ((x + k, y + r), (x, y + r), (x - k, y + r)),
        ((x - r, y + k), (x - r, y), (x - r, y - k)),
    ]
    return Contour(np.array(points), np.full(4, AnchorKind.CORNER if corners else AnchorKind.SMOOTH))


def dense(contour: Contour, spacing_px: float) -> Contour:
    """Return a contour with a smooth anchor every so many px, split exactly, and its own corners."""
    points, kinds = [], []
    for curve, kind in zip(contour.curves(), contour.kinds.tolist(), strict=True):
        count = max(1, round(float(np.hypot(*np.diff(curve, axis=0).T).sum()) / spacing_px))
        rest = curve
        for k in range(count):
            part, rest = split(rest, 1.0 / (count - k)) if k + 1 < count else (rest, rest)
            points.append(part)
            kinds.append(kind if k == 0 else int(AnchorKind.SMOOTH))
    segments = np.array(points)
    before = np.roll(segments, 1, axis=0)
    return Contour(np.stack([before[:, 2], segments[:, 0], segments[:, 1]], axis=1), np.array(kinds, np.uint8))


def artwork_of(*shapes: Shape | Contour) -> Artwork:
    """Return artwork of some shapes, or of contours as shapes of their own, in one layer."""
    made = tuple(shape if isinstance(shape, Shape) else Shape((shape,)) for shape in shapes)
    return Artwork((Layer("Ink", made),), 800.0, 300.0, 300.0)


def line_of(contour: Contour, spacing: float = 0.1) -> F64:
    """Return points along a contour, the first one again at the end of a closed one."""
    return np.vstack([contour.sampled(spacing), *([contour.anchors[:1]] if contour.closed else [])])


def off(points: F64, line: F64) -> F64:
    """Return how far each of some points lies from a line of points, in px, by Shapely's tree of its pieces."""
    pieces = shapely.STRtree(shapely.linestrings(np.stack([line[:-1], line[1:]], axis=1)))
    return pieces.query_nearest(shapely.points(points), all_matches=False, return_distance=True)[1]


def distance(one: Contour, other: Contour) -> float:
    """Return how far two contours are apart at most, in px: Hausdorff's distance of fine lines."""
    first, second = line_of(one), line_of(other)
    return float(max(off(first, second).max(), off(second, first).max()))


def set_word(text: str, gaps: list[float], falls: list[float], leans: list[float], turn_deg: float = 0.0) -> Artwork:
    """A word of Cantarell at 90 px per em by HarfBuzz, one shape a letter.

    Letters are so far apart, below the line, and leaned to the right, each by its own amount; all are turned.
    """
    glyphs = glyphs_of(faces_of(LIBRARY / "Cantarell-Regular.otf")[0].face)
    shapes, along = [], 100.0
    for character, gap, fall, lean in zip(text, gaps, falls, leans, strict=True):
        outline = Shape(tuple(glyphs.contours(character)))
        own = placed_shape(outline, Affine.scaled(90.0, 90.0, (0.0, 0.0)))
        own = placed_shape(own, Affine.leaned(lean, (0.0, 0.0)))
        left, _, right, _ = own.bounds()
        shapes.append(placed_shape(own, Affine.moved(along - left, 200.0 + fall)))
        along += right - left + gap
    turned = [placed_shape(shape, Affine.turned(turn_deg, (300.0, 200.0))) for shape in shapes]
    return Artwork((Layer("Ink", tuple(turned)),), 900.0, 400.0, 300.0)


def parted_disc(size: int = 128) -> np.ndarray:
    """A disc of two colours with a bar across, on a tinted ground, with soft true edges, (size, size, 3)."""
    y, x = (np.mgrid[0 : 4 * size, 0 : 4 * size] + 0.5) / (4 * size)
    fine = np.empty((4 * size, 4 * size, 3))
    fine[:] = (232, 226, 214)
    disc = (x - 0.52) ** 2 + (y - 0.49) ** 2 < 0.15
    fine[disc] = (40, 66, 110)
    fine[disc & (x + 0.4 * y > 0.8)] = (176, 70, 48)
    fine[(np.abs(y - 0.72 + 0.2 * x) < 0.03) & (x > 0.1) & (x < 0.9)] = (228, 190, 70)
    return np.rint(fine.reshape(size, 4, size, 4, 3).mean(axis=(1, 3))).astype(np.uint8)


def spots(height: int, width: int, period_px: float, angle_deg: float) -> F64:
    """The spot function of a screen of round dots, (height, width), 0–1 (Ulichney 1987, "Digital halftoning")."""
    y, x = np.mgrid[0:height, 0:width] + 0.5
    c, s = math.cos(math.radians(angle_deg)), math.sin(math.radians(angle_deg))
    u, v = 2 * np.pi * (x * c + y * s) / period_px, 2 * np.pi * (y * c - x * s) / period_px
    return np.asarray(0.5 + 0.25 * (np.cos(u) + np.cos(v)))
