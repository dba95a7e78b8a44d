"""The pictures that are worked on together: traced one after the other beside, kept as projects of their own."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from enum import Enum
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QImage

from sobercrow.core.errors import ExportError, SoberCrowError
from sobercrow.core.formats.files import write_all
from sobercrow.core.formats.project import SUFFIX
from sobercrow.core.formats.sets import HandOverSet
from sobercrow.core.settings.recipes import Recipe
from sobercrow.core.several import Piece, begin_piece, files_of_pieces, own_names, read_piece, small_artwork
from sobercrow.desktop.page_marks import rgba_image
from sobercrow.desktop.presentation import grey_image, rgb_image
from sobercrow.desktop.worker import Give, Report, Worker

SMALL_PX = (220, 264)
"""Height and width of the small pictures, twice what they are shown at."""


class Doing(Enum):
    """How things stand with one of several pictures."""

    WAITING = "waiting"
    DONE = "done"
    FAILED = "failed"


@dataclass(frozen=True, slots=True, eq=False)
class Row:
    """One of them: its file, what it is called, its own recipe if it is not that of all, how things stand, and what is
    shown and told of it."""

    path: Path
    name: str
    project: Path
    own: bool = False
    recipe: Recipe | None = None
    doing: Doing = Doing.WAITING
    picture: QImage | None = None
    artwork: QImage | None = None
    told: str = ""
    by_hand: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Outcome:
    """What came of a row: small pictures and a figure, or why it failed."""

    row: int
    doing: Doing
    told: str
    picture: QImage | None = None
    artwork: QImage | None = None


class Pieces(QObject):
    """The rows, in the order in which they came; tells of each that changed, and of what was written or not."""

    changed = Signal()
    said = Signal(str)
    failed = Signal(str)

    def __init__(self) -> None:
        """Start with none."""
        super().__init__()
        self.rows: list[Row] = []
        self.recipe: Recipe | None = None
        self.is_writing = False
        self.is_kept = True
        """Whether nothing was done by hand since projects were saved."""
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self._worker: Worker | None = None

    @property
    def waiting(self) -> list[int]:
        """The rows that are still to be traced."""
        return [k for k, row in enumerate(self.rows) if row.doing is Doing.WAITING]

    def add(self, paths: Iterable[Path]) -> None:
        """Take in pictures, each once, and trace them."""
        new = [path for path in dict.fromkeys(paths) if path not in {row.path for row in self.rows}]
        self._folder = self._folder or tempfile.TemporaryDirectory(prefix="sobercrow-several-")
        names = own_names([*(row.path for row in self.rows), *new])[len(self.rows) :]
        folder = Path(self._folder.name)
        first = len(self.rows)
        self.rows += [
            Row(path, name, folder / f"{first + k}{SUFFIX}")
            for k, (path, name) in enumerate(zip(new, names, strict=True))
        ]
        self.go_on()

    def set_recipe(self, recipe: Recipe | None) -> None:
        """Have all traced by another recipe, or each by what suits it, but those with one of their own or changed by
        hand."""
        self.recipe = recipe
        for k, row in enumerate(self.rows):
            if not row.own and not row.by_hand:
                self.rows[k] = replace(row, doing=Doing.WAITING)
        self.go_on()

    def set_own_recipe(self, k: int, own: bool, recipe: Recipe | None = None) -> None:
        """Have one traced by a recipe of its own, or by that of all; what was done to it by hand is gone."""
        self.rows[k] = replace(self.rows[k], own=own, recipe=recipe, doing=Doing.WAITING, by_hand=False)
        self.go_on()

    def take_back(self, k: int) -> None:
        """Show what became of one that was worked on."""
        self.is_kept = False
        self.rows[k] = replace(self.rows[k], doing=Doing.WAITING, by_hand=True)
        self.go_on()

    def go_on(self) -> None:
        """Trace all that waits."""
        jobs = self._jobs()

        def work(give: Give, _report: Report) -> None:
            for k, job in jobs:
                give(_outcome(k, job))

        if jobs:
            self._working().submit(work)
        self.changed.emit()

    def stop(self) -> None:
        """Leave the rest as it is; `go_on` begins it again."""
        if self._worker is not None:
            self._worker.stop()
        self.is_writing = False
        self.changed.emit()

    def clear(self) -> None:
        """Let go of all of them, and end what works in the background."""
        if self._worker is not None:
            self._worker.close()
        if self._folder is not None:
            self._folder.cleanup()
        self._worker = self._folder = None
        self.rows = []
        self.changed.emit()

    def hand_over(self, chosen: HandOverSet, folder: Path) -> None:
        """Write the files of a set for all that are done, all of them or none."""
        projects = {row.name: row.project for row in self.rows if row.doing is Doing.DONE}

        def work(give: Give, report: Report) -> None:
            files = files_of_pieces(projects, chosen, lambda share: report("writing", share))
            _write_new({folder / name: data for name, data in files.items()})
            give(f"Saved {len(files)} files in “{folder.name}”.")

        self.is_writing = True
        self._working().submit(work)
        self.changed.emit()

    def keep_projects(self, folder: Path) -> None:
        """Write the projects of all that are done into a folder, all of them or none."""
        there = {folder / f"{row.name}{SUFFIX}": row.project for row in self.rows if row.doing is Doing.DONE}

        def work(give: Give, _report: Report) -> None:
            _write_new({path: project.read_bytes() for path, project in there.items()})
            give(f"Saved {len(there)} projects in “{folder.name}”.")

        self.is_kept, self.is_writing = True, True
        self._working().submit(work)
        self.changed.emit()

    def _jobs(self) -> list[tuple[int, Callable[[], Piece]]]:
        """What is to be done for each row that waits: what was changed by hand is read again, the rest traced."""
        made: list[tuple[int, Callable[[], Piece]]] = []
        for k in self.waiting:
            row = self.rows[k]
            recipe = row.recipe if row.own else self.recipe
            begin = partial(begin_piece, row.path, recipe, row.project)
            made.append((k, partial(read_piece, row.project) if row.by_hand else begin))
        return made

    def _working(self) -> Worker:
        if self._worker is None:
            self._worker = Worker()
            self._worker.produced.connect(self._take)
            self._worker.failed.connect(self._fail)
        return self._worker

    def _take(self, _number: int, made: object) -> None:
        if isinstance(made, Outcome):
            row = self.rows[made.row]
            self.rows[made.row] = replace(
                row, doing=made.doing, told=made.told, picture=made.picture or row.picture, artwork=made.artwork
            )
        else:
            self.is_writing = False
            self.said.emit(str(made))
        self.changed.emit()

    def _fail(self, _number: int, sentence: str) -> None:
        self.is_writing = False
        self.failed.emit(sentence)
        self.changed.emit()


def _write_new(files: dict[Path, bytes]) -> None:
    """Write files, all or none, none of them in place of another."""
    there = next((path for path in files if path.exists()), None)
    if there is not None:
        raise ExportError(f"“{there.name}” is already in “{there.parent.name}”; choose another folder.")
    write_all(files)


def _outcome(k: int, job: Callable[[], Piece]) -> Outcome:
    """Do one of several; what cannot be done is told, and the others go on."""
    try:
        piece = job()
    except SoberCrowError as fault:
        return Outcome(k, Doing.FAILED, str(fault))
    height, width = SMALL_PX
    ratio, mode = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
    image = grey_image(piece.cleaned) if piece.cleaned.ndim == 2 else rgb_image(piece.cleaned)
    picture = image.scaled(width, height, ratio, mode)
    small = rgba_image(small_artwork(piece.artwork, width, height))
    count = piece.artwork.anchor_count
    told = f"{count} anchor{'' if count == 1 else 's'}{' · by hand' if piece.by_hand else ''}"
    return Outcome(k, Doing.DONE, told, picture, small)
