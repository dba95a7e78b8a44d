"""Strokes measured and evened: swept by shapely with pens of known widths, bars and a script of the Hershey fonts."""

from __future__ import annotations

import math
import warnings

import numpy as np
import pytest
import shapely

from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.errors import EditError, LetteringError
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.lettering.crossings import clean_crossings, notches_of
from sobercrow.core.lettering.evening import Evening, Sides, even_weights, usual_widths
from sobercrow.core.lettering.strokes import Way, strokes_of
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.fitting import Fitter
from sobercrow.core.tracing.tidy import crosses_itself

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    from HersheyFonts import HersheyFonts


def polygon_of(ring: np.ndarray) -> Contour:
    corners = np.repeat(ring[:, None], 3, axis=1)
    return Contour(corners, np.full(len(ring), AnchorKind.CORNER, dtype=np.uint8))


def swept(line: list[tuple[float, float]] | np.ndarray, width: float) -> shapely.Polygon:
    return shapely.LineString(line).buffer(0.5 * width, quad_segs=16, cap_style="flat")


def shape_of(area: shapely.Polygon, fitted: bool = False) -> Shape:
    """A polygon of shapely as a shape, of corners or of curves fitted to it; holes run the other way."""
    area = shapely.geometry.polygon.orient(area, -1.0)
    rings = [np.asarray(ring.coords)[:-1] for ring in (area.exterior, *area.interiors)]
    rings = [
        ring if not fitted else shapely.get_coordinates(shapely.segmentize(shapely.LinearRing(ring), 0.5))[:-1]
        for ring in rings
    ]
    if not fitted:
        return Shape(tuple(polygon_of(ring) for ring in rings))
    fitter = Fitter.of(Tracing(detail=80.0), 0.05, 1.0)
    return Shape(tuple(fitter.closed(np.ascontiguousarray(ring)) for ring in rings))


def artwork_of(*shapes: Shape) -> Artwork:
    return Artwork((Layer("Ink", shapes),), 900.0, 400.0, 300.0)


def bars(*widths: float, lean: float = 0.0) -> list[Shape]:
    return [shape_of(swept([(60.0 * k + lean, 20.0), (60.0 * k, 120.0)], w)) for k, w in enumerate(widths, start=1)]


def script(word: str, seed: int) -> tuple[Shape, ...]:
    """A word in a script face of the Hershey fonts (NBS, 1967), its parts up and down uneven by up to 30 %."""
    random = np.random.default_rng(seed)
    font = HersheyFonts()
    font.load_default_font("scripts")
    font.normalize_rendering(200)
    parts = []
    for stroke in font.strokes_for_text(word):
        line = np.array(stroke, dtype=np.float64) * (1, -1) + (40, 300)
        if len(line) < 2:
            continue
        falls = np.diff(line[:, 1]) > 0.0
        for part in np.split(np.arange(len(falls)), np.flatnonzero(np.diff(falls)) + 1):
            usual = 11.0 if falls[part[0]] else 5.5
            pen = 0.5 * usual * (1.0 + random.uniform(-0.3, 0.3))
            parts.append(shapely.LineString(line[part[0] : part[-1] + 2]).buffer(pen, quad_segs=12))
    whole = shapely.union_all(parts)
    areas = whole.geoms if isinstance(whole, shapely.MultiPolygon) else [whole]
    return tuple(shape_of(area, fitted=True) for area in areas)


@pytest.mark.parametrize(
    ("angle_deg", "way"), [(90.0, Way.DOWN), (72.0, Way.DOWN), (110.0, Way.DOWN), (3.0, Way.LEVEL), (175.0, Way.LEVEL)]
)
@pytest.mark.parametrize("width", [3.0, 7.5, 16.0])
def test_a_swept_stroke_is_as_wide_as_its_pen(angle_deg: float, way: Way, width: float) -> None:
    reach = 60.0 * np.array([math.cos(math.radians(angle_deg)), -math.sin(math.radians(angle_deg))])
    found = strokes_of([shape_of(swept([tuple(90.0 - reach), tuple(90.0 + reach)], width))])
    (stroke,) = found.strokes
    assert stroke.way is way
    assert stroke.width_px == pytest.approx(width, rel=0.005)
    assert stroke.angle_deg == pytest.approx(angle_deg, abs=0.3)


