"""Rough sketches whose lines are known: drawings, and the hand that goes over each line several times.

Every line meant is laid as partial strokes that stray from it, start early, stop late and press unevenly; beneath may
lie working lines, beside them shading. Nothing here is shared with the demo's pictures.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import pairwise
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

F64 = NDArray[np.float64]
Points = list[tuple[float, float]]
WIDTH, HEIGHT = 880, 760
FINE = 2
STROKE_PX = 2.4
TURN_DEG = 32.0


class Line(NamedTuple):
    """A line meant: points (n, 2) about a px apart, whether it is closed, and its corners (k, 2)."""

    points: F64
    closed: bool
    corners: F64


def dense(points: F64) -> F64:
    """Points a px apart along a polyline."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = np.linspace(0.0, along[-1], max(2, round(float(along[-1])) + 1))
    return np.column_stack([np.interp(at, along, points[:, k]) for k in (0, 1)])


def polygon(*points: tuple[float, float], closed: bool = True) -> Line:
    """Straight sides; every place where they turn is a corner."""
    ring = np.array([*points, points[0]] if closed else points, dtype=np.float64)
    corners = ring[:-1] if closed else ring[1:-1]
    return Line(dense(ring), closed, corners)


def curve(*points: tuple[float, float], closed: bool = False, corners: tuple[int, ...] = ()) -> Line:
    """A smooth curve through places (centripetal Catmull & Rom 1974), but for corners at some of them."""
    every = np.array(points, dtype=np.float64)
    count = len(every)
    made: list[F64] = []
    for k in range(count if closed else count - 1):
        a, b, c, d = (every[(k + j) % count] if closed else every[min(max(k + j, 0), count - 1)] for j in (-1, 0, 1, 2))
        if k in corners:
            a = b
        if (k + 1) % count in corners:
            d = c
        t = np.linspace(0.0, 1.0, 60)[:, None]
        made.append(0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3))
    return Line(dense(np.vstack(made)), closed, every[list(corners)].reshape(-1, 2))


def ellipse(
    x: float, y: float, across: float, down: float, turn: float = 0.0, a: float = 0.0, b: float = 360.0
) -> Line:
    """An ellipse, or an arc of one between two angles in degrees."""
    t = np.radians(np.linspace(a, b, 241))
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    u, v = across * np.cos(t), down * np.sin(t)
    return Line(dense(np.column_stack([x + c * u - s * v, y + s * u + c * v])), b - a >= 360.0, np.zeros((0, 2)))


def leaf() -> list[Line]:
    outline = curve((440, 130), (300, 250), (250, 400), (330, 540), (450, 600), (560, 530), (630, 390), (570, 240),
                    closed=True, corners=(0, 4))  # fmt: skip
    veins = [curve((446, 250 + 95 * k), (446 + s * 60, 220 + 95 * k), (446 + s * 110, 170 + 95 * k))
             for k in range(3) for s in (-1, 1)]  # fmt: skip
    return [outline, curve((442, 132), (446, 400), (450, 690)), *veins]


def face() -> list[Line]:
    eyes = [curve((360 + d, 330), (390 + d, 312), (420 + d, 330), (390 + d, 346), closed=True, corners=(0, 2))
            for d in (0, 110)]  # fmt: skip
    brows = [curve((345 + d, 285), (390 + d, 265), (430 + d, 288)) for d in (0, 105)]
    return [ellipse(440, 380, 200, 250, 4), *eyes, *brows, curve((450, 330), (425, 430), (458, 440), corners=(1,)),
            curve((360, 500), (440, 545), (530, 495))]  # fmt: skip


def house() -> list[Line]:
    return [polygon((220, 360), (660, 366), (655, 640), (228, 634)), polygon((180, 362), (430, 150), (700, 366)),
            polygon((300, 634), (302, 480), (390, 482), (388, 636), closed=False), ellipse(545, 480, 55, 55),
            polygon((545, 425), (545, 535), closed=False), polygon((490, 480), (600, 481), closed=False)]  # fmt: skip


def script() -> list[Line]:
    return [curve((120, 470), (230, 380), (280, 180), (230, 150), (200, 300), (250, 500), (340, 430), (420, 340),
                  (360, 330), (345, 440), (420, 500), (510, 400), (560, 190), (510, 150), (480, 310), (530, 505),
                  (640, 420)), curve((380, 600), (520, 585), (700, 560))]  # fmt: skip


def overlaps() -> list[Line]:
    return [polygon((220, 160), (650, 168), (645, 590), (226, 585)), ellipse(370, 360, 190, 190),
            ellipse(560, 400, 200, 140, 10)]  # fmt: skip


