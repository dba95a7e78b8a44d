"""Strokes of about one width are equally wide, parts nearly in line share an axis: where the tones agree, and told."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from drawings import separation
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Mirror, Related, Relation
from sobercrow.core.inks.separation import Separation
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.outlines import Trace, trace
from sobercrow.core.tracing.true_shapes import size_of

WIDTH, HEIGHT = 140, 110


def noisy(parts: list[np.ndarray], seed: int, noise: float) -> Separation:
    """Ink in several polygons (n, 2), drawn 16 times as large by OpenCV and averaged, a little blurred, with grain."""
    large = np.full((16 * HEIGHT, 16 * WIDTH), 255, dtype=np.uint8)
    for corners in parts:
        cv2.fillPoly(large, [np.rint(16.0 * corners - 0.5).astype(np.int32)], 0)
    grey = cv2.GaussianBlur(cv2.resize(large, (WIDTH, HEIGHT), interpolation=cv2.INTER_AREA), (0, 0), 0.8)
    grain = np.random.default_rng(seed).normal(0.0, noise, grey.shape)
    return separation(np.clip(grey + grain, 0, 255).astype(np.uint8))


def comb(stem: float, arms: tuple[float, float, float]) -> np.ndarray:
    """A stem with three arms of different widths."""
    right, inner = 80.3, 20.2 + stem
    corners = [(20.2, 15.1), (right, 15.1)]
    for k, (top, arm) in enumerate(zip((15.1, 47.4, 80.2), arms, strict=True)):
        corners += [(right, top)] * (k > 0) + [(right, top + arm)]
        corners += [(inner, top + arm), (inner, (47.4, 80.2)[k])] if k < 2 else [(20.2, top + arm)]
    return np.array(corners)


def round_part(x: float, y: float, r: float) -> np.ndarray:
    turn = np.linspace(0.0, 2.0 * np.pi, 200, endpoint=False)
    return np.stack([x + r * np.cos(turn), y + r * np.sin(turn)], axis=1)


def widths(contour: Contour) -> dict[str, float]:
    """The widths of a comb's arms and its stem, from its twelve corners."""
    x, y = np.sort(contour.anchors[:, 0]), np.sort(contour.anchors[:, 1])
    rows, columns = y.reshape(6, 2).mean(axis=1), (x[:2].mean(), x[2:6].mean())
    return {"stem": columns[1] - columns[0], **{f"arm {k}": rows[2 * k + 1] - rows[2 * k] for k in range(3)}}


def of_relation(made: Trace, relation: Relation) -> list[Related]:
    return [f.form for f in made.forms if isinstance(f.form, Related) and f.form.relation is relation]


@pytest.mark.parametrize(("seed", "noise"), [(1, 2.0), (2, 6.0), (3, 10.0)])
def test_strokes_of_one_width_are_equally_wide(seed: int, noise: float) -> None:
    drawn = noisy([comb(8.0, (8.0, 8.0, 8.0))], seed, noise)
    made = trace(drawn, Tracing(speck_px2=9.0))
    ((contour,),) = (shape.contours for shape in made.artwork.shapes)
    found = list(widths(contour).values())
    assert np.ptp(found) < 1e-6
    assert found[0] == pytest.approx(8.0, abs=0.15)
    (told,) = of_relation(made, Relation.STROKES)
    assert told.count >= 4
    refused = trace(drawn, Tracing(speck_px2=9.0, refused=((told.x, told.y, size_of(told)),)))
    assert np.ptp(list(widths(refused.artwork.shapes[0].contours[0]).values())) > 1e-3


def test_a_stroke_that_is_thinner_stays_so() -> None:
    made = trace(noisy([comb(8.0, (7.0, 8.0, 7.0))], 5, 3.0), Tracing())
    found = widths(made.artwork.shapes[0].contours[0])
    assert found["arm 0"] == pytest.approx(found["arm 2"], abs=1e-6)
    assert found["stem"] == pytest.approx(found["arm 1"], abs=1e-6)
    assert found["stem"] - found["arm 0"] == pytest.approx(1.0, abs=0.12)


def test_parts_nearly_in_line_share_their_axis_and_others_do_not() -> None:
    """A kite with a dot below it, a tenth of a pixel off its axis, and one beside it, a whole pixel."""
    kite = np.array([(50.0, 10.0), (66.0, 30.0), (50.0, 60.0), (34.0, 30.0)])
    drawn = noisy([kite, round_part(50.08, 75.0, 6.0), round_part(51.1, 94.0, 7.0)], 9, 3.0)
    made = trace(drawn, Tracing())
    axis = next(f.form for f in made.forms if isinstance(f.form, Mirror))
    dots = [c.form for shape in made.artwork.shapes for c in shape.contours if isinstance(c.form, Ellipse)]
    near, far = sorted(dots, key=lambda dot: dot.y)
    kites = [shape.contours[0] for shape in made.artwork.shapes if shape.contours[0].form is None]
    middle = kites[0].anchors[:, 0].mean()
    assert axis.x == pytest.approx(50.0, abs=0.1)
    assert near.x == pytest.approx(middle, abs=1e-6)
    assert far.x == pytest.approx(51.1, abs=0.1)
    assert [told.count for told in of_relation(made, Relation.AXIS)] == [2]
    assert not of_relation(trace(drawn, Tracing(true_shapes=False)), Relation.AXIS)
