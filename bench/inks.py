"""The inks step measured on flat pictures of known colours and on a photo's worth of pixels: `python bench/inks.py`.

`--tuning` takes the seeds the method was tuned on.
"""

from __future__ import annotations

import sys
import time
from dataclasses import replace

import cv2
import numpy as np
from skimage import data

from ink_scenes import LINE_PX, OVERSAMPLING, Scene, compressed, flat_scene
from sobercrow.core.inks.colour import hex_of_rgb, lab_of, pairwise_ciede2000, rgb_of_hex
from sobercrow.core.inks.edits import merged
from sobercrow.core.inks.palette import read_colours
from sobercrow.core.inks.separation import SeveralInks, separate
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import read_picture
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Ink, InkKind, Inks, Settings
from sobercrow.core.tracing.borders import find_borders
from sobercrow.demo.make import PICTURES as PICTURES_FOLDER

SEED = 1000 if "--tuning" in sys.argv else 20_000
PICTURES = 42
TONE = np.array([0.299, 0.587, 0.114])
CLEAR_CONTRAST = 80.0
DRAFT = 140_000


def parted(pixels: np.ndarray, inks: Inks | None = None) -> SeveralInks:
    found = separate(Picture(pixels, 300.0), inks or Inks(InkKind.SEVERAL))
    assert isinstance(found, SeveralInks)
    return found


