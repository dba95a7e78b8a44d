"""Marks of the kite workshop's world, drawn by rule from a seed: what bench/logos.py measures on.

Sixteen kinds, half to tune on and half to measure. Colours, typefaces, sizes and places vary with the seed. Lettering
is set as outlines in the typefaces that come along.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from fontTools.pens.boundsPen import BoundsPen
from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.pens.transformPen import TransformPen
from fontTools.ttLib import TTFont

from icons import Icon, drawn, icon_of
from sobercrow.core.inks.colour import lab_of, pairwise_ciede2000

BOX = 100.0
"""Marks are drawn in a square of so many units."""
LEAST_APART = 14.0
"""Inks of a mark are at least so unlike, in ΔE00, unless near tints are meant."""
FACES_FOLDER = Path(__file__).parent.parent / "src/sobercrow/core/lettering/library"
TUNING_FACES = ("texgyreadventor-bold.otf", "lobster.otf", "YanoneKaffeesatz-Bold.otf", "CourierPrime-Bold.otf")
MEASURED_FACES = ("Cabin-Bold.otf", "LobsterTwo-Bold.otf", "BebasNeue-Regular.otf", "Comfortaa-Bold.ttf")
TUNING_WORDS = ("KITES", "Fen & Fetlock", "WINDWARD", "Updraft")
MEASURED_WORDS = ("FETLOCK", "Fine kites", "REELS & LINES", "Lookout")
DRAWN = 8
"""Drawn so much larger and averaged: where shapes of one picture touch, nothing shines through."""
Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Maker:
    """What a mark is drawn with: chance, its inks (the ground first), a typeface and its words."""

    random: np.random.Generator
    inks: tuple[str, ...]
    face: Path
    words: tuple[str, ...]


def polygon(points: Iterable[Point], fill: str) -> str:
    """Return a closed shape with straight sides."""
    return f'<path d="M{" L".join(f"{x:.3f} {y:.3f}" for x, y in points)} Z" fill="{fill}"/>'


def disc(x: float, y: float, radius: float, fill: str) -> str:
    """Return a filled circle."""
    return f'<circle cx="{x:.3f}" cy="{y:.3f}" r="{radius:.3f}" fill="{fill}"/>'


def box(x: float, y: float, width: float, height: float, fill: str) -> str:
    """Return an upright rectangle."""
    return polygon(((x, y), (x + width, y), (x + width, y + height), (x, y + height)), fill)


def bar(a: Point, b: Point, width: float, fill: str) -> str:
    """Return a line with square ends."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    n = 0.5 * width / math.hypot(dx, dy)
    ox, oy = -dy * n, dx * n
    return polygon(
        ((a[0] + ox, a[1] + oy), (b[0] + ox, b[1] + oy), (b[0] - ox, b[1] - oy), (a[0] - ox, a[1] - oy)), fill
    )


def star(x: float, y: float, radius: float, waist: float, points: int, turn: float, fill: str) -> str:
    """Return a star."""
    angles = [turn + k * math.pi / points for k in range(2 * points)]
    reach = [radius if k % 2 == 0 else waist * radius for k in range(2 * points)]
    return polygon(((x + r * math.sin(a), y - r * math.cos(a)) for a, r in zip(angles, reach, strict=True)), fill)


def wave(left: float, right: float, top: float, bottom: float, crest: float, count: int, fill: str) -> str:
    """Return a band whose upper and lower edges wave alike."""
    step = (right - left) / (2 * count)

    def edge(y: float, xs: list[float], sign: float) -> str:
        parts = []
        for k, x in enumerate(xs):
            up = sign * (crest if k % 2 == 0 else -crest)
            parts.append(f"C{x + 0.36 * step * sign:.3f} {y - up:.3f} {x + 0.64 * step * sign:.3f} {y - up:.3f} ")
            parts.append(f"{x + step * sign:.3f} {y:.3f}")
        return "".join(parts)

    there = [left + k * step for k in range(2 * count)]
    back = [right - k * step for k in range(2 * count)]
    return f'<path d="M{left} {top}{edge(top, there, 1.0)}L{right} {bottom}{edge(bottom, back, -1.0)}Z" fill="{fill}"/>'


def _glyphs(maker: Maker, words: str, size: float) -> list[tuple[str, float, float]]:
    """Names of glyphs, where each begins and how wide it is, in units, spaced a little."""
    font = TTFont(maker.face)
    names, widths, scale = font.getBestCmap(), font["hmtx"], size / font["head"].unitsPerEm
    placed, x = [], 0.0
    for character in words:
        wide = widths[names[ord(character)]][0] * scale + 0.05 * size
        placed.append((names[ord(character)], x, wide))
        x += wide
    return placed


