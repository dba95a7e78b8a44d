"""Every format, read again by libraries we did not write."""

from __future__ import annotations

import io
from dataclasses import replace

import ezdxf
import ezdxf.bbox
import numpy as np
import pikepdf
import pypdfium2
import pytest
import resvg_py
import shapely
import svgelements
from ezdxf import path as dxf_path
from lxml import etree
from PIL import Image

from drawings import glyph_contours, line_of, off
from sobercrow.core.artwork.model import Artwork, Group, Layer, Shape, stroked
from sobercrow.core.artwork.paint import Gradient, Spread, Stop
from sobercrow.core.errors import Cancelled, ExportError
from sobercrow.core.formats.dxf import Curves, DxfSettings, DxfUnit, Release, dxf_bytes
from sobercrow.core.formats.hpgl import STEP_MM, HpglSettings, hpgl_bytes, parse_hpgl, planned
from sobercrow.core.formats.pdf import PdfSettings, pdf_bytes
from sobercrow.core.formats.raster import LossySettings, Measure, RasterSettings, drawn, png_bytes
from sobercrow.core.formats.svg import Paths, SvgSettings, svg_bytes
from sobercrow.core.formats.table import FORMATS, format_for
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle
from sobercrow.core.handover.page import Page, Sheet, TrueSize, laid
from sobercrow.core.settings import mm_to_px

DPI = 300.0


def box(x: float, y: float, width: float, height: float, fill: str = "#000000", radius: float = 0.0) -> Shape:
    form = Rectangle(x + width / 2, y + height / 2, width, height, radius)
    count = len(form.anchors())
    return Shape((Contour(form.anchors(), np.full(count, int(radius > 0), np.uint8), form=form),), fill)


def disc(x: float, y: float, rx: float, fill: str, ry: float | None = None, angle: float = 0.0) -> Shape:
    form = Ellipse(x, y, rx, ry or rx, angle)
    return Shape((Contour(form.anchors(), np.ones(4, np.uint8), form=form),), fill)


def sample() -> Artwork:
    """Letters with holes, true shapes, a gradient of either kind, strokes, a group, a layer that is not seen."""
    letters = tuple(c.moved(40.0, 20.0) for c in glyph_contours("&8", 150.0))
    line = Contour(
        np.array([[[60, 260]] * 3, [[150, 180], [200, 240], [250, 300]], [[330, 250]] * 3], float),
        np.array([0, 1, 0], np.uint8),
        False,
    )
    shade = tuple(Stop(at, colour) for at, colour in ((0.0, "#1d4f79"), (0.4, "#f2d096"), (1.0, "#a33e2e")))
    linear = replace(
        box(20, 300, 160, 70), fill=Gradient(Spread.LINEAR, shade, Affine(120.0, 40.0, -40.0, 120.0, 40.0, 300.0))
    )
    radial = replace(
        disc(280, 335, 40, "#000000"), fill=Gradient(Spread.RADIAL, shade, Affine(35.0, 0.0, 8.0, 30.0, 275.0, 330.0))
    )
    red = (disc(300, 60, 30, "#a33e2e"), disc(300, 140, 40, "#a33e2e", 22, 30.0), box(230, 170, 30, 24, "#a33e2e", 6.0))
    layers = (
        Layer("Letters", (Shape(letters, "#23262b"),)),
        Layer("Red & round", (Group(red),)),
        Layer("Shaded", (linear, radial)),
        Layer("Lines", (stroked((line,), "#1d7972", 6.0),)),
        Layer("Unseen", (box(0, 0, 390, 390, "#00ff00"),), seen=False),
    )
    return Artwork(layers, 400.0, 400.0, DPI)


def rendered(svg: bytes, size: int, background: str | None = "#ffffff") -> np.ndarray:
    data = resvg_py.svg_to_bytes(svg_string=svg.decode(), background=background, width=size, height=size, dpi=DPI)
    return np.array(Image.open(io.BytesIO(bytes(data))).convert("RGBA")).astype(int)


def square(side_mm: float = 50.0) -> Artwork:
    side = mm_to_px(side_mm, DPI)
    made = Artwork((Layer("Black", (box(100.0, 80.0, side, side),)),), 900.0, 900.0, DPI)
    return laid(made, Sheet(TrueSize(), Page("artwork")))


