from __future__ import annotations

import io
import json
import re
import zipfile
from dataclasses import asdict, replace
from pathlib import Path

import numpy as np
import pytest
import resvg_py
import svgelements
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree
from PIL import Image

from drawings import lettering
from sobercrow.core.artwork.edits import delete_shapes, fill_shapes
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import ExportError, ProjectError
from sobercrow.core.formats.numbers import number, numbers
from sobercrow.core.formats.project import VERSION, Project, read_project, write_project
from sobercrow.core.formats.svg import svg_bytes, write_svg
from sobercrow.core.settings import (
    CleanUp,
    Corners,
    Crop,
    GreyMix,
    Ink,
    InkForm,
    InkKind,
    Inks,
    InkTool,
    InkTouchUp,
    Levels,
    Mixing,
    PictureKind,
    Role,
    Settings,
    TouchForm,
    TouchTool,
    TouchUp,
    Tracing,
)


def test_svg_is_plain_and_of_true_size(artwork: Artwork) -> None:
    root = etree.fromstring(svg_bytes(artwork))
    assert root.get("width") == f"{number(artwork.width_px * 25.4 / 300)}mm"
    assert root.get("viewBox") == f"0 0 {artwork.width_px:.0f} {artwork.height_px:.0f}"
    paths = root.findall(".//{http://www.w3.org/2000/svg}path")
    assert len(paths) == len(artwork.shapes)
    assert all(set(p.attrib) == {"d", "fill", "fill-rule"} for p in paths)
    assert {etree.QName(e).localname for e in root.iter()} == {"svg", "g", "path"}
    assert all(len(n.split(".")[1]) <= 3 for p in paths for n in re.findall(r"\d+\.\d+", p.get("d")))


def test_svg_rendered_by_resvg_gives_back_the_picture(artwork: Artwork) -> None:
    # the size in mm at 300 dpi is the size in pixels again, so one pixel of the rendering is one of the picture
    data = resvg_py.svg_to_bytes(svg_string=svg_bytes(artwork).decode(), background="#ffffff", dpi=300.0)
    rendered = np.asarray(Image.open(io.BytesIO(bytes(data))).convert("L")).astype(float)
    source = lettering("Rope").astype(float)
    assert rendered.shape == source.shape
    assert np.abs(rendered - source).mean() < 1.0
    assert (np.abs(rendered - source) > 100).mean() < 1e-3


def test_svg_read_back_by_svgelements_has_the_same_shapes(artwork: Artwork, tmp_path: Path) -> None:
    path = tmp_path / "rope.svg"
    write_svg(fill_shapes(artwork, {1}, "#a33e2e"), path)
    read = svgelements.SVG.parse(str(path), ppi=300)
    paths = [e for e in read.elements() if isinstance(e, svgelements.Path)]
    for element, shape in zip(paths, artwork.shapes, strict=True):
        assert element.bbox() == pytest.approx(shape.bounds(), abs=0.01)
    assert [p.fill.hex for p in paths] == ["#000000", "#a33e2e", "#000000", "#000000"]


@given(st.floats(-1e6, 1e6))
def test_numbers_are_short_and_near(value: float) -> None:
    text = number(value)
    assert abs(float(text) - value) <= 0.0005001
    assert "e" not in text
    assert text != "-0"
    assert not ("." in text and text.endswith("0"))


@given(st.lists(st.floats(-1e6, 1e6), max_size=5), st.integers(1, 9))
def test_many_numbers_at_once_are_as_one_by_one(values: list[float], decimals: int) -> None:
    assert numbers(values, decimals) == [number(value, decimals) for value in values]


def test_nothing_is_not_saved_and_a_bad_place_is_told(artwork: Artwork, tmp_path: Path) -> None:
    with pytest.raises(ExportError, match="no artwork"):
        write_svg(delete_shapes(artwork, range(4)).artwork, tmp_path / "a.svg")
    with pytest.raises(ExportError, match="folder does not exist"):
        write_svg(artwork, tmp_path / "gone" / "a.svg")
    assert list(tmp_path.iterdir()) == []


SETTINGS = Settings(
    clean_up=CleanUp(
        slant=Corners((1.5, 2.0), (90.0, 3.0), (88.0, 70.0), (2.0, 71.0)),
        quarter_turns=1,
        mirrored=True,
        angle_deg=-2.5,
        crop=Crop(3, 4, 60, 70),
        light=40.0,
        mix=GreyMix(50, 30, 20),
        levels=Levels(12, 1.25, 240),
        touch_ups=(TouchUp(TouchTool.NIB, TouchForm.LINE, ((3.0, 4.5), (9.0, 8.0)), 3.0, "#a33e2e"),),
        off=("crop", "light"),
    ),
    inks=Inks(
        InkKind.SEVERAL,
        palette=(Ink("#a33e2e", "Rust", Role.PAPER, True, ("#a33e2e", "#b04a3a")), Ink("#101010")),
        count=3,
        mixing=Mixing.LINEAR,
        touch_ups=(InkTouchUp(InkTool.RING, InkForm.POLYGON, ((1.0, 2.0), (9.0, 2.0), (5.0, 8.0)), ("#101010",)),),
    ),
    tracing=Tracing(33.0, 0.4, 50.0, 12.0),
)


