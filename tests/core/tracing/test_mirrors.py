"""Mirror symmetry: letters whose drawn outlines are symmetric, and such as are not."""

from __future__ import annotations

import io
import math
from functools import cache

import numpy as np
import pytest
import resvg_py
from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.ttLib import TTFont
from matplotlib import font_manager
from PIL import Image, ImageDraw

from drawings import lettering, picture, separation
from sobercrow.core.arrays import U8
from sobercrow.core.geometry.forms import Mirror
from sobercrow.core.inks.separation import separate
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, InkKind, Inks, Meet, Settings, Tracing
from sobercrow.core.tracing import mirrors as finder
from sobercrow.core.tracing.borders import find_borders
from sobercrow.core.tracing.mirrors import may_be_symmetric
from sobercrow.core.tracing.outlines import Trace, trace
from sobercrow.core.tracing.true_shapes import size_of

FINER = 4


@cache
def font() -> TTFont:
    return TTFont(font_manager.findfont("DejaVu Sans", fallback_to_default=False))


def glyph(letter: str, size_px: int, turn: float) -> U8:
    """A letter of DejaVu Sans, turned clockwise, rendered by resvg."""
    pen = SVGPathPen(font().getGlyphSet())
    font().getGlyphSet()[font().getBestCmap()[ord(letter)]].draw(pen)
    wide, em = int(size_px * 1.6), font()["head"].unitsPerEm
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide * FINER}" height="{wide * FINER}" '
        f'viewBox="0 0 {wide} {wide}"><g transform="translate({wide / 2 + 0.3} {wide / 2 + 0.1}) rotate({turn}) '
        f'scale({size_px / em} {-size_px / em}) translate(-700 -700)"><path d="{pen.getCommands()}"/></g></svg>'
    )
    drawn = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=svg, background="#ffffff")))).convert("L")
    return np.rint(np.asarray(drawn, float).reshape(wide, FINER, wide, FINER).mean((1, 3))).astype(np.uint8)


def mirrors(result: Trace) -> list[Mirror]:
    return [found.form for found in result.forms if isinstance(found.form, Mirror)]


def is_symmetric(outline: np.ndarray, axis: Mirror) -> bool:
    """Whether a set of points is its own mirror image."""
    apart = np.abs(axis.mirrored(outline)[:, None] - outline[None]).max(axis=2).min(axis=1)
    return bool(apart.max() < 1e-6)


@pytest.mark.parametrize("letter", list("AHMTUVv8"))
@pytest.mark.parametrize("turn", [0.0, 90.0, 23.0])
def test_a_symmetric_letter_is_traced_exactly_so(letter: str, turn: float) -> None:
    grey = glyph(letter, 128, turn)
    result = trace(separation(grey), Tracing())
    assert mirrors(result), "its outline in the typeface is symmetric to a thousandth of the em"
    (shape,), (axis, *_) = result.artwork.shapes, mirrors(result)
    assert abs((axis.angle_deg - turn) % 180.0 - 90.0) < (0.3 if turn % 90.0 else 1e-9)
    assert is_symmetric(shape.contours[0].points.reshape(-1, 2), axis)
    free = trace(separation(grey), Tracing(true_shapes=False)).artwork
    assert len(shape.contours[0]) <= len(free.shapes[0].contours[0]) + 2


@pytest.mark.parametrize("letter", list("xSR356GNZ"))
def test_a_letter_that_is_not_symmetric_stays_so(letter: str) -> None:
    result = trace(separation(glyph(letter, 128, 0.0)), Tracing())
    whole = result.artwork.width_px
    assert all(axis.length < 0.3 * whole for axis in mirrors(result))  # a counter may be


def test_what_lies_within_shares_the_axis() -> None:
    result = trace(separation(glyph("A", 128, 0.0)), Tracing())
    (shape,) = result.artwork.shapes
    assert len(shape.contours) == 2
    (axis,) = mirrors(result)
    assert all(is_symmetric(contour.points.reshape(-1, 2), axis) for contour in shape.contours)


def test_a_notch_on_one_side_is_no_symmetry() -> None:
    grey = glyph("T", 128, 0.0).copy()
    rows, columns = np.nonzero(grey < 128)
    left, top = columns.min(), rows.min()
    grey[top : top + 3, left + 6 : left + 12] = 255
    assert mirrors(trace(separation(grey), Tracing())) == []


def test_a_symmetry_refused_leaves_the_contour_and_is_told() -> None:
    grey = glyph("M", 128, 0.0)
    (axis,) = mirrors(trace(separation(grey), Tracing()))
    result = trace(separation(grey), Tracing(refused=((axis.x, axis.y, size_of(axis)),)))
    assert [found.refused for found in result.forms if isinstance(found.form, Mirror)] == [True]
    (shape,) = result.artwork.shapes
    assert not is_symmetric(shape.contours[0].points.reshape(-1, 2), axis)


