"""What a document is at one moment: its state, as a value; and reading one from a file."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from sobercrow.core.artwork.handwork import Handwork
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.proofs import Proof
from sobercrow.core.artwork.snapping import Guide
from sobercrow.core.first_sight import first_settings
from sobercrow.core.formats.files import Stamp, stamp_of
from sobercrow.core.formats.hand_over import PLAIN, HandOver
from sobercrow.core.formats.project import SUFFIX, read_project
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import decode_picture, read_bytes
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Settings


@dataclass(frozen=True, slots=True)
class State:
    """What undo brings back: settings, artwork refined by hand, handwork from before, proofs, guides, handing over."""

    settings: Settings
    refined: Artwork | None = None
    handwork: Handwork | None = None
    proofs: tuple[Proof, ...] = ()
    guides: tuple[Guide, ...] = ()
    hand_over: HandOver = PLAIN

    def gives_what(self, other: State) -> bool:
        """Tell whether it gives the very results another does: they differ in what is laid beside those, at most."""
        mine, others = (s.settings for s in (self, other))
        return mine == others and self.refined is other.refined and self.handwork is other.handwork


def told_of(handwork: Handwork) -> str:
    """Say how much handwork is kept."""
    count = len(handwork.kept)
    if count == 0:
        return "What was deleted by hand stays away"
    return "1 shape refined by hand is kept" if count == 1 else f"{count} shapes refined by hand are kept"


@dataclass(frozen=True, slots=True, eq=False)
class Opened:
    """A file that was read: the picture, its bytes, and the state it starts with; the job its settings came of."""

    picture: Picture
    data: bytes
    state: State
    project_path: Path | None
    recovered: bool = False
    job: Job | None = None
    stamp: Stamp | None = None


def read_document(path: Path, recovered: bool = False) -> Opened:
    """Read a picture or a project; raise `SoberCrowError` with one sentence if it cannot be read."""
    if path.suffix.lower() == SUFFIX:
        stamp = stamp_of(path)
        project = read_project(path)
        picture = decode_picture(project.source, project.source_name)
        return Opened(
            picture,
            project.source,
            State(
                project.settings, project.refined, project.handwork, project.proofs, project.guides, project.hand_over
            ),
            path,
            recovered,
            stamp=stamp,
        )
    data = read_bytes(path)
    return opened_picture(decode_picture(data, path.name), data)


def opened_picture(picture: Picture, data: bytes) -> Opened:
    """Return a picture as it is opened: with the settings its first result is made with."""
    job = Job(picture)
    return Opened(picture, data, State(first_settings(job)), None, job=job)