def saved(path: Path, artwork: Artwork, refined: bool = True) -> Project:
    project = Project(b"picture bytes", "rope.png", SETTINGS, artwork if refined else None)
    write_project(project, artwork, path)
    return project


@pytest.mark.parametrize("refined", [True, False])
def test_a_project_comes_back_as_it_was(artwork: Artwork, tmp_path: Path, refined: bool) -> None:
    path = tmp_path / "a.sobercrow"
    project = saved(path, artwork, refined)
    assert read_project(path) == project
    with zipfile.ZipFile(path) as archive:
        assert archive.read("source/picture") == b"picture bytes"
        assert etree.fromstring(archive.read("artwork.svg")).get("width").endswith("mm")


@given(st.integers(0, 3), st.floats(0.1, 10), st.integers(0, 254), st.floats(0, 100), st.none() | st.floats(0.05, 5))
def test_settings_come_back_from_json_as_they_were(turns, midtone, threshold, detail, tolerance) -> None:
    settings = Settings(
        clean_up=CleanUp(quarter_turns=turns, levels=Levels(0, midtone, 255)),
        inks=Inks(threshold=threshold),
        tracing=Tracing(detail, tolerance),
    )
    assert Settings.from_plain(json.loads(json.dumps(asdict(settings)))) == settings


def _rewrite(path: Path, name: str, content: bytes) -> None:
    with zipfile.ZipFile(path) as archive:
        parts = {n: archive.read(n) for n in archive.namelist()}
    parts[name] = content
    with zipfile.ZipFile(path, "w") as archive:
        for part, data in parts.items():
            archive.writestr(part, data)


DAMAGE = {
    "cut off": lambda path: path.write_bytes(path.read_bytes()[:700]),
    "no zip": lambda path: path.write_bytes(b"kite kite kite"),
    "empty": lambda path: path.write_bytes(b""),
    "another format": lambda path: _rewrite(path, "project.json", b'{"format": "other"}'),
    "no settings": lambda path: _rewrite(path, "project.json", b'{"format": "sobercrow-project", "version": 1}'),
    "wrong artwork": lambda path: _rewrite(path, "refined.json", b'{"layers": [{"name": 3, "shapes": [{}]}]}'),
    "newer": lambda path: _rewrite(path, "project.json", b'{"format": "sobercrow-project", "version": 99}'),
}


@pytest.mark.parametrize("damage", DAMAGE)
def test_damaged_projects_get_one_sentence(artwork: Artwork, tmp_path: Path, damage: str) -> None:
    path = tmp_path / "a.sobercrow"
    saved(path, artwork)
    DAMAGE[damage](path)
    with pytest.raises(ProjectError, match=r"^“a\.sobercrow” .*\.$"):
        read_project(path)


def test_a_failed_save_leaves_the_older_file_whole(artwork: Artwork, tmp_path: Path, monkeypatch) -> None:
    path = tmp_path / "a.sobercrow"
    saved(path, artwork)
    before = path.read_bytes()

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("os.fsync", full)
    with pytest.raises(ProjectError, match="could not be saved"):
        saved(path, replace(artwork, dpi=600))
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir()] == ["a.sobercrow"]


def test_a_project_of_the_first_version_opens_with_its_picture_cleaned_as_it_was_then(tmp_path: Path) -> None:
    path = tmp_path / "old.sobercrow"
    write_project(Project(b"picture", "scan.png", Settings(), None), None, path)
    with zipfile.ZipFile(path) as archive:
        head = json.loads(archive.read("project.json"))
    assert head["version"] == VERSION
    head["version"] = 1
    head["settings"]["tracing"] = {"detail": 50.0, "tolerance_px": None}
    head["settings"]["inks"] = {"threshold": None}
    head["settings"]["clean_up"] = {"quarter_turns": 3, "crop": None, "levels": {"black": 5, "midtone": 1, "white": 99}}
    _rewrite(path, "project.json", json.dumps(head).encode())
    settings = read_project(path).settings
    clean_up = settings.clean_up
    assert settings.inks.kind is InkKind.ONE
    assert (clean_up.quarter_turns, clean_up.levels) == (3, Levels(5, 1, 99))
    assert (clean_up.light, clean_up.smooth, clean_up.enlarge) == (0.0, 0.0, 1)
    assert clean_up.kind is PictureKind.SCAN  # a digital graphic was stretched then, and still is
    assert Settings.from_plain(asdict(Settings(clean_up=clean_up))).clean_up.kind is PictureKind.SCAN
    assert settings.tracing == Tracing(50.0, true_shapes=False)
