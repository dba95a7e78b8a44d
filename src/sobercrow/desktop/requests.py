"""What is worked out in the background for a document: files read, results of its state, answers to questions."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage

from sobercrow.core.artwork.handwork import with_handwork
from sobercrow.core.artwork.pouring import poured_anew
from sobercrow.core.cleanup.check import Finding
from sobercrow.core.first_sight import DRAFT_PIXELS
from sobercrow.core.inks.separation import Separation
from sobercrow.core.inspect.deviation import deviation
from sobercrow.core.inspect.kind import suggested_recipe
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.results import Results
from sobercrow.core.settings import PictureKind
from sobercrow.core.settings.recipes import Recipe
from sobercrow.core.stopping import go_on
from sobercrow.desktop.presentation import Presentation, Pyramid, present, thumbnail
from sobercrow.desktop.state import Opened, State, opened_picture, read_document
from sobercrow.desktop.worker import Give, Report, Work, Worker

NONE = -1


@dataclass(frozen=True, slots=True, eq=False)
class Answer:
    """What was asked for, and whom to tell."""

    value: Any
    done: Callable[[Any], None]


@dataclass(frozen=True, slots=True, eq=False)
class Looked:
    """What the picture check found."""

    findings: tuple[Finding, ...]


class Requests(QObject):
    """Asks the worker and hands over what comes of it; the newest request wins. Lives in the window's thread."""

    opened = Signal(object)
    presented = Signal(object)
    looked = Signal(object)
    busy_changed = Signal(bool)
    progressed = Signal(str, float)
    failed = Signal(str)
    over_budget = Signal(str)
    broke = Signal(object)

    def __init__(self, state: Callable[[], State]) -> None:
        """Start idle; `state` tells of what results are to be made."""
        super().__init__()
        self.worker = Worker()
        self.worker.produced.connect(self._take)
        self.worker.progressed.connect(lambda _n, step, share: self.progressed.emit(step, share))
        self.worker.failed.connect(lambda _n, sentence: self.failed.emit(sentence))
        self.worker.over_budget.connect(self.over_budget)
        self.worker.broke.connect(self.broke)
        self.worker.finished.connect(self._finished)
        self.busy = False
        self.job: Job | None = None
        self._state = state
        self._kept_source: tuple[Picture, Pyramid, QImage] | None = None
        self._kept_suits: dict[bool, tuple[Separation, Recipe]] = {}
        self._request = 0
        self._opening = self._asking = False
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._submit)

    def open(self, path: Path, recovered: bool = False) -> None:
        """Have a file read."""
        self._opening = True
        self._submit_work(lambda give, _report: give(read_document(path, recovered)))

    def open_picture(self, picture: Picture, data: bytes) -> None:
        """Have a picture that is in memory looked over as one from a file is."""
        self._opening = True
        self._submit_work(lambda give, _report: give(opened_picture(picture, data)))

    def take_picture(self, opened: Opened) -> None:
        """Work on another picture from now on."""
        self.job = opened.job or Job(opened.picture)
        self._opening = False
        self.make_soon()

    def make_soon(self) -> None:
        """Have results made of the state as it will be when all that is being changed just now has been."""
        if not self._opening:
            self._request = NONE  # what comes in meanwhile is of a state that has passed
        self._set_busy(True)
        self._soon.start(0)

    def ask(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Have something worked out, then tell `done` on the window's thread.

        Work going on is given up for it and done again afterwards.
        """
        self._ask(lambda give, _report: give(Answer(work(), done)))

    def ask_at_length(self, name: str, work: Callable[..., Any], done: Callable[[Any], None]) -> None:
        """Ask for something that takes long: `work` is given `progress`, which tells how far it is and stops it."""

        def reporting(give: Give, report: Report) -> None:
            def progress(share: float) -> None:
                go_on()
                report(name, share)

            give(Answer(work(progress=progress), done))

        self._ask(reporting)

    def _ask(self, work: Work) -> None:
        if self._opening:
            return  # reading a file is not to be overtaken
        self._soon.stop()
        self._asking = True
        self._submit_work(work)

    def stop(self) -> None:
        """Stop the work going on."""
        self._soon.stop()
        self.worker.stop()
        self._opening = self._asking = False
        self._set_busy(False)

    def close(self) -> None:
        """End the worker."""
        self._soon.stop()
        self.worker.close()

    def _submit(self) -> None:
        job, state = self.job, self._state()
        if self._opening:
            return  # what is stale is made once the file has been read
        if job is None:
            self._set_busy(False)
            return

        def work(give: Give, report: Report) -> None:
            def run(draft_pixels: int | None, early: Callable[[Results], None] | None = None) -> Results:
                return job.run(state.settings, draft_pixels, report, early)

            def show(results: Results) -> None:
                artwork, away = results.artwork, results.deviation
                if state.refined is not None or (state.handwork is not None and not results.is_draft):
                    artwork = state.refined or poured_anew(with_handwork(results.artwork, state.handwork))
                    away = deviation(artwork, results.borders)
                elif state.handwork is not None:
                    artwork = with_handwork(results.artwork, state.handwork)
                give(present(results, artwork, away, self._suited(results), *self._brought_in(job.source)))

            if state.refined is not None:
                show(run(None))  # no trace of it is shown
            else:
                first = run(DRAFT_PIXELS, show)
                show(first)
                if first.is_draft:
                    show(run(None))
            give(Looked(job.check(state.settings)))

        self._submit_work(work)

    def _suited(self, results: Results) -> Recipe:
        """The recipe that suits the inks; runs in the worker, which keeps it until there are others."""
        separation, full = results.separation, results.reduction == 1.0
        kept = self._kept_suits.get(full)
        if kept is None or kept[0] is not separation:
            digital = results.sheet.kind is PictureKind.DIGITAL
            suits = suggested_recipe(separation, results.reduction, digital)
            kept = self._kept_suits[full] = (separation, suits)
        return kept[1]

    def _brought_in(self, source: Picture) -> tuple[Pyramid, QImage]:
        """The picture as brought in, and small; runs in the worker, which alone touches what is kept here."""
        if self._kept_source is None or self._kept_source[0] is not source:
            whole = Pyramid(source.pixels)
            self._kept_source = (source, whole, thumbnail(whole.levels[-1]))
        return self._kept_source[1:]

    def _submit_work(self, work: Work) -> None:
        self._set_busy(True)
        self._request = self.worker.submit(work)

    def _take(self, number: int, result: object) -> None:
        if number != self._request:
            return
        if isinstance(result, Opened):
            self.opened.emit(result)
        elif isinstance(result, Presentation):
            self.presented.emit(result)
        elif isinstance(result, Answer):
            result.done(result.value)
        elif isinstance(result, Looked):
            self.looked.emit(result.findings)

    def _finished(self, number: int) -> None:
        if number != self._request:
            return
        if self._opening or self._asking:  # the file could not be read, or there is an answer: go on as before
            self._opening = self._asking = False
            self._soon.start(0)
        elif not self._soon.isActive():
            self._set_busy(False)

    def _set_busy(self, busy: bool) -> None:
        if busy != self.busy:
            self.busy = busy
            self.busy_changed.emit(busy)
