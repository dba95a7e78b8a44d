from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest
from matplotlib import font_manager

from cleanup_scenes import INK_LIMIT, over_guides
from drawings import lettering, picture
from sobercrow.core.cleanup.check import Fault, check_picture, mend
from sobercrow.core.cleanup.clean import clean
from sobercrow.core.cleanup.pale_lines import find_pale_lines, take_out
from sobercrow.core.geometry.forms import Ellipse, nearest_on_ellipse
from sobercrow.core.job import Job
from sobercrow.core.settings import Levels, Settings
from sobercrow.core.strokes.strokes import tree_of
from sobercrow.core.strokes.working_forms import Freehand, StraightLine
from words import render, set_word


@pytest.mark.parametrize(("face", "size"), [("DejaVu Serif", 96), ("DejaVu Sans:italic", 192), ("STIXGeneral", 192)])
def test_pencil_lines_go_and_lettering_stays(face: str, size: int) -> None:
    word = set_word(font_manager.findfont(face, fallback_to_default=False), "Regatta", size)
    scan, guides, ink = over_guides(render(word), size)
    source, settings = picture(scan), Settings()
    found = [f for f in check_picture(source, scan, settings.clean_up) if f.fault is Fault.LINES]
    assert len(found) == 1
    mended = mend(settings, found[0], source)
    results = Job(source).run(mended)
    assert (results.cleaned.grey()[guides] >= 240).mean() >= 0.98
    unstretched = clean(source, replace(mended.clean_up, levels=Levels())).grey()
    assert (unstretched[ink] > INK_LIMIT).mean() <= 0.01
    assert sum(len(s.contours) for s in results.artwork.shapes) == len(word.contours)


def test_lines_lie_where_they_were_drawn() -> None:
    sheet = np.full((300, 600), 245, np.uint8)
    sheet[99:101, 30:570] = 180  # its middle lies at 100
    cv2.line(sheet, (60, 250), (560, 150), 190, 2, cv2.LINE_AA)  # and a slope of 1 in 5
    sheet[20:80, 40:80] = 20  # some ink
    found = find_pale_lines(sheet, 245, 20)
    assert len(found) == 2
    forms = [line.form for line in found if isinstance(line.form, StraightLine)]
    level, sloped = sorted(forms, key=lambda form: abs(form.dy))
    ends = level.end(level.first), level.end(level.last)
    assert [y for _, y in ends] == pytest.approx((100, 100), abs=0.6)
    assert sorted(x for x, _ in ends) == pytest.approx((30, 570), abs=6)
    assert sloped.dy / sloped.dx == pytest.approx(-0.2, abs=0.01)
    assert found[0].darkness == pytest.approx(65 / 225, abs=0.05)


def test_straight_strokes_of_ink_and_plain_writing_are_no_guides() -> None:
    ruled = np.full((300, 600), 245, np.uint8)
    ruled[99:101, 30:570] = 30
    assert find_pale_lines(ruled, 245, 30) == ()
    assert find_pale_lines(lettering("Fetlock kites", 80), 255, 0) == ()


WAVE = np.linspace(20.0, 420.0, 900)


@pytest.mark.parametrize(
    ("form", "seed"),
    [
        (Ellipse(200.0, 150.0, 110.0, 110.0), 1),
        (Ellipse(240.5, 170.3, 77.0, 77.0), 2),
        (Ellipse(215.0, 150.0, 160.0, 90.0, 20.0), 3),
        (Ellipse(220.4, 140.7, 150.0, 60.0, 0.0), 4),
        (Freehand(np.column_stack([WAVE, 150.0 + 45.0 * np.sin(WAVE / 60.0)])), 5),
    ],
)
def test_what_is_drawn_to_work_by_goes_and_lettering_on_it_stays(form: Ellipse | Freehand, seed: int) -> None:
    word = np.pad(render(set_word(font_manager.findfont("DejaVu Serif"), "Kite", 90)), 90, constant_values=255)
    rows, columns = np.mgrid[: word.shape[0], : word.shape[1]]
    places = np.column_stack([columns.ravel() + 0.5, rows.ravel() + 0.5])
    if isinstance(form, Ellipse):
        away = np.abs(nearest_on_ellipse(places, form)[1]).reshape(word.shape)
    else:
        away = tree_of(form.points).query(places)[0].reshape(word.shape)
    line = 60.0 * np.clip(1.6 - away, 0.0, 1.0)  # about two pixels wide, a quarter as dark as the ink
    noise = np.random.default_rng(seed).normal(0.0, 1.5, word.shape)
    scan = np.clip(np.minimum(word * (245.0 / 255.0), 245.0 - line) + noise, 0, 255).astype(np.uint8)
    (found,) = find_pale_lines(scan, 245, 0)
    if isinstance(form, Ellipse):
        assert isinstance(found.form, Ellipse)
        assert (found.form.x, found.form.y) == pytest.approx((form.x, form.y), abs=0.7)
        assert sorted((found.form.rx, found.form.ry)) == pytest.approx(sorted((form.rx, form.ry)), abs=0.8)
        assert found.form.is_circle == form.is_circle
    left = take_out(scan, scan, (found,), 245, 0)
    ink = word < 250
    free = (line > 30) & ~(cv2.dilate(ink.astype(np.uint8), np.ones((7, 7), np.uint8)) > 0)
    assert free.sum() > 50
    assert (left[free] > 232).mean() > 0.98
    assert (left[word < 90] > 110).mean() < 0.01
    untouched = away > 12.0
    np.testing.assert_array_equal(left[untouched], scan[untouched])
