"""Several inks, true shapes and the cost of many inks: `python bench/outlines.py`.

`--tuning` takes the seeds the method was tuned on.
"""

from __future__ import annotations

import sys
import time

import contourpy
import numpy as np
import shapely
from scipy.spatial import cKDTree
from skimage.measure import label

from ink_scenes import OVERSAMPLING, ROUND_POINTS, Scene, flat_scene
from inks import photo
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry.forms import Ellipse, kind_of
from sobercrow.core.inks.separation import SeveralInks, separate
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import InkKind, Inks, Meet, Settings, Tracing
from sobercrow.core.tracing.outlines import trace
from words import MEASURED_FACES, MEASURED_WORDS, TUNING_FACES, TUNING_WORDS, render, set_word, spoil

SEED = 1000 if "--tuning" in sys.argv else 30_000
PICTURES = 24
SAME_PLACE_PX = 1e-4


def true_borders(scene: Scene) -> np.ndarray:
    """Return points on the true borders, between subpixels, in px."""
    fine = scene.fine
    across = np.add(np.argwhere(fine[:, 1:] != fine[:, :-1]), (0.5, 1.0))
    down = np.add(np.argwhere(fine[1:] != fine[:-1]), (1.0, 0.5))
    return np.concatenate([across, down])[:, ::-1] / OVERSAMPLING


def border_errors(artwork: Artwork, truth: np.ndarray) -> np.ndarray:
    """Return how far points of the artwork's edges are from the true borders, the picture's own edge left out."""
    points = np.concatenate([c.sampled(0.25) for s in artwork.shapes for c in s.contours])
    size = np.array((artwork.width_px, artwork.height_px))
    inner = ((points > 1.0) & (points < size - 1.0)).all(axis=1)
    away = cKDTree(truth).query(points[inner])[0]
    return away[away < 4.0]


def own_anchors(scene: Scene, size: int) -> float:
    """Return how many anchors the drawing has, each visible region by itself: corners, four to a whole round outline,
    and one wherever the border between two other regions meets it."""
    frame = shapely.box(0, 0, size, size)
    regions = [frame, *[shapely.Polygon()] * (len(scene.colours) - 1)]
    for ink, outline, _ in scene.parts:
        drawn = shapely.make_valid(shapely.Polygon(outline)).intersection(frame)
        regions = [region.union(drawn) if k == ink else region.difference(drawn) for k, region in enumerate(regions)]
    rounds = [outline for _, outline, is_round in scene.parts if is_round]
    on_round = cKDTree(np.concatenate([*rounds, [(-9.0, -9.0)]]))
    rings = [np.asarray(ring.coords)[:-1] for ring in shapely.get_rings(shapely.get_parts(regions))]
    plain = [ring[on_round.query(ring)[0] > SAME_PLACE_PX] for ring in rings]
    corners = np.unique(np.round(np.concatenate(plain), 4), axis=0)
    total = sum(len(ring) - len(own) for ring, own in zip(rings, plain, strict=True)) * 4.0 / ROUND_POINTS
    for ring in rings:
        total += int((shapely.distance(shapely.LinearRing(ring), shapely.points(corners)) < 10 * SAME_PLACE_PX).sum())
    return total


