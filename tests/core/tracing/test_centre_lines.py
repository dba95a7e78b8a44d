"""Centre lines: against lines that are known, and the walk over a skeleton against scikit-image and SciPy."""

from __future__ import annotations

import math
import warnings
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree
from scipy import ndimage
from scipy.spatial import cKDTree
from skimage import morphology
from skimage.measure import euler_number

from drawings import lettering, polygon, separation
from pens import dense, runs, strokes_of, written
from sobercrow.core.artwork.hit import shape_at
from sobercrow.core.artwork.model import stroked
from sobercrow.core.formats.plain import artwork_of, plain_artwork
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.inspect.deviation import deviation
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import read_picture
from sobercrow.core.settings import Settings, TraceKind, Tracing
from sobercrow.core.strokes._skeleton_kernels import follow_skeleton, mark_nodes, thin
from sobercrow.core.tracing.outlines import Trace, trace
from sobercrow.demo.make import PICTURES

warnings.filterwarnings("ignore", category=DeprecationWarning)
LINES = Tracing(kind=TraceKind.CENTRE_LINES)


def drawn(width: float, *lines: list[tuple[float, float]]) -> Trace:
    return trace(separation(written([np.array(line) for line in lines], width)), LINES)


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6), st.integers(1, 4))
def test_ink_is_thinned_as_scikit_image_thins_it(seed: int, times: int) -> None:
    ink = ndimage.binary_dilation(np.random.default_rng(seed).random((40, 50)) < 0.03, iterations=times)
    framed = np.pad(ink.astype(np.uint8), 1)
    theirs = morphology.thin(framed)  # Guo & Hall 1989 too
    thin(framed)
    assert np.array_equal(framed > 0, theirs)
    assert euler_number(framed, 2) == euler_number(np.pad(ink, 1), 2)  # as many parts and holes as there were


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6))
def test_chains_cover_the_skeleton_and_meet_at_its_nodes(seed: int) -> None:
    random = np.random.default_rng(seed)
    skeleton = morphology.thin(ndimage.binary_dilation(random.random((30, 36)) < 0.06, iterations=2)).astype(np.uint8)
    framed = np.pad(skeleton, 1)
    kinds = mark_nodes(framed)
    places, starts = follow_skeleton(framed, kinds)
    seen = np.zeros_like(framed)
    seen[places[:, 0], places[:, 1]] = 1
    lone = ndimage.convolve(framed.astype(int), np.ones((3, 3), int)) == 1
    assert np.array_equal(seen > 0, (framed > 0) & ~(lone & (framed > 0)))
    inner = np.zeros(framed.shape, int)
    for a, b in pairwise(starts):
        chain = places[a:b]
        assert np.abs(np.diff(chain, axis=0)).max() <= 1
        np.add.at(inner, tuple(chain[1:-1].T), 1)
        ends = kinds[tuple(chain[[0, -1]].T)]
        assert (ends >= 2).all() or (np.array_equal(chain[0], chain[-1]) and (ends == 1).all())
    assert inner.max() <= 1


@pytest.mark.parametrize("width", [2.0, 3.5, 7.0])
def test_a_straight_stroke_is_one_line_as_long_and_as_wide(width: float) -> None:
    result = drawn(width, [(20.0, 30.0), (98.0, 71.0)])
    (shape,) = result.artwork.shapes
    (contour,) = shape.contours
    ends = contour.anchors[[0, -1]]
    ends = ends if ends[0, 0] < ends[1, 0] else ends[::-1]
    assert np.abs(ends - [(20, 30), (98, 71)]).max() < 0.6
    assert shape.stroke_px == pytest.approx(width, abs=0.3)
    assert len(contour) <= 3
    assert deviation(result.artwork, result.borders).figures(result.artwork).deviation_mean_px < 0.25


@pytest.mark.parametrize("width", [2.0, 4.0, 8.0])
@pytest.mark.parametrize("degrees", [32.0, 45.0, 58.0])
def test_a_slanted_stroke_of_even_width_is_not_eaten_from_its_ends(width: float, degrees: float) -> None:
    way = np.array([math.cos(math.radians(degrees)), -math.sin(math.radians(degrees))])
    start = np.array([20.0, 110.0])
    (shape,) = drawn(width, [tuple(start), tuple(start + 90.0 * way)]).artwork.shapes
    along = (shape.contours[0].anchors[[0, -1]] - start) @ way
    assert sorted(along) == pytest.approx([0.0, 90.0], abs=0.8)


