"""Scenes for measuring clean-up: words and drawings as a camera or a scanner would see them, from fixed seeds."""

from __future__ import annotations

import io

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont


def through_jpeg(picture: np.ndarray, quality: int) -> np.ndarray:
    """Return a picture after saving as JPEG, uint8."""
    memory = io.BytesIO()
    Image.fromarray(np.clip(np.rint(picture), 0, 255).astype(np.uint8)).save(memory, "JPEG", quality=quality)
    return np.asarray(Image.open(memory).convert("RGB"))


def falling_light(height: int, width: int, seed: int, least: float = 0.5) -> np.ndarray:
    """Return light that falls off smoothly to `least` in a random direction, with darker corners, (h, w)."""
    random = np.random.default_rng(seed)
    angle = random.uniform(0, 2 * np.pi)
    y, x = np.mgrid[:height, :width]
    along = (x / width - 0.5) * np.cos(angle) + (y / height - 0.5) * np.sin(angle)
    along = (along - along.min()) / np.ptp(along)
    bend = random.uniform(0.7, 1.6)
    return 1.0 - (1.0 - least) * along**bend


def on_dim_paper(grey: np.ndarray, seed: int, blur_px: float = 0.7, quality: int = 60) -> np.ndarray:
    """Return a word of black on white, (h, w), as ink on tinted, grained paper in falling light, (h, w, 3) uint8."""
    random = np.random.default_rng(seed)
    tint = np.array([random.uniform(236, 250), random.uniform(230, 244), random.uniform(212, 238)])
    ink = random.uniform(20, 55)
    share = cv2.GaussianBlur(grey.astype(np.float64), (0, 0), blur_px)[..., None] / 255.0
    picture = share * tint + (1.0 - share) * ink
    grain = cv2.GaussianBlur(random.normal(0, 1, grey.shape), (0, 0), 0.7) * 2.0
    picture = picture + grain[..., None] * random.uniform(1.0, 2.5)
    picture = picture * falling_light(*grey.shape, seed)[..., None] + random.normal(0, 1.2, grey.shape)[..., None]
    return through_jpeg(picture, quality)


def turned(grey: np.ndarray, angle_deg: float) -> np.ndarray:
    """Return a drawing on white turned clockwise by an angle, nothing cut off, (h, w) uint8."""
    height, width = grey.shape
    sine, cosine = abs(np.sin(np.radians(angle_deg))), abs(np.cos(np.radians(angle_deg)))
    size = int(width * cosine + height * sine) + 2, int(width * sine + height * cosine) + 2
    matrix = cv2.getRotationMatrix2D((width / 2 - 0.5, height / 2 - 0.5), -angle_deg, 1.0)
    matrix[:, 2] += (size[0] - width) / 2, (size[1] - height) / 2
    return cv2.warpAffine(grey, matrix, size, flags=cv2.INTER_CUBIC, borderValue=255)


def text_page(face: str, seed: int, width: int = 1600, height: int = 1100) -> np.ndarray:
    """Return a few lines of made-up writing in a face, (h, w) uint8."""
    random = np.random.default_rng(seed)
    size = int(random.uniform(40, 110))
    font = ImageFont.truetype(face, size)
    image = Image.new("L", (width, height), 255)
    pen = ImageDraw.Draw(image)
    letters = "aabcdeeeefghiijklmnnoopqrrsstttuuvwxyzABEFHKLMNRST"
    y = 60.0
    for _ in range(int(random.integers(1, 8))):
        line = ""
        while font.getlength(line) < random.uniform(0.4, 0.8) * width:
            line += "".join(random.choice(list(letters), random.integers(2, 9))) + " "
        while font.getlength(line) > 0.9 * width:
            line = line[:-1]
        pen.text((0.05 * width, y), line, font=font, fill=20)
        y += size * random.uniform(1.2, 1.9)
        if y > height - 2 * size:
            break
    return np.asarray(image)