def text(maker: Maker, words: str, x: float, y: float, wide: float, fill: str, tall: float = 30.0) -> str:
    """Return words with their middle at x on the base line y, as wide as said but no taller than `tall`."""
    size = 10.0
    length = _length(maker, words, size)
    size = min(size * wide / length, tall)
    start = x - 0.5 * _length(maker, words, size)
    glyphs, scale = _outlines(maker, size)
    path = ""
    for name, at, _ in _glyphs(maker, words, size):
        pen = SVGPathPen(glyphs, ntos=lambda v: f"{v:.4f}")
        glyphs[name].draw(TransformPen(pen, (scale, 0, 0, -scale, start + at, y)))
        path += pen.getCommands()
    return f'<path d="{path}" fill="{fill}"/>'


def ring_text(maker: Maker, words: str, x: float, y: float, radius: float, size: float, fill: str) -> str:
    """Return words along the top of a circle."""
    glyphs, scale = _outlines(maker, size)
    total, path = _length(maker, words, size), ""
    for name, at, wide in _glyphs(maker, words, size):
        angle = (at + 0.5 * wide - 0.5 * total) / radius
        c, s = math.cos(angle), math.sin(angle)
        left = -0.5 * wide
        turned = (scale * c, scale * s, scale * s, -scale * c)
        to = x + radius * s + left * c, y - radius * c + left * s
        pen = SVGPathPen(glyphs, ntos=lambda v: f"{v:.4f}")
        glyphs[name].draw(TransformPen(pen, (*turned, *to)))
        path += pen.getCommands()
    return f'<path d="{path}" fill="{fill}"/>'


def _outlines(maker: Maker, size: float) -> tuple[object, float]:
    font = TTFont(maker.face)
    return font.getGlyphSet(), size / font["head"].unitsPerEm


def _length(maker: Maker, words: str, size: float) -> float:
    name, at, wide = _glyphs(maker, words, size)[-1]
    glyphs, scale = _outlines(maker, size)
    pen = BoundsPen(glyphs)
    glyphs[name].draw(pen)
    return at + wide if pen.bounds is None else at + pen.bounds[2] * scale


def kite(maker: Maker, x: float, y: float, tall: float, inks: tuple[str, str]) -> str:
    """Return a kite of four triangles with a common corner."""
    wide = tall * maker.random.uniform(0.3, 0.36)
    cross = y - 0.5 * tall + tall * maker.random.uniform(0.35, 0.45)
    corners = ((x, y - 0.5 * tall), (x + wide, cross), (x, y + 0.5 * tall), (x - wide, cross))
    return "".join(polygon((corners[k], corners[(k + 1) % 4], (x, cross)), inks[k % 2]) for k in range(4))


def _roundel(m: Maker) -> str:
    ground, a, b, c = m.inks[:4]
    radius = m.random.uniform(43, 47)
    return (
        box(0, 0, 100, 100, ground)
        + disc(50, 50, radius, a)
        + disc(50, 50, radius - 2.6, b)
        + disc(50, 50, 0.66 * radius, a)
        + disc(50, 50, 0.62 * radius, ground)
        + ring_text(m, m.words[0].upper() + " & REELS", 50, 50, 0.73 * radius, 0.2 * radius, a)
        + kite(m, 50, 50, radius, (a, c))
    )


def _ring_word(m: Maker) -> str:
    ground, a, b = m.inks[:3]
    return (
        box(0, 0, 100, 100, ground)
        + disc(50, 50, 45, a)
        + disc(50, 50, 30, b)
        + ring_text(m, m.words[0].upper(), 50, 50, 34.0, 10.0, ground)
        + star(50, 50, 22, 0.45, 5, 0.0, a)
        + disc(50, 86, 3.0, ground)
    )


def _star_word(m: Maker) -> str:
    ground, a, b = m.inks[:3]
    points = int(m.random.integers(5, 7))
    return (
        box(0, 0, 100, 100, ground)
        + star(50, 34, 28, 0.42, points, 0.0, a)
        + disc(50, 34, 7, b)
        + text(m, m.words[1], 50, 84, 88, b, 24)
    )


def _burst(m: Maker) -> str:
    ground, a, b, c = m.inks[:4]
    return (
        box(0, 0, 100, 100, ground)
        + star(50, 46, 44, 0.72, int(m.random.integers(10, 15)), 0.1, a)
        + disc(50, 46, 26, b)
        + text(m, m.words[0], 50, 51, 44, c, 16)
    )


