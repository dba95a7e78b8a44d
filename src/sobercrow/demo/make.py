"""Make the demo pictures of the Fen & Fetlock kite workshop: `python -m sobercrow.demo.make [FOLDER]`.

The workshop is made up. Everything is drawn here or set in open typefaces (Debian packages fonts-lobster and
fonts-texgyre); paper, light, slant, pencil, blur and compression are simulated from fixed seeds.
"""

from __future__ import annotations

import io
import math
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from sobercrow.demo.sketches import Float, Point, bird, curve, sign
from sobercrow.stand_ins.camera import pinhole_corners

PICTURES = Path(__file__).parent / "pictures"
BRUSH_FACE = Path("/usr/share/fonts/opentype/lobster/lobster.otf")
PEN_FACE = Path("/usr/share/texmf/fonts/opentype/public/tex-gyre/texgyrechorus-mediumitalic.otf")
RING_FACE = Path("/usr/share/texmf/fonts/opentype/public/tex-gyre/texgyreadventor-bold.otf")
OVERSAMPLING = 4

INK = (35, 38, 43)
RUST = (163, 62, 46)
STRAW = (201, 162, 75)
PAPER = (246, 243, 234)


class Sheet:
    """A drawing at four times its final size, so that reducing it gives soft, true edges."""

    def __init__(self, width: int, height: int, paper: tuple[int, int, int] = (255, 255, 255)) -> None:
        self.image = Image.new("RGB", (width * OVERSAMPLING, height * OVERSAMPLING), paper)
        self.pen = ImageDraw.Draw(self.image)

    def polygon(self, points: Sequence[Point], fill: tuple[int, int, int]) -> None:
        self.pen.polygon([(x * OVERSAMPLING, y * OVERSAMPLING) for x, y in points], fill=fill)

    def stroke(self, points: Sequence[Point], width: float, fill: tuple[int, int, int]) -> None:
        scaled = [(x * OVERSAMPLING, y * OVERSAMPLING) for x, y in points]
        self.pen.line(scaled, fill=fill, width=max(1, round(width * OVERSAMPLING)), joint="curve")
        radius = width * OVERSAMPLING / 2
        for x, y in (scaled[0], scaled[-1]):
            self.pen.ellipse((x - radius, y - radius, x + radius, y + radius), fill=fill)

    def disc(self, x: float, y: float, radius: float, fill: tuple[int, int, int]) -> None:
        box = (x - radius, y - radius, x + radius, y + radius)
        self.pen.ellipse([side * OVERSAMPLING for side in box], fill=fill)

    def text(self, x: float, y: float, words: str, face: Path, size: float, fill: tuple[int, int, int]) -> None:
        font = ImageFont.truetype(str(face), round(size * OVERSAMPLING))
        self.pen.text((x * OVERSAMPLING, y * OVERSAMPLING), words, font=font, fill=fill, anchor="ls")

    def ring_text(
        self, x: float, y: float, radius: float, words: str, face: Path, size: float, fill: tuple[int, int, int]
    ) -> None:
        font = ImageFont.truetype(str(face), round(size * OVERSAMPLING))
        spacing = size * 0.10 * OVERSAMPLING
        widths = [font.getlength(c) + spacing for c in words]
        angle = -sum(widths) / (2 * radius * OVERSAMPLING)
        for character, width in zip(words, widths, strict=True):
            middle = angle + width / (2 * radius * OVERSAMPLING)
            side = round(3 * size * OVERSAMPLING)
            glyph = Image.new("L", (side, side), 0)
            ImageDraw.Draw(glyph).text((side / 2, side / 2), character, font=font, fill=255, anchor="ms")
            turned = glyph.rotate(-math.degrees(middle), Image.Resampling.BICUBIC)
            at = (
                round((x + radius * math.sin(middle)) * OVERSAMPLING - side / 2),
                round((y - radius * math.cos(middle)) * OVERSAMPLING - side / 2),
            )
            self.image.paste(Image.new("RGB", (side, side), fill), at, turned)
            angle += width / (radius * OVERSAMPLING)

    def finished(self) -> Float:
        size = (self.image.width // OVERSAMPLING, self.image.height // OVERSAMPLING)
        return np.asarray(self.image.resize(size, Image.Resampling.BOX), dtype=np.float64)


def on_paper(drawing: Float, seed: int, tint: tuple[int, int, int] = PAPER, grain: float = 2.5) -> Float:
    """Lay a drawing on tinted, slightly grained paper."""
    random = np.random.default_rng(seed)
    noise = cv2.GaussianBlur(random.normal(0, 1, drawing.shape[:2]), (0, 0), 0.9) * 2.0
    fibre = cv2.GaussianBlur(random.normal(0, 1, drawing.shape[:2]), (0, 0), 6.0) * 8.0
    shade = (noise + fibre) * grain / 2.5
    return np.asarray(drawing * (np.array(tint) / 255.0) + shade[..., None])


def in_falling_light(picture: Float, left: float, right: float) -> Float:
    """Dim a picture from one side to the other and towards its corners."""
    height, width = picture.shape[:2]
    x, y = np.meshgrid(np.linspace(0, 1, width), np.linspace(-1, 1, height))
    light = left + (right - left) * x - 0.08 * y**2
    return np.asarray(picture * light[..., None])


def soften(picture: Float, blur_px: float) -> Float:
    return np.asarray(cv2.GaussianBlur(picture, (0, 0), blur_px))


def save(folder: Path, name: str, picture: Float, dpi: int | None, quality: int | None = None) -> None:
    image = Image.fromarray(np.clip(np.rint(picture), 0, 255).astype(np.uint8))
    extra: dict[str, Any] = {"dpi": (dpi, dpi)} if dpi else {}
    if quality is None:
        grey = image.convert("L")
        (grey if np.ptp(picture, axis=2).max() < 1.5 else image).save(folder / name, optimize=True, **extra)
    else:
        image.save(folder / name, quality=quality, **extra)


def brush_lettering(folder: Path) -> None:
    sheet = Sheet(1500, 900)
    sheet.text(130, 420, "Fen & Fetlock", BRUSH_FACE, 210, INK)
    sheet.text(470, 690, "fine kites", BRUSH_FACE, 150, INK)
    sheet.stroke(curve([(470, 740), (640, 765), (830, 742), (1010, 760)]), 9, INK)
    picture = in_falling_light(on_paper(soften(sheet.finished(), 0.8), 11), 1.0, 0.55)
    save(folder, "brush-lettering.jpg", picture, None, 84)


def pen_lettering(folder: Path) -> None:
    sheet = Sheet(1800, 640)
    for y in (150.0, 218.0, 330.0, 394.0):  # ascender, waist, base and descender lines, in pencil
        sheet.stroke([(40, y + 0.4), (1760, y - 1.2)], 2.2, (186, 186, 190))
    sheet.text(90, 330, "Kites for every wind", PEN_FACE, 218, (28, 28, 30))
    swash = curve([(240, 470), (520, 515), (800, 455), (1080, 510), (1360, 468), (1560, 490)], steps=400)
    for k, (x, y) in enumerate(swash):
        share = k / len(swash)
        sheet.disc(x, y, 2.2 + 6.5 * math.sin(math.pi * share) ** 2 * (0.6 + 0.4 * math.sin(9 * share)), (28, 28, 30))
    grey = soften(sheet.finished(), 0.6).mean(axis=2, keepdims=True).repeat(3, axis=2)
    save(
        folder,
        "pen-lettering.png",
        on_paper(grey, 12, (244, 244, 244), 1.2).mean(axis=2, keepdims=True).repeat(3, 2),
        300,
    )


def kite_drawing(folder: Path) -> None:
    sheet = Sheet(1200, 1300)
    top, left, right, bottom = (600.0, 110.0), (285.0, 430.0), (915.0, 430.0), (600.0, 960.0)
    dark = (24, 24, 26)

    def bowed(a: Point, b: Point, bow: float) -> list[Point]:
        mx, my = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
        dx, dy = b[0] - a[0], b[1] - a[1]
        size = math.hypot(dx, dy)
        return curve([a, (mx - dy / size * bow, my + dx / size * bow), b])

    for a, b, bow in ((top, left, 14), (left, bottom, 20), (bottom, right, 20), (right, top, 14)):
        line = bowed(a, b, bow)
        cut = len(line) * 3 // 5  # the pen lifted here: a gap in the line
        sheet.stroke(line[:cut], 9, dark)
        sheet.stroke(line[cut + 2 :], 9, dark)
    sheet.stroke(bowed(left, right, -26), 6, dark)
    sheet.stroke([top, bottom], 6, dark)
    tail = curve([bottom, (650, 1010), (560, 1080), (640, 1150), (760, 1190), (860, 1150)])
    sheet.stroke(tail, 5, dark)
    for k in (26, 62, 100, 140, 176):
        x, y = tail[k]
        sheet.polygon([(x, y), (x - 34, y - 20), (x - 28, y + 20)], dark)
        sheet.polygon([(x, y), (x + 34, y - 16), (x + 30, y + 22)], dark)
    for x, y, r in ((470, 560, 26), (735, 560, 26)):
        sheet.disc(x, y, r, dark)
        sheet.disc(x, y, r - 9, (255, 255, 255))
    sheet.stroke(curve([(480, 690), (545, 745), (655, 745), (720, 690)]), 8, dark)
    grey = soften(sheet.finished(), 0.7).mean(axis=2, keepdims=True).repeat(3, 2)
    save(
        folder,
        "kite-drawing.png",
        on_paper(grey, 13, (248, 248, 248), 0.9).mean(axis=2, keepdims=True).repeat(3, 2),
        300,
    )


def badge(size: int) -> Float:
    sheet = Sheet(size, size)
    s = size / 400
    sheet.disc(200 * s, 200 * s, 186 * s, INK)
    sheet.disc(200 * s, 200 * s, 176 * s, STRAW)
    sheet.disc(200 * s, 200 * s, 128 * s, INK)
    sheet.disc(200 * s, 200 * s, 122 * s, (255, 255, 255))
    sheet.ring_text(200 * s, 200 * s, 140 * s, "FEN & FETLOCK KITES", RING_FACE, 34 * s, INK)
    kite = [(200.0, 96.0), (262.0, 172.0), (200.0, 286.0), (138.0, 172.0)]
    middle = (200.0, 172.0)
    for k in range(4):
        a, b = kite[k], kite[(k + 1) % 4]
        sheet.polygon([(x * s, y * s) for x, y in (a, b, middle)], INK if k % 2 else RUST)
    sheet.stroke([(x * s, y * s) for x, y in curve([(200, 286), (214, 298), (190, 306), (204, 318)])], 4 * s, INK)
    for angle in (-60, -20, 20, 60):
        turn = math.radians(180 + angle)
        sheet.disc((200 + 152 * math.sin(turn)) * s, (200 - 152 * math.cos(turn)) * s, 7 * s, RUST)
    return sheet.finished()


def badge_small(folder: Path) -> None:
    save(folder, "badge-200.jpg", soften(badge(200), 0.5), None, 32)


def swing_sign(folder: Path) -> None:
    """The workshop's sign as it came by mail: a small JPEG, made three times as large, and compressed again."""
    navy, sail, rust = (24, 52, 74), (244, 234, 210), RUST
    sheet = Sheet(180, 150)
    sheet.disc(90, 62, 56, navy)
    sheet.disc(90, 62, 51, sail)
    top, right, bottom, left = (90.0, 20.0), (120.0, 52.0), (90.0, 102.0), (60.0, 52.0)
    for k, (a, b) in enumerate(((top, right), (right, bottom), (bottom, left), (left, top))):
        sheet.polygon([a, b, (90.0, 52.0)], rust if k % 2 else navy)
    sheet.text(22, 143, "FETLOCK", RING_FACE, 30, navy)
    small = Image.fromarray(np.clip(np.rint(sheet.finished()), 0, 255).astype(np.uint8))
    memory = io.BytesIO()
    small.save(memory, "JPEG", quality=72)
    once = Image.open(memory).convert("RGB").resize((540, 450), Image.Resampling.BICUBIC)
    save(folder, "swing-sign.jpg", np.asarray(once, dtype=np.float64), None, 84)


def badge_photo(folder: Path) -> None:
    sheet = np.full((1000, 1400, 3), 255.0)
    sheet[130:870, 330:1070] = badge(740)
    sheet = on_paper(sheet, 15)
    corners = np.array([(0, 0), (1400, 0), (1400, 1000), (0, 1000)], dtype=np.float32)
    seen = pinhole_corners((1400, 1000), (1600, 1150), 31, 200, 5).astype(np.float32)
    desk = np.full((1150, 1600, 3), (104.0, 92.0, 80.0))
    random = np.random.default_rng(16)
    desk += cv2.GaussianBlur(random.normal(0, 1, (1150, 1600)), (0, 0), 12.0)[..., None] * 60.0
    warp = cv2.getPerspectiveTransform(corners, seen)
    laid = cv2.warpPerspective(sheet, warp, (1600, 1150), flags=cv2.INTER_AREA)
    cover = cv2.warpPerspective(np.ones((1000, 1400)), warp, (1600, 1150), flags=cv2.INTER_LINEAR)[..., None]
    picture = in_falling_light(soften(laid * cover + desk * (1 - cover), 1.0), 0.95, 0.62)
    save(folder, "badge-photo.jpg", picture + random.normal(0, 2.0, picture.shape), None, 78)


def tints(folder: Path) -> None:
    sheet = Sheet(1000, 700)
    sheet.disc(230, 350, 150, (255, 226, 190))
    sheet.polygon([(500, 180), (650, 350), (500, 560), (350, 350)], (205, 228, 236))
    petal = curve([(770, 190), (900, 270), (890, 450), (780, 530), (680, 430), (690, 270), (770, 190)])
    sheet.polygon(petal, (232, 214, 232))
    save(folder, "tints.png", soften(sheet.finished(), 0.6), 150)


def main(folder: Path = PICTURES) -> None:
    """Write all demo pictures; exits with a sentence if the typefaces are missing."""
    if not all(face.exists() for face in (BRUSH_FACE, PEN_FACE, RING_FACE)):
        sys.exit("The demo pictures need two open typefaces: apt-get install fonts-lobster fonts-texgyre")
    folder.mkdir(parents=True, exist_ok=True)
    for make in (brush_lettering, pen_lettering, kite_drawing, badge_small, badge_photo, tints):
        make(folder)
    for name, sheet in ("pencil-sketch.png", bird()), ("sign-sketch.png", sign()):
        save(folder, name, on_paper(sheet, 19, (243, 243, 243), 1.2).mean(axis=2, keepdims=True).repeat(3, 2), 200)
    swing_sign(folder)


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else PICTURES)
