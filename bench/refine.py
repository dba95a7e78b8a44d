"""What the edits of lines do to outlines that are known: `python bench/refine.py`, or some of its tables by name.

Outlines come from open typefaces; `--tuning` takes those the methods were tuned on.
"""

from __future__ import annotations

import math
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np
import shapely
from scipy.optimize import least_squares
from scipy.spatial import cKDTree

from sobercrow.core.artwork import hit
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.corners import sharpen
from sobercrow.core.artwork.easing import Ease, ease
from sobercrow.core.artwork.inking import Nib, add_ink, scrape_ink, swept
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.artwork.stretches import Track
from sobercrow.core.artwork.thinning import thin_out
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import fewest
from sobercrow.core.geometry.arcs import arc_through
from sobercrow.core.geometry.combine import region
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.inks.separation import separate
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Inks, Tracing
from sobercrow.core.tracing.outlines import trace
from sobercrow.core.tracing.tidy import crosses_itself
from words import MEASURED_FACES, MEASURED_WORDS, TUNING_FACES, TUNING_WORDS, render, set_word

FACES, WORDS = (TUNING_FACES, TUNING_WORDS) if "--tuning" in sys.argv else (MEASURED_FACES, MEASURED_WORDS)
SMOOTH_COS = math.cos(math.radians(3.0))


def distances(points: np.ndarray, line: np.ndarray) -> np.ndarray:
    """Return how far points (n, 2) are from the nearest point of a finely sampled line."""
    return cKDTree(line).query(points)[0]


def furthest_between(one: Contour, other: Contour) -> float:
    """Return how far one contour is from another at most, in px."""
    return float(distances(one.sampled(0.1), other.sampled(0.1)).max())


def contour_of(segments: np.ndarray) -> Contour:
    """Return cubic segments (m, 4, 2) as a contour, corners where it turns by more than 3 degrees."""
    before = np.roll(segments, 1, axis=0)
    points = np.stack([before[:, 2], segments[:, 0], segments[:, 1]], axis=1)
    into, out = segments[:, 0] - before[:, 2], segments[:, 1] - segments[:, 0]
    cos = (into * out).sum(axis=1) / np.maximum(np.hypot(*into.T) * np.hypot(*out.T), 1e-12)
    kinds = np.where(cos > SMOOTH_COS, int(AnchorKind.SMOOTH), int(AnchorKind.CORNER)).astype(np.uint8)
    return Contour(points, kinds)


def artwork_of(contours: list[Contour]) -> Artwork:
    """Return artwork of one shape a contour."""
    return Artwork((Layer("Ink", tuple(Shape((c,)) for c in contours)),), 2000.0, 1000.0, 300.0)


def outlines(px_per_em: int) -> Iterator[Contour]:
    """The outlines of all words in all faces."""
    for face in FACES.values():
        for text in WORDS:
            for segments in set_word(face, text, px_per_em).contours:
                yield contour_of(segments)


def dense(contour: Contour, spacing_px: float = 1.5) -> Contour:
    """The same outline with a smooth anchor every so many px, and its corners."""
    points: list[np.ndarray] = []
    kinds: list[int] = []
    for curve, kind in zip(contour.curves(), contour.kinds.tolist(), strict=True):
        size = float(np.hypot(*np.diff(curve, axis=0).T).sum())
        count = max(1, round(size / spacing_px))
        for k in range(count):
            a, b = k / count, (k + 1) / count
            part = blossom(curve, a, b)
            points.append(part)
            kinds.append(kind if k == 0 else int(AnchorKind.SMOOTH))
    segments = np.array(points)
    before = np.roll(segments, 1, axis=0)
    return Contour(np.stack([before[:, 2], segments[:, 0], segments[:, 1]], axis=1), np.array(kinds, dtype=np.uint8))


def blossom(curve: np.ndarray, a: float, b: float) -> np.ndarray:
    """The part of a cubic between two parameters."""

    def at(*t: float) -> np.ndarray:
        points = curve
        for u in t:
            points = (1.0 - u) * points[:-1] + u * points[1:]
        return points[0]

    return np.array([at(a, a, a), at(a, a, b), at(a, b, b), at(b, b, b)])