@pytest.mark.parametrize("paths", list(Paths))
@pytest.mark.parametrize("strokes", [False, True])
def test_svg_looks_the_same_however_paths_are_joined(paths: Paths, strokes: bool) -> None:
    wanted = rendered(svg_bytes(sample()), 800)
    made = svg_bytes(sample(), SvgSettings(paths, paths is not Paths.COLOUR, strokes))
    assert np.abs(rendered(made, 800) - wanted).mean() < 0.05
    root = etree.fromstring(made)
    counts = {Paths.SHAPE: 7, Paths.LAYER: 5, Paths.COLOUR: 5}
    drawn_elements = [
        e for e in root.iter("{*}path", "{*}circle", "{*}ellipse", "{*}rect") if e.getparent().tag[-4:] != "defs"
    ]
    assert len(drawn_elements) == counts[paths]
    assert not root.findall(".//{*}text")
    assert {e.tag.split("}")[1] for e in root.iter()} <= {
        *("svg", "g", "title", "defs", "path", "circle", "ellipse", "rect", "line"),
        *("linearGradient", "radialGradient", "stop"),
    }
    if paths is not Paths.COLOUR:
        assert [g.get("id") for g in root if g.tag.endswith("}g")] == ["Letters", "Red-round", "Shaded", "Lines"]


def test_overlapping_shapes_of_one_colour_keep_their_common_part_and_what_lies_between() -> None:
    reds = (
        box(20, 20, 100, 100, "#a33e2e"),
        box(80, 80, 100, 100, "#a33e2e"),
        box(60, 60, 60, 60, "#1d4f79"),
        box(90, 90, 20, 20, "#a33e2e"),
    )
    artwork = Artwork((Layer("All", reds),), 200.0, 200.0, DPI)
    wanted = rendered(svg_bytes(artwork), 400)
    made = svg_bytes(artwork, SvgSettings(Paths.COLOUR))
    assert np.abs(rendered(made, 400) - wanted).max() <= 1
    assert len(etree.fromstring(made).findall(".//{*}path")) == 1


def test_a_square_of_50_mm_is_that_in_every_format() -> None:
    artwork = square()
    root = svgelements.SVG.parse(io.BytesIO(svg_bytes(artwork)), ppi=25.4)
    assert root.width == pytest.approx(50.0, abs=1e-3)
    assert np.ptp(
        np.array(next(iter(root.elements(lambda e: isinstance(e, svgelements.Rect)))).bbox()).reshape(2, 2), axis=0
    ) == pytest.approx(50.0, abs=1e-3)
    document = pypdfium2.PdfDocument(pdf_bytes(artwork))
    assert np.array(document.get_page_size(0)) * 25.4 / 72.0 == pytest.approx(50.0, abs=1e-3)
    edges = next(iter(document[0].get_objects())).get_bounds()
    assert (edges[2] - edges[0]) * 25.4 / 72.0 == pytest.approx(50.0, abs=1e-3)
    for unit, per_mm in ((DxfUnit.MM, 1.0), (DxfUnit.CM, 0.1), (DxfUnit.INCH, 1 / 25.4)):
        drawing = ezdxf.read(io.StringIO(dxf_bytes(artwork, DxfSettings(unit=unit)).decode()))
        size = ezdxf.bbox.extents(drawing.modelspace()).size
        assert (size.x / per_mm, size.y / per_mm) == pytest.approx((50.0, 50.0), abs=1e-3)
    image = Image.open(io.BytesIO(png_bytes(artwork, RasterSettings(pixels=500.0))))
    assert image.size == (500, 500)
    assert 500 / image.info["dpi"][0] * 25.4 == pytest.approx(50.0, abs=2e-3)
    (line,) = parse_hpgl(hpgl_bytes(artwork))
    assert np.ptp(line.points, axis=0) == pytest.approx(50.0, abs=STEP_MM)