def line_gap(own: np.ndarray, ink: int, ends: np.ndarray) -> float:
    """Return the longest stretch of a line, its ends apart, beside which there is none of its ink, in px."""
    length = float(np.hypot(*(ends[1] - ends[0])))
    places = ends[0] + (np.arange(3.0, length - 3.0, 0.25) / length)[:, None] * (ends[1] - ends[0])
    near = cv2.dilate((own == ink).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    run = longest = 0.0
    for met in near[places[:, 1].astype(int), places[:, 0].astype(int)]:
        run = 0.0 if met else run + 0.25
        longest = max(longest, run)
    return longest


def line_contrast(scene: Scene, ink: int, ends: np.ndarray) -> float:
    """Return the least difference in lightness (luma) between a line and what lies beside it."""
    truth, along = scene.truth(), ends[1] - ends[0]
    across = np.array([-along[1], along[0]]) / np.hypot(*along)
    seen = []
    for share in np.linspace(0.1, 0.9, 40):
        for side in (-3, 3):
            x, y = (ends[0] + share * along + side * across).astype(int)
            if 0 <= x < truth.shape[1] and 0 <= y < truth.shape[0] and truth[y, x] != ink:
                seen.append(abs((scene.colours[truth[y, x]] - scene.colours[ink]) @ TONE))
    return float(min(seen))


def flat_table() -> None:
    """Print how often the count is right, how true colours and labels are, and what becomes of thin lines."""
    print(f"{'':22} count right   colour ΔE00      labels right  invented ink    lines whole (contrast ≥ 80)")
    for size in (128, 256):
        for blur, quality in ((0.0, None), (0.8, 40)):
            right, colours, good, all_, invented = 0, [], 0, 0, []
            whole: list[tuple[float, bool]] = []
            for k in range(PICTURES):
                scene = flat_scene(SEED + k, 2 + k % 7, size)
                pixels = scene.rendered(blur, quality)
                found = parted(pixels)
                rgb = np.array([rgb_of_hex(i.colour) for i in found.inks], dtype=float)
                away = pairwise_ciede2000(lab_of(scene.colours), lab_of(rgb))
                right += len(rgb) == len(scene.colours)
                colours += away.min(axis=1).tolist()
                strange = [j for j in range(len(rgb)) if away[away[:, j].argmin()].argmin() != j]
                invented.append(float(sum(found.coverage[j] for j in strange)))
                far, truth = scene.border_distance() > 1.5, scene.truth()
                good += int((found.own == away.argmin(axis=1)[truth])[far].sum())
                all_ += int(far.sum())
                for ink, ends in scene.lines:
                    gap = line_gap(found.own, int(away[ink].argmin()), ends)
                    whole.append((line_contrast(scene, ink, ends), gap <= 1.0))
            clear = [w for contrast, w in whole if contrast >= CLEAR_CONTRAST]
            over = sum(i > 0.002 for i in invented)
            print(
                f"{size} px, {'clean' if quality is None else 'blur 0.8, JPEG 40':17} {right:3} of {PICTURES}   "
                f"median {np.median(colours):.2f}, 95 % {np.percentile(colours, 95):.2f}   {100 * good / all_:8.3f} % "
                f"> 0.2 % in {over:2}   {np.mean([w for _, w in whole]):6.1%} ({np.mean(clear):.1%})"
            )


def border_table() -> None:
    """Print how far borders of known discs lie from the truth, by blur, compression and lightness."""
    pairs = {
        "white and black": ((255, 255, 255), (20, 20, 24)),
        "yellow and blue": ((240, 205, 60), (40, 70, 160)),
        "equal lightness": ((200, 60, 60), (40, 134, 60)),
    }
    for name, colours in pairs.items():
        for blur, quality in ((0.0, None), (0.8, 60)):
            errors = []
            for k in range(12):
                x, y, radius = 60 + 0.37 * k, 61 - 0.23 * k, 22 + 2.3 * k
                fine = np.zeros((130 * OVERSAMPLING,) * 2, np.uint8)
                rows, columns = (np.mgrid[: len(fine), : len(fine)] + 0.5) / OVERSAMPLING
                fine[np.hypot(columns - x, rows - y) < radius] = 1
                scene = Scene(fine, np.array(colours, dtype=float), (), ())
                pixels = scene.rendered(blur, quality)
                palette = tuple(Ink(hex_of_rgb(np.array(c, dtype=float))) for c in colours)
                found = parted(pixels, Inks(InkKind.SEVERAL, palette=palette))
                points = np.concatenate(find_borders(found.field_of(1), 4.0).lines)
                errors += np.abs(np.hypot(*(points - (x, y)).T) - radius).tolist()
            kind = "clean" if quality is None else "blur 0.8, JPEG 60"
            print(f"{name:18} {kind:18} mean {np.mean(errors):.3f} px, 99 % {np.percentile(errors, 99):.3f} px")


def photo(megapixels: float = 12.0) -> np.ndarray:
    """Return scikit-image's sample photograph of a cup of coffee at so many megapixels, with the grain of a camera."""
    small = data.coffee()
    scale = (megapixels * 1e6 / (small.shape[0] * small.shape[1])) ** 0.5
    size = (round(small.shape[1] * scale), round(small.shape[0] * scale))
    large = cv2.resize(small, size, interpolation=cv2.INTER_CUBIC)
    return np.clip(large + np.random.default_rng(4).normal(0, 2, large.shape), 0, 255).astype(np.uint8)


def speed_table() -> None:
    """Print the time of 12 megapixels into 8 inks against k-means and a median, and of drafts."""
    pixels = photo()
    picture, asked = Picture(pixels, 300.0), Inks(InkKind.SEVERAL, count=8)
    sample = pixels.reshape(-1, 3)[::20].astype(np.float32)
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 10, 1.0)
    separate(Picture(photo(1.0), 300.0), asked)

    def seconds(work, times: int = 3) -> float:
        spent = []
        for _ in range(times):
            start = time.perf_counter()
            work()
            spent.append(time.perf_counter() - start)
        return float(np.median(spent))

    median = seconds(lambda: cv2.medianBlur(pixels, 5))
    once = seconds(lambda: cv2.kmeans(sample, 8, None, criteria, 1, cv2.KMEANS_PP_CENTERS))
    ten = seconds(lambda: cv2.kmeans(sample, 8, None, criteria, 10, cv2.KMEANS_RANDOM_CENTERS), 1)
    reading = seconds(lambda: read_colours(pixels))
    colours = read_colours(pixels)
    parting = seconds(lambda: separate(picture, asked, colours=colours))
    ours = reading + parting
    print(f"12 megapixels into 8 inks: {ours:.2f} s (colours {reading:.2f}, parting {parting:.2f})")
    print(f"  k-means, one attempt, and median: {once + median:.2f} s: {ours / (once + median):.1f} ×")
    print(f"  k-means, ten attempts as in OpenCV's tutorial: {ten + median:.2f} s: {ours / (ten + median):.1f} ×")
    for name in ("badge-photo.jpg", "badge-200.jpg"):
        draft_times(name)


def draft_times(name: str) -> None:
    """Print how long the draft of a changed count and of a merge takes on a demo picture."""
    job, settings = Job(read_picture(PICTURES_FOLDER / name)), Settings(inks=Inks(InkKind.SEVERAL))
    inks = job.run(settings).separation.inks
    job.run(settings, DRAFT)
    for change, asked in (
        ("count", Inks(InkKind.SEVERAL, count=len(inks) - 1)),
        ("merge", settings.inks.with_found(merged(inks, 0, [1]))),
    ):
        start = time.perf_counter()
        seconds = job.run(replace(settings, inks=asked), DRAFT).seconds
        whole = time.perf_counter() - start
        print(
            f"  {name}, draft of a changed {change}: {1000 * whole:.0f} ms, inks alone {1000 * seconds['inks']:.0f} ms"
        )


if __name__ == "__main__":
    assert LINE_PX == 2.0
    assert compressed(np.zeros((16, 16, 3), np.uint8), 40).shape == (16, 16, 3)
    flat_table()
    border_table()
    speed_table()