def boat() -> list[Line]:
    return [curve((160, 500), (240, 610), (450, 640), (640, 600), (730, 490), corners=()),
            polygon((160, 500), (730, 490), closed=False), polygon((440, 490), (446, 130), closed=False),
            curve((446, 140), (600, 300), (640, 450), (446, 455), closed=True, corners=(0, 2, 3)),
            curve((430, 170), (360, 320), (250, 455), (430, 460), closed=True, corners=(0, 2, 3))]  # fmt: skip


def keys() -> list[Line]:
    return [ellipse(230, 260, 90, 90), ellipse(230, 260, 45, 45),
            polygon((315, 240), (640, 236), (640, 330), (600, 330), (598, 285), (560, 286), (560, 325), (520, 326),
                    (522, 284), (314, 288), closed=False),
            ellipse(300, 560, 70, 80), polygon((370, 560), (690, 556), (690, 620), closed=False)]  # fmt: skip


def cup() -> list[Line]:
    return [ellipse(400, 220, 190, 50), curve((210, 222), (230, 450), (300, 590), (400, 605), (500, 590), (572, 450),
            (590, 222)), curve((580, 300), (690, 280), (720, 370), (660, 460), (556, 480)),
            ellipse(400, 620, 260, 55, 0, 0, 180)]  # fmt: skip


def fish() -> list[Line]:
    return [curve((150, 380), (300, 240), (500, 260), (640, 380), (500, 500), (300, 510), closed=True, corners=(0, 3)),
            polygon((640, 380), (760, 280), (735, 385), (765, 480)), ellipse(250, 350, 22, 22),
            curve((350, 270), (380, 380), (352, 492)),
            curve((430, 262), (520, 170), (590, 320), corners=())]  # fmt: skip


def star() -> list[Line]:
    tips = [(430 + r * math.sin(math.pi * k / 5), 390 - r * math.cos(math.pi * k / 5))
            for k, r in enumerate([270, 110] * 5)]  # fmt: skip
    return [polygon(*tips), ellipse(430, 390, 60, 60)]


def tools() -> list[Line]:
    return [polygon((180, 200), (420, 196), (424, 270), (184, 275)),
            polygon((276, 272), (282, 650), (330, 650), (326, 270), closed=False),
            curve((520, 160), (560, 300), (600, 450), (680, 640)),
            curve((700, 170), (640, 310), (590, 450), (500, 630)),
            ellipse(690, 680, 42, 30, 40), ellipse(490, 668, 42, 30, -40)]  # fmt: skip


def flower() -> list[Line]:
    petals = []
    for k in range(5):
        c, s = math.cos(2 * math.pi * k / 5 - 1.57), math.sin(2 * math.pi * k / 5 - 1.57)
        places = [(430 + c * u - s * v, 290 + s * u + c * v) for u, v in
                  ((66, -22), (130, -62), (185, 0), (130, 62), (66, 22))]  # fmt: skip
        petals.append(curve(*places))
    return [ellipse(430, 290, 62, 62), *petals, curve((440, 470), (455, 600), (430, 720)),
            curve((450, 610), (560, 540), (620, 560), (540, 630), (448, 640))]  # fmt: skip


def band() -> list[Line]:
    below = [curve((150, 230 + d), (300, 170 + d), (480, 260 + d), (640, 250 + d), (740, 180 + d)) for d in (0, 18)]
    return [*below, ellipse(440, 530, 130, 130), ellipse(440, 530, 112, 112)]


def bottle() -> list[Line]:
    side = ((390, 130), (388, 260), (330, 330), (318, 430), (320, 640))
    other = tuple((860 - x, y) for x, y in side)
    return [curve(*side), curve(*other), ellipse(430, 130, 40, 10), curve((320, 640), (430, 664), (540, 640)),
            polygon((322, 440), (538, 442), (538, 560), (322, 558))]  # fmt: skip


def glasses() -> list[Line]:
    return [ellipse(300, 380, 110, 90), ellipse(580, 380, 110, 90), curve((408, 365), (440, 345), (472, 365)),
            polygon((192, 360), (110, 300), closed=False), polygon((688, 360), (770, 300), closed=False)]  # fmt: skip


def letter() -> list[Line]:
    return [polygon((250, 650), (252, 130), closed=False),
            curve((252, 132), (480, 130), (560, 240), (480, 370), (252, 378)),
            polygon((380, 376), (590, 650), closed=False), polygon((200, 650), (320, 650), closed=False)]  # fmt: skip


