"""The project file: one ZIP with everything needed to go on working.

project.json    format, version, the settings of all steps, guides, how it is handed over, what is said of the source
source/NAME     the picture as it was brought in, byte for byte
refined.json    the artwork with its anchor kinds, if it was refined by hand
handwork.json   shapes refined by hand before the present trace, if any
proofs.json     results kept with their settings, if any
artwork.svg     the artwork for any other program
"""

from __future__ import annotations

import io
import json
import zipfile
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from sobercrow.core.artwork.handwork import Handwork
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.proofs import Proof
from sobercrow.core.artwork.snapping import Guide, Lies
from sobercrow.core.errors import ProjectError
from sobercrow.core.formats.files import write_whole
from sobercrow.core.formats.hand_over import PLAIN, HandOver, hand_over_of, plain_hand_over
from sobercrow.core.formats.plain import artwork_of, handwork_from, plain_artwork, plain_handwork, plain_proof, proof_of
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.outside import MOST_FILE_BYTES, MOST_JSON_BYTES, MOST_VERSION, json_of, number, reading, whole
from sobercrow.core.picture.decode import read_bytes
from sobercrow.core.settings import InkKind, PictureKind, Settings

SUFFIX = ".sobercrow"
FORMAT = "sobercrow-project"
MEDIA_TYPE = "application/vnd.sobercrow.project"
VERSION = 8


@dataclass(frozen=True, slots=True)
class Project:
    """What a project file holds.

    `source` is the picture file as it was brought in; `refined` the artwork if it was edited by hand, else
    None; `handwork` what was made by hand before the present trace.
    """

    source: bytes
    source_name: str
    settings: Settings
    refined: Artwork | None
    handwork: Handwork | None = None
    proofs: tuple[Proof, ...] = ()
    guides: tuple[Guide, ...] = ()
    hand_over: HandOver = PLAIN


def write_project(project: Project, artwork: Artwork | None, path: Path, replace_read_only: bool = False) -> None:
    """Write a project, whole or not at all; `artwork` is shown by other programs. Raises `ProjectError`."""
    memory = io.BytesIO()
    head = {
        "format": FORMAT,
        "version": VERSION,
        "source": project.source_name,
        "settings": asdict(project.settings),
        "guides": [asdict(guide) for guide in project.guides],
        "hand_over": plain_hand_over(project.hand_over),
    }
    with zipfile.ZipFile(memory, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(zipfile.ZipInfo("mimetype"), MEDIA_TYPE)  # first and stored: it tells the file's type
        archive.writestr("project.json", json.dumps(head, indent=1))
        archive.writestr(zipfile.ZipInfo("source/picture"), project.source)  # stored: pictures are packed already
        if project.refined is not None:
            archive.writestr("refined.json", json.dumps(plain_artwork(project.refined)))
        if project.handwork is not None:
            archive.writestr("handwork.json", json.dumps(plain_handwork(project.handwork)))
        if project.proofs:
            archive.writestr("proofs.json", json.dumps([plain_proof(proof) for proof in project.proofs]))
        if artwork is not None:
            archive.writestr("artwork.svg", svg_bytes(artwork))
    write_whole(path, memory.getvalue(), ProjectError, replace_read_only)


def read_project(path: Path) -> Project:
    """Read a project file.

    Raises
    ------
    ProjectError
        With one sentence if the file cannot be read, is no project, is damaged or comes from a newer version.
    """
    data = read_bytes(path, ProjectError, "a project file")
    with (
        reading(ProjectError, f"“{path.name}” is damaged and cannot be opened; use an older copy of it."),
        zipfile.ZipFile(io.BytesIO(data)) as archive,
    ):
        return _project_of(archive, path.name)


def project_artwork(path: Path) -> bytes | None:
    """Return the artwork a project file holds for other programs, as SVG; None if it was saved before any was made.

    Raises
    ------
    ProjectError
        With one sentence if the file cannot be read or is no project.
    """
    data = read_bytes(path, ProjectError, "a project file")
    with (
        reading(ProjectError, f"“{path.name}” is no Sober Crow project, or damaged; choose a {SUFFIX} file."),
        zipfile.ZipFile(io.BytesIO(data)) as archive,
    ):
        _head(archive, path.name)
        return _part(archive, "artwork.svg", MOST_JSON_BYTES) if "artwork.svg" in archive.namelist() else None


def _head(archive: zipfile.ZipFile, name: str) -> dict[str, Any]:
    """What an archive says of itself; raises `ProjectError` if it is no project of ours."""
    head: dict[str, Any] = json_of(_part(archive, "project.json", MOST_JSON_BYTES))
    if head.get("format") != FORMAT:
        raise ProjectError(f"“{name}” is not a Sober Crow project; choose a {SUFFIX} file.")
    return head


def _project_of(archive: zipfile.ZipFile, name: str) -> Project:
    """The project in an archive; raises `ProjectError` if it is none of ours or of a newer version, anything else if
    it is damaged."""
    head = _head(archive, name)
    version = whole(head["version"], 0, MOST_VERSION)
    if version > VERSION:
        raise ProjectError(f"“{name}” was saved by a newer Sober Crow; bring this program up to date to open it.")
    source = _part(archive, "source/picture", MOST_FILE_BYTES)
    parts = {
        part: json_of(_part(archive, part, MOST_JSON_BYTES))
        for part in ("refined.json", "handwork.json", "proofs.json")
        if part in archive.namelist()
    }
    refined = artwork_of(parts["refined.json"]) if "refined.json" in parts else None
    handwork = handwork_from(parts["handwork.json"]) if "handwork.json" in parts else None
    kept = parts.get("proofs.json", ())
    proofs = tuple(proof_of({**proof, "settings": _migrated(proof["settings"], version)}) for proof in kept)
    guides = tuple(
        Guide(Lies(one["lies"]), number(one["at"]), number(one.get("slant_deg", 90.0), -180.0, 180.0))
        for one in head.get("guides", ())
    )
    hand_over = hand_over_of(head["hand_over"]) if "hand_over" in head else PLAIN  # until version 7
    settings = Settings.from_plain(_migrated(head["settings"], version))
    return Project(source, str(head["source"]), settings, refined, handwork, proofs, guides, hand_over)


def _migrated(plain: dict[str, Any], version: int) -> dict[str, Any]:
    """Bring settings of an older version up to date, so that the picture is cleaned as it was then."""
    if version < 2:  # light and dirt were left as they were
        plain = {**plain, "clean_up": {"light": 0.0, "smooth": 0.0, **plain["clean_up"]}}
    if version < 3:  # there was one ink
        plain = {**plain, "inks": {"kind": InkKind.ONE, **plain["inks"]}}
    if version < 4:  # everything was drawn by free curves
        plain = {**plain, "tracing": {"true_shapes": False, **plain["tracing"]}}
    if version < 8:  # every picture was taken for paper
        plain = {**plain, "clean_up": {"kind": PictureKind.SCAN, **plain["clean_up"]}}
    return plain


def _part(archive: zipfile.ZipFile, name: str, most_bytes: int) -> bytes:
    """A part of an archive, unpacked no further than it may be: a small one can claim any size, or none."""
    with archive.open(name) as stream:
        data = stream.read(most_bytes + 1)
    if len(data) > most_bytes:
        raise ValueError(f"{name} is too large")
    return data