def full_search(artwork: Artwork, tolerance: float) -> int:
    """How many anchors are left with a place for an anchor every third of a pixel, far more than usual."""
    kept = fewest.NODES, fewest.MOST_NODES, fewest.LEAST_NODE_PX, fewest.MOST_NODE_PX
    fewest.NODES, fewest.MOST_NODES, fewest.LEAST_NODE_PX, fewest.MOST_NODE_PX = 1000, 1000, 0.34, 0.34
    try:
        return thin_out(artwork, Choice(), tolerance).artwork.anchor_count
    finally:
        fewest.NODES, fewest.MOST_NODES, fewest.LEAST_NODE_PX, fewest.MOST_NODE_PX = kept


def thin_table() -> None:
    """Print anchors and distances after thinning."""
    print(
        "| what | px | anchors | thinned | ÷ full search | furthest px | corners kept |\n|---|---|---|---|---|---|---|"
    )
    traced = []
    for face in FACES.values():
        for text in WORDS:
            word = set_word(face, text, 96)
            picture = Picture(np.repeat(render(word)[..., None], 3, axis=2), 300.0)
            traced.append(trace(separate(picture, Inks()), Tracing(detail=100.0)).artwork)
    shapes = tuple(shape for one in traced for shape in one.shapes)
    words = replace(traced[0], layers=(Layer("Ink", shapes),))
    every = artwork_of([dense(c) for c in outlines(96)])
    for what, artwork in (("words traced at Detail 100", words), ("an anchor every 1.5 px", every)):
        before = [c for s in artwork.shapes for c in s.contours]
        for tolerance in (0.1, 0.25, 0.5, 1.0):
            thinned = thin_out(artwork, Choice(), tolerance).artwork
            best = full_search(artwork, tolerance)
            after = [c for s in thinned.shapes for c in s.contours]
            furthest = max(
                float(
                    max(
                        distances(a.sampled(0.1), b.sampled(0.1)).max(), distances(b.sampled(0.1), a.sampled(0.1)).max()
                    )
                )
                for a, b in zip(before, after, strict=True)
            )
            corners = thinned.corner_count / max(artwork.corner_count, 1)
            print(
                f"| {what} | {tolerance:g} | {artwork.anchor_count} | {thinned.anchor_count} | "
                f"{thinned.anchor_count / best:.3f} | {furthest:.3f} | {100 * corners:.1f} % |"
            )
    large = list(every.shapes)
    while sum(s.anchor_count for s in large) < 20_000:
        large += [s.moved(0.0, 200.0) for s in every.shapes]
    many = replace(every, layers=(Layer("Ink", tuple(large)),))
    traced_many = list(words.shapes)
    while sum(s.anchor_count for s in traced_many) < 20_000:
        traced_many += [s.moved(0.0, 200.0) for s in words.shapes]
    lots = replace(words, layers=(Layer("Ink", tuple(traced_many)),))
    for name, artwork in (("dense", many), ("traced", lots)):
        start = time.perf_counter()
        thin_out(artwork, Choice(), 0.25)
        print(f"{artwork.anchor_count} anchors, {name}: {time.perf_counter() - start:.2f} s")


def wobbly(contour: Contour, random: np.random.Generator) -> Contour:
    """An outline that wobbles by 0.3-1 px, over 5-15 px, its corners in their place."""
    fine = dense(contour, 1.5)
    line = fine.anchors
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    way = np.roll(line, -1, axis=0) - np.roll(line, 1, axis=0)
    normal = np.column_stack([-way[:, 1], way[:, 0]]) / np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    size, length = random.uniform(0.3, 1.0), random.uniform(5.0, 15.0)
    off = size * np.sin(2 * np.pi * along / length + random.uniform(0, 6.28))
    corners = np.flatnonzero(fine.kinds == AnchorKind.CORNER)
    if len(corners):
        near = np.abs(along[:, None] - along[corners]).min(axis=1)
        off *= np.clip(near / 6.0, 0.0, 1.0)
    moved = line + off[:, None] * normal
    tangent = (np.roll(moved, -1, axis=0) - np.roll(moved, 1, axis=0)) / 6.0
    points = np.stack([moved - tangent, moved, moved + tangent], axis=1)
    for k in corners:
        points[k, 0] = moved[k] + (moved[k - 1] - moved[k]) / 3.0
        points[k, 2] = moved[k] + (moved[(k + 1) % len(moved)] - moved[k]) / 3.0
    return Contour(points, fine.kinds)


