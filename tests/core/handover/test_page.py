"""True size, page, inks, plates and the way of the plotter."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely

from planted import box, disc
from sobercrow.core.artwork.joining import area_contours
from sobercrow.core.artwork.model import Artwork, Layer
from sobercrow.core.errors import ExportError, SettingError
from sobercrow.core.geometry.combine import region
from sobercrow.core.handover.client_page import client_page
from sobercrow.core.handover.inks import inks_of
from sobercrow.core.handover.page import PAPERS, Page, Sheet, TrueSize, laid, lie_of, outside, seen_box
from sobercrow.core.handover.plates import Beneath, PlateSettings, plates_of
from sobercrow.core.handover.route import Nests, route, travel_of
from sobercrow.core.settings import Unit, mm_to_px, px_to_mm

ARTWORK = Artwork(
    (Layer("Red", (box(100.0, 80.0, 120.0, 60.0, "#a33e2e"),)), Layer("Blue", (disc(150.0, 80.0, 30.0, "#1d4f79"),))),
    400.0,
    300.0,
    300.0,
)


def test_papers_are_those_of_iso_216() -> None:
    # ISO 216:2007, table of the A and B series
    for name, size in (
        ("A4", (210, 297)),
        ("A5", (148, 210)),
        ("A3", (297, 420)),
        ("B4", (250, 353)),
        ("B6", (125, 176)),
    ):
        assert PAPERS[name] == size
    assert PAPERS["Letter"] == pytest.approx((215.9, 279.4))


@pytest.mark.parametrize("size", [TrueSize(), TrueSize(width_mm=80.0), TrueSize(height_mm=33.3), TrueSize(scale=250.0)])
@pytest.mark.parametrize(
    "page",
    [
        Page(),
        Page("artwork", margin_mm=4.0),
        Page("A5", True, margin_mm=10.0, at=(0.0, 1.0)),
        Page("own", width_mm=120.0, height_mm=90.0, by_hand=(3.0, 7.0)),
    ],
)
def test_artwork_has_its_size_and_its_place_on_the_page(size: TrueSize, page: Page) -> None:
    made = laid(ARTWORK, Sheet(size, page))
    left, top, right, bottom = (px_to_mm(v, made.dpi) for v in seen_box(made))
    width, height = px_to_mm(made.width_px, made.dpi), px_to_mm(made.height_px, made.dpi)
    factor = size.factor(px_to_mm(140.0, 300.0), px_to_mm(60.0, 300.0))
    assert (right - left, bottom - top) == pytest.approx(
        (px_to_mm(140.0, 300.0) * factor, px_to_mm(60.0, 300.0) * factor)
    )
    if size.width_mm:
        assert right - left == pytest.approx(80.0)
    if page.paper == "artwork":
        assert (left, top, width - right, height - bottom) == pytest.approx([4.0] * 4)
    if page.paper == "A5":
        assert (width, height) == pytest.approx((210.0, 148.0))
        assert (left, height - bottom) == pytest.approx((10.0, 10.0))
    if page.paper == "own":
        assert (width, height, left, top) == pytest.approx((120.0, 90.0, 3.0, 7.0))
    assert made.shapes[1].contours[0].form.is_circle


def test_what_is_outside_is_told_and_bad_pages_are_refused() -> None:
    assert outside(laid(ARTWORK, Sheet(page=Page("own", width_mm=8.0, height_mm=8.0)))) == [0, 1]
    assert outside(laid(ARTWORK, Sheet(page=Page("artwork")))) == []
    with pytest.raises(ExportError, match="no room"):
        laid(ARTWORK, Sheet(page=Page("A8", margin_mm=30.0)))
    with pytest.raises(ExportError, match="There is no page"):
        Page("A99")
    with pytest.raises(SettingError):
        TrueSize(width_mm=0.0)
    assert Unit.INCH.in_mm == 25.4
    assert Unit.PX.in_mm * 96 == pytest.approx(25.4)  # W3C, CSS Values and Units 3


@pytest.mark.parametrize("paper", ["picture", "artwork", "A8", "own"])
@pytest.mark.parametrize("at", [(0.0, 0.0), (0.5, 0.5), (1.0, 1.0)])
def test_what_is_outside_is_the_same_told_of_laid_artwork_or_of_how_it_would_lie(paper: str, at) -> None:
    hidden = replace(
        ARTWORK, layers=(*ARTWORK.layers, Layer("Unseen", (disc(-90.0, 0.0, 9.0, "#000000"),), seen=False))
    )
    for scale in (50.0, 100.0, 700.0):
        sheet = Sheet(TrueSize(scale=scale), Page(paper, width_mm=9.0, height_mm=7.0, at=at))
        found = outside(hidden, lie_of(hidden, sheet))
        assert found == outside(laid(hidden, sheet))
        assert 2 not in found
        assert (paper not in ("picture", "artwork")) or found == []


@pytest.mark.parametrize("under_mm", [0.0, 0.4, -0.4])
def test_plates_are_what_is_seen_of_each_ink_run_under_by_so_much(under_mm: float) -> None:
    red, blue = plates_of(ARTWORK, PlateSettings(under_mm=under_mm, marks=False))
    assert (red.name, blue.name) == ("Red", "Blue")
    assert {shape.colour for shape in red.artwork.shapes} == {"#000000"}
    whole = shapely.box(40.0, 50.0, 160.0, 110.0)
    cover = shapely.Point(150.0, 80.0).buffer(30.0 - mm_to_px(under_mm, 300.0), quad_segs=200)
    made = shapely.union_all([region(area_contours(s), 0.01) for s in red.artwork.shapes])
    assert made.symmetric_difference(whole.difference(cover)).area < 2e-3 * whole.area
    left, _ = plates_of(ARTWORK, PlateSettings(beneath=Beneath.LEFT, marks=False))
    assert left.artwork.shapes[0].contours == ARTWORK.shapes[0].contours


def test_plates_lie_upon_each_other_with_marks_and_names() -> None:
    plates = plates_of(ARTWORK, PlateSettings(in_black=False))
    sizes = {(plate.artwork.width_px, plate.artwork.height_px) for plate in plates}
    assert len(sizes) == 1
    marks = [[s.bounds() for s in plate.artwork.layers[1].shapes[:4]] for plate in plates]
    assert marks[0] == marks[1]
    assert [len(plate.artwork.layers[1].shapes) for plate in plates] == [5, 5]
    assert plates[1].artwork.shapes[0].colour == "#1d4f79"


def test_inks_are_called_as_their_layers_and_the_client_page_names_them() -> None:
    assert [(ink.name, ink.colour) for ink in inks_of(ARTWORK)] == [("Red", "#a33e2e"), ("Blue", "#1d4f79")]
    mixed = Artwork((Layer("All", ARTWORK.shapes),), 400.0, 300.0, 300.0)
    assert [ink.name for ink in inks_of(mixed)] == ["#a33e2e", "#1d4f79"]
    page = client_page(ARTWORK, "Kite badge")
    assert (px_to_mm(page.width_px, page.dpi), px_to_mm(page.height_px, page.dpi)) == pytest.approx((210.0, 297.0))
    assert outside(page) == []


def test_the_way_is_short_and_inner_contours_come_before_outer_ones() -> None:
    random = np.random.default_rng(4)
    shapes = []
    for x, y in random.uniform(100, 1900, (60, 2)):
        shapes += [box(x, y, 60.0, 60.0, "#000000"), disc(x, y, 20.0, "#000000"), box(x, y, 10.0, 10.0, "#000000")]
    artwork = Artwork(
        (Layer("Black", tuple(random.permutation(np.array(shapes, dtype=object)))),), 2000.0, 2000.0, 300.0
    )
    way, plain = route(artwork, 0.01), route(artwork, 0.01, is_sorted=False)
    assert way.travel_mm < 0.25 * plain.travel_mm
    assert way.unsorted_mm == pytest.approx(plain.travel_mm)
    for made in (way, plain):
        assert len(made.lines) == 180
        nests = Nests.of(made.lines)
        assert nests.starts[-1] >= 110
        assert all(outer > k for k in range(180) for outer in nests.around(k))
    start = np.array((0.0, px_to_mm(2000.0, 300.0)))
    assert travel_of(way.lines, start) == pytest.approx(way.travel_mm)
    corners = [line for line in way.lines if len(line.corners)]
    assert all(0 in line.corners for line in corners)
