from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from cleanup_scenes import turned
from drawings import lettering, picture
from sobercrow.core.cleanup.check import Fault
from sobercrow.core.cleanup.clean import tone_at
from sobercrow.core.errors import Cancelled
from sobercrow.core.job import Job
from sobercrow.core.settings import BringIn, CleanUp, Crop, Inks, SettingError, Settings, Tracing


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
    with pytest.raises(Cancelled):
        job.run(Settings(tracing=Tracing(detail=72)), cancelled=lambda: True)


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
    with pytest.raises(Cancelled):
        job.check(Settings(), cancelled=lambda: True)


def test_tones_before_the_levels_are_those_of_the_evened_sheet() -> None:
    grey = lettering("Knot", 120) // 2 + 60
    job = Job(picture(grey))
    settings = Settings(clean_up=CleanUp(enlarge=2))
    before = job.sheet_before_levels(settings)
    assert before.grey.shape == grey.shape
    assert tone_at(before, settings.clean_up, 6.0, 6.0) == grey[3, 3]
