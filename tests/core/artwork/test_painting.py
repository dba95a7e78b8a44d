"""Paint: greys by IEC 61966-2-1, colours and gradients that pictures were made of, strokes against resvg."""

from __future__ import annotations

import io

import numpy as np
import pytest
import resvg_py
import shapely
from PIL import Image

from drawings import artwork_of, glyph_contours
from sobercrow.core.artwork import painting
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork, Layer, Shape, stroked
from sobercrow.core.artwork.paint import Gradient, Spread, Stop, Stroke
from sobercrow.core.artwork.painting import as_in_picture, colours_of, gradient_between, grey_of, greys, recolour
from sobercrow.core.errors import EditError
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle
from sobercrow.core.geometry.offset import Ends, Joins

ONE, BOTH = Choice(shapes=frozenset({0})), Choice(shapes=frozenset({0, 1}))


def box(x: float, y: float, width: float, height: float, fill="#000000") -> Shape:
    form = Rectangle(x + width / 2, y + height / 2, width, height)
    return Shape((Contour(form.anchors(), np.zeros(4, np.uint8), form=form),), fill)


def disc(x: float, y: float, radius: float, fill="#000000") -> Shape:
    form = Ellipse(x, y, radius, radius)
    return Shape((Contour(form.anchors(), np.ones(4, np.uint8), form=form),), fill)


def page(*shapes: Shape, size: float = 100.0) -> Artwork:
    return Artwork((Layer("Ink", shapes),), size, size, 96.0)


# published: IEC 61966-2-1 gives 54, 182 and 18 of 255 in linear light for pure red, green and blue
@pytest.mark.parametrize(
    ("colour", "linear"),
    [("#ff0000", 0.2126), ("#00ff00", 0.7152), ("#0000ff", 0.0722), ("#808080", 0.21586), ("#ffffff", 1.0)],
)
def test_a_grey_is_as_light_as_its_colour(colour: str, linear: float) -> None:
    grey = grey_of(colour)
    assert grey[1:3] == grey[3:5] == grey[5:7]
    value = int(grey[1:3], 16) / 255
    own = ((value + 0.055) / 1.055) ** 2.4 if value > 0.04045 else value / 12.92
    assert own == pytest.approx(linear, abs=0.004)


def test_colours_are_listed_changed_everywhere_and_made_grey() -> None:
    shaded = Gradient(
        Spread.LINEAR,
        (Stop(0.0, "#a33e2e"), Stop(1.0, "#ffffff")),
        gradient_between(Spread.LINEAR, (0, 0), (9, 0), (Stop(0, "#000000"), Stop(1, "#ffffff"))).way,
    )
    line = stroked((glyph_contours("l", 40)[0],), "#a33e2e", 2.0)
    artwork = page(box(0, 0, 9, 9, "#1d4f79"), box(20, 0, 9, 9, shaded), line)
    assert colours_of(artwork)[0] == "#a33e2e"
    assert set(colours_of(artwork)) == {"#a33e2e", "#ffffff", "#1d4f79"}
    made = recolour(artwork, "#a33e2e", "#00aa00")
    assert made.shapes[0] is artwork.shapes[0]
    assert made.shapes[1].fill.stops[0].colour == made.shapes[2].stroke.colour == "#00aa00"
    plain = greys(artwork, Choice())
    assert all(c[1:3] == c[3:5] == c[5:7] for c in colours_of(plain))
    for work in (lambda: recolour(artwork, "#123123", "#000000"), lambda: greys(plain, Choice())):
        with pytest.raises(EditError, match="Nothing here"):
            work()


def test_what_would_not_be_seen_any_more_keeps_a_line_or_a_fill() -> None:
    artwork = page(box(0, 0, 9, 9, "#1d4f79"), stroked((glyph_contours("l", 40)[0],), "#a33e2e", 2.0))
    bare = painting.set_fill(artwork, ONE, None)
    assert (bare.shapes[0].fill, bare.shapes[0].stroke) == (None, Stroke("#1d4f79", 1.0))
    filled = painting.set_stroke(artwork, BOTH, lambda _stroke, _shape: None)
    assert [shape.fill for shape in filled.shapes] == ["#1d4f79", "#a33e2e"]
    wide = painting.set_stroke(artwork, BOTH, lambda stroke, shape: Stroke(shape.colour, 3.0))
    assert [shape.stroke.width_px for shape in wide.shapes] == [3.0, 3.0]
    with pytest.raises(EditError, match="Choose shapes"):
        painting.set_fill(artwork, Choice(), "#000000")


