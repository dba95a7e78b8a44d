"""SVG read and written again: rendered by resvg before and after; the W3C's examples in short."""

# ruff: noqa: E501
from __future__ import annotations

import io
import math
from pathlib import Path

import numpy as np
import pytest
import resvg_py
from PIL import Image
from PySide6.QtGui import QColor, QImage, QPainter

import sobercrow
from sobercrow.core.artwork.bringing import copied, pasted, put_in_layer
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork, Group, Layer, shapes_of
from sobercrow.core.artwork.paint import Gradient, Stroke
from sobercrow.core.errors import Cancelled, EditError
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.formats.svg_in import SvgError, parse_svg, read_svg
from sobercrow.core.geometry import winding
from sobercrow.core.geometry.arcs import arcs_of
from sobercrow.core.geometry.forms import Ellipse, Rectangle
from sobercrow.core.geometry.offset import Ends, Joins
from sobercrow.desktop.painting import paint_shape
from sobercrow.desktop.paths import shape_path

ICONS = [
    path
    for path in sorted((Path(sobercrow.__file__).parent / "desktop" / "assets" / "icons").glob("*.svg"))
    if "dasharray" not in path.read_text()
]
SIZE = 200
HEAD = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'


def svg(inner: str, attributes: str = 'width="100" height="100"') -> bytes:
    return f"<svg {HEAD} {attributes}>{inner}</svg>".encode()


def rendered(data: bytes) -> np.ndarray:
    made = resvg_py.svg_to_bytes(svg_string=data.decode(), background="#ffffff", width=SIZE, height=SIZE, dpi=96.0)
    return np.asarray(Image.open(io.BytesIO(bytes(made))).convert("RGB"), float)


def artwork_of(data: bytes, dpi: float = 300.0) -> Artwork:
    placed = parse_svg(data, "test.svg", dpi)
    return Artwork((Layer("Placed", placed.items),), placed.width_px, placed.height_px, dpi)


def painted(artwork: Artwork) -> np.ndarray:
    """What our own painter makes of it."""
    image = QImage(SIZE, SIZE, QImage.Format.Format_RGB32)
    image.fill(QColor("#ffffff"))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(SIZE / artwork.width_px, SIZE / artwork.height_px)
    for shape in artwork.shapes:
        paint_shape(painter, shape, shape_path(shape))
    painter.end()
    return np.asarray(image.constBits()).reshape(SIZE, SIZE, 4)[..., 2::-1].astype(float)


PICTURES = {
    "nested groups, transforms and inherited paint": '<g fill="#1d4f79" transform="translate(20 10) rotate(15)"><g transform="scale(2 1)"><rect x="5" y="5" width="20" height="30"/></g><circle cx="60" cy="30" r="12" fill="#a33e2e"/></g>',
    "arcs, curves and relative commands": '<path d="M10 50a20 20 0 0 1 40 0q10-30 20 0t20 0l-5 30h-70z" fill="#4f6b2a"/>',
    "an ellipse leaned": '<ellipse cx="50" cy="50" rx="30" ry="15" transform="skewX(20)"/>',
    "round corners": '<rect x="10" y="20" width="70" height="40" rx="12"/><rect x="20" y="70" width="60" height="20" rx="20" ry="5"/>',
    "strokes with ends and joins": '<path d="M20 80L50 20L80 80" fill="none" stroke="#000" stroke-width="9" stroke-linejoin="miter"/><path d="M10 90H40" stroke="#a33e2e" stroke-width="6" stroke-linecap="square"/><path d="M60 90H90" stroke="#1d4f79" stroke-width="6" stroke-linecap="round"/>',
    "a linear gradient by the box": '<defs><linearGradient id="a"><stop offset="0" stop-color="#fff"/><stop offset="40%" stop-color="#a33e2e"/><stop offset="1" stop-color="#1d4f79"/></linearGradient></defs><rect x="10" y="20" width="80" height="60" fill="url(#a)"/>',
    "a gradient in user space with a transform and a link": '<linearGradient id="a"><stop offset=".2" style="stop-color:#c9a24b"/><stop offset=".9" stop-color="#23262b"/></linearGradient><linearGradient id="b" xlink:href="#a" gradientUnits="userSpaceOnUse" x1="10" y1="10" x2="60" y2="40" gradientTransform="rotate(20)"/><circle cx="50" cy="50" r="40" fill="url(#b)"/>',
    "a radial gradient by a wide box": '<radialGradient id="a" cx=".4" cy=".5" r=".6"><stop offset="0" stop-color="#fff"/><stop offset="1" stop-color="#1d7972"/></radialGradient><rect x="5" y="30" width="90" height="40" fill="url(#a)"/>',
    "winding that is not even and odd": '<path d="M10 10H60V60H10ZM30 30H90V90H30Z" fill="#4f6b2a"/>',
    "a ring that winds both ways": '<path d="M10 10H90V90H10ZM30 30V70H70V30Z"/>',
    "see-through colour": '<rect x="10" y="10" width="80" height="80" fill="#1d4f79" opacity=".5" fill-opacity=".5"/>',
    "a style sheet attribute goes before": '<rect x="10" y="10" width="80" height="80" fill="#fff" style="fill: #a33e2e; stroke: none"/>',
}  # fmt: skip