def several_table() -> None:
    """Print how near flush outlines of flat pictures come to the true borders."""
    print(f"{'':24} mean px  99 % px  anchors ÷ the drawing's  shapes ÷ true regions")
    for size in (128, 256):
        for blur, quality in ((0.0, None), (0.8, 40)):
            errors, anchors, own, shapes, regions = [], 0, 0.0, 0, 0
            for k in range(PICTURES):
                scene = flat_scene(SEED + k, 2 + k % 7, size)
                found = separate(Picture(scene.rendered(blur, quality), 300.0), Inks(InkKind.SEVERAL, paper="none"))
                if not isinstance(found, SeveralInks) or len(found.inks) != len(scene.colours):
                    continue
                truth = true_borders(scene)
                artwork = trace(found, Tracing(meet=Meet.FLUSH)).artwork
                errors.append(border_errors(artwork, truth))
                anchors += artwork.anchor_count
                own += own_anchors(scene, size)
                shapes += len(artwork.shapes)
                regions += int(label(scene.fine + 1, connectivity=2).max())
            every = np.concatenate(errors)
            kind = "clean" if quality is None else "blur 0.8, JPEG 40"
            print(
                f"{size} px, {kind:17} {every.mean():7.3f} {np.percentile(every, 99):8.2f} {anchors / own:15.2f}"
                f" {shapes / regions:20.2f}"
            )


def forms_table() -> None:
    """Print how many circles are found and how well, and what letters are taken for shapes."""
    random = np.random.default_rng(SEED)
    found, errors = 0, []
    for _ in range(300):
        x, y, radius = random.uniform(60, 68), random.uniform(60, 68), random.uniform(4, 55)
        at = (np.arange(128 * OVERSAMPLING) + 0.5) / OVERSAMPLING
        inside = (at[None] - x) ** 2 + (at[:, None] - y) ** 2 < radius**2
        share = inside.reshape(128, OVERSAMPLING, 128, OVERSAMPLING).mean(axis=(1, 3))
        grey = np.rint(255 * (1 - share)).astype(np.uint8)
        results = Job(Picture(np.repeat(grey[..., None], 3, axis=2), 300.0)).run(Settings())
        forms = [f.form for f in results.forms if isinstance(f.form, Ellipse) and f.form.is_circle]
        if forms:
            found += 1
            errors.append(max(abs(forms[0].x - x), abs(forms[0].y - y), abs(forms[0].rx - radius)))
    print(f"circles of radius 4–55 px: {found} of 300 found, middle and radius off by {max(errors):.3f} px at most")
    faces = TUNING_FACES if "--tuning" in sys.argv else MEASURED_FACES
    words = TUNING_WORDS if "--tuning" in sys.argv else MEASURED_WORDS
    for dirty in (False, True):
        taken, mirrored, shapes = [], 0, 0
        for face in faces.values():
            for text in words:
                for px in (48, 96, 192):
                    grey = render(set_word(face, text, px))
                    grey = spoil(grey) if dirty else grey
                    results = Job(Picture(np.repeat(grey[..., None], 3, axis=2), 300.0)).run(Settings())
                    shapes += len(results.artwork.shapes)
                    found_here = [kind_of(f.form) for f in results.forms]
                    mirrored += found_here.count("mirror symmetry")
                    taken += [f"{k} in {text}, {face.stem}, {px} px" for k in found_here if k != "mirror symmetry"]
        kind = "JPEG" if dirty else "clean"
        print(f"letters {kind}: {len(taken)} of {shapes} shapes: {'; '.join(taken)}; {mirrored} axes of symmetry")


def speed_table() -> None:
    """Print what tracing a 12-megapixel picture of 8 inks takes, against the bare iso-line on one channel."""
    for megapixels in (1.0, 4.0, 12.0):
        pixels = photo(megapixels)
        found = separate(Picture(pixels, 300.0), Inks(InkKind.SEVERAL, count=8))
        start = time.perf_counter()
        contourpy.contour_generator(z=pixels[..., 1].astype(np.float64), name="serial").lines(127.5)
        bare = time.perf_counter() - start
        for meet in Meet:
            start = time.perf_counter()
            artwork = trace(found, Tracing(meet=meet)).artwork
            spent = time.perf_counter() - start
            print(
                f"{megapixels:4.0f} megapixels, 8 inks, {meet}: {spent:.2f} s, {spent / bare:.1f} × the bare iso-line "
                f"({bare:.2f} s); {artwork.anchor_count} anchors"
            )


if __name__ == "__main__":
    several_table()
    forms_table()
    speed_table()