def spiral() -> list[Line]:
    t = np.linspace(0.6, 5.2 * math.pi, 40)
    return [curve(*[(430 + 18 * a * math.cos(a), 390 + 18 * a * math.sin(a)) for a in t])]


def flag() -> list[Line]:
    return [polygon((220, 120), (226, 690), closed=False),
            curve((222, 140), (380, 110), (520, 180), (680, 150), (684, 390), (530, 420), (390, 350), (224, 380),
                  corners=(3, 4)), curve((223, 260), (385, 232), (525, 300), (682, 270))]  # fmt: skip


def rings() -> list[Line]:
    return [ellipse(440, 380, r, r) for r in (60, 130, 210)] + [ellipse(160 + 140 * k, 680, 16, 16) for k in range(5)]


def tree() -> list[Line]:
    return [curve((400, 700), (425, 560), (410, 470)), curve((490, 700), (465, 560), (480, 470)),
            curve((300, 470), (200, 390), (260, 270), (360, 210), (450, 130), (560, 220), (660, 290), (690, 400),
                  (580, 480), closed=True), curve((440, 640), (448, 560), (440, 500)),
            polygon((180, 702), (700, 700), closed=False)]  # fmt: skip


TUNED: dict[str, Callable[[], list[Line]]] = {
    f.__name__: f for f in (leaf, face, house, script, overlaps, band, boat, keys, tools, rings)
}
MEASURED: dict[str, Callable[[], list[Line]]] = {
    f.__name__: f for f in (cup, fish, star, flower, bottle, glasses, letter, spiral, flag, tree)
}


@dataclass(frozen=True, slots=True)
class Hand:
    """How rough a hand draws: the spread of its strokes in px, and what else is on the paper."""

    spread: float = 3.0
    passes: tuple[int, int] = (2, 3)
    grey: float = 250.0
    grain: float = 0.25
    hatched: bool = False
    working: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Sketch:
    """A sketch as gray tones (h, w) with the lines meant, the shading and the working lines in it."""

    grey: NDArray[np.uint8]
    lines: list[Line]
    spread: float
    shading: list[F64] = field(default_factory=list)
    working: list[F64] = field(default_factory=list)


def _slow(random: np.random.Generator, count: int, over: float) -> F64:
    """Noise along a line that changes over so many px, about within ±1."""
    knots = random.uniform(-1.0, 1.0, max(4, int(count / over) + 4))
    at = np.linspace(0.0, len(knots) - 1.001, count)
    low = at.astype(int)
    t = at - low
    t = t * t * (3 - 2 * t)
    return np.asarray(knots[low] * (1 - t) + knots[low + 1] * t)


def _stroke(layer: F64, random: np.random.Generator, points: F64, dark: float, thick: float) -> None:
    """Lay one stroke, pressed unevenly, thinner towards its ends."""
    count = len(points)
    press = dark * (0.85 + 0.15 * _slow(random, count, 40.0))
    ends = np.minimum(1.0, (np.minimum(np.arange(count), np.arange(count)[::-1]) + 3.0) / 10.0)
    places = np.rint(points * FINE * 16).astype(np.int32)
    mark = np.zeros_like(layer)
    width = max(1, round(thick * FINE))
    for k in range(0, count - 1, 3):
        end = min(k + 3, count - 1)
        value = float(press[k] * (0.5 + 0.5 * ends[k]))
        cv2.line(mark, places[k].tolist(), places[end].tolist(), value, width, cv2.LINE_AA, 4)
    np.maximum(layer, mark, out=layer)


def _strokes_of(line: Line, hand: Hand, random: np.random.Generator) -> list[F64]:
    """The partial strokes a line is laid with: each of the whole of it together, several times over."""
    made: list[F64] = []
    count = len(line.points)
    turned = [0]
    if len(line.corners):
        at = [int(np.hypot(*(line.points - c).T).argmin()) for c in line.corners]
        turned = sorted(at)
    for _ in range(int(random.integers(hand.passes[0], hand.passes[1] + 1))):
        cuts = [*turned, count - 1] if turned[0] == 0 else [0, *turned, count - 1]
        pieces: list[tuple[int, int]] = []
        for a, b in pairwise(cuts):
            if b - a < 4:
                continue
            parts = max(1, round((b - a) / random.uniform(130, 320)))
            stops = np.linspace(a, b, parts + 1) + np.r_[0, random.uniform(-12, 12, parts - 1), 0]
            pieces += [(int(stops[k]), int(stops[k + 1])) for k in range(parts)]
        for a, b in pieces:
            run = line.points[max(a, 0) : b + 1]
            if len(run) < 4:
                continue
            over = random.uniform(0.5, 2.0, 2) * hand.spread + random.uniform(0, 5, 2)
            first, last = run[0] - run[min(3, len(run) - 1)], run[-1] - run[-min(4, len(run))]
            head = run[0] + first / max(np.hypot(*first), 1e-9) * over[0]
            tail = run[-1] + last / max(np.hypot(*last), 1e-9) * over[1]
            run = dense(np.vstack([head, run, tail]))
            way = np.gradient(run, axis=0)
            way /= np.maximum(np.hypot(*way.T), 1e-9)[:, None]
            stray = hand.spread * (0.6 * random.uniform(-1, 1) + 0.4 * _slow(random, len(run), 60.0))
            made.append(run + np.column_stack([-way[:, 1], way[:, 0]]) * np.asarray(stray)[..., None])
    return made


