from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from cleanup_scenes import turned
from drawings import lettering, picture
from sobercrow.core.cleanup.check import Fault
from sobercrow.core.cleanup.clean import tone_at
from sobercrow.core.errors import Cancelled
from sobercrow.core.inks import edits
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import BringIn, CleanUp, Crop, InkKind, Inks, Mixing, Role, SettingError, Settings, Tracing
from sobercrow.core.stopping import stoppable


@pytest.fixture(scope="module")
def job() -> Job:
    return Job(picture(lettering("Knot", 220)))


def test_only_stale_steps_are_run_again(job: Job) -> None:
    first = job.run(Settings())
    again = job.run(Settings())
    detailed = job.run(Settings(tracing=Tracing(detail=20)))
    inked = job.run(Settings(inks=Inks(threshold=90)))
    assert again.borders is first.borders
    assert detailed.separation is first.separation
    assert inked.separation is not first.separation
    assert inked.sheet is first.sheet


def test_resolution_sets_the_size_and_nothing_else(job: Job) -> None:
    first, finer = job.run(Settings()), job.run(Settings(bring_in=BringIn(600)))
    assert finer.borders is first.borders
    assert (finer.artwork.dpi, finer.cleaned.dpi) == (600, 600)
    assert finer.artwork.width_px == first.artwork.width_px


def test_a_draft_lies_where_the_full_result_lies(job: Job) -> None:
    crop = Crop(11, 7, 300, 200)
    for settings in (Settings(), Settings(clean_up=CleanUp(crop=crop))):
        full, draft = job.run(settings), job.run(settings, draft_pixels=30_000)
        assert draft.reduction > 1.3
        assert draft.artwork.dpi == full.artwork.dpi
        a, b = full.artwork.shapes[0].bounds(), draft.artwork.shapes[0].bounds()
        assert np.abs(np.subtract(a, b)).max() < 2.5 * draft.reduction


def test_a_small_picture_needs_no_draft(job: Job) -> None:
    assert job.run(Settings(), draft_pixels=10**7).reduction == 1.0


def test_progress_is_told_and_work_can_be_stopped(job: Job) -> None:
    told: list[tuple[str, float]] = []
    settings = Settings(tracing=Tracing(detail=71))
    job.run(settings, progress=lambda step, share: told.append((step, share)))
    assert told[0][0] == "Bring in"
    assert ("Trace", 1.0) in told
    with pytest.raises(Cancelled), stoppable(lambda: True):
        job.run(Settings(tracing=Tracing(detail=72)))


def test_a_crop_beyond_the_picture_is_refused(job: Job) -> None:
    with pytest.raises(SettingError, match="beyond the picture"):
        job.run(Settings(clean_up=CleanUp(crop=Crop(0, 0, 9999, 20))))


def test_seconds_are_told_per_step(job: Job) -> None:
    seconds = job.run(replace(Settings(), inks=Inks(threshold=77))).seconds
    assert {"Light", "Levels", "inks", "trace", "measure"} <= set(seconds)
    assert all(s >= 0 for s in seconds.values())


def test_a_change_repeats_only_the_stages_that_follow_it() -> None:
    told: list[str] = []
    job = Job(picture(lettering("Knot", 120)))
    base = CleanUp(light=50.0, smooth=30.0)
    first = job.run(Settings(clean_up=base))
    job._seconds.clear()
    changed = job.run(Settings(clean_up=replace(base, enlarge=2)), progress=lambda step, _share: told.append(step))
    assert {"Enlarge", "Touch-ups", "trace"} <= set(changed.seconds)
    assert not {"Sheet", "Light", "Dirt", "Levels"} & set(changed.seconds)
    assert "Clean up: light" in told
    assert changed.artwork.dpi == 2 * first.artwork.dpi
    assert changed.artwork.width_px == 2 * first.artwork.width_px


