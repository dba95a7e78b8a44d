"""Outlines read by HarfBuzz against those fontTools draws itself, and shares of fields against Shapely's areas."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
import shapely
from fontTools.pens.areaPen import AreaPen
from fontTools.pens.boundsPen import BoundsPen
from fontTools.ttLib import TTFont

from sobercrow.core.arrays import cumulated, followers
from sobercrow.core.geometry import bezier
from sobercrow.core.lettering.cubics import cubics_of, opened
from sobercrow.core.lettering.index import FIELDS, Index, read_index
from sobercrow.core.lettering.typefaces import LIBRARY, faces_of

TEXT = "agQR8&é!i"
FILES = sorted(path for path in LIBRARY.iterdir() if path.suffix in (".ttf", ".otf"))


@pytest.mark.parametrize("suffix", [".ttf", ".otf"])
def test_outlines_enclose_and_reach_as_far_as_fonttools_own(suffix: str) -> None:
    face = next(faces_of(path)[0].face for path in FILES if path.suffix == suffix)
    font = TTFont(face.path)
    glyphs, names, em = font.getGlyphSet(), font.getBestCmap(), font["head"].unitsPerEm
    cubics, starts, counts = cubics_of(opened(face), [ord(character) for character in TEXT])
    firsts = starts[cumulated(counts)]
    for character, first, last in zip(TEXT, firsts[:-1], firsts[1:], strict=True):
        own = cubics[first:last]
        area, box = AreaPen(glyphs), BoundsPen(glyphs)
        glyphs[names[ord(character)]].draw(area)
        glyphs[names[ord(character)]].draw(box)
        # y is turned downwards, and with it the way outlines run
        assert bezier.areas(own).sum() == pytest.approx(-area.value / em**2, abs=1e-6)
        left, low, right, high = (value / em for value in box.bounds)
        assert bezier.bounds(own) == pytest.approx((left, -high, right, -low), abs=2e-3)
    for first, last in pairwise(starts):
        ring = cubics[first:last]
        assert ring[:, 3] == pytest.approx(ring[followers(np.array((0, len(ring)))), 0], abs=1e-9)


@pytest.fixture(scope="module")
def index(tmp_path_factory) -> Index:
    return read_index(FILES, tmp_path_factory.mktemp("kept"))


@pytest.mark.parametrize("character", ["a", "R", "8"])
def test_fields_of_the_index_are_the_shares_shapely_finds_covered(index: Index, character: str) -> None:
    for number in (0, len(index.faces) // 2, len(index.faces) - 1):
        rows = slice(*index.starts[number : number + 2].tolist())
        row = int(np.flatnonzero(index.codes[rows] == ord(character))[0])
        cubics, starts, _ = cubics_of(opened(index.faces[number]), [ord(character)])
        rings = [bezier.spaced(cubics[a:b], 1e-3)[0] for a, b in pairwise(starts)]
        area = shapely.Polygon()
        for ring in rings:
            area = area.symmetric_difference(shapely.Polygon(ring).buffer(0.0))
        left, top, right, bottom = index.boxes[rows][row].tolist()
        assert area.bounds == pytest.approx((left, top, right, bottom), abs=1e-3)
        x, y = np.linspace(left, right, FIELDS + 1), np.linspace(top, bottom, FIELDS + 1)
        fields = shapely.box(x[None, :-1], y[:-1, None], x[None, 1:], y[1:, None])
        wanted = shapely.area(shapely.intersection(fields, area)) / shapely.area(fields)
        found = index.fields[rows][row].reshape(FIELDS, FIELDS) / 255.0
        assert np.abs(found - wanted).max() < 0.02