def ease_table() -> None:
    """Print how much of a wobble easing takes away, and what it does to clean outlines."""
    random = np.random.default_rng(11)
    print(
        "| px per em | left after one pass | after three | clean outline moved, mean / largest px | corners moved px |"
    )
    print("|---|---|---|---|---|")
    for em in (150, 300, 600):
        shares, clean, corners = [], [], []
        for contour in outlines(em):
            total = Track.of(contour).length
            if total < 60.0:
                continue
            true = contour.sampled(0.1)
            rough = wobbly(contour, random)
            before = float(np.sqrt((distances(rough.sampled(0.25), true) ** 2).mean()))
            now, left = rough, []
            for _ in range(3):
                made = ease(artwork_of([now]), 0, 0, 0.0, Track.of(now).length, Ease()).artwork
                now = made.shapes[0].contours[0]
                left.append(float(np.sqrt((distances(now.sampled(0.25), true) ** 2).mean())) / before)
            shares.append((left[0], left[2]))
            sharp = rough.anchors[rough.kinds == AnchorKind.CORNER]
            if len(sharp):
                still = now.anchors[now.kinds == AnchorKind.CORNER]
                corners.append(float(distances(sharp, np.vstack([still, still[:1]])).max()) if len(still) else 9.9)
            made = ease(artwork_of([contour]), 0, 0, 0.0, total, Ease()).artwork
            off = distances(made.shapes[0].contours[0].sampled(0.25), true)
            clean.append((float(off.mean()), float(off.max())))
        one, three = np.array(shares).mean(axis=0)
        mean, worst = np.array(clean)[:, 0].mean(), np.array(clean)[:, 1].max()
        print(f"| {em} | {100 * one:.0f} % | {100 * three:.0f} % | {mean:.3f} / {worst:.3f} | {max(corners):.3f} |")


def wedge(degrees: float, cut_px: float, cut_off: bool, bend: float, turn: float) -> tuple[Contour, np.ndarray, int]:
    """A wedge with its tip rounded or cut off, the tip, and how many anchors that made; sides bend by 1 / px."""
    half = math.radians(degrees) / 2.0
    side = 40.0

    def along(sign: float, s: float) -> np.ndarray:
        angle = sign * half + sign * bend * s / 2.0
        return s * np.array([math.cos(angle), math.sin(angle)])

    def way(sign: float, s: float) -> np.ndarray:
        d = (along(sign, s + 1e-4) - along(sign, s - 1e-4)) / 2e-4
        return d / np.hypot(*d)

    def cubic(sign: float, a: float, b: float) -> np.ndarray:
        arm = (b - a) / 3.0
        return np.array(
            [along(sign, a), along(sign, a) + arm * way(sign, a), along(sign, b) - arm * way(sign, b), along(sign, b)]
        )

    back = cut_px / math.tan(half) if not cut_off else cut_px
    upper, lower = cubic(1.0, back, side), cubic(-1.0, back, side)[::-1]
    points, kinds = [], []
    out = 0.0 if cut_off else 4.0 / 3.0 * math.tan((math.pi - 2.0 * half) / 4.0) * cut_px
    a, b = lower[3], upper[0]
    u, w = -way(-1.0, back), way(1.0, back)
    kind = int(AnchorKind.CORNER) if cut_off else int(AnchorKind.SMOOTH)
    points.append([lower[2], a, a + out * u])
    points.append([b - out * w, b, upper[1]])
    points.append([upper[2], upper[3], upper[3]])
    points.append([lower[0], lower[0], lower[1]])
    kinds = [kind, kind, int(AnchorKind.CORNER), int(AnchorKind.CORNER)]
    c, s = math.cos(turn), math.sin(turn)
    rotated = np.array(points) @ np.array([[c, s], [-s, c]])
    return Contour(rotated, np.array(kinds, dtype=np.uint8)), np.zeros(2), 2