@pytest.mark.parametrize("name", PICTURES)
def test_what_is_read_and_written_again_looks_the_same_and_so_does_what_we_paint(name: str) -> None:
    data = svg(PICTURES[name])
    artwork = artwork_of(data)
    wanted = rendered(data)
    assert np.abs(rendered(svg_bytes(artwork)) - wanted).mean() < 0.5
    assert np.abs(painted(artwork) - wanted).mean() < 0.8


@pytest.mark.parametrize("icon", ICONS, ids=lambda path: path.stem)
def test_icons_keep_their_rendering(icon: Path) -> None:
    placed = read_svg(icon, 300.0)
    made = Artwork((Layer("Placed", placed.items),), placed.width_px, placed.height_px, 300.0)
    ours = rendered(svg_bytes(made))
    theirs = rendered(icon.read_text().replace("currentColor", "#000000").encode())
    assert np.abs(ours - theirs).mean() < 0.5


def test_true_shapes_arcs_groups_and_strokes_are_known_as_such() -> None:
    artwork = artwork_of(
        svg(
            '<g id="pair"><circle cx="30" cy="30" r="10"/><rect x="50" y="20" width="30" height="20"/></g>'
            '<path d="M10 80A20 20 0 0 1 50 80" fill="none" stroke="#a33e2e" stroke-width="2" stroke-linejoin="bevel"/>'
        ),
        96.0,
    )
    group, line = artwork.layers[0].items
    assert isinstance(group, Group)
    assert group.name == "pair"
    round_, square = (shape.contours[0].form for shape in group.shapes)
    assert round_ == Ellipse(30, 30, 10, 10)
    assert (square.width, square.height) == (30, 20)
    assert isinstance(square, Rectangle)
    assert line.fill is None
    assert line.stroke == Stroke("#a33e2e", 2.0, Ends.FLAT, Joins.BEVEL)
    ((_, arc),) = arcs_of(line.contours[0].curves())
    assert (arc.radius, math.degrees(arc.turn)) == pytest.approx((20.0, 180.0))


@pytest.mark.parametrize(
    ("attributes", "width_px", "scale"),
    [
        ('width="25.4mm" height="1in"', 300.0, 300 / 96),
        ('width="2in" height="2in" viewBox="0 0 50 50"', 600.0, 12.0),
        ('viewBox="0 0 96 96"', 300.0, 300 / 96),
        ('width="72pt" height="72pt" viewBox="10 10 96 96"', 300.0, 300 / 96),
    ],
)
def test_it_comes_as_large_as_it_is(attributes: str, width_px: float, scale: float) -> None:
    placed = parse_svg(svg('<rect x="10" y="10" width="20" height="10"/>', attributes), "a.svg", 300.0)
    assert placed.width_px == pytest.approx(width_px)
    (shape,) = shapes_of(placed.items)
    left, top, right, bottom = shape.bounds()
    assert (right - left, bottom - top) == pytest.approx((20 * scale, 10 * scale))


@pytest.mark.parametrize(
    ("inner", "told"),
    [
        ('<text x="5" y="9">no</text><text>no</text><rect width="9" height="9"/>', "2 texts"),
        ('<image href="a.png" width="5" height="5"/><rect width="9" height="9"/>', "1 picture"),
        ('<rect width="9" height="9" clip-path="url(#a)"/>', "1 clipping"),
        ('<pattern id="p"/><rect width="9" height="9" fill="url(#p) #123456"/>', "1 pattern"),
        ('<path d="M0 0H9" stroke="#000" stroke-dasharray="2 1"/>', "1 dashing"),
    ],
)
def test_what_artwork_cannot_hold_is_told_by_name(inner: str, told: str) -> None:
    placed = parse_svg(svg(inner), "a.svg", 300.0)
    assert told in placed.told()
    assert placed.items