def _stripes(m: Maker) -> str:
    ground, a, b, c = m.inks[:4]
    bands = "".join(box(14, 12 + 9 * k, 72, 5, (a, b)[k % 2]) for k in range(6))
    return box(0, 0, 100, 100, ground) + bands + text(m, m.words[3], 50, 86, 80, c, 22)


def _awning(m: Maker) -> str:
    ground, a, b, c = m.inks[:4]
    count = int(m.random.integers(6, 9))
    wide = 80.0 / count
    parts = [box(10 + k * wide, 18, wide, 26, (a, b)[k % 2]) for k in range(count)]
    parts += [disc(10 + (k + 0.5) * wide, 44, 0.5 * wide, (a, b)[k % 2]) for k in range(count)]
    return box(0, 0, 100, 100, ground) + "".join(parts) + text(m, m.words[1], 50, 78, 78, c, 20)


def _checks(m: Maker) -> str:
    ground, a, b, c = m.inks[:4]
    side = 11.0
    cells = "".join(
        box(17 + side * i, 8 + side * j, side, side, a if (i + j) % 2 else b) for i in range(6) for j in range(4)
    )
    return box(0, 0, 100, 100, ground) + cells + text(m, m.words[2], 50, 76, 84, c, 20)


def _diamonds(m: Maker) -> str:
    ground, a, b, c = m.inks[:4]
    parts = []
    for i in range(4):
        for j in range(3):
            x, y = 20 + 20 * i, 18 + 20 * j
            parts.append(polygon(((x, y - 10), (x + 10, y), (x, y + 10), (x - 10, y)), (a, b, c)[(i + 2 * j) % 3]))
    return box(0, 0, 100, 100, ground) + "".join(parts) + text(m, m.words[3], 50, 90, 70, a, 20)


def _facets(m: Maker) -> str:
    ground, a, b, c, d = m.inks[:5]
    x, y = 50 + m.random.uniform(-3, 3), 40 + m.random.uniform(-3, 3)
    ring = [(50 + 42 * math.sin(t), 48 - 42 * math.cos(t)) for t in np.linspace(0, 2 * math.pi, 9)[:8] + 0.2]
    parts = [polygon((ring[k], ring[(k + 1) % 8], (x, y)), (a, b, c, d)[k % 4]) for k in range(8)]
    return box(0, 0, 100, 100, ground) + "".join(parts)


def _gem(m: Maker) -> str:
    ground, a, b, c, d = m.inks[:5]
    top = [(16.0, 36.0), (32.0, 14.0), (68.0, 14.0), (84.0, 36.0)]
    girdle = [(16.0, 36.0), (38.0, 36.0), (62.0, 36.0), (84.0, 36.0)]
    tip = (50.0 + m.random.uniform(-2, 2), 90.0)
    return (
        box(0, 0, 100, 100, ground)
        + polygon((top[0], top[1], girdle[1]), a)
        + polygon((top[1], top[2], girdle[2], girdle[1]), b)
        + polygon((top[2], top[3], girdle[2]), c)
        + polygon((girdle[0], girdle[1], tip), b)
        + polygon((girdle[1], girdle[2], tip), d)
        + polygon((girdle[2], girdle[3], tip), a)
    )


def _waves(m: Maker) -> str:
    ground, a, b, c = m.inks[:4]
    bands = "".join(wave(10, 90, 52 + 11 * k, 58 + 11 * k, m.random.uniform(5, 7), 3, (a, b, a)[k]) for k in range(3))
    return box(0, 0, 100, 100, ground) + disc(50, 34, 15, c) + bands


def _clouds(m: Maker) -> str:
    ground, a, b, c = m.inks[:4]
    cloud = disc(34, 40, 12, b) + disc(50, 34, 16, b) + disc(66, 40, 12, b) + box(34, 38, 32, 14, b)
    return (
        box(0, 0, 100, 100, ground)
        + disc(50, 46, 42, a)
        + cloud
        + wave(16, 84, 66, 71, 4.5, 4, c)
        + text(m, m.words[0], 50, 62, 32, a, 8)
    )