def test_pdf_looks_like_the_svg_and_has_layers_spots_and_metadata() -> None:
    artwork = laid(sample(), Sheet(TrueSize(width_mm=60.0), Page("A6", margin_mm=5.0)))
    data = pdf_bytes(artwork, PdfSettings(title="Kite", author="Fen & Fetlock"))
    document = pypdfium2.PdfDocument(data)
    assert np.array(document.get_page_size(0)) * 25.4 / 72.0 == pytest.approx((105.0, 148.0), abs=1e-3)
    pixels = np.array(document[0].render(scale=DPI / 72.0).to_pil().convert("RGB")).astype(int)
    height, width = pixels.shape[:2]
    svg = resvg_py.svg_to_bytes(
        svg_string=svg_bytes(artwork).decode(), background="#ffffff", width=width, height=height, dpi=DPI
    )
    wanted = np.array(Image.open(io.BytesIO(bytes(svg))).convert("RGB")).astype(int)
    assert np.abs(pixels - wanted[: pixels.shape[0], : pixels.shape[1]]).mean() < 1.0
    assert document.get_metadata_dict()["Title"] == "Kite"
    opened = pikepdf.open(io.BytesIO(data))
    assert [str(group.Name) for group in opened.Root.OCProperties.OCGs] == ["Letters", "Red & round", "Shaded", "Lines"]
    spotted = pikepdf.open(io.BytesIO(pdf_bytes(artwork, PdfSettings(spots=True))))
    spaces = spotted.pages[0].Resources.ColorSpace.values()
    assert {str(space[1]) for space in spaces} == {"/Letters", "/Red & round", "/Lines"}


@pytest.mark.parametrize(
    ("release", "curves"),
    [*((release, Curves.SPLINES) for release in Release), (Release.R12, Curves.ARCS), (Release.R2018, Curves.ARCS)],
)
def test_dxf_is_sound_and_every_curve_within_the_tolerance(release: Release, curves: Curves) -> None:
    artwork = laid(sample(), Sheet(TrueSize(width_mm=80.0), Page("artwork")))
    settings = DxfSettings(release, DxfUnit.MM, curves, tolerance_mm=0.02)
    drawing = ezdxf.read(io.StringIO(dxf_bytes(artwork, settings).decode()))
    assert not drawing.audit().errors
    assert release is Release.R12 or drawing.header["$INSUNITS"] == 4
    space = drawing.modelspace()
    assert len({layer.dxf.name for layer in drawing.layers} - {"0", "Defpoints", "DEFPOINTS"}) == 4
    assert len(space.query("CIRCLE")) == 2
    entities = [_points(entity) for entity in space]
    scale, height = 25.4 / artwork.dpi, artwork.height_px * 25.4 / artwork.dpi
    seen = [c for k, s in enumerate(artwork.shapes) if k not in artwork.out_of_sight for c in s.contours]
    ours = [line_of(contour, 0.5) * scale * (1, -1) + (0, height) for contour in seen]
    for there, here in ((entities, ours), (ours, entities)):  # nothing is elsewhere, and nothing is missing
        assert np.concatenate([np.min([off(p, line) for line in here], axis=0) for p in there]).max() <= 0.02 + 2e-3
    closed = [entity for entity in space.query("LWPOLYLINE POLYLINE") if entity.is_closed]
    true = 2 if release is Release.R12 else 3
    assert curves is Curves.SPLINES or len(closed) == sum(contour.closed for contour in seen) - true


def _points(entity) -> np.ndarray:
    return np.array([(v.x, v.y) for v in dxf_path.make_path(entity).flattening(0.0005, segments=4)])


def test_dxf_writes_what_lies_in_one_place_once() -> None:
    one = box(10, 10, 50, 50)
    turned = Shape(
        (Contour(np.roll(one.contours[0].points, 1, axis=0)[::-1, ::-1].copy(), np.zeros(4, np.uint8)),), "#000000"
    )
    drawing = ezdxf.read(io.StringIO(dxf_bytes(Artwork((Layer("Black", (one, turned)),), 90.0, 90.0, DPI)).decode()))
    assert len(drawing.modelspace()) == 1


def test_pixels_are_covered_as_resvg_has_them_and_exactly_inside_and_outside() -> None:
    artwork = sample()
    ours = drawn(artwork, (1200, 1200)).astype(int)
    wanted = rendered(svg_bytes(artwork), 1200, None)
    over = [p[..., :3] * p[..., 3:] / 255 + 255 - p[..., 3:] for p in (ours, wanted)]
    assert np.abs(over[0] - over[1]).mean() < 0.6
    assert np.abs(ours[..., 3] - wanted[..., 3]).mean() < 0.6
    assert ours[300 * 3 + 60, 100 * 3, 3] == 255
    assert ours[0, 0, 3] == 0
    half = Artwork((Layer("Black", (box(1.25, 1.0, 1.0, 2.0),)),), 4.0, 4.0, DPI)
    assert drawn(half, (4, 4))[1, :, 3].tolist() == [0, 191, 64, 0]


