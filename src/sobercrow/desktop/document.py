"""The open document: its state, its history, and the results the worker makes of it."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage

from sobercrow.core.artwork.anchors import AnchorRef
from sobercrow.core.artwork.handwork import Handwork, handwork_of, with_handwork
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.proofs import MOST_PROOFS, Proof, next_name
from sobercrow.core.artwork.table import anchor_table, rows_of
from sobercrow.core.cleanup.check import Finding
from sobercrow.core.cleanup.clean import same_place
from sobercrow.core.errors import EditError
from sobercrow.core.formats.project import Project, write_project
from sobercrow.core.formats.svg import write_svg
from sobercrow.core.inks.separation import Separation
from sobercrow.core.inspect.deviation import deviation
from sobercrow.core.inspect.kind import suggested_recipe
from sobercrow.core.job import Job, Results
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, Settings
from sobercrow.core.settings.recipes import Recipe
from sobercrow.desktop.presentation import Presentation, Pyramid, present, thumbnail
from sobercrow.desktop.state import Opened, Selection, State, read_document, told_of
from sobercrow.desktop.worker import Worker

DRAFT_PIXELS = 140_000
MERGE_SECONDS = 1.0
DEEPEST_HISTORY = 200


@dataclass(frozen=True, slots=True, eq=False)
class Answer:
    """What was asked for, and whom to tell."""

    value: Any
    done: Callable[[Any], None]


@dataclass(frozen=True, slots=True, eq=False)
class Looked:
    """What the picture check found."""

    findings: tuple[Finding, ...]


class Document(QObject):
    """Holds one document and tells of its changes. Lives in the window's thread; computes nothing."""

    opened = Signal()
    state_changed = Signal()
    presented = Signal()
    checked = Signal()
    selection_changed = Signal()
    history_changed = Signal()
    busy_changed = Signal(bool)
    progressed = Signal(str, float)
    said = Signal(str)
    failed = Signal(str)

    def __init__(self) -> None:
        """Start empty."""
        super().__init__()
        self.worker = Worker()
        self.worker.produced.connect(self._take)
        self.worker.progressed.connect(lambda _n, step, share: self.progressed.emit(step, share))
        self.worker.failed.connect(lambda _n, sentence: self.failed.emit(sentence))
        self.worker.finished.connect(self._finished)
        self.source: Picture | None = None
        self.state = State(Settings())
        self.presentation: Presentation | None = None
        self.selection = Selection()
        self.path: Path | None = None
        self.busy = False
        self._data = b""
        self._job: Job | None = None
        self._kept_source: tuple[Picture, Pyramid, QImage] | None = None
        self._kept_suits: dict[bool, tuple[Separation, Recipe]] = {}
        self._past: list[tuple[str, State]] = []
        self._future: list[tuple[str, State]] = []
        self._merge: tuple[str, float] | None = None
        self._saved: State | None = None
        self._request = 0
        self._opening = self._asking = False
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._submit)

    # opening and saving

    def open_path(self, path: Path, recovered: bool = False) -> None:
        """Read a file in the worker; the present document stays until it is read.

        A `recovered` project has no file of its own yet and counts as unsaved.
        """
        self._opening = True
        self._submit_work(lambda give, _report, _overtaken: give(read_document(path, recovered)))

    def open_picture(self, picture: Picture, data: bytes) -> None:
        """Take a picture that is in memory already, such as one from the clipboard."""
        self._take_opened(Opened(picture, data, State(Settings()), None))

    def save_project(self, path: Path) -> None:
        """Write the project; raise `ProjectError` if it cannot be written."""
        self.write_copy(path)
        self.path = path
        self._saved = self.state
        self.history_changed.emit()

    def write_copy(self, path: Path) -> None:
        """Write the project to a file without making it the document's own."""
        self.copy_writer(path)()

    def copy_writer(self, path: Path) -> Callable[[], None]:
        """Return what writes the project as it is now to a file; it may be called from any thread."""
        assert self.source is not None
        state = self.state
        project = Project(self._data, self.source.name, state.settings, state.refined, state.handwork, state.proofs)
        return partial(write_project, project, self.artwork, path)

    def export_svg(self, path: Path) -> None:
        """Write the artwork as SVG; raise `ExportError` if it cannot be written."""
        assert self.artwork is not None
        write_svg(self.artwork, path)

    @property
    def is_changed(self) -> bool:
        """Tell whether there is something that has not been saved."""
        return self.source is not None and self.state is not self._saved

    @property
    def is_complete(self) -> bool:
        """Tell whether what is shown is the full result of the present state."""
        return self.presentation is not None and not self.presentation.is_draft and not self.busy

    @property
    def artwork(self) -> Artwork | None:
        """The artwork as it stands: refined, or as traced."""
        return self.presentation.artwork if self.presentation is not None else None

    # changing

    def take_clean_up(self, name: str, clean_up: CleanUp, merge: str | None = None) -> None:
        """Take clean-up settings that were made elsewhere."""
        self.change_settings(name, replace(self.state.settings, clean_up=clean_up), merge)

    def change_settings(self, name: str, settings: Settings, merge: str | None = None) -> None:
        """Take new settings as one named change; changes with the same `merge` in quick succession are one."""
        if settings == self.state.settings:
            return
        before = self.state
        refined, handwork = before.refined, before.handwork
        if replace(settings, bring_in=before.settings.bring_in) == before.settings:
            if refined is not None:
                enlarge = settings.clean_up.in_force().enlarge
                refined = replace(refined, dpi=(settings.bring_in.dpi or self._stated_dpi()) * enlarge)
        elif refined is not None or handwork is not None:
            handwork, refined = self._handwork(settings), None
        self._change(name, replace(before, settings=settings, refined=refined, handwork=handwork), merge)

    def _handwork(self, settings: Settings) -> Handwork | None:
        """What was made by hand so far, as it can be kept in a new trace; tells what becomes of it."""
        before, presentation = self.state, self.presentation
        if not same_place(settings.clean_up, before.settings.clean_up):
            self.said.emit("The picture lies elsewhere now, so shapes refined by hand are gone. Undo brings them back.")
            return None
        if before.refined is None or presentation is None:
            return before.handwork
        handwork = handwork_of(before.refined, presentation.results.artwork, before.handwork)
        if handwork is not None:
            self.said.emit(f"{told_of(handwork)}; release them in the Trace step to have all traced anew.")
        return handwork

    def release_handwork(self) -> None:
        """Have everything traced anew, also what was refined by hand."""
        if self.state.handwork is not None:
            self._change("Release handwork", replace(self.state, refined=None, handwork=None), None)

    def keep_proof(self) -> None:
        """Keep the present result as a proof; tell if there are too many or it is not there yet."""
        presentation, state = self.presentation, self.state
        if presentation is None or not self.is_complete:
            self.failed.emit("The result is not complete yet; keep it as a proof once it is.")
            return
        if len(state.proofs) >= MOST_PROOFS:
            self.failed.emit(f"There are {MOST_PROOFS} proofs already; drop one to keep another.")
            return
        figures = presentation.figures
        proof = Proof(
            next_name(state.proofs),
            state.settings,
            state.refined,
            state.handwork,
            presentation.artwork,
            figures.deviation_mean_px,
            figures.deviation_max_px,
        )
        self._change("Keep a proof", replace(state, proofs=(*state.proofs, proof)), None)
        self.said.emit(f"{proof.name} is kept. The proof sheet lays proofs side by side.")

    def drop_proof(self, proof: Proof) -> None:
        """Let go of a proof."""
        left = tuple(p for p in self.state.proofs if p is not proof)
        self._change(f"Drop {proof.name}", replace(self.state, proofs=left), None)

    def adopt_proof(self, proof: Proof) -> None:
        """Go on from a proof: its settings and what was made by hand take the place of the present ones."""
        state = replace(self.state, settings=proof.settings, refined=proof.refined, handwork=proof.handwork)
        self._change(f"Adopt {proof.name}", state, None)

    def refine(self, name: str, artwork: Artwork, merge: str | None = None) -> None:
        """Take edited artwork as one named change."""
        self._change(name, replace(self.state, refined=artwork), merge)

    def edit(self, name: str, function: Callable[..., Artwork], *arguments: Any, merge: str | None = None) -> None:
        """Apply an edit function to the artwork as one named change; tell if it does not apply."""
        if self.artwork is None:
            return
        try:
            self.refine(name, function(self.artwork, *arguments), merge)
        except EditError as fault:
            self.failed.emit(str(fault))

    def _change(self, name: str, state: State, merge: str | None) -> None:
        now = time.monotonic()
        merging = merge is not None and self._merge is not None and self._merge[0] == merge
        if not (merging and self._merge is not None and now - self._merge[1] < MERGE_SECONDS):
            self._past.append((name, self.state))
            del self._past[:-DEEPEST_HISTORY]
        self._merge = (merge, now) if merge is not None else None
        self._future.clear()
        self._go_to(state)

    def undo(self) -> None:
        """Go back before the last change."""
        if self._past:
            name, state = self._past.pop()
            self._future.append((name, self.state))
            self._merge = None
            self._go_to(state)

    def redo(self) -> None:
        """Do again what was undone."""
        if self._future:
            name, state = self._future.pop()
            self._past.append((name, self.state))
            self._merge = None
            self._go_to(state)

    @property
    def undo_name(self) -> str | None:
        """Name of what undo would take back."""
        return self._past[-1][0] if self._past else None

    @property
    def redo_name(self) -> str | None:
        """Name of what redo would do again."""
        return self._future[-1][0] if self._future else None

    def _go_to(self, state: State) -> None:
        self.state = state
        if self.presentation is not None:
            if state.refined is not None:
                self.presentation = self.presentation.with_artwork(state.refined)
            elif self.presentation.results.settings == state.settings:
                traced = self.presentation.results.artwork
                self.presentation = self.presentation.with_artwork(with_handwork(traced, state.handwork))
            self._prune_selection()
            self.presented.emit()
        self.state_changed.emit()
        self.history_changed.emit()
        self._set_busy(True)
        self._soon.start(0)

    # selection

    def choose(self, shapes: frozenset[int] = frozenset(), anchors: frozenset[AnchorRef] = frozenset()) -> None:
        """Choose shapes or anchors in place of those chosen."""
        selection = Selection(shapes, anchors)
        if selection != self.selection:
            self.selection = selection
            self.selection_changed.emit()

    def _prune_selection(self) -> None:
        artwork, chosen = self.artwork, self.selection
        count = len(artwork.shapes) if artwork is not None else 0
        shapes, anchors = chosen.shapes, chosen.anchors
        if any(s >= count for s in shapes):
            shapes = frozenset(s for s in shapes if s < count)
        if anchors and artwork is not None:
            table = anchor_table(artwork)
            rows = rows_of(artwork, anchors)
            if len(rows) < len(anchors):
                anchors = frozenset(AnchorRef(*name) for name in table.names[rows].tolist())
        if shapes is not chosen.shapes or anchors is not chosen.anchors:
            self.choose(shapes, anchors)

    # results

    def stop(self) -> None:
        """Stop the work going on; the results shown stay."""
        self._soon.stop()
        self.worker.stop()
        self._opening = self._asking = False
        self._set_busy(False)
        self.said.emit("Stopped. What is shown is the last result; change a setting to go on.")

    def close(self) -> None:
        """End the worker."""
        self._soon.stop()
        self.worker.close()

    def _stated_dpi(self) -> float:
        assert self.source is not None
        return self.source.dpi

    def _submit(self) -> None:
        job, state, source = self._job, self.state, self.source
        if self._opening:
            return  # reading a file is not to be overtaken; what is stale is made once that is done
        if job is None or source is None:
            self._set_busy(False)
            return

        def work(
            give: Callable[[Any], None], report: Callable[[str, float], None], overtaken: Callable[[], bool]
        ) -> None:
            def run(draft_pixels: int | None, early: Callable[[Results], None] | None = None) -> Results:
                return job.run(state.settings, draft_pixels, report, overtaken, early)

            def show(results: Results) -> None:
                artwork, away = results.artwork, results.deviation
                if state.refined is not None or (state.handwork is not None and not results.is_draft):
                    artwork = state.refined or with_handwork(results.artwork, state.handwork)
                    away = deviation(artwork, results.borders)
                elif state.handwork is not None:
                    artwork = with_handwork(results.artwork, state.handwork)
                give(present(results, artwork, away, self._suited(results), *self._brought_in(source)))

            if state.refined is not None:
                show(run(None))  # no trace of it is shown
            else:
                first = run(DRAFT_PIXELS, show)
                show(first)
                if first.is_draft:
                    show(run(None))
            give(Looked(job.check(state.settings, overtaken)))

        self._submit_work(work)

    def _suited(self, results: Results) -> Recipe:
        """The recipe that suits the inks; runs in the worker, which keeps it until there are others."""
        separation, full = results.separation, results.reduction == 1.0
        kept = self._kept_suits.get(full)
        if kept is None or kept[0] is not separation:
            kept = self._kept_suits[full] = (separation, suggested_recipe(separation, results.reduction))
        return kept[1]

    def _brought_in(self, source: Picture) -> tuple[Pyramid, QImage]:
        """The picture as brought in, and small; runs in the worker, which alone touches what is kept here."""
        if self._kept_source is None or self._kept_source[0] is not source:
            whole = Pyramid(source.pixels)
            self._kept_source = (source, whole, thumbnail(whole.levels[-1]))
        return self._kept_source[1:]

    def ask(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Have something worked out in the background, then tell `done` on the window's thread.

        Work going on is given up for it and done again afterwards.
        """
        if self._opening:
            return  # reading a file is not to be overtaken
        self._soon.stop()
        self._asking = True
        self._submit_work(lambda give, _report, _overtaken: give(Answer(work(), done)))

    def ask_job(self, work: Callable[[Job, Settings], Any], done: Callable[[Any], None]) -> None:
        """Have something worked out from the open picture and the present settings; see `ask`."""
        job, settings = self._job, self.state.settings
        if job is not None:
            self.ask(lambda: work(job, settings), done)

    def _submit_work(
        self, work: Callable[[Callable[[Any], None], Callable[[str, float], None], Callable[[], bool]], None]
    ) -> None:
        self._set_busy(True)
        self._request = self.worker.submit(work)

    def _take(self, number: int, result: object) -> None:
        if number != self._request:
            return
        if isinstance(result, Opened):
            self._take_opened(result)
        elif isinstance(result, Presentation):
            self.presentation = result
            self._prune_selection()
            self.presented.emit()
        elif isinstance(result, Answer):
            result.done(result.value)
        elif isinstance(result, Looked) and self.presentation is not None:
            self.presentation = self.presentation.with_findings(result.findings)
            self.checked.emit()

    def _take_opened(self, opened: Opened) -> None:
        self.source = opened.picture
        self._data = opened.data
        self._job = Job(opened.picture)
        self.presentation = None
        self._past.clear()
        self._future.clear()
        self._merge = None
        self.path = None if opened.recovered else opened.project_path
        self.state = opened.state
        self._saved = None if opened.recovered else opened.state
        self._opening = False
        self.selection = Selection()
        self.opened.emit()
        self.state_changed.emit()
        self.history_changed.emit()
        self._set_busy(True)
        self._soon.start(0)

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
