"""Pencil sketches of the demo workshop, gone over by a simulated hand, as gray tones of their own on white."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

Float = NDArray[np.float64]
Point = tuple[float, float]

FINE = 2
"""Strokes are laid on a sheet so many times as fine."""


def curve(points: Sequence[Point], steps: int = 40) -> list[Point]:
    """A smooth path through points (Catmull & Rom 1974)."""
    p = np.array([points[0], *points, points[-1]], dtype=np.float64)
    out: list[Point] = []
    for a, b, c, d in zip(p, p[1:], p[2:], p[3:], strict=False):
        for t in np.linspace(0, 1, steps, endpoint=False):
            q = 0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3)
            out.append((float(q[0]), float(q[1])))
    return [*out, (float(p[-1][0]), float(p[-1][1]))]


class Pencil:
    """A hand with a pencil and a sheet."""

    def __init__(self, seed: int, width: int, height: int) -> None:
        """Begin with an empty sheet, px."""
        self.random = np.random.default_rng(seed)
        self._size = width, height
        self._layer = np.zeros((height * FINE, width * FINE))

    def lay(self, points: Sequence[Point], dark: float, thick: float, stray: float) -> None:
        """Lay one stroke, a little beside where it was meant."""
        shake = np.cumsum(self.random.normal(0, 0.25, (len(points), 2)), axis=0) + self.random.normal(0, stray, 2)
        path = np.rint((np.array(points) + shake) * FINE).astype(np.int32)
        mark = np.zeros_like(self._layer)
        cv2.polylines(mark, [path.reshape(-1, 1, 2)], False, dark, max(1, round(thick * FINE)), cv2.LINE_AA)
        np.maximum(self._layer, mark, out=self._layer)

    def go_over(self, points: Sequence[Point], dark: float, thick: float, passes: int) -> None:
        """Lay a line as partial strokes that stray, start early and end late."""
        count = len(points)
        for _ in range(passes):
            cuts = [0, *sorted(self.random.integers(count // 5, count - count // 5, 2).tolist()), count]
            for a, b in pairwise(cuts):
                first, last = max(a - 3, 0), min(b + 3, count)
                run = np.array(points[first:last])
                if len(run) < 4:
                    continue
                head, tail = run[0] - (run[2] - run[0]), run[-1] + (run[-1] - run[-3])
                self.lay([tuple(p) for p in np.vstack([head, run, tail])], dark, thick, 1.8)

    def sheet(self) -> Float:
        """Return what was drawn, with the tooth of the paper, as (h, w, 3) tones."""
        width, height = self._size
        soft = cv2.resize(cv2.GaussianBlur(self._layer, (0, 0), 1.2), (width, height), interpolation=cv2.INTER_AREA)
        grain = cv2.GaussianBlur(self.random.normal(0, 1, (height, width)), (0, 0), 0.8)
        tooth = 0.72 + 0.28 * np.clip(grain * 1.6 + 0.4, 0, 1)
        return np.asarray((255.0 * (1.0 - 0.85 * soft * tooth))[..., None].repeat(3, 2))


def bird() -> Float:
    """The workshop's bird, with shading beneath its wing and the lines it was constructed by."""
    pencil = Pencil(18, 1300, 1000)
    for a, b in (
        ((90, 820), (1210, 812)),
        ((650, 60), (648, 950)),
        ((140, 300), (1160, 304)),
        ((240, 120), (1060, 900)),
    ):
        pencil.lay(
            [(a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t) for t in np.linspace(0, 1, 40)], 0.28, 1.2, 1.2
        )
    pencil.lay(_ring(650, 480, 300, 300, 160), 0.3, 1.2, 1.2)
    back = curve([(330, 560), (430, 430), (560, 420), (650, 500), (760, 400), (930, 360), (1010, 420)])
    belly = curve([(330, 560), (430, 640), (600, 690), (760, 640), (880, 520), (1010, 420)])
    wing = curve([(520, 520), (620, 380), (740, 250), (860, 190), (820, 330), (720, 480)])
    for line in (back, belly, wing):
        pencil.go_over(line, 0.8, 2.3, 3)
    for k in range(15):  # shading beneath the wing
        x, y = (
            440 + 15.0 * k + pencil.random.normal(0, 1.0),
            606 + 20.0 * math.sin(0.2 * k) + pencil.random.normal(0, 4.0),
        )
        pencil.lay([(x + 30 * t, y - 52 * t) for t in np.linspace(-0.5, 0.5, 12)], 0.36, 1.3, 0.4)
    for _ in range(2):  # small things are drawn with care
        pencil.lay(_ring(902, 412, 15, 15, 40), 0.85, 2.0, 0.8)
    return pencil.sheet()


def sign() -> Float:
    """A shop sign: a kite before the sun, a spool that overlaps its tail, and a line of script below."""
    pencil = Pencil(31, 1300, 1000)
    for y in (770.0, 880.0):  # what the script stands on, and up to where it reaches
        pencil.lay([(x, y) for x in np.linspace(180, 1120, 60)], 0.26, 1.2, 0.8)
    for line in (
        _ring(760, 300, 190, 190, 160),
        _straight((520, 90), (700, 320), (520, 620), (360, 320), (520, 90)),
        _straight((520, 90), (520, 620)),
        _straight((360, 320), (700, 320)),
        curve([(520, 620), (600, 690), (720, 640), (830, 700), (930, 610)]),
        _ring(960, 500, 95, 34, 90),
        _ring(960, 660, 95, 34, 90),
        _straight((866, 502), (866, 658)),
        _straight((1054, 502), (1054, 658)),
        curve([(200, 878), (280, 840), (320, 740), (290, 700), (262, 760), (280, 866), (330, 880), (390, 830),
               (410, 790), (372, 790), (366, 850), (410, 882), (470, 850), (540, 730), (510, 700), (480, 770),
               (500, 872), (560, 870), (640, 730), (612, 700), (582, 770), (600, 870), (660, 880), (740, 840)]),
    ):  # fmt: skip
        pencil.go_over(line, 0.78, 2.3, 3)
    for k in range(12):  # the far side of the kite lies in shade, hatched both ways
        x = 545 + 9.0 * k + pencil.random.normal(0, 0.8)
        pencil.lay([(x + 22 * t, 390 - 6.0 * k + 90 * t) for t in np.linspace(-0.5, 0.5, 12)], 0.36, 1.3, 0.4)
    return pencil.sheet()


def _ring(x: float, y: float, across: float, down: float, count: int) -> list[Point]:
    return [(x + across * math.cos(t), y + down * math.sin(t)) for t in np.linspace(0, 2 * math.pi, count)]


def _straight(*corners: Point) -> list[Point]:
    """Points from corner to corner."""
    made: list[Point] = []
    for a, b in pairwise(corners):
        made += [(a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t) for t in np.linspace(0, 1, 40)]
    return made