def test_png_has_its_size_its_dpi_and_its_profile() -> None:
    artwork = laid(sample(), Sheet(TrueSize(width_mm=80.0), Page("A6")))
    for settings, size in (
        (RasterSettings(pixels=3000.0), (round(3000 * 105 / 148), 3000)),
        (
            RasterSettings(Measure.DPI, dpi=150.0, background="#f2d096"),
            (round(105 / 25.4 * 150), round(148 / 25.4 * 150)),
        ),
    ):
        image = Image.open(io.BytesIO(png_bytes(artwork, settings)))
        assert image.size == size
        # whole pixels a metre (W3C, PNG: pHYs)
        assert image.info["dpi"][1] == pytest.approx(size[1] / 148 * 25.4, abs=0.0127)
        assert image.mode == ("RGBA" if settings.background == "none" else "RGB")
        assert image.info["srgb"] == 0


@pytest.mark.parametrize("name", ["jpeg", "webp"])
def test_lossy_pictures_are_near_the_artwork_the_nearer_the_better_their_quality(name: str) -> None:
    artwork, kind = sample(), next(one for one in FORMATS if one.id == name)
    wanted = drawn(artwork, (600, 600), "#ffffff").astype(int)[..., :3]
    errors, sizes = [], []
    for quality in (20.0, 60.0, 95.0):
        data = kind.write(artwork, LossySettings(pixels=600.0, quality=quality))
        image = Image.open(io.BytesIO(data))
        assert image.info["icc_profile"]
        errors.append(np.abs(np.array(image.convert("RGB")).astype(int) - wanted).mean())
        sizes.append(len(data))
    assert errors == sorted(errors, reverse=True)
    assert sizes == sorted(sizes)
    assert errors[-1] < 1.0


def test_work_on_many_pixels_can_be_stopped_and_too_many_are_refused() -> None:
    def stop(share: float) -> None:
        if share > 0.3:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        png_bytes(sample(), RasterSettings(pixels=2000.0), stop)
    with pytest.raises(ExportError, match="smaller size"):
        png_bytes(sample(), RasterSettings(pixels=30000.0))


def test_a_plotter_draws_every_contour_inner_ones_first_in_steps_with_an_overcut() -> None:
    artwork = laid(sample(), Sheet(TrueSize(width_mm=90.0), Page("A5")))
    plain = HpglSettings(overcut_mm=0.0)
    lines = parse_hpgl(hpgl_bytes(artwork, plain))
    height = artwork.height_px * 25.4 / artwork.dpi
    ours = [
        line_of(c, 0.2) * 25.4 / artwork.dpi * (1, -1) + (0, height)
        for k, s in enumerate(artwork.shapes)
        if k not in artwork.out_of_sight
        for c in s.contours
    ]
    assert len(lines) == len(ours)
    assert {line.pen for line in lines} == {1, 2, 3, 4}
    for line in lines:
        assert min(off(line.points, one).max() for one in ours) <= STEP_MM
        assert np.allclose(line.points / STEP_MM, np.rint(line.points / STEP_MM))
    areas = [
        shapely.Polygon(line.points) if np.array_equal(line.points[0], line.points[-1]) else None for line in lines
    ]
    for k, area in enumerate(areas):
        assert not any(area and later and later.within(area) for later in areas[k + 1 :])
    over = parse_hpgl(hpgl_bytes(artwork, HpglSettings(overcut_mm=1.0)))
    longer = [
        shapely.length(shapely.LineString(b.points)) - shapely.length(shapely.LineString(a.points))
        for a, b in zip(lines, over, strict=True)
    ]
    assert sorted(round(v, 1) for v in longer) == [0.0] + [1.0] * (len(lines) - 1)
    way = planned(artwork, plain)
    assert way.travel_mm < way.unsorted_mm


def test_what_names_no_format_and_what_lies_outside_is_told(tmp_path) -> None:
    with pytest.raises(ExportError, match="names no format"):
        format_for(tmp_path / "kite.xyz")
    with pytest.raises(ExportError, match="outside the page"):
        hpgl_bytes(Artwork((Layer("Black", (box(-20, 10, 50, 50),)),), 90.0, 90.0, DPI))