def line_drawing(seed: int, width: int = 1400, height: int = 1000) -> np.ndarray:
    """Return a drawing with some level and upright lines among curves and slanted lines, (h, w) uint8."""
    random = np.random.default_rng(seed)
    image = Image.new("L", (4 * width // 2, 4 * height // 2), 255)
    pen = ImageDraw.Draw(image)

    def at(x: float, y: float) -> tuple[float, float]:
        return 2 * x, 2 * y

    for _ in range(random.integers(1, 4)):  # frames, spars, a horizon
        x, y = random.uniform(0.1, 0.4) * width, random.uniform(0.1, 0.4) * height
        w, h = random.uniform(0.2, 0.5) * width, random.uniform(0.2, 0.5) * height
        thick = int(random.uniform(4, 16))
        if random.random() < 0.6:
            pen.rectangle((*at(x, y), *at(x + w, y + h)), outline=25, width=thick)
        else:
            pen.line((*at(x, y), *at(x + w, y)), fill=25, width=thick)
            pen.line((*at(x, y), *at(x, y + h)), fill=25, width=thick)
    for _ in range(random.integers(3, 9)):  # curves and slanted strokes
        thick = int(random.uniform(4, 16))
        x, y, r = random.uniform(0.2, 0.8) * width, random.uniform(0.2, 0.8) * height, random.uniform(30, 200)
        if random.random() < 0.6:
            pen.arc((*at(x - r, y - r), *at(x + r, y + r)), random.uniform(0, 360), random.uniform(90, 700), 25, thick)
        else:
            angle = random.uniform(25, 65) + 90 * random.integers(0, 2)
            dx, dy = r * np.cos(np.radians(angle)), r * np.sin(np.radians(angle))
            pen.line((*at(x - dx, y - dy), *at(x + dx, y + dy)), fill=25, width=thick)
    return np.asarray(image.resize((width, height), Image.Resampling.BOX))


def photographed(
    sheet: np.ndarray, seed: int, most_slant_deg: float = 35.0, width: int = 1600, height: int = 1200
) -> tuple[np.ndarray, np.ndarray]:
    """Return a photo of a sheet (h, w, 3) on a desk, (height, width, 3) uint8, and its true corners (4, 2).

    A pinhole camera looks at the sheet under a random slant; desk, light, softness, noise and JPEG are random too.
    """
    random = np.random.default_rng(seed)
    h, w = sheet.shape[:2]
    focal = random.uniform(0.8, 1.6) * np.hypot(width, height)
    tilt, towards, spin = random.uniform(5, most_slant_deg), random.uniform(0, 2 * np.pi), random.uniform(-8, 8)
    axis = np.array([np.cos(towards), np.sin(towards), 0.0]) * np.radians(tilt)
    turn = cv2.Rodrigues(axis)[0] @ cv2.Rodrigues(np.array([0, 0, np.radians(spin)]))[0]
    flat = np.array([(0, 0), (w, 0), (w, h), (0, h)], float) - (w / 2, h / 2)
    share = random.uniform(0.6, 0.86)
    distance = focal * max(w / width, h / height) / share
    for _ in range(60):  # step back until the whole sheet is in the picture
        corners = np.column_stack([flat, np.zeros(4)]) @ turn.T + (0, 0, distance)
        seen = corners[:, :2] / corners[:, 2:] * focal + (width / 2, height / 2)
        seen += np.array([random.uniform(-1, 1), random.uniform(-1, 1)]) * 0.003 * width
        if (seen > 0.03 * width).all() and (seen < np.array([width, height]) - 0.03 * width).all():
            break
        distance *= 1.03
    warp = cv2.getPerspectiveTransform(np.add(flat, (w / 2, h / 2)).astype(np.float32), (seen - 0.5).astype(np.float32))
    warp = np.asarray(warp) @ np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1.0]])  # pixel centres
    fine = 2  # seen through four rays a pixel
    up = np.array([[fine, 0, (fine - 1) / 2], [0, fine, (fine - 1) / 2], [0, 0, 1.0]])
    large = (fine * width, fine * height)
    cover = cv2.warpPerspective(np.ones((h, w)), up @ warp, large, flags=cv2.INTER_LINEAR)[..., None]
    laid = cv2.warpPerspective(sheet.astype(np.float64), up @ warp, large, flags=cv2.INTER_LINEAR)
    shrink = lambda image: cv2.resize(image, (width, height), interpolation=cv2.INTER_AREA)  # noqa: E731
    cover, laid = shrink(cover)[..., None], shrink(laid)
    colour = np.array([random.uniform(40, 175), random.uniform(40, 165), random.uniform(35, 155)])
    desk = np.empty((height, width, 3)) + colour
    texture = cv2.GaussianBlur(random.normal(0, 1, (height, width)), (0, 0), random.uniform(2, 14))
    desk += (texture / texture.std() * random.uniform(1, 9))[..., None]
    for _ in range(random.integers(0, 4)):  # boards of the desk
        x, slope = random.uniform(0, width), random.uniform(-0.2, 0.2)
        a, b = (int(x), 0), (int(x + slope * height), height)
        cv2.line(desk, a, b, (colour * random.uniform(0.6, 0.9)).tolist(), int(random.integers(2, 6)))
    picture = (laid + desk * (1 - cover)) * falling_light(height, width, seed, random.uniform(0.45, 0.95))[..., None]
    picture = cv2.GaussianBlur(picture, (0, 0), random.uniform(0.6, 1.6)) + random.normal(0, 2.5, picture.shape)
    return through_jpeg(picture, int(random.integers(60, 92))), seen


