"""What the package brings, checked against the files it is about and the standards of the desktop."""

from __future__ import annotations

import configparser
import gzip
import io
import xml.etree.ElementTree as ET
from pathlib import Path

import click
import numpy as np
import pytest
from changelog import debian_changelog, releases, releases_xml
from manuals import write_pages
from PIL import Image

from sobercrow import __version__
from sobercrow.cli import COMMANDS, COMPLETE
from sobercrow.completion import Commands, complete
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import SoberCrowError
from sobercrow.core.first_sight import first_settings
from sobercrow.core.formats.project import MEDIA_TYPE, Project, write_project
from sobercrow.core.formats.recipes import write_recipe
from sobercrow.core.formats.sets import SETS, write_set
from sobercrow.core.formats.thumbnail import project_thumbnail
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import read_picture
from sobercrow.core.settings import Settings
from sobercrow.core.settings.recipes import RECIPES
from sobercrow.demo.make import PICTURES

ROOT = Path(__file__).parents[1]
INSTALLER = ROOT / "installer"
MIME = "{http://www.freedesktop.org/standards/shared-mime-info}"


@pytest.fixture(scope="module")
def badge() -> Artwork:
    job = Job(read_picture(PICTURES / "badge-200.jpg"))
    return job.run(first_settings(job)).artwork


def badge_project(path: Path, artwork: Artwork | None) -> Path:
    source = PICTURES / "badge-200.jpg"
    write_project(Project(source.read_bytes(), source.name, Settings(), None), artwork, path)
    return path


def matches(match: ET.Element, data: bytes) -> bool:
    """Whether data fits a magic of shared-mime-info 2.2, by its offsets and what stands within."""
    value = match.attrib["value"].encode().decode("unicode_escape").encode("latin-1")
    first, _, last = match.attrib["offset"].partition(":")
    found = any(data[at:].startswith(value) for at in range(int(first), int(last or first) + 1))
    within = match.findall(f"{MIME}match")
    return found and (not within or any(matches(one, data) for one in within))


def test_files_of_ours_are_known_by_what_is_in_them(tmp_path: Path, badge: Artwork) -> None:
    write_recipe(RECIPES[0], tmp_path / "a.recipe")
    write_set(SETS[0], tmp_path / "a.sobercrow-set")
    badge_project(tmp_path / "a.sobercrow", badge)
    entry = configparser.ConfigParser(interpolation=None)
    entry.read(INSTALLER / "sober-crow.desktop")
    opened = entry["Desktop Entry"]["MimeType"].split(";")
    kinds = ET.parse(INSTALLER / "sober-crow.xml").getroot().findall(f"{MIME}mime-type")
    assert len(kinds) == 3
    for kind in kinds:
        glob, match = kind.find(f"{MIME}glob"), kind.find(f"{MIME}magic/{MIME}match")
        assert glob is not None
        assert match is not None
        told = [path.suffix for path in sorted(tmp_path.iterdir()) if matches(match, path.read_bytes())]
        assert told == [glob.attrib["pattern"].removeprefix("*")]
        assert kind.attrib["type"] in opened
    assert MEDIA_TYPE in opened


def test_a_project_has_a_small_picture_of_its_artwork_or_else_of_its_source(tmp_path: Path, badge: Artwork) -> None:
    traced = Image.open(io.BytesIO(project_thumbnail(badge_project(tmp_path / "a.sobercrow", badge), 64)))
    assert max(traced.size) == 64
    source = Image.open(PICTURES / "badge-200.jpg").convert("RGB").resize(traced.size, Image.Resampling.LANCZOS)
    assert np.abs(np.asarray(traced, float) - np.asarray(source, float)).mean() < 12.0
    untraced = Image.open(io.BytesIO(project_thumbnail(badge_project(tmp_path / "b.sobercrow", None), 64)))
    assert np.abs(np.asarray(untraced, float) - np.asarray(source, float)).mean() < 6.0
    other = tmp_path / "c.sobercrow"
    other.write_bytes(b"PK\x03\x04 nothing of ours")
    with pytest.raises(SoberCrowError, match=r"“c\.sobercrow” is no Sober Crow project"):
        project_thumbnail(other, 64)


def test_the_change_log_tells_of_this_version() -> None:
    text = (ROOT / "CHANGELOG.md").read_text()
    newest = next(releases(text))
    assert newest.version == __version__
    assert newest.changes
    told = debian_changelog(text)
    assert told.startswith(f"sober-crow ({__version__}) ")
    changes = [line for line in told.splitlines() if line.startswith("  ")]
    assert max(map(len, changes)) <= 80  # what lintian asks for
    assert [one.attrib["version"] for one in ET.fromstring(f"<r>{releases_xml(text)}</r>")] == [
        one.version for one in releases(text)
    ]


def test_every_option_of_every_command_is_in_its_manual(tmp_path: Path) -> None:
    write_pages(tmp_path)
    group = Commands("sober-crow")
    pages = {path.name: gzip.decompress(path.read_bytes()).decode() for path in tmp_path.rglob("*.gz")}
    assert len(pages) == len(COMMANDS) + 2
    assert ".SH Vinyl cutter" in pages["sober-crow-guide.7.gz"]
    for name in COMMANDS:
        command = group.get_command(click.Context(group), name)
        assert command is not None
        page = pages[f"sober-crow-{name}.1.gz"].replace("\\-", "-")
        for parameter in command.params:
            if isinstance(parameter, click.Option) and not parameter.hidden:
                assert all(option in page for option in parameter.opts), parameter.opts


@pytest.mark.parametrize(
    ("line", "word", "offered"),
    [
        ("sober-crow th", 1, "thumbnail"),
        ("sober-crow trace --working", 2, "--working-lines"),
        ("sober-crow trace --kind one", 3, "one-line"),
        ("sober-crow kite.p", 1, "file,kite.p"),
    ],
)
def test_a_line_of_the_shell_is_completed(monkeypatch, capfd, line: str, word: int, offered: str) -> None:
    monkeypatch.setenv("COMP_WORDS", line)
    monkeypatch.setenv("COMP_CWORD", str(word))
    monkeypatch.setenv(COMPLETE, "bash_complete")
    assert complete() == 0
    assert offered in capfd.readouterr().out
