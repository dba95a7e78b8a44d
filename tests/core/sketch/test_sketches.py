"""Rough sketches of lines that are known: what is found is near them, each once, and nothing else is."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from HersheyFonts import HersheyFonts
from matplotlib import font_manager
from scipy.spatial import cKDTree

from sketch_scenes import MEASURED, TUNED, Hand, Line, Sketch, curve, dense, ellipse, polygon, sketched
from sobercrow.core.arrays import F64
from sobercrow.core.artwork.model import Shape
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle
from sobercrow.core.inks.separation import separate
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import InkKind, Inks, TraceKind, Tracing, Treatment
from sobercrow.core.sketch.one_line import contour_of, meant_lines, usual_tolerance
from sobercrow.core.sketch.parts import parts_of
from sobercrow.core.sketch.reading import SketchReading, read_sketch
from sobercrow.core.sketch.trace import SHADING_NAME, WORKING_NAME, tones_of, trace_sketch
from sobercrow.core.strokes.working_forms import StraightLine
from words import render, set_word

ROUGH, SHADED = Hand(3.0), Hand(4.5, grey=214.0, grain=0.4, hatched=True, working=True)


def drawn(sketch: Sketch, strays: float | None = None) -> list[Contour]:
    reading = read_sketch(sketch.grey)
    strays = reading.strays_px if strays is None else strays
    tolerance = usual_tolerance(strays, reading.width_px)
    return [contour_of(line, strays, tolerance) for line in meant_lines(reading, strays)]


def points_on(contours: list[Contour]) -> F64:
    return np.vstack([dense(contour.sampled(1.0)) for contour in contours])


def compared(sketch: Sketch, contours: list[Contour]) -> tuple[float, float, float]:
    """How far what was drawn is from the lines meant, in spreads; shares of these covered, and of what is no line."""
    meant, made = np.vstack([line.points for line in sketch.lines]), points_on(contours)
    away = cKDTree(meant).query(made)[0] / sketch.spread
    covered = (cKDTree(made).query(meant)[0] < 2.0 * sketch.spread).mean()
    return float(away[away < 2.5].mean()), float(covered), float((away >= 2.5).mean())


@pytest.mark.parametrize("hand", [ROUGH, SHADED], ids=["rough", "shaded"])
@pytest.mark.parametrize("drawing", ["house", "keys", "script"])
def test_each_line_meant_is_drawn_once(drawing: str, hand: Hand) -> None:
    sketch = sketched(TUNED[drawing](), hand, 31)
    contours = drawn(sketch)
    off, covered, no_line = compared(sketch, contours)
    assert off < 0.4
    assert covered > 0.98
    assert no_line < 0.03
    assert len(contours) <= 2 * len(sketch.lines)


def hershey(text: str) -> list[Line]:
    """Letters of the Hershey fonts (Hershey 1967, "Calligraphy for computers"), single strokes, as lines meant."""
    font = HersheyFonts()
    font.load_default_font("futural")
    font.normalize_rendering(260)
    lines = [np.array(list(run)) for run in font.strokes_for_text(text)]
    low = np.min([run.min(axis=0) for run in lines], axis=0)
    return [Line(dense(run - low + 180.0), False, np.zeros((0, 2))) for run in lines]


def test_letters_of_single_strokes_come_back() -> None:
    sketch = sketched(hershey("KVZ"), Hand(2.5), 5)
    off, covered, no_line = compared(sketch, drawn(sketch))
    assert off < 0.4
    assert covered > 0.97
    assert no_line < 0.02


def test_two_lines_a_few_spreads_apart_stay_two_and_lines_that_cross_run_on() -> None:
    beside = [polygon((120, 200 + d), (700, 220 + d), closed=False) for d in (0, 14)]
    crossing = [polygon((150, 350), (650, 650), closed=False), polygon((160, 640), (660, 340), closed=False)]
    sketch = sketched(beside + crossing, Hand(4.0), 2)
    contours = drawn(sketch, 4.0)
    assert len(contours) == 4
    for line in sketch.lines:
        tree = cKDTree(line.points)
        assert min(float(tree.query(points_on([one]))[0].mean()) for one in contours) < 2.0


def test_corners_are_corners_and_rings_are_closed() -> None:
    triangle = polygon((150, 150), (500, 170), (470, 420))
    sketch = sketched([triangle, ellipse(600, 550, 90, 90), ellipse(200, 600, 18, 18)], Hand(3.0), 8)
    contours = drawn(sketch, 3.0)
    assert [one.closed for one in contours] == [True] * 3
    (found,) = (one for one in contours if (one.kinds == AnchorKind.CORNER).any())
    sharp = found.anchors[found.kinds == AnchorKind.CORNER]
    assert len(sharp) == 3
    assert cKDTree(sharp).query(triangle.corners)[0].max() < 1.5 * 3.0
    assert all(len(one) <= 8 for one in contours)


@pytest.fixture(scope="module")
def shaded() -> tuple[Sketch, SketchReading]:
    sketch = sketched(TUNED["face"](), SHADED, 12)
    return sketch, read_sketch(sketch.grey)


def test_working_lines_and_shading_are_told_from_lines(shaded: tuple[Sketch, SketchReading]) -> None:
    sketch, reading = shaded
    kinds = sorted(type(form).__name__ for form in reading.forms)
    assert kinds == [Ellipse.__name__, StraightLine.__name__, StraightLine.__name__]
    assert reading.patches >= 1
    meant = cKDTree(np.vstack([line.points for line in sketch.lines]))
    for found, drawn_as in ((reading.working, sketch.working), (reading.shading, sketch.shading)):
        assert len(found)
        away = cKDTree(np.vstack(drawn_as)).query(found.points)[0]
        assert (away < 3.0).mean() > 0.93
    own = meant.query(reading.strokes.points)[0]
    assert (own < 2.5 * sketch.spread).mean() > 0.9


@pytest.mark.parametrize(("drawing", "seed", "turn_deg"), [("star", 3, 25.0), ("spiral", 7, -30.0), ("cup", 10, 0.0)])
def test_ellipses_to_work_by_are_told_from_lines(drawing: str, seed: int, turn_deg: float) -> None:
    ways = [ellipse(400, 380, 230, 120, turn_deg).points, ellipse(440, 360, 170, 110, -turn_deg).points]
    sketch = sketched(MEASURED[drawing](), Hand(3.5, grey=235.0), seed, ways=ways)
    reading = read_sketch(sketch.grey)
    forms = sorted(
        (form for form in reading.forms if isinstance(form, Ellipse)), key=lambda form: -max(form.rx, form.ry)
    )
    assert [sorted((form.rx, form.ry)) for form in forms] == [
        pytest.approx((120, 230), abs=4),
        pytest.approx((110, 170), abs=4),
    ]
    own = np.vstack([line.points for line in sketch.lines])
    alone = own[cKDTree(np.vstack(ways)).query(own)[0] > 3.0 * sketch.spread]
    assert (cKDTree(reading.working.points).query(alone)[0] < sketch.spread).mean() < 0.01


@pytest.mark.parametrize("spread", [1.5, 3.0, 5.0])
def test_how_far_strokes_stray_is_read_within_a_third(spread: float) -> None:
    found = [read_sketch(sketched(TUNED[name](), Hand(spread), 40 + k).grey).strays_px / spread
             for k, name in enumerate(("leaf", "keys", "face"))]  # fmt: skip
    assert 2 / 3 < np.median(found) < 4 / 3


def test_what_was_gone_over_is_rough_and_a_single_stroke_is_not() -> None:
    lines = TUNED["leaf"]()
    assert read_sketch(sketched(lines, ROUGH, 3).grey).is_rough
    assert not read_sketch(sketched(lines, Hand(0.4, passes=(1, 1)), 3).grey).is_rough


def test_paper_alone_has_no_lines() -> None:
    reading = read_sketch(np.full((200, 300), 240, np.uint8))
    assert meant_lines(reading, reading.strays_px) == []
    assert not reading.is_rough


@pytest.mark.parametrize("how", list(Treatment))
def test_working_lines_and_shading_are_left_out_have_layers_or_are_drawn(
    how: Treatment, shaded: tuple[Sketch, SketchReading]
) -> None:
    sketch, reading = shaded
    picture = Picture(np.repeat(sketch.grey[..., None], 3, axis=2), 200.0)
    separation = separate(picture, Inks(InkKind.ONE))
    assert np.array_equal(tones_of(separation), sketch.grey)
    settings = Tracing(38.0, kind=TraceKind.ONE_LINE, working_lines=how, shading=how, true_shapes=False)
    artwork = trace_sketch(separation, reading, settings).artwork
    plain = trace_sketch(separation, reading, replace(settings, working_lines=Treatment.OUT, shading=Treatment.OUT))
    names = [layer.name for layer in artwork.layers]
    assert names == ([SHADING_NAME, WORKING_NAME] if how is Treatment.LAYER else []) + [separation.inks[0].name]
    more = len(artwork.shapes) - len(plain.artwork.shapes)
    assert (more == 0) == (how is Treatment.OUT)
    assert all(shape.stroke is not None and not shape.is_filled for shape in artwork.shapes)
    if how is not Treatment.OUT:
        circles = [c for shape in artwork.shapes for c in shape.contours if c.form is not None]
        assert len(circles) == 1


def test_strays_are_set_in_millimetres_of_the_sheet() -> None:
    sketch = sketched(TUNED["keys"](), ROUGH, 3)
    picture = Picture(np.repeat(sketch.grey[..., None], 3, axis=2), 254.0)
    separation, reading = separate(picture, Inks(InkKind.ONE)), read_sketch(sketch.grey)
    as_read = trace_sketch(separation, reading, Tracing(38.0, kind=TraceKind.ONE_LINE))
    told = Tracing(38.0, kind=TraceKind.ONE_LINE, strays_mm=reading.strays_px / 10.0)
    assert trace_sketch(separation, reading, told).artwork.anchor_count == as_read.artwork.anchor_count
    wide = trace_sketch(separation, reading, replace(told, strays_mm=2.0))
    assert wide.artwork.anchor_count < as_read.artwork.anchor_count


def test_more_kept_apart_makes_two_of_what_less_makes_one() -> None:
    spread = 3.0
    pair = [curve((150, 250 + d), (350, 200 + d), (700, 260 + d)) for d in (0.0, 2.2 * spread)]
    reading = read_sketch(sketched([*pair, ellipse(300, 520, 110, 110)], Hand(spread), 43).grey)

    def upper(keep_apart: float) -> float:
        """How many lines there are at a place of the pair, in the mean."""
        lines = [line.points for line in meant_lines(reading, spread, (), keep_apart) if not line.closed]
        crossed = [sum(((line[:-1, 0] < x) != (line[1:, 0] < x)).sum() for line in lines) for x in range(200, 640, 40)]
        return float(np.mean(crossed))

    assert upper(0.0) < 1.4
    assert upper(100.0) > 1.8
    assert upper(0.0) <= upper(50.0) <= upper(100.0) + 0.2


def test_lines_swell_where_they_were_pressed() -> None:
    once, thrice = (curve((150, y), (430, y - 60), (720, y)) for y in (250, 500))
    strokes = [*[once], *[thrice] * 3]
    page = Picture(np.repeat(sketched(strokes, Hand(2.5, passes=(1, 1)), 9).grey[..., None], 3, axis=2), 200.0)
    separation = separate(page, Inks(InkKind.ONE))
    reading = read_sketch(tones_of(separation))
    even = trace_sketch(separation, reading, Tracing(kind=TraceKind.ONE_LINE))
    pressed = trace_sketch(separation, reading, Tracing(kind=TraceKind.ONE_LINE, follow_pen=True))
    assert all(shape.stroke is not None for shape in even.artwork.shapes)
    assert all(shape.stroke is None for shape in pressed.artwork.shapes)
    assert len(pressed.artwork.shapes) == len(even.artwork.shapes) == 2

    def width(shape: Shape) -> float:
        """Its area over its length."""
        box = shape.bounds()
        return sum(contour.area() for contour in shape.contours) / (box[2] - box[0])

    upper, lower = sorted(pressed.artwork.shapes, key=lambda shape: shape.bounds()[1])
    assert width(lower) > 1.4 * width(upper)


def test_parts_far_from_each_other_are_read_as_each_for_itself() -> None:
    small = [ellipse(120 + 180 * k, 130, 40, 40) for k in range(4)]
    reading = read_sketch(sketched([*small, polygon((150, 500), (700, 490), (690, 700))], Hand(2.5), 3).grey)
    parts = parts_of(reading.strokes, reading.weights, 2.5)
    assert len(parts) == 5
    assert sum(len(part.strokes) for part in parts) == len(reading.strokes)
    whole = meant_lines(reading, 2.5)
    alone = replace(reading, strokes=parts[0].strokes, weights=parts[0].weights)
    (triangle,) = meant_lines(alone, 2.5)
    same = [line for line in whole if len(line.points) == len(triangle.points)]
    np.testing.assert_allclose(same[0].points, triangle.points)


@pytest.mark.parametrize("seed", [2, 3, 4])
def test_what_is_meant_to_be_round_square_or_straight_is_exactly_so(seed: int) -> None:
    lines = [ellipse(230, 230, 120, 120), ellipse(600, 220, 160, 90, 20.0),
             polygon((120, 450), (420, 452), (421, 680), (121, 678)), polygon((500, 450), (760, 690), closed=False),
             curve((520, 700), (560, 560), (640, 520), (700, 560))]  # fmt: skip
    page = Picture(np.repeat(sketched(lines, Hand(2.5), seed).grey[..., None], 3, axis=2), 200.0)
    separation = separate(page, Inks(InkKind.ONE))
    reading = read_sketch(tones_of(separation))
    traced = trace_sketch(separation, reading, Tracing(kind=TraceKind.ONE_LINE))
    forms = [found.form for found in traced.forms]
    circle, oval = sorted((form for form in forms if isinstance(form, Ellipse)), key=lambda form: form.x)
    assert circle.is_circle
    assert (circle.x, circle.y, circle.rx) == pytest.approx((230, 230, 120), abs=2.5)
    assert not oval.is_circle
    assert (oval.x, oval.y, max(oval.rx, oval.ry), min(oval.rx, oval.ry)) == pytest.approx((600, 220, 160, 90), abs=3)
    (box,) = (form for form in forms if isinstance(form, Rectangle))
    assert (box.x, box.y, box.width, box.height) == pytest.approx((270.5, 565, 300.5, 228), abs=4)
    straight = [shape.contours[0] for shape in traced.artwork.shapes if len(shape.contours[0]) == 2]
    (line,) = (contour for contour in straight if contour.bounds()[0] > 480)
    np.testing.assert_allclose(line.points[:, 0], line.points[:, 1])
    # what is refused is drawn as it was, and said to be so
    refused = Tracing(kind=TraceKind.ONE_LINE, refused=((circle.x, circle.y, circle.rx),))
    free = trace_sketch(separation, reading, refused)
    assert [found.refused for found in free.forms if found.form == circle] == [True]
    assert sum(shape.contours[0].form is None for shape in free.artwork.shapes) == 1 + sum(
        shape.contours[0].form is None for shape in traced.artwork.shapes
    )


def rows(x: float, y: float, angle: float, bow: float = 0.0) -> list[F64]:
    """Eleven strokes of shading side by side about a place, each bent by a share of its length."""
    way, across = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
    t = np.linspace(-1.0, 1.0, 40)[:, None]
    made = [
        np.array([x, y]) + across * (k - 5) * 8.0 + 36.0 * (way * t + across * bow * (t**2 - 0.5)) for k in range(11)
    ]
    return [dense(run) for run in made]


@pytest.mark.parametrize(
    "shading",
    [
        rows(430, 500, 0.6) + rows(430, 500, 2.0),
        rows(430, 500, 0.4, 0.45),
        rows(430, 300, 1.1) + rows(430, 500, 2.4, 0.3),
    ],
    ids=["crossed", "curved", "two patches"],
)
def test_shading_is_told_however_it_runs_and_no_line_goes_with_it(shading: list[F64]) -> None:
    lines = [ellipse(430, 400, 260, 270), polygon((120, 720), (760, 715), closed=False)]
    reading = read_sketch(sketched(lines, Hand(3.0), 6, shading).grey)
    assert (cKDTree(reading.shading.points).query(np.vstack(shading))[0] < 4.0).mean() > 0.8
    assert reading.patches == (2 if np.ptp(np.vstack(shading)[:, 1]) > 200 else 1)
    own = np.vstack([line.points for line in lines])
    assert (cKDTree(reading.strokes.points).query(own)[0] < 9.0).mean() > 0.99


def test_edges_of_broad_letters_are_no_rough_sketch() -> None:
    word = render(set_word(font_manager.findfont("DejaVu Sans"), "Hamburg", 60))
    assert not read_sketch(word).is_rough
    assert read_sketch(sketched(TUNED["leaf"](), SHADED, 3).grey).is_rough