def test_a_bent_stroke_is_measured_along_its_bend() -> None:
    turn = np.linspace(-0.4 * math.pi, 0.4 * math.pi, 80)
    arc = np.stack([150 - 70 * np.cos(turn), 150 + 70 * np.sin(turn)], axis=1)
    for stroke in strokes_of([shape_of(swept(arc, 9.0))]).strokes:
        assert stroke.width_px == pytest.approx(9.0, rel=0.02)


def test_a_stroke_goes_on_beyond_what_crosses_it() -> None:
    cross = swept([(100, 20), (100, 180)], 10.0).union(swept([(40, 90), (160, 90)], 6.0))
    found = strokes_of([shape_of(cross)])
    assert sorted((s.way, round(s.width_px, 2)) for s in found.strokes) == [(Way.DOWN, 10.0), (Way.LEVEL, 6.0)]


def test_bars_are_evened_by_per_cent_with_the_same_anchors_and_not_at_all_at_nought() -> None:
    artwork = artwork_of(*bars(8.0, 10.0, 13.0))
    usual = usual_widths(strokes_of(artwork.shapes))
    assert usual[Way.DOWN] == pytest.approx(10.0, rel=1e-3)
    for percent, wanted in ((100.0, (10, 10, 10)), (50.0, (9, 10, 11.5)), (0.0, (8, 10, 13))):
        made = even_weights(artwork, range(3), Evening(percent, usual)).artwork
        assert [s.width_px for s in strokes_of(made.shapes).strokes] == pytest.approx(wanted, rel=2e-3)
        assert made.anchor_count == artwork.anchor_count
    assert made == artwork
    left, right = artwork.shapes[0].bounds()[::2]
    for sides, out in ((Sides.LEFT, (-2, 0)), (Sides.RIGHT, (0, 2)), (Sides.BOTH, (-1, 1))):
        made = even_weights(artwork, range(3), Evening(100.0, {Way.DOWN: 10.0}, sides, frozenset({0}))).artwork
        assert made.shapes[0].bounds()[::2] == pytest.approx((left + out[0], right + out[1]), abs=0.02)
        assert made.shapes[1:] == artwork.shapes[1:]


@pytest.mark.parametrize(("word", "seed"), [("heath", 8)])
def test_an_uneven_script_comes_out_even_and_nothing_else_moves(word: str, seed: int) -> None:
    artwork = artwork_of(*script(word, seed))
    before = strokes_of(artwork.shapes)
    usual = usual_widths(before)
    how = Evening(100.0, {Way.DOWN: usual[Way.DOWN], Way.UP: usual[Way.UP]})
    made = even_weights(artwork, range(len(artwork.shapes)), how).artwork
    after = strokes_of(made.shapes)
    for way in (Way.DOWN, Way.UP):
        old, new = (np.array([s.width_px for s in found.of(way)]) for found in (before, after))
        assert np.abs(new - usual[way]).mean() < 0.3 * np.abs(old - usual[way]).mean()
    assert made.anchor_count == artwork.anchor_count
    for one, other in zip(made.shapes, artwork.shapes, strict=True):
        for new, old in zip(one.contours, other.contours, strict=True):
            assert crosses_itself(old) or not crosses_itself(new)


def test_rounded_corners_of_a_crossing_are_sharpened_where_the_sides_meet() -> None:
    cross = swept([(100, 20), (100, 180)], 10.0).union(swept([(40, 90), (160, 90)], 6.0))
    rounded = cross.buffer(1.5, join_style="mitre").buffer(-1.5, quad_segs=16)
    artwork = artwork_of(shape_of(rounded))
    strokes = strokes_of(artwork.shapes)
    assert len(notches_of(strokes)) == 4
    made = clean_crossings(artwork, [0], strokes)
    anchors = made.artwork.shapes[0].contours[0].anchors
    for corner in ((95, 87), (105, 87), (95, 93), (105, 93)):
        assert np.hypot(*(anchors - corner).T).min() < 0.1
    assert made.told == "4 corners made sharp."
    with pytest.raises(EditError, match="clean"):
        clean_crossings(made.artwork, [0], strokes_of(made.artwork.shapes))


def test_what_has_no_strokes_is_told() -> None:
    dot = shape_of(shapely.Point(50, 50).buffer(20))
    with pytest.raises(LetteringError, match="No strokes"):
        strokes_of([dot])
    with pytest.raises(LetteringError, match="filled"):
        strokes_of([])