@pytest.mark.parametrize("width", [4.0, 6.0])
@pytest.mark.parametrize("degrees", [35.0, 50.0])
def test_an_acute_corner_is_one_stroke_that_reaches_its_tip(degrees: float, width: float) -> None:
    half = math.radians(0.5 * degrees)
    tip = np.array([80.0, 20.0])
    legs = [tuple(tip + 90.0 * np.array([way * math.sin(half), math.cos(half)])) for way in (-1, 1)]
    (shape,) = drawn(width, [legs[0], tuple(tip), legs[1]]).artwork.shapes
    assert np.hypot(*(shape.contours[0].sampled(0.2) - tip).T).min() < 1.0


def test_short_arms_of_a_crossing_are_strokes_and_as_wide_as_the_rest() -> None:
    shapes = drawn(6.0, [(60.0, 15.0), (60.0, 115.0)], [(51.0, 50.0), (69.0, 50.0)]).artwork.shapes
    assert len(shapes) == 2
    bar = min(shapes, key=lambda shape: np.ptp(shape.contours[0].anchors[:, 1]))
    assert sorted(bar.contours[0].anchors[[0, -1], 0]) == pytest.approx([51.0, 69.0], abs=1.0)
    assert bar.stroke_px == pytest.approx(6.0, abs=0.3)


def test_a_stroke_swells_and_tapers_as_the_pen_did_also_across_another() -> None:
    over = [(20.0, 60.0), (60.0, 56.5), (100.0, 55.0), (140.0, 56.5), (180.0, 60.0)]
    swelling = polygon(200, over + [(x, 121.0 - y) for x, y in reversed(over)])
    grey = np.minimum(swelling, polygon(200, [(98, 20), (102, 20), (102, 110), (98, 110)]))
    artwork = trace(separation(grey), replace(LINES, follow_pen=True, keep_areas=False)).artwork
    level, upright = sorted(artwork.shapes, key=lambda shape: shape.bounds()[0])
    assert level.stroke_px is None
    outline = shapely.Polygon(level.contours[0].sampled(0.2))
    for x, width in ((40, 4.5), (60, 8.0), (100, 11.0), (150, 6.25)):
        across = outline.intersection(shapely.LineString([(x, 0), (x, 200)])).length
        assert across == pytest.approx(width, abs=0.7)
    left, _, right, _ = upright.bounds()
    assert right - left == pytest.approx(4.0, abs=0.7)


@pytest.mark.parametrize("follow_pen", [False, True])
def test_pencil_strokes_too_thin_to_measure_have_centre_lines_too(follow_pen: bool) -> None:
    sketch = read_picture(PICTURES / "pencil-sketch.png")
    artwork = Job(sketch).run(Settings(tracing=replace(LINES, follow_pen=follow_pen))).artwork
    assert len(artwork.shapes) > 12
    assert any(shape.stroke_px is not None for shape in artwork.shapes) != follow_pen


def test_crossing_strokes_run_through_as_the_pen_did() -> None:
    result = drawn(4.0, [(20.0, 20.0), (100.0, 96.0)], [(24.0, 98.0), (96.0, 24.0)], [(60.0, 10.0), (60.0, 110.0)])
    assert len(result.artwork.shapes) == 3
    for shape in result.artwork.shapes:
        first, last = shape.contours[0].anchors[[0, -1]]
        assert np.hypot(*(last - first)) > 90
        way = (last - first) / np.hypot(*(last - first))
        points = shape.contours[0].sampled(0.5)
        off = (points - first) @ np.array([-way[1], way[0]])
        assert np.abs(off).max() < 1.1


def test_closed_loops_close_and_a_stroke_that_meets_another_ends_at_it() -> None:
    ring = [(60 + 40 * np.cos(a), 60 + 40 * np.sin(a)) for a in np.linspace(0, 2 * np.pi, 90)]
    (loop,) = drawn(5.0, [*ring, ring[0]]).artwork.shapes
    assert loop.contours[0].closed
    assert np.abs(np.hypot(*(loop.contours[0].sampled(0.5) - 60).T) - 40).max() < 0.4
    tee = drawn(5.0, [(15.0, 60.0), (105.0, 60.0)], [(60.0, 60.0), (60.0, 110.0)]).artwork.shapes
    assert len(tee) == 2
    stem = min(tee, key=lambda s: np.ptp(s.contours[0].anchors[:, 0]))
    assert stem.contours[0].anchors[:, 1].min() == pytest.approx(60, abs=1.5)