def sharpen_table() -> None:
    """Print how near the tips of sharpened wedges are to the true ones: drawn, and as traced from pixels."""
    random = np.random.default_rng(12)
    print("| wedges | within 0.15 px | median px | 95 % px | refused |\n|---|---|---|---|---|")
    for name, bends in (("straight sides", (0.0,)), ("curved sides", (-0.02, -0.01, 0.01, 0.02))):
        for traced in (False, True):
            off, refused = [], 0
            for _ in range(150):
                degrees, size = random.uniform(30, 150), random.uniform(1, 4)
                made, tip, _ = wedge(
                    degrees, size, bool(random.integers(2)), float(random.choice(bends)), random.uniform(0, 6.3)
                )
                refs = [AnchorRef(0, 0, 0), AnchorRef(0, 0, 1)]
                if traced:
                    made, refs = seen_in_pixels(made)
                try:
                    artwork = sharpen(artwork_of([made]), Choice(anchors=frozenset(refs))).artwork
                except EditError:
                    refused += 1
                    continue
                contour = artwork.shapes[0].contours[0]
                shift = np.array([60.0, 60.0]) if traced else np.zeros(2)
                off.append(float(np.hypot(*(contour.anchors - tip - shift).T).min()))
            found = np.array(off)
            print(
                f"| {name}{', traced' if traced else ''} | {100 * (found <= 0.15).mean():.1f} % | "
                f"{np.median(found):.3f} | {np.percentile(found, 95):.3f} | {refused} |"
            )


def seen_in_pixels(contour: Contour) -> tuple[Contour, list[AnchorRef]]:
    """A contour drawn with exact coverage and traced again, and its anchors near where the first two were."""
    import cv2

    fine = 16
    line = contour.sampled(0.05) + 60.0
    mask = np.zeros((120 * fine, 120 * fine), np.uint8)
    cv2.fillPoly(mask, [np.round(line * fine * 16 - 8).astype(np.int32)], 255, shift=4)
    grey = 255 - cv2.resize(mask, (120, 120), interpolation=cv2.INTER_AREA)
    picture = Picture(np.repeat(grey[..., None], 3, axis=2), 300.0)
    found = trace(separate(picture, Inks(threshold=127)), Tracing()).artwork.shapes[0].contours[0]
    middle = contour.anchors[:2].mean(axis=0) + 60.0
    reach = 0.5 * float(np.hypot(*(contour.anchors[1] - contour.anchors[0]))) + 6.0
    near = np.hypot(*(found.anchors - middle).T) <= reach
    return found, [AnchorRef(0, 0, int(k)) for k in np.flatnonzero(near)]


def arc_table() -> None:
    """Print how well arcs are found in noise, beside SciPy's least squares of the same arcs."""
    random = np.random.default_rng(13)
    rows: dict[str, list[tuple[float, float, float]]] = {}
    for _ in range(400):
        radius, turn = random.uniform(20, 120), math.radians(random.uniform(20, 340))
        middle, first = random.uniform(-50, 50, 2), random.uniform(0, 6.3)
        angle = first + np.linspace(0.0, turn, max(12, int(radius * turn)))
        points = middle + radius * np.column_stack([np.cos(angle), np.sin(angle)])
        points[1:-1] += random.normal(0.0, 0.2, (len(points) - 2, 2))
        arc = arc_through(points)
        half = 0.5 * (points[-1] - points[0])
        across = np.array((-half[1], half[0])) / np.hypot(*half)

        def off(p: np.ndarray, points: np.ndarray = points, half: np.ndarray = half, across: np.ndarray = across):
            centre = points[0] + half + p[0] * across
            return np.hypot(*(points - centre).T) - np.hypot(*(points[0] - centre))

        start = float((arc.middle - points[0] - half) @ across)
        theirs = least_squares(off, [start + 0.1], xtol=1e-14, ftol=1e-14).x[0]
        name = next(
            f"{low}–{high}°" for low, high in ((20, 60), (60, 180), (180, 340)) if low <= math.degrees(turn) <= high
        )
        rows.setdefault(name, []).append(
            (abs(arc.radius / radius - 1.0), float(np.hypot(*(arc.middle - middle))), abs(start - theirs))
        )
    print("| arcs | radius off, median | middle off, median px | from SciPy's, largest px |\n|---|---|---|---|")
    for name in sorted(rows, key=lambda n: int(n.split("–")[0])):
        found = np.array(rows[name])
        print(
            f"| {name} | {100 * np.median(found[:, 0]):.2f} % | {np.median(found[:, 1]):.3f} | "
            f"{found[:, 2].max():.1e} |"
        )


