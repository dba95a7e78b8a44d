"""Curves judged by the file they were compressed in, and corners and sides told by tones."""

from __future__ import annotations

import io
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image, ImageDraw

from drawings import jpeg_file
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.first_sight import first_settings
from sobercrow.core.geometry.forms import Ellipse
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import decode_picture
from sobercrow.core.settings import Meet
from sobercrow.core.tracing.regular import is_line

SIZE = 160
WHITE, GREEN, RED, BLUE = (255, 255, 255), (46, 150, 90), (190, 60, 50), (40, 60, 140)
MIDDLE = (81.4, 78.7)
AROUND = ((81.4, 14.3), (139.6, 78.7), (81.4, 142.2), (24.8, 78.7))
FACETS = (GREEN, RED, BLUE, RED)


def painted(size: int, shapes: list[tuple[list[tuple[float, float]], tuple[int, int, int]]]) -> Image.Image:
    """Polygons on white, drawn sixteen times as large and averaged: edges are as soft as pixels make them."""
    image = Image.new("RGB", (16 * size, 16 * size), WHITE)
    pen = ImageDraw.Draw(image)
    for points, colour in shapes:
        pen.polygon([(16 * x - 0.5, 16 * y - 0.5) for x, y in points], fill=colour)
    return image.resize((size, size), Image.Resampling.BOX)


def saved(image: Image.Image, quality: int | None = None) -> bytes:
    """A file, compressed by Pillow's libjpeg if a quality is given (4:2:0)."""
    if quality is not None:
        return jpeg_file(np.asarray(image), quality)
    memory = io.BytesIO()
    image.save(memory, "PNG")
    return memory.getvalue()


def kite(quality: int | None) -> bytes:
    """Four triangles whose corners meet in one point."""
    triangles = [([MIDDLE, AROUND[k], AROUND[(k + 1) % 4]], FACETS[k]) for k in range(4)]
    return saved(painted(SIZE, triangles), quality)


def traced(data: bytes, meet: Meet = Meet.UNDERLAID) -> tuple[Artwork, object]:
    job = Job(decode_picture(data, "kite"))
    settings = first_settings(job)
    results = job.run(replace(settings, tracing=replace(settings.tracing, meet=meet)))
    return results.artwork, results.separation


def from_corners(artwork: Artwork) -> np.ndarray:
    """How far each corner of the drawing is from the nearest anchor."""
    anchors = np.concatenate([contour.anchors for shape in artwork.shapes for contour in shape.contours])
    return np.array([np.hypot(*(anchors - corner).T).min() for corner in (MIDDLE, *AROUND)])


@pytest.mark.parametrize(("quality", "near_px"), [(None, 0.1), (60, 0.3), (35, 0.6)])
def test_triangles_keep_their_common_corners(quality: int | None, near_px: float) -> None:
    artwork, separation = traced(kite(quality))
    assert (separation.evidence is not None) is (quality is not None)
    assert len(artwork.layers) == 3
    assert from_corners(artwork).max() < near_px


def test_uppermost_corners_that_meet_are_one_point() -> None:
    artwork, _ = traced(kite(45))
    anchors = np.concatenate([c.anchors for layer in artwork.layers[1:] for s in layer.shapes for c in s.contours])
    near = anchors[np.hypot(*(anchors - MIDDLE).T) < 2.0]
    assert len(near) >= 2
    assert np.ptp(near, axis=0).max() < 1e-9


def test_what_a_hand_changed_is_not_judged_by_the_file() -> None:
    job = Job(decode_picture(kite(50), "kite"))
    settings = first_settings(job)
    assert job.run(settings).separation.evidence is not None
    enlarged = replace(settings, clean_up=replace(settings.clean_up, enlarge=2))
    assert job.run(enlarged).separation.evidence is None
    kept = replace(settings, clean_up=replace(settings.clean_up, compression=False))
    assert job.run(kept).separation.evidence is None


def test_small_serifs_come_back_with_their_corners() -> None:
    # an I of slabs three pixels tall: the iso-line has hardly a straight place on them
    outline = [(20, 20), (44, 20), (44, 24.5), (35.5, 24.5), (35.5, 43.5), (44, 43.5), (44, 48), (20, 48)]
    outline += [(20, 43.5), (28.5, 43.5), (28.5, 24.5), (20, 24.5)]
    moved = [(x + 0.3, y + 0.2) for x, y in outline]
    artwork, _ = traced(saved(painted(64, [(moved, RED)])))
    (shape,) = artwork.shapes
    anchors = shape.contours[0].anchors
    assert len(anchors) <= len(outline)
    assert sum(np.hypot(*(anchors - corner).T).min() < 0.12 for corner in moved) >= 9


@pytest.mark.parametrize("quality", [60, 35])
def test_sides_between_corners_that_meet_are_straight(quality: int) -> None:
    artwork, _ = traced(kite(quality))
    uppermost = [contour for shape in artwork.layers[-1].shapes for contour in shape.contours]
    assert all(is_line(c.points, i, (i + 1) % len(c)) for c in uppermost for i in range(len(c)))
    assert sum(map(len, uppermost)) <= 3 * len(uppermost) + 1


def test_a_bow_the_picture_tells_of_stays() -> None:
    sagitta, across = 0.75, np.linspace(-1.0, 1.0, 60)
    bowed = [(80.0 + 40.0 * x, 40.3 - sagitta * (1.0 - x * x)) for x in across] + [(120.0, 100.2), (40.0, 100.2)]
    artwork, _ = traced(saved(painted(SIZE, [(bowed, RED), ([(20, 120), (60, 121), (40, 150)], BLUE)])))
    red = max((c for shape in artwork.shapes for c in shape.contours), key=lambda c: abs(c.area()))
    top = red.sampled(0.1)[:, 1].min()
    at_corners = [red.anchors[np.hypot(*(red.anchors - corner).T).argmin(), 1] for corner in ((40, 40.3), (120, 40.3))]
    assert min(at_corners) - top > 0.6 * sagitta


def test_what_lies_beneath_a_ring_is_as_round_as_the_ring() -> None:
    rings = [(60.0, BLUE), (56.0, GREEN), (42.0, BLUE), (39.5, WHITE)]
    turn = np.linspace(0.0, 2.0 * np.pi, 240, endpoint=False)
    discs = [(np.column_stack([80.3 + r * np.cos(turn), 79.6 + r * np.sin(turn)]).tolist(), c) for r, c in rings]
    artwork, _ = traced(saved(painted(SIZE, discs), 40))
    assert all(isinstance(c.form, Ellipse) for shape in artwork.shapes for c in shape.contours)


@pytest.mark.parametrize("quality", [None, 75])
def test_counters_of_the_smallest_letters_stay_open(quality: int | None) -> None:
    turn = np.linspace(0.0, 2.0 * np.pi, 120, endpoint=False)
    letters = [
        (np.column_stack([x + rx * np.cos(turn), 40.3 + ry * np.sin(turn)]).tolist(), colour)
        for x in (20.4, 40.7, 60.2)
        for rx, ry, colour in ((3.4, 3.0, BLUE), (0.95, 0.8, WHITE))
    ]
    ground = ([(70, 10), (76, 10), (76, 76), (70, 76)], RED)
    artwork, _ = traced(saved(painted(80, [*letters, ground]), quality))
    assert sum(len(shape.contours) == 2 for shape in artwork.shapes) == 3
