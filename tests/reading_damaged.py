"""What a reader makes of a file, in a process of its own with limits of time and memory; and what is done with it."""

from __future__ import annotations

import os
import resource
import signal
import traceback
import warnings
from collections.abc import Callable
from pathlib import Path
from typing import Any

from sobercrow.core.artwork.model import Artwork, Layer
from sobercrow.core.errors import SoberCrowError
from sobercrow.core.formats.palette import read_palette
from sobercrow.core.formats.pdf import pdf_bytes
from sobercrow.core.formats.project import Project, read_project
from sobercrow.core.formats.raster import drawn
from sobercrow.core.formats.recipes import read_recipe
from sobercrow.core.formats.sets import read_set
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.formats.svg_in import Placed, read_svg
from sobercrow.core.handover.printing import read_profile
from sobercrow.core.job import Job
from sobercrow.core.lettering.index import _kept
from sobercrow.core.lettering.typefaces import faces_of
from sobercrow.core.picture.decode import decode_picture, read_picture
from sobercrow.core.picture.pdf import render_page
from sobercrow.core.picture.picture import Picture
from sobercrow.core.picture.svg_picture import embedded_picture
from sobercrow.core.settings import Settings

SECONDS, MEMORY_BYTES = 40, 3 << 29
"""What a file may take, beyond what the process has at its start; the time is for a machine that is busy."""
MOST_TRACED = 300_000
"""Pictures with more pixels are not traced, which is what the budgets are about."""


def _use_picture(picture: Picture) -> None:
    if picture.width * picture.height <= MOST_TRACED:
        _use_artwork(Job(picture).run(Settings()).artwork)


def _use_artwork(artwork: Artwork) -> None:
    svg_bytes(artwork)
    pdf_bytes(artwork)
    drawn(artwork, (64, 64))
    for shape in artwork.shapes:
        for contour in shape.contours:
            contour.sampled(max(artwork.width_px, artwork.height_px) / 100.0)


def _use_project(project: Project) -> None:
    picture = decode_picture(project.source, "source")
    if picture.width * picture.height <= MOST_TRACED:
        _use_artwork(Job(picture).run(project.settings).artwork)
    if project.refined is not None:
        _use_artwork(project.refined)


def _use_placed(placed: Placed) -> None:
    _use_artwork(Artwork((Layer("Placed", placed.items),), placed.width_px, placed.height_px, 96.0))


READERS: dict[str, tuple[Callable[[Path], Any], Callable[[Any], object]]] = {
    "project": (read_project, _use_project),
    "recipe": (read_recipe, hash),
    "set": (read_set, str),
    "inks": (read_palette, hash),
    "svg": (lambda path: read_svg(path, 96.0), _use_placed),
    "pdf": (lambda path: render_page(path.read_bytes(), path.name, 1, 72.0), _use_picture),
    "held": (lambda path: embedded_picture(path.read_bytes(), path.name)[0], _use_picture),
    "profile": (lambda path: read_profile(str(path)), lambda profile: profile.convert(["#a33e2e"])),
    "typeface": (faces_of, str),
    "index": (_kept, str),
}
"""How each kind is read and used; all others are pictures."""


def outcome(kind: str, path: Path) -> str:
    """Return "value", "refused", or what went wrong when a file was read and what came of it used."""
    out, into = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(out)
        os.write(into, _tried(kind, path).encode()[:4000])
        os._exit(0)
    os.close(into)
    with os.fdopen(out, "rb") as stream:
        told = stream.read().decode(errors="replace")
    _, status = os.waitpid(child, 0)
    if os.WIFSIGNALED(status):
        return f"ended by signal {os.WTERMSIG(status)}"
    return told


def _tried(kind: str, path: Path) -> str:
    warnings.simplefilter("ignore")
    devnull = os.open(os.devnull, os.O_WRONLY)
    os.dup2(devnull, 2)
    signal.signal(signal.SIGALRM, signal.SIG_DFL)
    signal.alarm(SECONDS)
    taken = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (taken + MEMORY_BYTES, taken + MEMORY_BYTES))
    read, use = READERS.get(kind, (read_picture, _use_picture))
    try:
        use(read(path))
    except SoberCrowError as fault:
        return "refused" if str(fault) and "\n" not in str(fault) else f"no sentence: {fault!r}"
    except BaseException:
        return traceback.format_exc()
    return "value"
