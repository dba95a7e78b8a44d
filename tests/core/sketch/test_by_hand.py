"""What was said of a sketch by hand holds, and nothing else of the sketch changes."""

import numpy as np
import pytest
from scipy.spatial import cKDTree

from sketch_scenes import Hand, Line, curve, ellipse, leaf, polygon, sketched
from sobercrow.core.geometry.forms import Ellipse
from sobercrow.core.settings import Verdict
from sobercrow.core.sketch.by_hand import corrected
from sobercrow.core.sketch.ends import Drawn
from sobercrow.core.sketch.one_line import KeptLines, meant_lines
from sobercrow.core.sketch.reading import SketchReading, read_sketch
from sobercrow.core.sketch.said import Said
from sobercrow.core.strokes.working_forms import Freehand, StraightLine

SPREAD = 3.0
BESIDE = polygon((150, 650), (700, 640), closed=False)


def read(lines: list[Line], seed: int = 5, **hand: object) -> SketchReading:
    return read_sketch(sketched(lines, Hand(SPREAD, **hand), seed).grey)  # type: ignore[arg-type]


def said(verdict: Verdict, *points: tuple[float, float], width: float = 12.0) -> Said:
    return Said(verdict, np.array(points, dtype=np.float64), width)


def near(lines: list[Drawn], x: float, y: float, within: float = 15.0) -> list[Drawn]:
    return [line for line in lines if np.hypot(*(line.points - (x, y)).T).min() < within]


def off(made: list[Drawn], meant: Line) -> float:
    """How far from the points of a line the nearest of what was made are at most, but for its ends."""
    every = np.vstack([line.points for line in made])
    return float(np.percentile(cKDTree(every).query(meant.points[10:-10])[0], 98.0))


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_lines_close_together_are_two_if_that_is_said(seed: int) -> None:
    gap, strays = 1.8 * SPREAD, 2.4 * SPREAD
    pair = [curve((150, 300 + d), (400, 240 + d), (700, 300 + d)) for d in (0.0, gap)]
    reading = read([*pair, BESIDE], seed)
    between = tuple(map(tuple, curve((150, 300 + gap / 2), (400, 240 + gap / 2), (700, 300 + gap / 2)).points[::20]))
    assert len(near(meant_lines(reading, strays), 400, 240)) == 1
    two = near(meant_lines(reading, strays, [said(Verdict.TWO, *between)]), 400, 240)
    assert len(two) == 2
    heights = sorted(float(line.points[np.abs(line.points[:, 0] - 400).argmin(), 1]) for line in two)
    assert heights[1] - heights[0] == pytest.approx(gap, abs=0.45 * gap)


def test_lines_further_apart_are_one_if_that_is_said() -> None:
    gap = 4.5 * SPREAD
    reading = read([curve((150, 300 + d), (400, 240 + d), (700, 300 + d)) for d in (0.0, gap)] + [BESIDE])
    assert len(near(meant_lines(reading, SPREAD), 400, 247)) == 2
    path = tuple(map(tuple, curve((140, 300 + gap / 2), (400, 240 + gap / 2), (710, 300 + gap / 2)).points[::15]))
    one = near(meant_lines(reading, SPREAD, [said(Verdict.ONE, *path, width=gap)]), 400, 247)
    assert len(one) == 1
    assert off(one, curve((150, 300 + gap / 2), (400, 240 + gap / 2), (700, 300 + gap / 2))) < SPREAD


def test_strokes_are_what_they_were_said_to_be_and_all_others_what_they_were() -> None:
    reading = read([*leaf(), polygon((120, 700), (760, 690), closed=False)])
    assert not reading.forms
    under = said(Verdict.WORKING, (150, 699.5), (740, 690.3))
    changed = corrected(reading, [under])
    assert [type(form) for form in changed.forms] == [StraightLine]
    assert len(near(meant_lines(reading, SPREAD), 650, 692)) == len(near(meant_lines(changed, SPREAD), 650, 692)) + 1
    assert len(changed.strokes) + len(changed.working) == len(reading.strokes)
    upper = reading.strokes.points[reading.strokes.points[:, 1] < 600]
    np.testing.assert_array_equal(changed.strokes.points[changed.strokes.points[:, 1] < 600], upper)
    # said again to be a line, all is as it was
    back = corrected(reading, [under, said(Verdict.LINE, (150, 699.5), (740, 690.3), width=20.0)])
    assert not back.forms
    assert len(back.strokes) == len(reading.strokes)


