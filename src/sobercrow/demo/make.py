"""Make the demo pictures of the Fen & Fetlock kite workshop: `python -m sobercrow.demo.make [FOLDER]`.

The workshop is made up. Everything is drawn here or set in open typefaces (Debian packages fonts-lobster and
fonts-texgyre); paper, light, slant, pencil, blur and compression are simulated from fixed seeds.
"""

from __future__ import annotations

import io
import math
import sys
from collections.abc import Sequence
from itertools import pairwise
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from sobercrow.stand_ins.camera import pinhole_corners

Float = NDArray[np.float64]
Point = tuple[float, float]

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


def curve(points: Sequence[Point], steps: int = 40) -> list[Point]:
    """A smooth path through points (Catmull & Rom 1974)."""
    p = np.array([points[0], *points, points[-1]], dtype=np.float64)
    out: list[Point] = []
    for a, b, c, d in zip(p, p[1:], p[2:], p[3:], strict=False):
        for t in np.linspace(0, 1, steps, endpoint=False):
            q = 0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3)
            out.append((float(q[0]), float(q[1])))
    return [*out, (float(p[-1][0]), float(p[-1][1]))]


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


def pencil_sketch(folder: Path) -> None:
    random = np.random.default_rng(18)
    height, width = 1000, 1300
    layer = np.zeros((height * 2, width * 2))

    def draw(points: Sequence[Point], dark: float, thick: float, passes: int) -> None:
        for _ in range(passes):
            lay(points, dark, thick, 1.2)

    def lay(points: Sequence[Point], dark: float, thick: float, stray: float) -> None:
        shake = np.cumsum(random.normal(0, 0.25, (len(points), 2)), axis=0) + random.normal(0, stray, 2)
        path = np.rint((np.array(points) + shake) * 2).astype(np.int32)
        mark = np.zeros_like(layer)
        cv2.polylines(mark, [path.reshape(-1, 1, 2)], False, dark, max(1, round(thick * 2)), cv2.LINE_AA)
        np.maximum(layer, mark, out=layer)

    def go_over(points: Sequence[Point], dark: float, thick: float, passes: int) -> None:
        """Lay a line as partial strokes that stray, start early and end late."""
        count = len(points)
        for _ in range(passes):
            cuts = [0, *sorted(random.integers(count // 5, count - count // 5, 2).tolist()), count]
            for a, b in pairwise(cuts):
                first, last = max(a - 3, 0), min(b + 3, count)
                run = np.array(points[first:last])
                if len(run) < 4:
                    continue
                head, tail = run[0] - (run[2] - run[0]), run[-1] + (run[-1] - run[-3])
                lay([tuple(p) for p in np.vstack([head, run, tail])], dark, thick, 1.8)

    for a, b in (
        ((90, 820), (1210, 812)),
        ((650, 60), (648, 950)),
        ((140, 300), (1160, 304)),
        ((240, 120), (1060, 900)),
    ):
        draw([(a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t) for t in np.linspace(0, 1, 40)], 0.28, 1.2, 1)
    circle = [(650 + 300 * math.cos(t), 480 + 300 * math.sin(t)) for t in np.linspace(0, 2 * math.pi, 160)]
    draw(circle, 0.3, 1.2, 1)
    bird = curve([(330, 560), (430, 430), (560, 420), (650, 500), (760, 400), (930, 360), (1010, 420)])
    belly = curve([(330, 560), (430, 640), (600, 690), (760, 640), (880, 520), (1010, 420)])
    wing = curve([(520, 520), (620, 380), (740, 250), (860, 190), (820, 330), (720, 480)])
    for line in (bird, belly, wing):
        go_over(line, 0.8, 2.3, 3)
    for k in range(15):  # shading beneath the wing
        x, y = 440 + 15.0 * k + random.normal(0, 1.0), 606 + 20.0 * math.sin(0.2 * k) + random.normal(0, 4.0)
        lay([(x + 30 * t, y - 52 * t) for t in np.linspace(-0.5, 0.5, 12)], 0.36, 1.3, 0.4)
    eye = [(902 + 15 * math.cos(t), 412 + 15 * math.sin(t)) for t in np.linspace(0, 2 * math.pi, 40)]
    for _ in range(2):  # small things are drawn with care
        lay(eye, 0.85, 2.0, 0.8)
    soft = cv2.resize(cv2.GaussianBlur(layer, (0, 0), 1.2), (width, height), interpolation=cv2.INTER_AREA)
    tooth = 0.72 + 0.28 * np.clip(cv2.GaussianBlur(random.normal(0, 1, (height, width)), (0, 0), 0.8) * 1.6 + 0.4, 0, 1)
    grey = 255.0 * (1.0 - 0.85 * soft * tooth)
    sheet = on_paper(grey[..., None].repeat(3, 2), 19, (243, 243, 243), 1.2)
    save(folder, "pencil-sketch.png", sheet.mean(axis=2, keepdims=True).repeat(3, 2), 200)


def main(folder: Path = PICTURES) -> None:
    """Write all demo pictures; exits with a sentence if the typefaces are missing."""
    if not all(face.exists() for face in (BRUSH_FACE, PEN_FACE, RING_FACE)):
        sys.exit("The demo pictures need two open typefaces: apt-get install fonts-lobster fonts-texgyre")
    folder.mkdir(parents=True, exist_ok=True)
    for make in (brush_lettering, pen_lettering, kite_drawing, badge_small, badge_photo, tints, pencil_sketch):
        make(folder)
    swing_sign(folder)


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else PICTURES)