def test_an_area_keeps_its_corners_also_where_a_stroke_leaves() -> None:
    corners = [(60.0, 40.0), (110.0, 60.0), (58.0, 95.0)]
    strokes = [np.array([(110.0, 60.0), (150.0, 70.0), (170.0, 110.0)]), np.array([(20.0, 130.0), (170.0, 130.0)])]
    ink = np.minimum(
        polygon(200, corners), np.pad(written(strokes, 5.0), ((0, 100), (0, 100)), constant_values=255)[:200, :200]
    )
    shapes = trace(separation(ink), LINES).artwork.shapes
    (area,) = (shape for shape in shapes if shape.stroke_px is None)
    assert cKDTree(area.contours[0].anchors).query(corners)[0].max() < 3.0
    assert len(shapes) == 3


def test_dots_and_areas_stay_filled_and_no_stub_is_left() -> None:
    stroke, dot = np.array([(20.0, 60.0), (140.0, 60.0)]), np.array([(60.0, 90.0), (60.0, 90.2)])
    grey = np.pad(written([stroke, dot], 6.0), ((0, 70), (0, 20)), constant_values=255)
    grey[100:140, 90:150] = 0
    result = trace(separation(grey), LINES)
    strokes = [s for s in result.artwork.shapes if s.stroke_px is not None]
    filled = sorted((s for s in result.artwork.shapes if s.stroke_px is None), key=lambda s: s.bounds()[0])
    assert len(strokes) == 1
    assert len(filled) == 2
    assert filled[0].bounds() == pytest.approx((57, 87, 63, 93.2), abs=0.3)
    assert filled[1].bounds() == pytest.approx((90, 100, 150, 140), abs=0.2)


@pytest.mark.parametrize(("height", "pen"), [(40, 2.0), (80, 4.0), (160, 8.0)])
@pytest.mark.parametrize("font", ["rowmans", "futural"])
def test_writing_in_hershey_fonts_is_the_way_the_pen_went(font: str, height: int, pen: float) -> None:
    strokes = strokes_of("Hat 47", font, height)
    result = trace(separation(written(strokes, pen)), Tracing(kind=TraceKind.CENTRE_LINES, keep_areas=False))
    lines = [s for s in result.artwork.shapes if s.stroke_px is not None]
    truth = np.concatenate([dense(s) for s in strokes])
    seen = np.concatenate([s.contours[0].sampled(0.1) for s in lines])
    assert cKDTree(truth).query(seen)[0].mean() < 0.35
    assert (cKDTree(seen).query(truth)[0] > pen).mean() < 0.04
    assert np.median([s.stroke_px for s in lines]) == pytest.approx(pen, abs=0.3)
    assert abs(len(lines) - runs(strokes)) <= 3


def test_strokes_are_saved_scaled_hit_and_bounded_by_their_width() -> None:
    artwork = drawn(6.0, [(20.0, 60.0), (100.0, 60.0)]).artwork
    (shape,) = artwork.shapes
    assert shape.bounds() == pytest.approx((17, 57, 103, 63), abs=0.6)
    assert shape_at(artwork, 60, 62) == 0
    assert shape_at(artwork, 60, 66) is None
    assert artwork_of(plain_artwork(artwork)) == artwork
    assert artwork.scaled(2.0).shapes[0].stroke_px == 2 * shape.stroke_px
    path = etree.fromstring(svg_bytes(artwork)).find(".//{*}path")
    assert (path.get("fill"), path.get("stroke"), path.get("stroke-linecap")) == ("none", "#000000", "round")
    assert float(path.get("stroke-width")) == pytest.approx(6, abs=0.3)
    assert not path.get("d").endswith("Z")
    (edge,) = shape.edges(0.5)
    assert (np.ptp(edge, axis=0)) == pytest.approx((86, 6), abs=0.8)
    with pytest.raises(ValueError, match="wider than nothing"):
        stroked((Contour(np.zeros((1, 3, 2)), np.zeros(1, np.uint8)),), "#000000", 0.0)


def test_filled_lettering_has_strokes_along_its_stems() -> None:
    result = trace(separation(lettering("HIT", 90, "DejaVu Sans")), LINES)
    assert 5 <= len(result.artwork.shapes) <= 8
    assert all(s.stroke_px is not None for s in result.artwork.shapes)