def test_an_oval_of_two_axes_is_symmetric_about_both() -> None:
    result = trace(separation(lettering("0", 120, "DejaVu Sans")), Tracing())
    outer = result.artwork.shapes[0].contours[0].points.reshape(-1, 2)
    (axis, *_) = mirrors(result)
    assert axis.twofold
    assert is_symmetric(outer, axis)
    assert is_symmetric(outer, axis.upright())


@pytest.mark.parametrize("spikes", [5, 6])
@pytest.mark.parametrize("enlarge", [1.0, 2.0])
def test_a_star_has_an_upright_axis_and_if_even_a_level_one(spikes: int, enlarge: float) -> None:
    angle = np.arange(2 * spikes) * math.pi / spikes - 0.5 * math.pi
    reach = np.where(np.arange(2 * spikes) % 2, 26.0, 60.0)
    corners = 80.3 + reach[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])
    image = Image.new("L", (160 * FINER, 160 * FINER), 255)
    ImageDraw.Draw(image).polygon([tuple(p) for p in corners * FINER], fill=0)
    grey = np.asarray(image, float).reshape(160, FINER, 160, FINER).mean((1, 3)).astype(np.uint8)
    settings = Settings(clean_up=CleanUp(enlarge=enlarge))
    results = Job(picture(grey)).run(settings)
    (shape,) = results.artwork.shapes
    (axis,) = (found.form for found in results.forms if isinstance(found.form, Mirror))
    assert (axis.angle_deg + 45.0) % 90.0 == pytest.approx(45.0, abs=1e-9)
    assert axis.twofold == (spikes == 6)
    assert axis.x / enlarge == pytest.approx(80.3, abs=0.3)
    assert is_symmetric(shape.contours[0].points.reshape(-1, 2), axis)
    assert len(shape.contours[0]) <= 3 * spikes + 2  # blunt tips have two corners


def test_among_flush_inks_islands_are_symmetric_and_neighbours_still_share_them() -> None:
    letter = glyph("T", 128, 0.0)
    share = letter[..., None] / 255.0
    pixels = np.rint(share * (250, 240, 220) + (1 - share) * (30, 60, 120)).astype(np.uint8)
    found = separate(Picture(pixels, 300.0), Inks(InkKind.SEVERAL, paper="none"))
    result = trace(found, Tracing(meet=Meet.FLUSH))
    (axis,) = mirrors(result)
    contours = [c for shape in result.artwork.shapes for c in shape.contours if len(c) > 4]
    assert len(contours) == 2
    assert is_symmetric(contours[0].points.reshape(-1, 2), axis)
    ways = [set(map(tuple, c.anchors.tolist())) for c in contours]
    assert ways[0] == ways[1]


def test_letters_symmetric_to_the_eye_alone_are_left_alone_under_a_strict_tolerance() -> None:
    grey = glyph("x", 128, 0.0)  # its outline is a hundredth of the em off
    assert mirrors(trace(separation(grey), Tracing(tolerance_px=0.1))) == []


def test_squaring_up_leaves_an_axis_where_it_was_found() -> None:
    grey = glyph("T", 128, 3.0)
    result = trace(separation(grey), Tracing(square_up_deg=6.0, straighten_deg=0.0))
    (axis,) = mirrors(result)
    assert axis.angle_deg == pytest.approx(93.0, abs=0.3)


@pytest.mark.parametrize("seed", range(12))
def test_no_symmetric_border_is_refused_by_its_moments(seed: int) -> None:
    random = np.random.default_rng(seed)
    t = (np.arange(600) + 0.5) * 2 * np.pi / 600
    waves = sum(random.normal(0, 0.3 / k) * np.cos(k * t) for k in range(1, 7))  # even: its own image about the axis
    radius = random.uniform(15, 60) * (1 + waves / (1.5 + np.abs(waves).max()))
    angle = t + random.uniform(0, np.pi)
    line = radius[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])
    normals = line / radius[:, None]
    assert may_be_symmetric(line + normals * random.normal(0, 0.1, (600, 1)))


@pytest.mark.parametrize("size", [48, 96])
def test_moments_refuse_most_letters_and_none_that_has_an_axis(size: int, monkeypatch: pytest.MonkeyPatch) -> None:
    letters = "AHMTUWYovwxFGJLPQRfgjkry"
    lines = {letter: find_borders(separation(lettering(letter, size)).field).lines[0] for letter in letters}
    may = {letter for letter, line in lines.items() if may_be_symmetric(line)}
    assert len(may & set("FGJLPQRfgjkry")) <= 4
    monkeypatch.setattr(finder, "may_be_symmetric", lambda *_: True)
    found = {letter for letter, line in lines.items() if finder.find_mirror(line, 0.3) is not None}
    assert {"H", "T"} <= found
    assert found <= may
