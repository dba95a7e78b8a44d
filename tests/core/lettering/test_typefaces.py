"""Typeface files: what they say of themselves, collections, variable ones, and the folders that were added."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTCollection, TTFont

from sobercrow.core.artwork.model import Shape
from sobercrow.core.artwork.placing import placed_contour
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.lettering import typefaces
from sobercrow.core.lettering.glyphs import Glyphs
from sobercrow.core.lettering.index import read_index
from sobercrow.core.lettering.matching import match
from sobercrow.core.lettering.typefaces import (
    LIBRARY,
    add_folder,
    added_folders,
    all_files,
    axes_of,
    faces_of,
    installed_files,
)


def bar(width: int, footed: bool = False) -> object:
    pen = TTGlyphPen(None)
    box = [(50, 0), (50, 700), (50 + width, 700), (50 + width, 0)]
    for ring in (box, [(450, 100), (450, 200), (750, 200), (750, 100)])[: 2 if footed else 1]:
        for k, place in enumerate(ring):
            (pen.moveTo if k == 0 else pen.lineTo)(place)
        pen.closePath()
    return pen.glyph()


def variable(path: Path, footed: bool = False) -> None:
    """A variable font of one letter, a bar that grows from 100 to 300 units with its weight; two instances.

    A `footed` one has a bar beside it as well, which does not grow.
    """
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder([".notdef", "l"])
    builder.setupCharacterMap({ord("l"): "l"})
    builder.setupGlyf({".notdef": bar(100), "l": bar(100, footed)})
    builder.setupHorizontalMetrics({".notdef": (400, 50), "l": (400, 50)})
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupOS2(fsType=4)
    builder.setupNameTable({"familyName": "Bar", "styleName": "Regular", "licenseDescription": "Anybody may."})
    instances = [
        {"location": {"wght": weight}, "stylename": name} for name, weight in (("Thin", 100.0), ("Thick", 900.0))
    ]
    builder.setupFvar([("wght", 100, 100, 900, "Weight")], instances)
    deltas = {"l": [{"wght": (0.0, 1.0, 1.0)}, [(0, 0), (0, 0), (200, 0), (200, 0), *[(0, 0)] * (8 if footed else 4)]]}
    from fontTools.ttLib.tables.TupleVariation import TupleVariation

    builder.setupGvar({name: [TupleVariation(*one)] for name, one in deltas.items()})
    builder.setupPost()
    builder.save(path)


def test_a_variable_font_has_its_instances_and_they_differ(tmp_path: Path) -> None:
    variable(tmp_path / "bar.ttf")
    thin, thick = (found.face for found in faces_of(tmp_path / "bar.ttf"))
    assert (thin.name, thick.name, thick.axes) == ("Bar Thin", "Bar Thick", (("wght", 900.0),))
    assert (thin.licence, thin.embedding) == ("Anybody may.", "print only")
    wide = []
    for one in (thin, thick):
        (contour,) = Glyphs(one).contours("l")
        left, top, right, bottom = contour.bounds()
        assert (top, bottom) == pytest.approx((-0.7, 0.0))
        wide.append(right - left)
    assert wide == pytest.approx([0.1, 0.3], abs=1e-6)
    index = read_index([tmp_path / "bar.ttf"], tmp_path / "kept")
    boxes = index.boxes[:, 2] - index.boxes[:, 0]
    assert boxes.tolist() == pytest.approx([0.1, 0.3], abs=0.02)


@pytest.mark.parametrize("weight", [300.0, 620.0])
def test_a_variable_font_is_fitted_along_its_axes(tmp_path: Path, weight: float) -> None:
    variable(tmp_path / "bar.ttf", footed=True)
    face = faces_of(tmp_path / "bar.ttf")[0].face
    assert axes_of(face) == [("wght", 100.0, 900.0)]
    drawn = Glyphs(replace(face, axes=(("wght", weight),))).contours("l")
    to = [Affine.scaled(80.0, 80.0, (0.0, 0.0)).then(Affine.moved(100.0 * k, 200.0)) for k in (1, 2, 3)]
    shapes = [Shape(tuple(placed_contour(contour, way) for contour in drawn)) for way in to]
    found = match(shapes, read_index([tmp_path / "bar.ttf"], tmp_path / "kept"), "lll")[0]
    assert dict(found.face.axes)["wght"] == pytest.approx(weight, abs=25.0)
    assert (found.stretch, found.lean_deg) == pytest.approx((1.0, 0.0), abs=0.01)
    assert found.deviation_px < 0.1


def test_a_collection_has_all_its_faces(tmp_path: Path) -> None:
    collection = TTCollection()
    collection.fonts = [TTFont(LIBRARY / "Comfortaa-Bold.ttf"), TTFont(LIBRARY / "LeckerliOne-Regular.ttf")]
    collection.save(tmp_path / "two.ttc")
    found = faces_of(tmp_path / "two.ttc")
    assert [(one.face.family, one.face.number) for one in found] == [("Comfortaa", 0), ("Leckerli One", 1)]
    own = [Glyphs(one.face).advance("a") for one in found]
    alone = [
        Glyphs(faces_of(LIBRARY / name)[0].face).advance("a")
        for name in ("Comfortaa-Bold.ttf", "LeckerliOne-Regular.ttf")
    ]
    assert own == pytest.approx(alone)


@pytest.mark.parametrize(("rights", "told"), [(0, "may embed"), (2, "no embedding"), (8, "may be edited")])
def test_what_a_file_allows_is_told(tmp_path: Path, rights: int, told: str) -> None:
    """OpenType, OS/2: fsType."""
    font = TTFont(LIBRARY / "Dosis-Medium.otf")
    font["OS/2"].fsType = rights
    font.save(tmp_path / "dosis.otf")
    assert faces_of(tmp_path / "dosis.otf")[0].face.embedding == told


def test_too_large_a_file_is_refused_unread(tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setattr(typefaces, "LARGEST_BYTES", 1000)
    with pytest.raises(LetteringError, match="too large"):
        faces_of(LIBRARY / "Dosis-Medium.otf")
    assert read_index([tmp_path / "gone.ttf"], tmp_path / "kept").refused == ("gone.ttf is not there any more.",)


def test_added_folders_are_kept_and_those_that_are_gone_left_out(tmp_path: Path) -> None:
    kept, fonts = tmp_path / "data" / "folders.txt", tmp_path / "fonts"
    assert added_folders(kept) == []
    (fonts / "deep").mkdir(parents=True)
    (fonts / "deep" / "a.otf").write_bytes((LIBRARY / "Dosis-Medium.otf").read_bytes())
    (fonts / "notes.txt").write_text("no typeface")
    add_folder(kept, fonts)
    add_folder(kept, fonts)
    assert added_folders(kept) == [fonts]
    files = all_files([fonts], installed=False)
    assert (fonts / "deep" / "a.otf") in files
    assert all(path.suffix in typefaces.SUFFIXES for path in files)
    kept.write_text(f"{fonts}\n{tmp_path / 'gone'}\n")
    assert added_folders(kept) == [fonts]


def test_without_fontconfig_the_usual_folders_are_looked_through(tmp_path: Path, monkeypatch) -> None:
    (tmp_path / "one.ttf").write_bytes(b"")
    monkeypatch.setattr(typefaces, "USUAL_FOLDERS", (tmp_path,))
    monkeypatch.setenv("PATH", str(tmp_path))
    assert installed_files() == [tmp_path / "one.ttf"]