def test_the_draft_of_an_enlarged_picture_lies_where_the_full_one_lies() -> None:
    job = Job(picture(lettering("Knot", 120)))
    settings = Settings(clean_up=CleanUp(enlarge=4, angle_deg=3.0))
    full, draft = job.run(settings), job.run(settings, draft_pixels=60_000)
    assert draft.reduction > 1.5
    assert (draft.artwork.width_px, draft.artwork.height_px) == (full.artwork.width_px, full.artwork.height_px)
    off = np.subtract(full.artwork.shapes[0].bounds(), draft.artwork.shapes[0].bounds())
    assert np.abs(off).max() < 2.5 * draft.reduction


def test_the_picture_check_is_made_once_for_each_shape_of_the_sheet() -> None:
    job = Job(picture(turned(np.pad(lettering("Knots and kites", 60), 60, constant_values=255), 3.0)))
    first = job.check(Settings())
    assert Fault.TURN in [f.fault for f in first]
    assert job.check(Settings(clean_up=CleanUp(light=0.0))) is first
    assert job.run(Settings()).findings is first
    assert Fault.TURN not in [f.fault for f in job.check(Settings(clean_up=CleanUp(angle_deg=-3.0)))]
    with pytest.raises(Cancelled), stoppable(lambda: True):
        job.check(Settings(clean_up=CleanUp(angle_deg=-2.0)))


def test_tones_before_the_levels_are_those_of_the_evened_sheet() -> None:
    grey = lettering("Knot", 120) // 2 + 60
    job = Job(picture(grey))
    settings = Settings(clean_up=CleanUp(enlarge=2))
    before = job.sheet_before_levels(settings)
    assert before.grey.shape == grey.shape
    assert tone_at(before, settings.clean_up, 6.0, 6.0) == grey[3, 3]


def coloured() -> Picture:
    """A large soft picture of three colours, one of them in a small part only."""
    pixels = np.full((500, 700, 3), 255, np.uint8)
    pixels[60:440, 60:640] = (190, 60, 40)
    pixels[100:400, 120:360] = (30, 60, 160)
    pixels[200:230, 500:530] = (20, 20, 20)
    return Picture(cv2.GaussianBlur(pixels, (0, 0), 1.0), 300.0)


def test_a_draft_takes_its_inks_from_the_full_picture() -> None:
    job = Job(coloured())
    full = job.run(Settings())
    draft = job.run(Settings(inks=Inks(InkKind.SEVERAL, mixing=Mixing.SRGB)), draft_pixels=20_000)
    assert draft.reduction > 3
    assert [i.colour for i in draft.separation.inks] == [i.colour for i in full.separation.inks]
    assert draft.separation.coverage == pytest.approx(full.separation.coverage, abs=0.01)
    assert draft.separation.colours is full.separation.colours


def test_a_changed_ink_leaves_colours_and_sheet_as_they_are() -> None:
    job = Job(coloured())
    first = job.run(Settings())
    inks = Inks(InkKind.SEVERAL).with_found(edits.merged(first.separation.inks, 1, [2]))
    second = job.run(Settings(inks=inks))
    assert second.sheet is first.sheet
    assert second.separation.colours is first.separation.colours
    assert len(second.artwork.layers) == len(first.artwork.layers) - 1
    third = job.run(Settings(inks=inks, tracing=Tracing(detail=20)))
    assert third.separation is second.separation


def test_each_ink_is_a_layer_in_its_colour_without_gaps_between() -> None:
    results = Job(coloured()).run(Settings())
    drawn = [ink for ink in results.separation.inks if ink.role is Role.INK]
    assert [layer.name for layer in results.artwork.layers] == [ink.name for ink in drawn]
    for layer, ink in zip(results.artwork.layers, drawn, strict=True):
        assert {shape.fill for shape in layer.shapes} == {ink.colour}
    areas = [sum(sum(c.area() for c in s.contours) for s in layer.shapes) for layer in results.artwork.layers]
    rust, blue, black = (areas[k] for k in range(3))
    assert blue == pytest.approx(300 * 240, rel=0.002)
    assert black == pytest.approx(900, rel=0.02)
    assert rust >= 380 * 580 - 300 * 240 - 900 - 60  # it runs on a little beneath the others
