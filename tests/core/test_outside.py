"""The gate for what comes from outside; the causes are the smallest that damaged files were found to have."""

from __future__ import annotations

import contextlib
import io
import json
import math
import zipfile
from dataclasses import asdict, replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from drawings import artwork_of as drawn
from drawings import circle
from sobercrow.core.errors import (
    Cancelled,
    ExportError,
    PaletteError,
    PictureError,
    ProjectError,
    RecipeError,
    SettingError,
    SoberCrowError,
)
from sobercrow.core.formats.palette import read_palette
from sobercrow.core.formats.pdf import pdf_bytes
from sobercrow.core.formats.plain import artwork_of, plain_artwork
from sobercrow.core.formats.project import read_project
from sobercrow.core.formats.recipes import read_recipe
from sobercrow.core.formats.sets import read_set
from sobercrow.core.formats.svg_in import SvgError, parse_svg
from sobercrow.core.lettering.index import _kept
from sobercrow.core.outside import coordinates, json_of, number, reading, whole
from sobercrow.core.picture.decode import MOST_SIDE_PX, decode_picture, read_bytes
from sobercrow.core.picture.pdf import page_sizes
from sobercrow.core.settings import CleanUp, Settings

DEEP = "[" * 100_000 + "]" * 100_000


@pytest.mark.parametrize("value", [math.nan, math.inf, -math.inf, 1e7, 10**400, "x", None, [], {}])
def test_numbers_lie_in_their_range(value: object) -> None:
    for take in (number, lambda v: whole(v, 0, 100), lambda v: coordinates([[v, 1.0]])):
        with pytest.raises((ValueError, TypeError, OverflowError)):
            take(value)


def test_what_is_right_goes_through() -> None:
    assert (number("2.5"), whole(3.0, 0, 5)) == (2.5, 3)
    assert np.array_equal(coordinates([[1, 2]]), [[1.0, 2.0]])
    assert json_of(b'\xef\xbb\xbf{"a": [1e3]}') == {"a": [1000.0]}


@pytest.mark.parametrize("text", ["NaN", '{"a": Infinity}', DEEP, "[1" * 3, b"\xff\xfe"])
def test_plain_values_are_as_published(text: str | bytes) -> None:
    # RFC 8259 knows neither NaN nor infinity
    with pytest.raises(ValueError, match=r"\w"):
        json_of(text)
    with pytest.raises(ValueError, match="too long"):
        json_of("[1, 2, 3]", most_bytes=8)


@pytest.mark.parametrize(
    "fault", [OverflowError(), MemoryError(), RecursionError(), zipfile.BadZipFile(), KeyError("a")]
)
def test_whatever_goes_wrong_in_a_reader_is_its_own_error(fault: Exception) -> None:
    with pytest.raises(ProjectError, match=r"^It is damaged.$") as told, reading(ProjectError, "It is damaged."):
        raise fault
    assert told.value.__cause__ is fault


def test_what_a_reader_says_itself_and_interrupts_go_through() -> None:
    for own in (ProjectError("Newer."), Cancelled("Stopped."), KeyboardInterrupt()):
        with pytest.raises(type(own)) as told, reading(ProjectError, "It is damaged."):
            raise own
        assert told.value is own


def of_recipe(**changed: object) -> str:
    return json.dumps({"format": "sobercrow-recipe", "version": 1, "name": "n", "use": "", **changed})


WRONG = ['{"format": "sobercrow-FORMAT", "version": 1e999}', '{"format": "sobercrow-FORMAT"}', DEEP, "[]", "\x00", "{"]


@pytest.mark.parametrize("text", WRONG)
@pytest.mark.parametrize(
    ("read", "kind", "error"),
    [(read_recipe, "recipe", RecipeError), (read_set, "set", ExportError), (read_palette, "inks", PaletteError)],
)
def test_small_files_end_in_one_sentence(
    tmp_path: Path, text: str, read, kind: str, error: type[SoberCrowError]
) -> None:
    path = tmp_path / "file"
    path.write_text(text.replace("FORMAT", kind))
    with pytest.raises(error, match=r"^[^\n]*“file”[^\n]*\.$"):
        read(path)


def project(path: Path, head: dict[str, object], **parts: str) -> Path:
    """A project file with what is to be wrong in it."""
    usual = {"format": "sobercrow-project", "version": 8, "source": "a.png", "settings": asdict(Settings())}
    with zipfile.ZipFile(path, "w", zipfile.ZIP_BZIP2) as archive:
        archive.writestr("project.json", json.dumps({**usual, **head}))
        archive.writestr("source/picture", b"x")
        for name, text in parts.items():
            archive.writestr(f"{name}.json", text)
    return path


def artwork(**changed: object) -> str:
    return json.dumps({**plain_artwork(drawn(circle(10.0, 10.0, 5.0))), **changed})


def contour(points: list[object], closed: bool = True) -> str:
    plain = plain_artwork(drawn(circle(10.0, 10.0, 5.0)))
    plain["layers"][0]["items"][0]["contours"] = [{"points": points, "kinds": [0] * len(points), "closed": closed}]
    return json.dumps(plain)