@pytest.mark.parametrize(
    ("line", "kind"),
    [
        (ellipse(430, 380, 150, 150), Ellipse),
        (curve((200, 300), (330, 250), (450, 420), (600, 300), (700, 360)), Freehand),
    ],
)
def test_working_lines_said_by_hand_are_round_or_as_they_run(line: Line, kind: type) -> None:
    reading = read([line, BESIDE])
    path = tuple(map(tuple, line.points[::12]))
    changed = corrected(reading, [said(Verdict.WORKING, *path)])
    assert [type(form) for form in changed.forms] == [kind]
    assert not near(meant_lines(changed, SPREAD), *line.points[len(line.points) // 2])


def test_shading_that_was_found_becomes_lines_and_lines_shading() -> None:
    reading = read(leaf(), 3, hatched=True)
    assert reading.patches == 1
    middle = reading.shading.points.mean(axis=0)
    reach = float(np.hypot(*(reading.shading.points - middle).T).max()) + 5.0
    lines = corrected(reading, [said(Verdict.LINE, tuple(middle), tuple(middle + 1.0), width=reach)])
    assert lines.patches == 0
    assert not len(lines.shading)
    stroke = reading.shading.points[len(reading.shading) // 2]
    one = corrected(reading, [said(Verdict.LINE, tuple(stroke))])
    moved = reading.shading.stroke == reading.shading.stroke[len(reading.shading) // 2]
    assert len(one.shading) == len(reading.shading) - int(moved.sum())


def corner_at(lines: list[Drawn], place: tuple[float, float], within: float) -> int:
    return sum(
        bool((np.hypot(*(line.points[list(line.corners)] - place).T) < within).any()) for line in lines if line.corners
    )


def test_joints_are_made_as_they_were_said_to_be() -> None:
    bend = [polygon((200, 200), (430, 210), (440, 480), closed=False), BESIDE]
    reading = read(bend, 7)
    plain = meant_lines(reading, SPREAD)
    assert corner_at(plain, (430, 210), 2 * SPREAD) == 1
    soft = meant_lines(reading, SPREAD, [said(Verdict.ROUND, (430, 210))])
    assert corner_at(soft, (430, 210), 2 * SPREAD) == 0
    assert len(soft) == len(plain)
    apart = meant_lines(reading, SPREAD, [said(Verdict.APART, (430, 210))])
    assert len(apart) == len(plain) + 1

    arc = read([curve((200, 480), (260, 300), (430, 210), (640, 230)), BESIDE], 8)
    assert corner_at(meant_lines(arc, SPREAD), (430, 210), 3 * SPREAD) == 0
    sharp = meant_lines(arc, SPREAD, [said(Verdict.CORNER, (430, 210))])
    assert corner_at(sharp, (430, 210), 2 * SPREAD) == 1
    assert len(near(sharp, 430, 210)) == 1


def test_an_end_goes_on_to_the_line_it_was_said_to_meet_and_stays_if_said_to_be_apart() -> None:
    gap = 9.0 * SPREAD
    lines = [polygon((200, 150), (205, 600), closed=False), polygon((205 + gap, 400), (600, 390), closed=False)]
    reading = read(lines, 4)
    place = (205 + 0.8 * gap, 400.0)

    def left(*given: Said) -> float:
        (one,) = near(meant_lines(reading, SPREAD, given), 500, 393)
        return float(one.points[:, 0].min())

    assert left() > 205 + 0.5 * gap
    assert left(said(Verdict.CORNER, place, width=gap)) == pytest.approx(203, abs=SPREAD)
    touching = read([lines[0], polygon((205, 400), (600, 390), closed=False)], 4)
    reading = touching
    assert left() == pytest.approx(203, abs=SPREAD)
    assert left(said(Verdict.APART, (204, 400))) != left()


def test_a_correction_works_out_only_the_part_it_touches() -> None:
    small = [ellipse(120 + 180 * k, 130, 40, 40) for k in range(4)]
    reading = read([*small, polygon((150, 500), (700, 490), (690, 700)), polygon((200, 320), (640, 330), closed=False)])
    kept = KeptLines()
    first = meant_lines(reading, SPREAD, kept=kept)
    changed = corrected(reading, [said(Verdict.SHADING, (420, 325))])
    assert len(changed.strokes) < len(reading.strokes)
    joints = [said(Verdict.ROUND, (700, 490))]
    second = meant_lines(changed, SPREAD, joints, kept=kept)
    known = {id(line) for line in first}
    # the four rings are the very same objects; the triangle was told of, the line above it lost a stroke
    assert sum(id(line) in known for line in second) == 4
    assert [len(line.points) for line in second] == [len(line.points) for line in meant_lines(changed, SPREAD, joints)]
