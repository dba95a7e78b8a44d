"""Words of known outline, set in open typefaces and rendered by resvg, to measure tracing against."""

from __future__ import annotations

import io
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import cv2
import numpy as np
import resvg_py
from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.pens.transformPen import TransformPen
from fontTools.ttLib import TTFont
from PIL import Image

TEX_GYRE = Path("/usr/share/texmf/fonts/opentype/public/tex-gyre")
OPENTYPE = Path("/usr/share/fonts/opentype")

MEASURED_FACES = {
    "sans": TEX_GYRE / "texgyreheros-regular.otf",
    "serif": OPENTYPE / "linux-libertine/LinLibertine_R.otf",
    "italic": TEX_GYRE / "texgyrepagella-italic.otf",
    "display": OPENTYPE / "lobster/lobster.otf",
}
TUNING_FACES = {
    "sans": OPENTYPE / "cantarell/Cantarell-Regular.otf",
    "serif": OPENTYPE / "ebgaramond/EBGaramond12-Regular.otf",
    "italic": TEX_GYRE / "texgyreschola-italic.otf",
    "script": TEX_GYRE / "texgyrechorus-mediumitalic.otf",
}
MEASURED_WORDS = ("Hamburg", "kites&fog", "2593qxy")
TUNING_WORDS = ("Regatta", "windjump", "4680fly")


@dataclass(frozen=True, slots=True)
class Word:
    """A word as cubic contours in pixels, y down, and its rendering.

    `contours` holds one (m, 4, 2) array of cubic segments per closed contour; straight sides are cubics
    with their handles on the thirds. `anchors` is the number of points the type designer set.
    """

    contours: list[np.ndarray]
    anchors: int
    svg: str
    width: int
    height: int


def _segments(value: list[tuple[str, tuple]]) -> tuple[list[np.ndarray], int]:
    contours: list[np.ndarray] = []
    anchors = 0
    current: list[list[np.ndarray]] = []
    here = start = np.zeros(2)

    def line_to(there: np.ndarray) -> None:
        nonlocal here
        if np.hypot(*(there - here)) > 1e-6:
            current.append([here, here + (there - here) / 3, here + (there - here) * 2 / 3, there])
        here = there

    for operator, points in value:
        at = [np.array(p, float) for p in points if p is not None]
        if operator == "moveTo":
            here = start = at[0]
        elif operator == "lineTo":
            line_to(at[0])
        elif operator == "curveTo":
            current.append([here, *at])
            here = at[-1]
        elif operator == "qCurveTo":
            ons = [*((a + b) / 2 for a, b in pairwise(at[:-1])), at[-1]]
            for off, on in zip(at[:-1], ons, strict=True):
                current.append([here, here + (off - here) * 2 / 3, on + (off - on) * 2 / 3, on])
                here = on
        elif operator in ("closePath", "endPath"):
            line_to(start)
            if current:
                contours.append(np.array(current))
                anchors += len(current)
            current = []
    return contours, anchors


def set_word(face: Path, text: str, em_px: float, gap_em: float = 0.08) -> Word:
    """Set `text` letter by letter, far enough apart that no two letters touch."""
    font = TTFont(face)
    glyphs, names = font.getGlyphSet(), font.getBestCmap()
    scale = em_px / font["head"].unitsPerEm
    margin = round(em_px * 0.25) + 4
    contours: list[np.ndarray] = []
    path = ""
    anchors = 0
    right = float(margin)
    top, bottom = np.inf, -np.inf
    placed = []
    for character in text:
        pen = DecomposingRecordingPen(glyphs)
        glyphs[names[ord(character)]].draw(pen)
        shapes, count = _segments(pen.value)
        anchors += count
        everything = np.concatenate([s.reshape(-1, 2) for s in shapes]) * (scale, -scale)
        shift = right - everything[:, 0].min()
        placed.append((character, shapes, shift))
        right += np.ptp(everything[:, 0]) + gap_em * em_px
        top, bottom = min(top, everything[:, 1].min()), max(bottom, everything[:, 1].max())
    drop = margin - top + 0.37  # an odd part of a pixel, so that no stem lies on the pixel grid by rule
    for character, shapes, shift in placed:
        contours += [s * (scale, -scale) + (shift, drop) for s in shapes]
        svg_pen = SVGPathPen(glyphs, ntos=lambda v: f"{v:.4f}")
        glyphs[names[ord(character)]].draw(TransformPen(svg_pen, (scale, 0, 0, -scale, shift, drop)))
        path += svg_pen.getCommands()
    width, height = int(right + margin), int(bottom - top + 2 * margin + 1)
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}">'
        f'<rect width="100%" height="100%" fill="#fff"/><path d="{path}" fill="#000"/></svg>'
    )
    return Word(contours, anchors, svg, width, height)


def render(word: Word) -> np.ndarray:
    """Return the word as (height, width) uint8 grey, anti-aliased by resvg."""
    data = resvg_py.svg_to_bytes(svg_string=word.svg)
    return np.asarray(Image.open(io.BytesIO(bytes(data))).convert("L"))


def spoil(grey: np.ndarray, blur_px: float = 0.7, quality: int = 35) -> np.ndarray:
    """Blur a picture and pass it through JPEG, as a careless export would."""
    soft = Image.fromarray(cv2.GaussianBlur(grey, (0, 0), blur_px))
    memory = io.BytesIO()
    soft.save(memory, "JPEG", quality=quality)
    return np.asarray(Image.open(memory).convert("L"))