@pytest.mark.parametrize(
    ("head", "parts"),
    [
        ({"version": math.inf}, {}),
        ({"version": 10**400}, {}),
        ({"settings": {**asdict(Settings()), "inks": {"palette": [["#000000"]]}}}, {}),
        ({"settings": {**asdict(Settings()), "tracing": {"detail": None}}}, {}),
        ({"settings": {**asdict(Settings()), "clean_up": {"off": [["crop"]]}}}, {}),
        ({"guides": [{"lies": "level", "at": math.nan}]}, {}),
        ({}, {"refined": artwork(dpi=0)}),
        ({}, {"refined": artwork(width_px=-5.0)}),
        ({}, {"refined": artwork(height_px=1e12)}),
        ({}, {"refined": contour([[[1e9, 0]] * 3] * 3)}),
        ({}, {"refined": contour([[[1.0, 2.0]] * 3], closed=False)}),
        ({}, {"handwork": DEEP}),
        ({}, {"proofs": '[{"settings": 1}]'}),
    ],
)
def test_damaged_projects_end_in_one_sentence(tmp_path: Path, head: dict, parts: dict) -> None:
    assert read_project(project(tmp_path / "whole", {})).source == b"x"
    with pytest.raises(ProjectError, match=r"^“p” is damaged and cannot be opened; use an older copy of it.$"):
        read_project(project(tmp_path / "p", head, **parts))


def test_a_project_whose_packed_bytes_are_damaged_ends_in_one_sentence(tmp_path: Path) -> None:
    whole_file = project(tmp_path / "p", {}).read_bytes()
    for at in range(40, len(whole_file), 7):
        path = tmp_path / "q"
        path.write_bytes(whole_file[:at] + bytes([whole_file[at] ^ 0x55]) + whole_file[at + 1 :])
        with contextlib.suppress(ProjectError):  # any other error fails
            read_project(path)


def test_artwork_that_is_whole_comes_back() -> None:
    assert artwork_of(json.loads(artwork())).shapes


@pytest.mark.parametrize(
    "inner",
    [
        '<path d="M0 0 L1e12 5 L3 3 Z"/>',
        '<rect width="1e999" height="3"/>',
        '<path transform="matrix(1 2)" d="M0 0 L5 5 L0 5Z"/>',
        '<path d="M0 0 C 1"/>',
        '<circle r="4" fill="rgb(nan,1,2)"/>',
        '<g transform="scale(1e200)"><g transform="scale(1e200)"><circle r="4"/></g></g>',
    ],
)
def test_svg_ends_in_a_value_within_bounds_or_in_one_sentence(inner: str) -> None:
    text = f'<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10">{inner}</svg>'
    with contextlib.suppress(SvgError):  # any other error fails
        for item in parse_svg(text.encode(), "a.svg", 96.0).items:
            coordinates([contour.points for contour in item.contours])


@pytest.mark.parametrize("head", ["<?xml version='1.0' encoding='none-such'?>", "<?xml version='9'?>", ""])
def test_svg_whose_text_cannot_be_read_is_told_as_damaged(head: str) -> None:
    with pytest.raises(SvgError, match="damaged or no SVG file"):
        parse_svg(f"{head}<svg><g></svg>".encode(), "a.svg", 96.0)


def test_pages_too_small_for_a_pdf_are_told() -> None:
    small = replace(drawn(circle(1.0, 1.0, 1.0)), width_px=2.0, height_px=2.0, dpi=96.0)
    with pytest.raises(ExportError, match=r"from 1\.1 mm"):
        pdf_bytes(small)


def test_strips_and_files_too_large_are_refused_before_they_are_unpacked(tmp_path: Path) -> None:
    memory = io.BytesIO()
    Image.new("1", (1, MOST_SIDE_PX + 1)).save(memory, "PNG")
    with pytest.raises(PictureError, match="too long a strip"):
        decode_picture(memory.getvalue(), "strip.png")
    large = tmp_path / "large.png"
    with large.open("wb") as stream:
        stream.truncate((1 << 29) + 1)
    for path, told in ((large, "larger than 512 MB"), (Path("a\0b"), "could not be read")):
        with pytest.raises(PictureError, match=told):
            read_bytes(path)


def test_a_damaged_pdf_ends_in_one_sentence() -> None:
    with pytest.raises(PictureError, match=r"^“a.pdf” .*export it again.$"):
        page_sizes(b"%PDF-1.4\n1 0 obj\n<</Type/Catalog/Pages 2 0 R>>", "a.pdf")


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04", b"x" * 100])
def test_a_damaged_index_of_typefaces_is_none(tmp_path: Path, data: bytes) -> None:
    path = tmp_path / "kept.npz"
    path.write_bytes(data)
    assert _kept(path) is None


@pytest.mark.parametrize("wrong", [{"off": "crop"}, {"mirrored": 1.5}, {"compression": "yes"}, {"quarter_turns": True}])
def test_settings_refuse_values_of_another_type(wrong: dict) -> None:
    with pytest.raises(SettingError, match="cannot be"):
        CleanUp(**wrong)
