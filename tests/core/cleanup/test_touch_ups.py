from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from drawings import disc, picture
from sobercrow.core.cleanup.clean import clean
from sobercrow.core.cleanup.touch_ups import colour_at, own_colours, simplified
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import NEUTRAL, CleanUp, Corners, Crop, TouchForm, TouchTool, TouchUp

REST = CleanUp(**NEUTRAL)
RING = np.minimum(disc(120, 60, 60, 40), 255 - disc(120, 60, 60, 32) + 0)
RING = np.where(
    disc(120, 60, 60, 32) < 255, np.maximum(disc(120, 60, 60, 40), 255 - disc(120, 60, 60, 32)), disc(120, 60, 60, 40)
)


def touched(pixels: np.ndarray, *touch_ups: TouchUp, **settings: object) -> Picture:
    source = picture(pixels) if pixels.ndim == 2 else Picture(pixels, 300.0)
    return clean(source, replace(REST, touch_ups=touch_ups, **settings))


def stroke(*points: tuple[float, float], form: TouchForm = TouchForm.LINE, **rest: object) -> TouchUp:
    return TouchUp(TouchTool.NIB, form, points, **rest)


@pytest.mark.parametrize("width", [3.0, 7.5])
def test_a_line_covers_its_length_times_its_width_and_a_round_end_on_each_side(width: float) -> None:
    made = touched(
        np.full((80, 120), 255, np.uint8), stroke((20.3, 30.2), (90.3, 50.2), width_px=width, colour="#000000")
    )
    area = (255 - made.grey().astype(float)).sum() / 255
    assert area == pytest.approx(np.hypot(70, 20) * width + np.pi * width**2 / 4, rel=0.02)


@pytest.mark.parametrize(
    ("form", "points", "area"),
    [
        (TouchForm.BOX, ((10.5, 10.0), (50.5, 10.0), (50.5, 30.25), (10.5, 30.25)), 40 * 20.25),
        (TouchForm.POLYGON, ((10.0, 10.0), (70.0, 10.0), (10.0, 50.0)), 1200),
    ],
)
def test_a_shape_covers_its_area_and_its_edge_by_share(form: TouchForm, points: tuple, area: float) -> None:
    made = touched(np.full((80, 120), 255, np.uint8), stroke(*points, form=form, colour="#000000"))
    assert (255 - made.grey().astype(float)).sum() / 255 == pytest.approx(area, rel=0.01)


def test_scraping_wipes_to_paper_and_the_nib_draws_with_the_pictures_own_ink() -> None:
    sheet = np.full((60, 90), 221, np.uint8)
    sheet[10:50, 20:40] = 33
    scraped = touched(sheet, TouchUp(TouchTool.SCRAPE, TouchForm.LINE, ((30.0, 5.0), (30.0, 55.0)), 30.0)).grey()
    assert (scraped == 221).all()
    drawn = touched(sheet, stroke((60.0, 30.0), (70.0, 30.0), width_px=10.0)).grey()
    assert drawn[30, 65] == 33


@pytest.mark.parametrize(
    "shape",
    [
        {"quarter_turns": 1},
        {"mirrored": True, "quarter_turns": 3},
        {"angle_deg": 11.0},
        {"slant": Corners((5.0, 8.0), (112.0, 2.0), (118.0, 110.0), (3.0, 116.0))},
        {"crop": Crop(30, 25, 110, 100)},
        {"enlarge": 3},
    ],
)
def test_touch_ups_go_along_with_the_shape_of_the_sheet(shape: dict) -> None:
    # drawn before the shape is changed, or drawn into the source itself: the same
    line = stroke((45.0, 50.0), (80.0, 75.0), width_px=9.0, colour="#000000")
    blank = np.full((120, 120), 255, np.uint8)
    replayed = touched(blank, line, **shape).grey().astype(float)
    drawn_in = touched(touched(blank, line).grey(), **shape).grey().astype(float)
    assert replayed.shape == drawn_in.shape
    assert (255 - replayed).sum() == pytest.approx((255 - drawn_in).sum(), rel=0.03)
    assert np.abs(replayed - drawn_in).mean() < 1.0


def test_hidden_touch_ups_do_nothing_and_the_order_counts() -> None:
    blank = np.full((60, 60), 255, np.uint8)
    black, red = (stroke((10.0, 30.0), (50.0, 30.0), width_px=20.0, colour=c) for c in ("#000000", "#a33e2e"))
    assert touched(blank, black, red).pixels[30, 30].tolist() == [0xA3, 0x3E, 0x2E]
    assert touched(blank, black, replace(red, shown=False)).pixels[30, 30].tolist() == [0, 0, 0]


def test_a_pour_fills_one_region_up_to_its_soft_edge() -> None:
    pour = TouchUp(TouchTool.POUR, TouchForm.PLACE, ((60.0, 60.0),), colour="#000000")
    inside = touched(RING, pour).grey()
    assert inside[60, 60] == 0
    assert inside[5, 5] == 255
    # no pale seam stays between what was poured and the ring
    y, x = np.mgrid[:120, :120] + 0.5
    assert inside[np.hypot(x - 60, y - 60) < 38].max() < 60
    everywhere = touched(RING, replace(pour, everywhere=True)).grey()
    assert everywhere.max() < 60


def test_a_pour_knows_its_tolerance_and_ignores_places_cropped_away() -> None:
    steps = np.repeat(np.arange(100, 220, 20, dtype=np.uint8), 20)[None].repeat(40, axis=0)
    pour = TouchUp(TouchTool.POUR, TouchForm.PLACE, ((10.0, 10.0),), colour="#ffffff", tolerance=25.0)
    made = touched(steps, pour).grey()
    assert (made[:, :36] == 255).all()
    assert (made[20, 62:] == steps[20, 62:]).all()
    assert np.array_equal(touched(steps, pour, crop=Crop(60, 0, 120, 40)).grey(), steps[:, 60:])


def test_a_coloured_pour_moves_only_the_colour_it_was_poured_on() -> None:
    pixels = np.full((40, 80, 3), (240, 238, 230), np.uint8)
    pixels[:, 30:50] = (160, 40, 40)
    pour = TouchUp(TouchTool.POUR, TouchForm.PLACE, ((40.0, 20.0),), colour="#1d7972")
    made = touched(pixels, pour).pixels
    assert made[20, 40].tolist() == [0x1D, 0x79, 0x72]
    assert made[20, 10].tolist() == [240, 238, 230]


def test_own_colours_and_the_colour_at_a_place_are_read_from_the_picture() -> None:
    pixels = np.full((60, 80, 3), (240, 230, 210), np.uint8)
    pixels[20:40, 20:40] = (60, 20, 90)
    own = own_colours(pixels)
    assert (own.ink, own.paper) == ((60, 20, 90), (240, 230, 210))
    assert colour_at(pixels, 30.0, 30.0) == "#3c145a"
    assert colour_at(pixels, -5.0, 999.0) == "#f0e6d2"


def test_a_freehand_path_is_kept_with_few_points_and_little_loss() -> None:
    path = [(x / 2, 20 + 10 * np.sin(x / 20)) for x in range(200)]
    kept = simplified(path)
    assert len(kept) < 40
    xs, ys = np.array(kept).T
    assert np.abs(np.interp([p[0] for p in path], xs, ys) - [p[1] for p in path]).max() < 0.45