def ink_table() -> None:
    """Print what 200 strokes with nib and scraper, one after the other, do to a word."""
    random = np.random.default_rng(14)
    word = list(outlines(160))[:12]
    wide = max(float(c.anchors[:, 0].max()) for c in word)
    artwork, off, more, crossing, took = artwork_of(word), [], [], 0, []
    for n in range(200):
        start = random.uniform((0, 20), (wide, 200))
        points = start + np.cumsum(random.normal(0, 4, (int(random.integers(2, 25)), 2)), axis=0)
        nib = Nib(float(random.uniform(0.3, 1.5)), bool(random.integers(2)), float(random.uniform(-90, 90)))
        stroke = swept(points, nib, 300.0, 2.0)
        inked = region(stroke, 0.02)
        began = time.perf_counter()
        try:
            made = (scrape_ink(artwork, stroke) if n % 2 else add_ink(artwork, stroke, "#000000")).artwork
        except EditError:
            continue
        took.append(time.perf_counter() - began)
        before, after = changed(artwork, made), changed(made, artwork)
        wanted = before.difference(inked) if n % 2 else before.union(inked)
        off.append(after.symmetric_difference(wanted).area / max(before.area, inked.area))
        crossings = sum(
            len(shapely.get_parts(region(s.contours, 0.2).boundary.intersection(inked.boundary)))
            for s in artwork.shapes
            if region(s.contours, 0.2).intersects(inked)
        )
        fresh = made.anchor_count - artwork.anchor_count - sum(map(len, stroke))
        if crossings:
            more.append(fresh / crossings)
        kept = {id(s) for s in artwork.shapes}
        crossing += sum(crosses_itself(c) for s in made.shapes if id(s) not in kept for c in s.contours)
        artwork = made
    least = min(region(s.contours, 0.1).area for s in artwork.shapes)
    print(
        f"{len(off)} strokes: area off by {100 * max(off):.4f} % at most, {np.mean(more):.2f} anchors more for each "
        f"crossing beside the stroke's own, {crossing} contours that cross themselves, smallest shape {least:.2f} px², "
        f"{1000 * np.median(took):.0f} ms a stroke ({1000 * max(took):.0f} at most)"
    )


def changed(artwork: Artwork, other: Artwork) -> shapely.Geometry:
    """What the shapes of an artwork cover that are not in another."""
    there = {id(shape) for shape in other.shapes}
    return shapely.union_all([region(s.contours, 0.02) for s in artwork.shapes if id(s) not in there])


def hit_table() -> None:
    """Print how long it takes to find what is under the pointer in artwork of 20,000 anchors."""
    random, shapes = np.random.default_rng(15), []
    word = list(outlines(96))
    while sum(map(len, shapes)) < 20_000:  # every letter in a field of its own
        k = len(shapes)
        letter = word[k % len(word)]
        left, top, _, _ = letter.bounds()
        shapes.append(letter.moved((k % 40) * 110.0 - left, (k // 40) * 130.0 - top))
    artwork = artwork_of(shapes)
    hit.anchor_at(artwork, 0.0, 0.0, 1.0)
    hit.curve_at(artwork, 0.0, 0.0, 1.0)
    places = [shapes[k].anchors[0] for k in random.integers(0, len(shapes), 60)]
    print("| hit test, 20,000 anchors | median ms | longest ms |\n|---|---|---|")
    for name, find in (("anchor", hit.anchor_at), ("line", hit.curve_at), ("shape", hit.shape_at)):
        took = []
        for x, y in places:
            began = time.perf_counter()
            find(artwork, float(x) + 1.0, float(y) + 0.5, 4.0)
            took.append(1000 * (time.perf_counter() - began))
        print(f"| {name} | {np.median(took):.2f} | {max(took):.2f} |")


TABLES: dict[str, Callable[[], None]] = {
    "thin": thin_table,
    "ease": ease_table,
    "sharpen": sharpen_table,
    "arc": arc_table,
    "ink": ink_table,
    "hit": hit_table,
}

if __name__ == "__main__":
    for wanted in [name for name in TABLES if name in sys.argv] or list(TABLES):
        print(f"\n{wanted}\n")
        TABLES[wanted]()
