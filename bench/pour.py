"""Pouring into line drawings whose areas and gaps are known: python pour.py [count [first seed]]."""

from __future__ import annotations

import sys
import time
from dataclasses import dataclass

import cv2
import numpy as np
import shapely

from sobercrow.core.artwork import gaps, pouring
from sobercrow.core.artwork.model import Pouring
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Settings

FINE = 4


@dataclass
class Drawing:
    """A line drawing: its picture, the areas it encloses, and the gaps put into its lines."""

    picture: Picture
    areas: list[shapely.Polygon]
    gaps: list[tuple[float, float, float]]
    width: float


def freehand(random: np.random.Generator, start: np.ndarray, end: np.ndarray) -> np.ndarray:
    """A line as a hand draws it: from one place to another, bent and wavering."""
    along = np.linspace(0, 1, 160)[:, None]
    way = end - start
    across = np.array((-way[1], way[0])) / np.hypot(*way)
    bend = random.uniform(-30, 30) * np.sin(np.pi * along)
    waver = sum(random.normal(0, 6.0 / n) * np.sin(np.pi * n * along + random.uniform(0, 6)) for n in range(2, 6))
    return start + along * way + (bend + waver) * across


def drawn(seed: int) -> Drawing:
    """Crossing freehand lines in a frame, with gaps of 2-20 px in lines of 2-8 px."""
    random = np.random.default_rng(seed)
    size, width = 620, float(random.uniform(2.0, 8.0))
    low, high = 50.0, size - 50.0
    corners = [(low, low), (high, low), (high, high), (low, high)]
    lines = [
        freehand(random, np.array(a), np.array(b)) for a, b in zip(corners, corners[1:] + corners[:1], strict=True)
    ]
    for k in range(4):
        lines[k][0], lines[k][-1] = corners[k], corners[(k + 1) % 4]
    for _ in range(int(random.integers(2, 4))):
        for axis in range(2):
            at = random.uniform(low + 90, high - 90, 2)
            ends = np.array([(low - 46, at[0]), (high + 46, at[1])])
            lines.append(freehand(random, *(ends if axis == 0 else ends[:, ::-1])))
    network = shapely.unary_union([shapely.LineString(line) for line in lines])
    nodes = shapely.MultiPoint([p for edge in shapely.get_parts(network) for p in (edge.coords[0], edge.coords[-1])])
    ink = network.buffer(0.5 * width, quad_segs=16)
    areas = [cell.difference(ink) for cell in shapely.get_parts(shapely.polygonize(list(shapely.get_parts(network))))]
    areas = [max(shapely.get_parts(area), key=lambda part: part.area) for area in areas if area.area > 400]
    areas = [area for area in areas if shapely.length(shapely.maximum_inscribed_circle(area, tolerance=0.5)) > 16]
    gaps = []
    edges = [edge for edge in shapely.get_parts(network) if edge.length > 70]
    for k in random.permutation(len(edges))[: int(random.integers(3, 7))]:
        edge, gap = edges[k], float(random.uniform(2, 20))
        at = float(random.uniform(0.35, 0.65)) * edge.length
        place, way = (
            edge.interpolate(at),
            np.array(edge.interpolate(at + 1).coords[0]) - edge.interpolate(at - 1).coords[0],
        )
        near = ink.intersection(place.buffer(2 * width + gap))
        if place.distance(nodes) < 30 or len(shapely.get_parts(near)) != 1:
            continue
        way = way / np.hypot(*way)
        across = np.array((-way[1], way[0]))
        p = np.array(place.coords[0])
        box = [p + s * 0.5 * gap * way + t * (width + 3) * across for s, t in ((1, 1), (1, -1), (-1, -1), (-1, 1))]
        ink = ink.difference(shapely.Polygon(box))
        gaps.append((*p.tolist(), gap))
    image = np.full((size * FINE, size * FINE), 255, np.uint8)
    for part in shapely.get_parts(ink):
        rings = [np.rint(np.asarray(r.coords) * FINE).astype(np.int32) for r in (part.exterior, *part.interiors)]
        cv2.fillPoly(image, rings, 0)
    grey = cv2.resize(image, (size, size), interpolation=cv2.INTER_AREA)
    return Drawing(Picture(np.repeat(grey[..., None], 3, axis=2), 300.0, name="lines.png"), areas, gaps, width)


def main(count: int, first: int) -> None:
    alone, areas, found, known, said, right, paper, took, clicks = 0, 0, 0, 0, 0, 0, 0.0, [], []
    for seed in range(first, first + count):
        drawing = drawn(seed)
        artwork = Job(drawing.picture).run(Settings()).artwork
        began = time.perf_counter()
        between = gaps.find_gaps(artwork, 25.0)
        took.append(time.perf_counter() - began)
        for x, y, width in drawing.gaps:
            known += 1
            near = [g for g in between if np.hypot(g.middle[0] - x, g.middle[1] - y) < 6 + 0.5 * width]
            found += bool(near)
        said += len(between)
        right += sum(
            any(np.hypot(g.middle[0] - x, g.middle[1] - y) < 6 + 0.5 * w for x, y, w in drawing.gaps) for g in between
        )
        how = Pouring(25.0, 0.4 * drawing.width)
        for area in drawing.areas:
            areas += 1
            seed_at = shapely.get_coordinates(shapely.maximum_inscribed_circle(area, tolerance=0.5))[0]
            began = time.perf_counter()
            got = pouring.area_at(artwork, how, *seed_at)
            clicks.append(time.perf_counter() - began)
            if got is not None:
                alone += got.symmetric_difference(area).area < 0.03 * area.area + 60
            if got is not None:
                whole = shapely.union(pouring.run_under(artwork, got, how.overlap_px), gaps.lines_of(artwork))
                bridges = shapely.union_all(
                    [shapely.LineString([(g.x0, g.y0), (g.x1, g.y1)]).buffer(1.0) for g in gaps]
                )
                rim = got.buffer(0.3).difference(got).difference(bridges)
                paper = max(paper, rim.difference(whole.buffer(0.01)).area)
    print(
        f"{count} drawings: {100 * alone / areas:.1f} % of {areas} areas poured alone; "
        f"{100 * found / known:.1f} % of {known} gaps found, "
        f"{100 * right / max(said, 1):.1f} % of {said} told are gaps; "
        f"gap list {1000 * np.median(took):.0f} ms ({1000 * max(took):.0f} at most), "
        f"a click {1000 * np.median(clicks):.0f} ms ({1000 * max(clicks):.0f}); paper beside a pour {paper:.3f} px²"
    )


if __name__ == "__main__":
    main(*(int(v) for v in [*sys.argv[1:], *("60", "5000")[len(sys.argv[1:]) :]]))