@pytest.mark.parametrize("scale", [1, 3])
def test_shapes_take_the_colour_of_the_pixels_beneath_them_away_from_their_rims(scale: int) -> None:
    pixels = np.full((100 * scale, 100 * scale, 3), 250, np.uint8)
    pixels[20 * scale : 60 * scale, 10 * scale : 50 * scale] = (180, 40, 60)
    pixels[20 * scale : 60 * scale, 10 * scale : 11 * scale] = (0, 255, 0)  # a rim
    artwork = page(
        box(10, 20, 40, 40), disc(75, 75, 10), stroked((glyph_contours("l", 40)[0].moved(10, 10),), "#000000", 2.0)
    )
    made = as_in_picture(artwork, Choice(), pixels)
    assert made.shapes[0].fill == "#b4283c"
    assert made.shapes[1].fill == "#fafafa"
    assert made.shapes[2].fill is None
    assert made.shapes[2].stroke.colour != "#000000"
    with pytest.raises(EditError, match="lies on the picture"):
        as_in_picture(page(box(500, 500, 9, 9)), Choice(), pixels)


@pytest.mark.parametrize("angle", [0.0, 50.0, 200.0])
def test_a_shape_that_is_shaded_there_gets_the_gradient_it_was_made_with(angle: float) -> None:
    way = np.array((np.cos(np.radians(angle)), np.sin(np.radians(angle))))
    at = np.stack(np.meshgrid(np.arange(200) + 0.5, np.arange(200) + 0.5), axis=-1) - 100.0
    share = np.clip((at @ way + 60.0) / 120.0, 0, 1)[..., None]
    pixels = np.rint((1 - share) * (230, 200, 40) + share * (20, 80, 160)).astype(np.uint8)
    artwork = page(disc(100, 100, 60), size=200.0)
    made = as_in_picture(artwork, ONE, pixels, shaded=True).shapes[0].fill
    assert isinstance(made, Gradient)
    (x0, y0), (x1, y1) = painting.ends_of(made)
    laid = np.array((x1 - x0, y1 - y0))
    laid, first, last = (
        (laid, *made.stops[:: len(made.stops) - 1]) if laid @ way > 0 else (-laid, *made.stops[:: 1 - len(made.stops)])
    )
    assert laid @ way / np.hypot(*laid) > 0.999
    for stop, wanted in ((first, (230, 200, 40)), (last, (20, 80, 160))):
        own = [int(stop.colour[k : k + 2], 16) for k in (1, 3, 5)]
        assert own == pytest.approx(wanted, abs=14)
    flat = as_in_picture(artwork, ONE, np.full((200, 200, 3), 90, np.uint8), shaded=True)
    assert flat.shapes[0].fill == "#5a5a5a", "where nothing changes a plain colour"


@pytest.mark.parametrize("ends", list(Ends))
@pytest.mark.parametrize("joins", list(Joins))
def test_what_a_stroke_inks_is_what_resvg_draws_of_it(ends: Ends, joins: Joins) -> None:
    zigzag = np.array([(20, 70), (40, 25), (60, 70), (80, 40)], float)
    line = Contour(np.repeat(zigzag[:, None], 3, axis=1), np.zeros(4, np.uint8), closed=False)
    shape = Shape((line,), None, Stroke("#000000", 9.0, ends, joins))
    artwork = page(shape)
    data = resvg_py.svg_to_bytes(
        svg_string=svg_bytes(artwork).decode(), background="#ffffff", width=400, height=400, dpi=96.0
    )
    drawn = 1 - np.asarray(Image.open(io.BytesIO(bytes(data))).convert("L"), float) / 255
    inked = shapely.union_all([shapely.Polygon(edge) for edge in shape.edges(0.2)])
    assert inked.area == pytest.approx(drawn.sum() / 16, rel=4e-3)
    left, top, right, bottom = shape.bounds()
    rows, columns = np.nonzero(drawn.max(axis=1) > 0.5)[0] / 4, np.nonzero(drawn.max(axis=0) > 0.5)[0] / 4
    assert (left, top, right, bottom) == pytest.approx(
        (columns[0], rows[0], columns[-1] + 0.25, rows[-1] + 0.25), abs=0.6
    )
    both = Shape((Contour(line.points, line.kinds, closed=True),), "#ffffff", shape.stroke)
    area = shapely.union_all([shapely.Polygon(edge) for edge in both.edges(0.2)])
    assert area.contains(shapely.Polygon(zigzag))


def test_gradients_are_scaled_moved_and_turned_with_their_shapes() -> None:
    stops = (Stop(0.0, "#ffffff"), Stop(1.0, "#000000"))
    shape = Shape(box(10, 10, 20, 20).contours, gradient_between(Spread.LINEAR, (10, 10), (30, 10), stops))
    for made, ends in ((shape.moved(5, 7), ((15, 17), (35, 17))), (shape.scaled(2.0), ((20, 20), (60, 20)))):
        assert np.array(painting.ends_of(made.fill)) == pytest.approx(np.array(ends))
    for work, words in (
        (lambda: gradient_between(Spread.LINEAR, (1, 1), (1, 1), stops), "some length"),
        (lambda: gradient_between(Spread.LINEAR, (1, 1), (9, 1), stops[:1]), "two colours"),
    ):
        with pytest.raises(EditError, match=words):
            work()
    assert artwork_of(shape).shapes[0].colour == "#ffffff"
