"""A file that was written, read again and drawn, looks like the artwork it was made of."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely

from core.formats.test_hand_over_formats import sample
from drawings import line_of, off
from sobercrow.core.formats.dxf import DxfSettings, DxfUnit, Release
from sobercrow.core.formats.hand_over import PLAIN, hand_over_of, plain_hand_over
from sobercrow.core.formats.preview import LONGER_PX, shown
from sobercrow.core.formats.raster import BAND_ROWS, RasterSettings, drawn
from sobercrow.core.formats.sets import settings_of
from sobercrow.core.formats.table import FORMATS, format_of
from sobercrow.core.geometry.biarcs import biarcs
from sobercrow.core.geometry.polygon import nesting, nesting_depths
from sobercrow.core.handover.page import Page, Sheet, TrueSize, laid
from sobercrow.core.handover.plates import PlateSettings
from sobercrow.core.lettering.outlines import text_shape, text_width

PAGE = laid(sample(), Sheet(TrueSize(width_mm=70.0), Page("A6", True, margin_mm=5.0)))


def over_white(pixels: np.ndarray) -> np.ndarray:
    share = pixels[..., 3:] / 255.0
    return pixels[..., :3] * share + 255.0 * (1.0 - share)


@pytest.mark.parametrize("name", ["svg", "pdf", "png", "jpeg", "webp"])
def test_what_is_filled_looks_as_it_should(name: str) -> None:
    kind = format_of(name)
    settings = kind.settings()
    small = replace(settings, pixels=900.0) if isinstance(settings, RasterSettings) else settings
    made = shown(name, kind.write(PAGE, small), PAGE)
    wanted = over_white(drawn(PAGE, (made.shape[1], made.shape[0])))
    assert max(made.shape) in (LONGER_PX, 900)
    assert np.abs(over_white(made) - wanted).mean() < 1.5


@pytest.mark.parametrize("release", [Release.R12, Release.R2018])
@pytest.mark.parametrize("unit", list(DxfUnit))
def test_lines_of_a_drawing_run_along_edges_whatever_its_unit(release: Release, unit: DxfUnit) -> None:
    made = shown("dxf", format_of("dxf").write(PAGE, DxfSettings(release, unit)), PAGE)
    _inked_along_edges(made, most_px=3.0)


def test_lines_of_a_plotter_file_run_along_edges_and_travel_between() -> None:
    made = shown("hpgl", format_of("hpgl").write(PAGE, format_of("hpgl").settings()), PAGE)
    dark = made.copy()
    dark[made[..., :3].max(axis=2) > 120] = 0  # the way between lines is paler
    _inked_along_edges(dark, most_px=3.0)
    assert (made[..., 3] > 0).sum() > (dark[..., 3] > 0).sum()


def _inked_along_edges(pixels: np.ndarray, most_px: float) -> None:
    scale = pixels.shape[1] / PAGE.width_px
    seen = [c for k, s in enumerate(PAGE.shapes) if k not in PAGE.out_of_sight for c in s.contours]
    rows, columns = np.nonzero(pixels[..., 3] > 200)
    assert len(rows) > 1000
    points = np.column_stack([columns + 0.5, rows + 0.5])[::7]
    away = np.min([off(points, line_of(contour, 1.0) * scale) for contour in seen], axis=0)
    assert away.max() < most_px


def test_bands_are_drawn_as_one() -> None:
    letters = replace(PAGE, layers=PAGE.layers[:1])
    half, whole = drawn(letters, (450, 320)), drawn(letters, (900, 640))
    assert whole.shape[0] > 2 * BAND_ROWS
    assert np.abs(whole[..., 3].astype(float).reshape(320, 2, 450, 2).mean(axis=(1, 3)) - half[..., 3]).max() <= 2.0


@pytest.mark.parametrize("tolerance", [0.5, 0.05, 0.005])
def test_biarcs_stay_within_their_tolerance_and_the_fewer_the_looser(tolerance: float) -> None:
    random = np.random.default_rng(int(tolerance * 1000))
    counts = []
    for _ in range(60):
        cubic = random.uniform(0.0, 200.0, (4, 2))
        (pieces,) = biarcs(cubic[None], tolerance)
        ends = [*(start for start, _ in pieces[1:]), cubic[3]]
        line = np.vstack([_arc(start, end, bulge) for (start, bulge), end in zip(pieces, ends, strict=True)])
        t = np.linspace(0, 1, 500)[:, None]
        curve = (
            (1 - t) ** 3 * cubic[0] + 3 * t * (1 - t) ** 2 * cubic[1] + 3 * t**2 * (1 - t) * cubic[2] + t**3 * cubic[3]
        )
        assert off(curve, line).max() <= 1.3 * tolerance + 1e-3
        assert np.array_equal(pieces[0][0], cubic[0])
        counts.append(len(pieces))
    assert np.mean(counts) < {0.5: 14, 0.05: 28, 0.005: 60}[tolerance]


def _arc(start: np.ndarray, end: np.ndarray, bulge: float) -> np.ndarray:
    """Points along an arc by its bulge (DXF reference: the tangent of a quarter of the angle)."""
    if bulge == 0.0:
        return np.array([start, end])
    angle = 4.0 * np.arctan(bulge)
    chord = end - start
    middle = 0.5 * (start + end) + 0.5 / np.tan(angle / 2) * np.array((-chord[1], chord[0]))
    t = np.linspace(0.0, angle, 80)[:, None]
    c, s, r = np.cos(t), np.sin(t), start - middle
    return middle + np.hstack([c * r[0] - s * r[1], s * r[0] + c * r[1]])


def test_what_lies_in_what_is_told_as_shapely_tells_it() -> None:
    random = np.random.default_rng(3)
    lines = [shapely.Point(*random.uniform(0, 100, 2)).buffer(random.uniform(2, 40), quad_segs=8) for _ in range(60)]
    outlines = [np.array(one.exterior.coords)[:-1] for one in lines]
    inner, outer = nesting(outlines)
    wanted = {(a, b) for a in range(60) for b in range(60) if a != b and lines[a].within(lines[b])}
    assert set(zip(inner.tolist(), outer.tolist(), strict=True)) == wanted
    assert nesting_depths(outlines).sum() == len(wanted)


def test_text_is_as_wide_as_its_typeface_says_and_has_its_holes() -> None:
    text = text_shape("Obo", 10.0, 50.0, 40.0, "#000000")
    assert text is not None
    left, top, right, bottom = text.bounds()
    assert right - left == pytest.approx(text_width("Obo", 40.0), rel=0.1)
    assert top < 25.0 < 50.0 <= bottom < 52.0
    assert len(text.contours) == 6
    assert text_shape("  ", 0.0, 0.0, 10.0, "#000000") is None


def test_what_was_set_comes_back_from_plain_values() -> None:
    one = PLAIN
    for kind in FORMATS:
        one = one.with_settings(kind.id, kind.settings())
    one = one.with_settings("png", RasterSettings(pixels=640.0, background="#f2d096"))
    assert hand_over_of(plain_hand_over(one)) == one
    assert one.settings_for("png").pixels == 640.0
    assert one.part(format_id="dxf").kind.id == "dxf"
    assert settings_of(PlateSettings, {"under_mm": 0.25, "unheard_of": 3}) == PlateSettings(under_mm=0.25)
    with pytest.raises(ValueError, match="number"):
        settings_of(PlateSettings, {"under_mm": "wide"})
