"""Combining letter outlines, against Shapely on finely flattened ones; many; backings: python combine.py [pairs]."""

from __future__ import annotations

import functools
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import shapely
from scipy.spatial import cKDTree

from figures import Figure
from sobercrow.core.artwork import combining, joining
from sobercrow.core.artwork.combining import Backing
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.combine import How, combine_all
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.settings import mm_to_px

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
from drawings import glyph_contours

FLAT_PX = 0.001
FACES = ("DejaVu Sans", "DejaVu Serif", "STIXGeneral")
LETTERS = "ABCDEGHKMNORSXagehkrs&83"


def letter(random: np.random.Generator) -> tuple[Contour, ...]:
    """A letter of a measured face at a random size and place."""
    face = str(random.choice(FACES))
    try:
        outlines = glyph_contours(str(random.choice(list(LETTERS))), int(random.integers(60, 200)), face)
    except (ValueError, TypeError):
        outlines = glyph_contours(str(random.choice(list(LETTERS))), int(random.integers(60, 200)))
    return tuple(sorted(outlines, key=lambda c: -abs(c.area())))


def moved(contours: tuple[Contour, ...], dx: float, dy: float) -> tuple[Contour, ...]:
    """Contours elsewhere."""
    return tuple(contour.moved(dx, dy) for contour in contours)


def flat(contours: tuple[Contour, ...]) -> shapely.Geometry:
    """The area of contours, flattened to 0.001 px."""
    rings = []
    for contour in contours:
        curves = contour.curves()
        bend = np.hypot(*np.moveaxis(np.diff(curves, n=2, axis=1), -1, 0)).max(axis=1)
        counts = np.clip(np.ceil(np.sqrt(0.75 * bend / FLAT_PX)), 1, 2000).astype(int)
        t = [np.arange(n) / n for n in counts]
        rings.append(
            shapely.Polygon(np.concatenate([bezier.evaluate(c, own) for c, own in zip(curves, t, strict=True)]))
        )
    return functools.reduce(shapely.symmetric_difference, [ring.buffer(0) for ring in rings])


def pair(random: np.random.Generator, n: int) -> tuple[tuple[Contour, ...], tuple[Contour, ...]]:
    """Two letters: overlapping, touching, sharing edges, or one in the other."""
    one, other = letter(random), letter(random)
    box = Shape(one).bounds()
    kind = n % 4
    if kind == 1:  # the same letter shifted along its level edges
        other = moved(one, float(random.uniform(5, 30)), 0.0)
    elif kind == 2:  # touching at its right edge
        other = moved(other, box[2] - Shape(other).bounds()[0], float(random.uniform(-20, 20)))
    elif kind == 3:  # small within
        other = tuple(c.scaled(0.12) for c in other)
        middle = shapely.point_on_surface(flat(one))
        own = Shape(other).bounds()
        other = moved(other, middle.x - (own[0] + own[2]) / 2, middle.y - (own[1] + own[3]) / 2)
    else:
        other = moved(other, float(random.uniform(-40, 60)), float(random.uniform(-30, 30)))
    return one, other


def pairs_table(count: int) -> None:
    """Print how near to Shapely's areas the results are."""
    random = np.random.default_rng(77)
    ways = {
        How.UNITE: shapely.union,
        How.SUBTRACT: shapely.difference,
        How.INTERSECT: shapely.intersection,
        How.EXCLUDE: shapely.symmetric_difference,
    }
    print("| | area off, 99 % | largest | anchors more a crossing, largest | lost | ms |\n|---|---|---|---|---|---|")
    rows: dict[How, list[tuple[float, float, int]]] = {how: [] for how in ways}
    took: dict[How, list[float]] = {how: [] for how in ways}
    for n in range(count):
        one, other = pair(random, n)
        a, b = flat(one), flat(other)
        crossings = len(shapely.get_parts(a.boundary.intersection(b.boundary)))
        for how, theirs in ways.items():
            wanted = theirs(a, b)
            began = time.perf_counter()
            made = combine_all([one, other], how)
            took[how].append(time.perf_counter() - began)
            own = sum(sum(c.area() for c in part) for part in made)
            off = abs(abs(own) - wanted.area) / max(wanted.area, min(a.area, b.area))
            large = [p for p in shapely.get_parts(wanted) if p.area > 1e-3 * min(a.area, b.area) + 0.3]
            more = sum(len(c) for part in made for c in part) - sum(map(len, (*one, *other)))
            rows[how].append((off, more / crossings if crossings else 0.0, max(len(large) - len(made), 0)))
    for how, found in rows.items():
        off, more, lost = (np.array(part) for part in zip(*found, strict=True))
        print(
            f"| {how.value} | {np.percentile(off, 99):.1e} | {off.max():.1e} | {more.max():.2f} | {lost.sum()} | "
            f"{1000 * np.median(took[how]):.0f} |"
        )


def overlapping(random: np.random.Generator) -> Artwork:
    """2,000 letters in one layer, most of which overlap others."""
    shapes = [Shape(moved(letter(random), *random.uniform(0, 2600, 2))) for _ in range(2000)]
    return Artwork((Layer("Ink", tuple(shapes)),), 3000.0, 3000.0, 300.0)


def joined(artwork: Artwork) -> tuple[float, Artwork]:
    """Seconds it takes to join shapes by colour, and the artwork then."""
    began = time.perf_counter()
    made = joining.join_by_colour(artwork).artwork
    return time.perf_counter() - began, made


def figures() -> Iterator[Figure]:
    """Yield how long joining takes."""
    yield Figure("2,000 overlapping letters joined by colour", joined(overlapping(np.random.default_rng(78)))[0], 2.0)


def many_table() -> None:
    """Print how long 2,000 shapes take to be joined, and what a backing of a word is."""
    random = np.random.default_rng(78)
    artwork = overlapping(random)
    seconds, made = joined(artwork)
    print(f"\n2,000 overlapping letters joined to {len(made.shapes)} shapes: {seconds:.1f} s")
    word, x = [], 0.0
    for _ in range(8):
        one = letter(random)
        left, _, right, _ = Shape(one).bounds()
        word.append(Shape(moved(one, x - left, 0.0)))
        x += right - left + 4
    artwork = Artwork((Layer("Ink", tuple(word)),), x, 300.0, 300.0)
    began = time.perf_counter()
    layer = combining.backing(artwork, Backing(2.0, 0.0)).artwork.layers[0]
    took = time.perf_counter() - began
    wanted = shapely.union_all([flat(s.contours) for s in word]).buffer(mm_to_px(2.0, 300.0), quad_segs=128)
    lines = [
        shapely.get_coordinates(shapely.segmentize(area.boundary, 0.05))
        for area in (
            wanted,
            functools.reduce(shapely.symmetric_difference, [flat((c,)) for s in layer.shapes for c in s.contours]),
        )
    ]
    apart = max(cKDTree(lines[0]).query(lines[1])[0].max(), cKDTree(lines[1]).query(lines[0])[0].max())
    print(
        f"backing of 8 letters: {apart / mm_to_px(1.0, 300.0):.4f} mm from Shapely's buffer at most, "
        f"{sum(s.anchor_count for s in layer.shapes)} anchors of {artwork.anchor_count}, {1000 * took:.0f} ms"
    )


if __name__ == "__main__":
    pairs_table(int(sys.argv[1]) if len(sys.argv) > 1 else 500)
    many_table()
