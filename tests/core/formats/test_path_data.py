"""Path data against svgelements' paths, an independent reader of SVG 2, and the standard's own examples."""

import numpy as np
import pytest
import svgelements
from scipy.spatial import cKDTree

from sobercrow.core.formats.path_data import contours_of, runs_of
from sobercrow.core.geometry.affine import Affine

COUNTS = {"L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7}


def written(seed: int) -> str:
    """Path data of every command, absolute and relative, repeated without its letter, spaced in all ways allowed."""
    random = np.random.default_rng(seed)
    parts = [f"M{random.uniform(-50, 50):.3f}-4.5"]
    last = "M"
    for _ in range(25):
        kind = str(random.choice(list("LHVCSQTAZM")))
        if (kind == "Z" and last in "ZM") or last + kind in ("CT", "ST", "QS", "TS"):
            continue  # the other reader draws a line in a run of a point alone, and mirrors handles of another kind
        last = kind
        if kind in "ZM":
            parts.append("z" if kind == "Z" else f"m {random.uniform(-9, 9):.2e},{random.uniform(-9, 9):.3f}")
            continue
        values = random.uniform(-40, 40, COUNTS[kind] * int(random.integers(1, 3)))
        texts = [f"{value:.4g}" for value in values]
        if kind == "A":
            texts = [
                str(int(value > 0)) if k % 7 in (3, 4) else text
                for k, (value, text) in enumerate(zip(values, texts, strict=True))
            ]
        parts.append(kind if random.random() < 0.5 else kind.lower())
        parts.append(str(random.choice([" ", ",", " , "])).join(texts))
    return "".join(parts)


@pytest.mark.parametrize("seed", range(12))
def test_every_command_draws_what_an_independent_reader_draws(seed: int) -> None:
    data = written(seed)
    theirs = [
        part for part in svgelements.Path(data) if part.start is not None and not isinstance(part, svgelements.Move)
    ]
    points = [part.point(t) for part in theirs for t in np.linspace(0, 1, 40)]
    expected = np.array([(point.x, point.y) for point in points])
    runs = runs_of(data)
    own = np.concatenate([c.sampled(0.02) for c in contours_of(runs, [Affine()] * len(runs))])
    assert (
        cKDTree(own).query(expected)[0].max() < 0.05
    )  # a quarter of an ellipse by one cubic is 0.03 % of its radius off


@pytest.mark.parametrize(
    ("data", "ends"),
    [
        ("M 100 100 L 300 100 L 200 300 z", [(100, 100), (300, 100), (200, 300), (100, 100)]),  # SVG 2, 9.3.3
        ("M10-20.5.5", [(10, -20.5)]),  # numbers need no space between them
        ("M0 0a1 1 0 01.5.5", [(0, 0), (0.5, 0.5)]),  # nor do flags
        ("M0 0L10 10L20", [(0, 0), (10, 10)]),  # SVG 2, 9.5.4: up to the mistake
        ("M0 0L10 10 x L20 20", [(0, 0), (10, 10)]),
        ("L10 10", []),
    ],
)
def test_data_is_read_up_to_the_first_mistake(data: str, ends) -> None:
    curves = [np.array(run.curves).reshape(-1, 4, 2) for run in runs_of(data)]
    places = [tuple(curves[0][0, 0]), *(tuple(curve[3]) for run in curves for curve in run)] if curves else []
    assert np.allclose(np.ravel(places), np.ravel(ends if len(ends) > 1 else []))