def _hatching(random: np.random.Generator, lines: list[Line]) -> list[F64]:
    """A patch of parallel strokes beside a line, at any angle."""
    whole = np.vstack([line.points for line in lines])
    x, y = whole[random.integers(len(whole))] + random.uniform(-40, 40, 2)
    angle, gap = random.uniform(0, math.pi), random.uniform(6.0, 12.0)
    way, across = np.array([math.cos(angle), math.sin(angle)]), np.array([-math.sin(angle), math.cos(angle)])
    made = []
    for k in range(int(random.integers(8, 14))):
        half = 0.5 * random.uniform(40, 80)
        middle = np.array([x, y]) + across * (k * gap + random.normal(0, 0.6)) + way * random.uniform(-6, 6)
        run = dense(np.array([middle - way * half, middle + way * half]))
        made.append(run + random.normal(0, 0.3, 2))
    return made


def _working(random: np.random.Generator, lines: list[Line]) -> list[F64]:
    whole = np.vstack([line.points for line in lines])
    middle = 0.5 * (whole.min(axis=0) + whole.max(axis=0)) + random.uniform(-8, 8, 2)
    low, high = whole.min(axis=0) - 40, whole.max(axis=0) + 40
    radius = 0.5 * float((high - low).min()) * random.uniform(0.7, 0.95)
    tilt = random.uniform(-0.02, 0.02)
    return [
        dense(np.array([[low[0], middle[1] - tilt * 300], [high[0], middle[1] + tilt * 300]])),
        dense(np.array([[middle[0] + tilt * 300, low[1]], [middle[0] - tilt * 300, high[1]]])),
        ellipse(middle[0], middle[1], radius, radius).points,
    ]


def sketched(
    lines: list[Line], hand: Hand, seed: int, strokes: list[F64] | None = None, ways: list[F64] | None = None
) -> Sketch:
    """Draw lines by a hand on paper; `strokes` of shading and `ways` of working lines are given, else laid at random
    if the hand hatches or works by such."""
    random = np.random.default_rng(seed)
    layer = np.zeros((HEIGHT * FINE, WIDTH * FINE))
    shading = strokes if strokes is not None else _hatching(random, lines) if hand.hatched else []
    working = ways if ways is not None else _working(random, lines) if hand.working else []
    for run in working:
        _stroke(layer, random, run + np.column_stack([_slow(random, len(run), 90.0)] * 2) * 0.5, 0.2, 1.2)
    for run in shading:
        _stroke(layer, random, run, 0.35, 1.5)
    for line in lines:
        for run in _strokes_of(line, hand, random):
            _stroke(layer, random, run, random.uniform(0.55, 0.9), STROKE_PX * random.uniform(0.8, 1.15))
    soft = cv2.resize(cv2.GaussianBlur(layer, (0, 0), 1.1), (WIDTH, HEIGHT), interpolation=cv2.INTER_AREA)
    tooth = cv2.GaussianBlur(random.normal(0, 1, (HEIGHT, WIDTH)), (0, 0), 0.8)
    tooth = 1.0 - hand.grain * np.clip(tooth * 1.6 + 0.4, 0, 1)
    slope = np.linspace(-1, 1, WIDTH)[None] * random.uniform(-6, 6) + np.linspace(-1, 1, HEIGHT)[:, None] * 5
    grey = hand.grey + slope * (hand.grey < 245) + random.normal(0, 1.2, (HEIGHT, WIDTH))
    grey = grey * (1.0 - 0.85 * soft * tooth)
    return Sketch(np.clip(np.rint(grey), 0, 255).astype(np.uint8), lines, hand.spread, shading, working)
