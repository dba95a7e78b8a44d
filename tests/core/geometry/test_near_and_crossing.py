"""Places near each other against SciPy's k-d tree, and contours that cross themselves against Shapely."""

import numpy as np
import pytest
import shapely
from scipy.spatial import cKDTree

from drawings import glyph_contours
from sobercrow.core.geometry._near_kernels import near_pairs
from sobercrow.core.geometry.bezier import evaluate
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.crossings import own_crossings


@pytest.mark.parametrize(("count", "reach"), [(2, 50.0), (700, 4.0), (3000, 30.0)])
def test_pairs_are_those_of_a_tree_less_neighbours_along_a_line(count: int, reach: float) -> None:
    random = np.random.default_rng(count)
    places = random.uniform(-200.0, 300.0, (count, 2))
    kinds, lines = random.integers(0, 2, count), random.integers(0, 5, count)
    along, around = random.uniform(0.0, 100.0, count), np.array([100.0, np.inf, 120.0, np.inf, 100.0])
    one, other = cKDTree(places).query_pairs(reach, output_type="ndarray").T
    way = np.abs(along[one] - along[other])
    way = np.minimum(way, around[lines[one]] - way)
    far = np.hypot(*(places[one] - places[other]).T)
    kept = (kinds[one] == kinds[other]) & ((lines[one] != lines[other]) | (way > 1.5 * far + 1e-9))
    found = near_pairs(places, kinds, lines, along, around, reach, 1.5)
    assert set(map(tuple, found.tolist())) == set(zip(one[kept].tolist(), other[kept].tolist(), strict=True))
    assert len(found) == kept.sum()


def test_polygons_that_cross_themselves_are_those_shapely_calls_not_simple() -> None:
    random = np.random.default_rng(4)
    rings = [random.uniform(0.0, 100.0, (int(random.integers(3, 9)), 2)) for _ in range(400)]
    contours = [
        Contour(np.repeat(ring[:, None], 3, axis=1), np.full(len(ring), int(AnchorKind.CORNER), np.uint8))
        for ring in rings
    ]
    found = own_crossings(contours)
    wanted = np.array([not shapely.LinearRing(ring).is_simple for ring in rings])
    assert 0.2 < wanted.mean() < 0.9
    assert ((found[:, 0] >= 0.0) == wanted).all()
    for contour, (i, t, j, u) in zip(contours, found, strict=True):
        if i >= 0.0:
            curves = contour.curves()
            there, again = (evaluate(curves[int(k)], np.array([at]))[0] for k, at in ((i, t), (j, u)))
            assert there == pytest.approx(again, abs=0.5)


def test_letters_cross_nowhere_and_a_loop_does() -> None:
    letters = [contour for character in "ag8&S" for contour in glyph_contours(character, 80.0)]
    assert (own_crossings(letters)[:, 0] == -1.0).all()
    loop = Contour(
        np.array([[[0, 0], [0, 0], [90, 60]], [[-50, 60], [40, 0], [40, 0]]], float), np.zeros(2, np.uint8), False
    )
    (place,) = own_crossings([loop])
    assert place[0] == place[2] == 0.0
    assert 0.0 < place[1] < place[3] < 1.0
