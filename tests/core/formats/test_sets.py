"""Hand-over sets: all files or none, names by a pattern, kept as files and read again."""

from __future__ import annotations

import errno
import io
import json
import os
from pathlib import Path

import pikepdf
import pypdfium2
import pytest
from PIL import Image

from planted import box, disc
from sobercrow.core.artwork.model import Artwork, Layer
from sobercrow.core.errors import Cancelled, ExportError
from sobercrow.core.formats import files, raster
from sobercrow.core.formats.files import write_all
from sobercrow.core.formats.pdf import PdfSettings
from sobercrow.core.formats.sets import (
    SETS,
    HandOverSet,
    Part,
    default_part,
    find_set,
    read_set,
    safe_name,
    set_files,
    write_set,
)
from sobercrow.core.formats.svg import SvgSettings
from sobercrow.core.formats.table import FORMATS
from sobercrow.core.handover.page import Page, Sheet, TrueSize
from sobercrow.core.handover.plates import PlateSettings

ARTWORK = Artwork(
    (Layer("Red", (box(100.0, 80.0, 120.0, 60.0, "#a33e2e"),)), Layer("Blue", (disc(150.0, 80.0, 30.0, "#1d4f79"),))),
    400.0,
    300.0,
    300.0,
)


@pytest.mark.parametrize("one", SETS, ids=lambda one: one.name)
def test_every_set_gives_its_files_and_comes_back_from_a_file(one: HandOverSet, tmp_path: Path) -> None:
    made = set_files(ARTWORK, one, "Kite/badge")
    assert len(made) == len(one.parts) + one.client_page
    assert all(name.startswith("Kite-badge-") for name in made)
    for name, data in made.items():
        if name.endswith(".pdf"):
            assert len(pypdfium2.PdfDocument(data)) >= 1
        elif name.endswith((".png", ".jpg", ".webp")):
            Image.open(io.BytesIO(data)).load()
    write_set(one, tmp_path / "a.sobercrow-set")
    assert read_set(tmp_path / "a.sobercrow-set") == one
    assert find_set(str(tmp_path / "a.sobercrow-set")) == one
    assert find_set(one.name.upper()) is one


def test_plates_are_pages_of_a_pdf_or_files_of_their_inks() -> None:
    sheet = Sheet(TrueSize(width_mm=60.0), Page("artwork"))
    parts = tuple(
        Part("plates", kind, s, sheet, PlateSettings())
        for kind, s in (("pdf", PdfSettings(spots=True)), ("svg", SvgSettings()))
    )
    made = set_files(ARTWORK, HandOverSet("Mine", parts, "{name}-{part}-{width}"), "kite")
    assert list(made) == ["kite-plates-60mm.pdf", "kite-plates-60mm-Red.svg", "kite-plates-60mm-Blue.svg"]
    pages = pikepdf.open(io.BytesIO(made["kite-plates-60mm.pdf"])).pages
    names = [str(next(iter(page.Resources.ColorSpace.values()))[1]) for page in pages]
    assert names == ["/Red", "/Blue"]


def test_sets_that_are_none_are_refused_in_a_sentence(tmp_path: Path) -> None:
    part = default_part("svg")
    with pytest.raises(ExportError, match="would be called"):
        set_files(ARTWORK, HandOverSet("Twice", (part, part)), "kite")
    with pytest.raises(ExportError, match="pattern"):
        HandOverSet("Bad", (part,), "{nobody}")
    with pytest.raises(ExportError, match="there are For the cutter"):
        find_set("for the moon")
    for text in (
        "{}",
        "[1]",
        json.dumps(
            {"format": "sobercrow-set", "version": 1, "name": "x", "pattern": "x", "client_page": 0, "parts": [{}]}
        ),
    ):
        (tmp_path / "bad.sobercrow-set").write_text(text)
        with pytest.raises(ExportError, match="no hand-over set"):
            read_set(tmp_path / "bad.sobercrow-set")
    assert safe_name("../../etc/passwd") == "etc-passwd"


def old(folder: Path) -> dict[Path, bytes]:
    made = {folder / name: f"old {name}".encode() for name in ("a.svg", "b.pdf", "c.png")}
    for path, data in made.items():
        path.write_bytes(data)
    return made


@pytest.mark.parametrize("nth", range(3))
@pytest.mark.parametrize("where", ["write", "link", "replace"])
def test_a_full_disk_at_any_step_leaves_the_old_files(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, where: str, nth: int
) -> None:
    before = old(tmp_path)
    count = 0

    def failing(real):
        def work(*arguments, **named):
            nonlocal count
            count += 1
            if count == nth + 1:
                raise OSError(errno.ENOSPC, "No space left on device")
            return real(*arguments, **named)

        return work

    if where == "replace":
        monkeypatch.setattr(Path, "replace", failing(Path.replace))
    else:
        name = {"write": "fsync", "link": "link"}[where]
        monkeypatch.setattr(files.os, name, failing(getattr(os, name)))
    with pytest.raises(ExportError, match="could not be saved"):
        write_all(dict.fromkeys(before, b"new"))
    monkeypatch.undo()
    assert {path: path.read_bytes() for path in before} == before
    assert sorted(tmp_path.iterdir()) == sorted(before)


def test_a_stop_in_the_middle_of_a_set_leaves_the_old_files(tmp_path: Path) -> None:
    before, asked = old(tmp_path), []

    def go_on() -> None:
        asked.append(1)
        if len(asked) == 3:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        write_all(dict.fromkeys(before, b"new"), go_on)
    assert {path: path.read_bytes() for path in before} == before
    write_all(dict.fromkeys(before, b"new") | {tmp_path / "d.dxf": b"more"})
    assert sorted(path.name for path in tmp_path.iterdir()) == ["a.svg", "b.pdf", "c.png", "d.dxf"]


def test_a_kill_in_the_middle_of_a_set_leaves_every_file_whole(tmp_path: Path) -> None:
    for killed_at in range(5):
        before, asked = old(tmp_path), []

        def go_on(at: int = killed_at, asked: list[int] = asked) -> None:
            asked.append(1)
            if len(asked) > at:
                os._exit(9)

        child = os.fork()
        if child == 0:
            write_all(dict.fromkeys(before, b"new"), go_on)
            os._exit(0)
        _, status = os.waitpid(child, 0)
        kept = {path: path.read_bytes() for path in before}
        assert kept == (before if killed_at < 4 else dict.fromkeys(before, b"new"))
        assert os.waitstatus_to_exitcode(status) == (9 if killed_at < 4 else 0)


def test_estimates_are_near_the_truth() -> None:
    page = Artwork(ARTWORK.layers, 400.0, 300.0, 300.0)
    for kind in FORMATS:
        settings = kind.settings()
        estimate, true = kind.estimate(page, settings), len(kind.write(page, settings))
        assert 0.6 * true < estimate < 1.6 * true, kind.id
        assert not isinstance(settings, raster.RasterSettings) or settings.pixels == 3000.0