def _thin_lines(m: Maker) -> str:
    ground, a, b = m.inks[:3]
    width = m.random.uniform(0.8, 1.2)
    lines = bar((50, 8), (50, 64), width, a) + bar((26, 28), (74, 28), width, a)
    lines += "".join(
        bar(p, q, 1.4 * width, a)
        for p, q in (((50, 8), (26, 28)), ((50, 8), (74, 28)), ((26, 28), (50, 64)), ((74, 28), (50, 64)))
    )
    return box(0, 0, 100, 100, ground) + lines + text(m, m.words[1], 50, 88, 80, b, 18)


def _compass(m: Maker) -> str:
    ground, a, b = m.inks[:3]
    width = m.random.uniform(0.9, 1.3)
    spokes = "".join(
        bar((50 + 18 * math.sin(t), 50 - 18 * math.cos(t)), (50 + 40 * math.sin(t), 50 - 40 * math.cos(t)), width, a)
        for t in np.arange(12) * math.pi / 6
    )
    ring = disc(50, 50, 44, a) + disc(50, 50, 44 - 1.4 * width, ground)
    return box(0, 0, 100, 100, ground) + ring + spokes + star(50, 50, 16, 0.3, 4, 0.0, b)


def _near_tints(m: Maker) -> str:
    return (
        box(0, 0, 100, 100, "#ffffff")
        + disc(50, 42, 36, m.inks[1])
        + disc(50, 42, 30, "#f4ead2")
        + disc(50, 42, 20, "#ffffff")
        + kite(m, 50, 42, 34, (m.inks[1], m.inks[2]))
        + text(m, m.words[0], 50, 94, 70, m.inks[1], 14)
    )


def _dark_ground(m: Maker) -> str:
    dark = ("#1d2733", "#2a1f1c", "#172a22", "#2b2140")[int(m.random.integers(0, 4))]
    light, warm = "#f3e7c9", "#d9572f"
    return (
        box(0, 0, 100, 100, dark)
        + kite(m, 50, 36, 52, (light, warm))
        + wave(22, 78, 70, 73, 3.0, 3, warm)
        + text(m, m.words[3], 50, 91, 74, light, 18)
    )


Kind = Callable[[Maker], str]
TUNING: dict[str, Kind] = {
    "roundel": _roundel, "star": _star_word, "stripes": _stripes, "checks": _checks, "facets": _facets,
    "waves": _waves, "lines": _thin_lines, "tints": _near_tints,
}  # fmt: skip
MEASURED: dict[str, Kind] = {
    "ring": _ring_word, "burst": _burst, "awning": _awning, "diamonds": _diamonds, "gem": _gem, "clouds": _clouds,
    "compass": _compass, "dark": _dark_ground,
}  # fmt: skip


def _inks(random: np.random.Generator, count: int) -> tuple[str, ...]:
    """White or a pale ground, then inks that people tell apart, one of them dark."""
    ground = np.array([255.0, 255.0, 255.0]) if random.random() < 0.7 else 255.0 - random.uniform(4, 30, 3)
    chosen = [ground, random.uniform(10, 70, 3)]
    while len(chosen) < count:
        new = random.uniform(20, 235, 3)
        if np.ptp(new) > 60 and pairwise_ciede2000(lab_of(new[None]), lab_of(np.array(chosen))).min() > LEAST_APART:
            chosen.append(new)
    return tuple("#" + "".join(f"{round(v):02x}" for v in rgb) for rgb in chosen)


def marks(tuning: bool, seed: int = 1) -> list[Icon]:
    """Draw all marks of one half, each from 150 to 320 px, somewhere on the pixel grid."""
    made = []
    for k, (name, draw) in enumerate((TUNING if tuning else MEASURED).items()):
        random = np.random.default_rng((seed, k, tuning))
        faces, words = (TUNING_FACES, TUNING_WORDS) if tuning else (MEASURED_FACES, MEASURED_WORDS)
        first = int(random.integers(0, 4))
        turned = tuple(words[(first + i) % 4] for i in range(4))
        maker = Maker(random, _inks(random, 5), FACES_FOLDER / faces[int(random.integers(0, 4))], turned)
        size = int(random.integers(150, 321))
        left, top = random.uniform(-1.0, 1.0, 2)
        body = f'<g transform="translate({left:.3f} {top:.3f})">{draw(maker)}</g>'
        ground = body.split('fill="')[1].split('"')[0]
        icon = icon_of(name, box(-5, -5, 110, 110, ground) + body, BOX, size)
        assert icon is not None, name
        fine = drawn(icon.svg, DRAWN * size).astype(np.float64).reshape(size, DRAWN, size, DRAWN, 3)
        made.append(replace(icon, pixels=np.rint(fine.mean(axis=(1, 3))).astype(np.uint8)))
    return made