ENTITIES = b'<!DOCTYPE svg [<!ENTITY a "aaaa">]><svg xmlns="http://www.w3.org/2000/svg"><text>&a;</text></svg>'


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (ENTITIES, "entities"),
        (ENTITIES.replace(b'"aaaa"', b'SYSTEM "file:///etc/passwd"'), "entities"),
        (b"<svg", "damaged"),
        (b"<html/>", "no SVG"),
        (svg("<rect/>", 'width="10 furlongs"'), "unknown unit"),
        (svg("<g>" * 300 + "</g>" * 300), "deep within each other"),
        (svg('<path d="M0 0L1e400 0L5 5"/>'), "cannot be read"),
    ],
)
def test_bad_files_get_one_sentence(data: bytes, words: str) -> None:
    with pytest.raises(SvgError, match=words) as told:
        parse_svg(data, "bad.svg", 300.0)
    assert str(told.value).startswith("“bad.svg”")
    assert str(told.value).endswith(".")


def test_shapes_are_put_in_a_layer_copied_and_pasted_where_said() -> None:
    artwork = artwork_of(svg('<g><rect x="5" y="5" width="20" height="10"/><circle cx="60" cy="60" r="8"/></g>'), 96.0)
    placed = parse_svg(svg('<rect width="30" height="30" fill="#a33e2e"/>'), "a.svg", 96.0)
    made = put_in_layer(artwork, placed.items, "Placed")
    assert [layer.name for layer in made.artwork.layers] == ["Placed", "Placed 2"]
    (place,) = made.choice.shapes
    left, top, right, bottom = made.artwork.shapes[place].bounds()
    assert ((left + right) / 2, (top + bottom) / 2) == pytest.approx((50, 50))
    alone = copied(made.artwork, Choice(shapes=frozenset({0, 1})))
    assert (alone.width_px, alone.height_px) == pytest.approx((63, 63))
    assert isinstance(alone.layers[0].items[0], Group)
    again = pasted(made.artwork, alone.layers[0].items, (20.0, 30.0))
    assert len(again.choice.shapes) == 2
    for work, words in (
        (lambda: put_in_layer(artwork, (), "Empty"), "no shapes"),
        (lambda: pasted(artwork, ()), "no shapes"),
        (lambda: copied(artwork, Choice()), "Choose shapes"),
    ):
        with pytest.raises(EditError, match=words):
            work()


def test_a_gradient_of_one_stop_or_of_no_length_is_a_colour() -> None:
    one = artwork_of(
        svg(
            '<linearGradient id="a"><stop stop-color="#123456"/></linearGradient><rect width="9" height="9" fill="url(#a)"/>'
        )
    )
    assert one.shapes[0].fill == "#123456"
    flat = artwork_of(
        svg(
            '<linearGradient id="a" x2="0"><stop stop-color="#123456"/><stop offset="1" stop-color="#654321"/></linearGradient><rect width="9" height="9" fill="url(#a)"/>'
        )
    )
    assert flat.shapes[0].fill == "#654321"
    assert not isinstance(flat.shapes[0].fill, Gradient)


def test_a_shape_that_crosses_itself_without_end_is_refused_in_one_sentence(monkeypatch) -> None:
    monkeypatch.setattr(winding, "MOST_CROSSINGS", 3)
    star = "".join(f"M{k} 0L{9 - k} 9L{k + 1} 9z" for k in range(9))
    data = f'<svg xmlns="http://www.w3.org/2000/svg"><path d="{star}"/></svg>'.encode()
    with pytest.raises(SvgError, match=r"star\.svg” cannot be placed: one shape's outlines cross each other"):
        parse_svg(data, "star.svg", 96.0)


def test_placing_tells_how_far_it_is_and_can_be_stopped() -> None:
    path = '<path d="M0 0h9v9zM2 2h2v2z"/>'
    data = f'<svg xmlns="http://www.w3.org/2000/svg">{path * 1200}</svg>'.encode()
    told: list[float] = []
    assert len(parse_svg(data, "many.svg", 96.0, told.append).items) == 1200
    assert told == sorted(told)
    assert told[0] == 0.0
    assert 0.7 < told[-1] <= 1.0

    def stop(share: float) -> None:
        if share >= told[len(told) // 2]:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        parse_svg(data, "many.svg", 96.0, stop)
