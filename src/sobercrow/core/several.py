"""Several pictures at once: each begun as one alone would be, or by a recipe; what became of each is a project."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from sobercrow.core.arrays import U8
from sobercrow.core.artwork.handwork import with_handwork
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.pouring import poured_anew
from sobercrow.core.errors import ExportError
from sobercrow.core.first_sight import first_settings, laid_flat
from sobercrow.core.formats.project import Project, read_project, write_project
from sobercrow.core.formats.raster import drawn
from sobercrow.core.formats.sets import HandOverSet, set_files
from sobercrow.core.geometry.combine import Progress
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import read_bytes
from sobercrow.core.picture.pages import picture_of
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Settings
from sobercrow.core.settings.recipes import Recipe

PAPER = "#ffffff"


@dataclass(frozen=True, slots=True, eq=False)
class Piece:
    """One of several: the picture as its artwork has it, the artwork as it stands, and whether it was made by hand."""

    cleaned: U8
    artwork: Artwork
    by_hand: bool


def settings_by(job: Job, recipe: Recipe | None) -> Settings:
    """Return the settings a picture is begun with: by a recipe, or None for what suits it."""
    if recipe is None:
        return first_settings(job)
    return laid_flat(job, Settings(inks=recipe.inks, tracing=recipe.tracing))


def begin_piece(path: Path, recipe: Recipe | None, into: Path) -> Piece:
    """Trace a picture, and write what became of it as a project file.

    Raises
    ------
    SoberCrowError
        With one sentence about what could not be read, traced or written.
    """
    data = read_bytes(path)
    job = Job(picture_of(data, path.name))
    results = job.run(settings_by(job, recipe))
    write_project(Project(data, path.name, results.settings, None), results.artwork, into)
    return Piece(results.cleaned.pixels, results.artwork, False)


def read_piece(path: Path) -> Piece:
    """Return what became of a piece whose project file was changed; raise `SoberCrowError` if it cannot be read."""
    project = read_project(path)
    job = Job(source_of(project))
    results = job.run(project.settings)
    by_hand = project.refined is not None or project.handwork is not None
    return Piece(results.cleaned.pixels, _artwork_of(project, results.artwork), by_hand)


def source_of(project: Project) -> Picture:
    """Return the picture of a project; raise `PictureError` if it cannot be read."""
    return picture_of(project.source, project.source_name)


def artwork_of_project(project: Project) -> Artwork:
    """Return the artwork of a project as the window shows it: refined by hand, or traced with handwork laid in."""
    if project.refined is not None:
        return project.refined
    return _artwork_of(project, Job(source_of(project)).run(project.settings).artwork)


def _artwork_of(project: Project, traced: Artwork) -> Artwork:
    if project.refined is not None:
        return project.refined
    return poured_anew(with_handwork(traced, project.handwork))


def small_artwork(artwork: Artwork, width: int, height: int) -> U8:
    """Return artwork on white, (h, w, 4), as large as a room in pixels allows."""
    share = min(width / artwork.width_px, height / artwork.height_px)
    size = max(1, round(artwork.width_px * share)), max(1, round(artwork.height_px * share))
    return drawn(artwork, size, PAPER)


def own_names(paths: Iterable[Path]) -> list[str]:
    """Return a name for each file: that of its own without suffix, with a number where several have one."""
    made: list[str] = []
    for path in paths:
        name, count = path.stem, 1
        while name.casefold() in {one.casefold() for one in made}:
            count += 1
            name = f"{path.stem}-{count}"
        made.append(name)
    return made


def files_of_pieces(
    projects: dict[str, Path], chosen: HandOverSet, progress: Progress | None = None
) -> dict[str, bytes]:
    """Return all files of a hand-over set for several projects, by the names the pieces have.

    Raises
    ------
    SoberCrowError
        If a project cannot be read, or a file cannot be made; the sentence names the piece.
    """
    made: dict[str, bytes] = {}
    for n, (name, path) in enumerate(projects.items()):
        if progress is not None:
            progress(n / len(projects))
        project = read_project(path)
        try:
            made |= set_files(artwork_of_project(project), project.hand_over.inked_set(chosen), name)
        except ExportError as fault:
            raise ExportError(f"{name}: {fault}") from fault
    return made