def drawn_sheet(seed: int, ratio: float, longest: int = 1500) -> np.ndarray:
    """Return a sheet of the given width ÷ height with a drawing or writing on it, (h, w, 3) float64."""
    width, height = (longest, round(longest / ratio)) if ratio >= 1 else (round(longest * ratio), longest)
    random = np.random.default_rng(seed)
    grey = line_drawing(seed, width, height)
    if random.random() < 0.5:
        grey = cv2.resize(grey, (width * 3 // 4, height * 3 // 4), interpolation=cv2.INTER_AREA)
        page = np.full((height, width), 255, np.uint8)
        page[height // 8 :, width // 8 :][: grey.shape[0], : grey.shape[1]] = grey
        grey = page
    tint = np.array([random.uniform(225, 252), random.uniform(222, 248), random.uniform(205, 240)])
    ink = np.array([random.uniform(20, 140), random.uniform(20, 90), random.uniform(20, 120)])
    share = grey[..., None] / 255.0
    return share * tint + (1 - share) * ink


INK_LIMIT = 139.0
"""Half way between the ink and the paper of `over_guides`."""


def over_guides(grey: np.ndarray, seed: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return a word of black on white (h, w) as ink over ruled pencil lines, as a scan.

    Returns
    -------
    scan : (h, w) uint8
    guides : (h, w) bool
        Pixels that a pencil line darkens visibly and that hold no ink.
    ink : (h, w) bool
        Pixels that are mostly ink, and dark in the scan.
    """
    random = np.random.default_rng(seed)
    height, width = grey.shape
    pencil = np.zeros((height * 4, width * 4), np.uint8)
    tilt = random.uniform(-0.02, 0.02)
    for share in np.linspace(0.16, 0.84, random.integers(3, 6)) + random.uniform(-0.03, 0.03):
        y = share * height + random.uniform(-3, 3)
        a, b = (0.02 * width, y - tilt * width / 2), (0.98 * width, y + tilt * width / 2)
        thick = max(2, round(4 * random.uniform(1.0, 2.6)))
        cv2.line(pencil, tuple(round(4 * v) for v in a), tuple(round(4 * v) for v in b), 255, thick, cv2.LINE_AA)
    if random.random() < 0.5:  # a slope line or two, as calligraphers draw them
        x = random.uniform(0.2, 0.7) * width
        a, b = (x, 0.95 * height), (x + 0.5 * height, 0.05 * height)
        cv2.line(pencil, tuple(round(4 * v) for v in a), tuple(round(4 * v) for v in b), 255, 5, cv2.LINE_AA)
    lines = cv2.resize(pencil, (width, height), interpolation=cv2.INTER_AREA) / 255.0
    tooth = np.clip(1.0 + 0.25 * cv2.GaussianBlur(random.normal(0, 1, grey.shape), (0, 0), 0.9) * 2.0, 0.3, 1.4)
    strength = random.uniform(0.18, 0.42)
    share = cv2.GaussianBlur(1.0 - grey / 255.0, (0, 0), 0.6)
    drawn = cv2.GaussianBlur(lines * tooth, (0, 0), 0.6) * strength
    dark = share + (1 - share) * drawn
    scan = 246.0 - dark * 214.0 + random.normal(0, 1.5, grey.shape)
    return (
        np.clip(np.rint(scan), 0, 255).astype(np.uint8),
        (drawn > 0.06) & (share < 0.02),
        (share > 0.5) & (scan < INK_LIMIT),
    )
