"""The open document: its state, what is chosen, its history, and the results that are made of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from sobercrow.core.artwork.choice import AnchorRef, Choice, Edited
from sobercrow.core.artwork.edits import freed
from sobercrow.core.artwork.handwork import Handwork, handwork_of, with_handwork
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.pouring import lines_changed, poured_anew
from sobercrow.core.artwork.proofs import MOST_PROOFS, Proof, next_name
from sobercrow.core.artwork.snapping import Guide
from sobercrow.core.artwork.table import anchor_table, rows_of
from sobercrow.core.cleanup.check import Finding
from sobercrow.core.cleanup.clean import same_place
from sobercrow.core.errors import EditError, LetteringError
from sobercrow.core.formats.files import Stamp, stamp_of
from sobercrow.core.formats.hand_over import HandOver
from sobercrow.core.formats.project import Project, write_project
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, Settings
from sobercrow.desktop.editing.in_turn import InTurn, Waiting
from sobercrow.desktop.history import History, Moment
from sobercrow.desktop.presentation import Presentation, png_of
from sobercrow.desktop.requests import Requests
from sobercrow.desktop.state import Opened, State, told_of


class Document(QObject):
    """Holds one document and tells of its changes. Lives in the window's thread; computes nothing."""

    opened = Signal()
    state_changed = Signal()
    presented = Signal()
    checked = Signal()
    choice_changed = Signal()
    history_changed = Signal()
    busy_changed = Signal(bool)
    progressed = Signal(str, float)
    said = Signal(str)
    failed = Signal(str)
    over_budget = Signal(str)
    broke = Signal(object)

    def __init__(self) -> None:
        """Start empty."""
        super().__init__()
        self.requests = Requests(lambda: self.state)
        self.requests.opened.connect(self._take_opened)
        self.requests.presented.connect(self._take_presentation)
        self.requests.looked.connect(self._take_findings)
        for made, told in (
            (self.requests.busy_changed, self.busy_changed),
            (self.requests.progressed, self.progressed),
            (self.requests.failed, self.failed),
            (self.requests.over_budget, self.over_budget),
            (self.requests.broke, self.broke),
        ):
            made.connect(told)
        self.source: Picture | None = None
        self.state = State(Settings())
        self.presentation: Presentation | None = None
        self.choice = Choice()
        self.path: Path | None = None
        self.stamp: Stamp | None = None
        """What the project's file was like when it was last read or written."""
        self.brought_back_from: Path | None = None
        """The project file in which it is kept for the window, not by the user; None if it was opened otherwise."""
        self._data = b""
        self._history = History()
        self._in_turn = InTurn(self.requests, lambda: self.artwork, self._take_edited, self.failed.emit)
        self._saved: State | None = None

    # opening and saving

    def open_path(self, path: Path, recovered: bool = False) -> None:
        """Read a file in the worker; the present document stays until it is read.

        A `recovered` project has no file of its own yet and counts as unsaved.
        """
        self.requests.open(path, recovered)

    def open_picture(self, picture: Picture, data: bytes) -> None:
        """Take a picture that is in memory already, such as one from the clipboard."""
        self.requests.open_picture(picture, data)

    def save_project(self, path: Path, replace_read_only: bool = False) -> None:
        """Write the project; raise `ProjectError` if it cannot be written."""
        self.copy_writer(path, replace_read_only)()
        self.path, self.stamp = path, stamp_of(path)
        self._saved = self.state
        self.history_changed.emit()

    def keep_in(self, path: Path) -> None:
        """Write the project beside, as one of several; it counts as saved then. Raises `ProjectError`."""
        self.copy_writer(path)()
        self.count_as_saved()

    def count_as_saved(self) -> None:
        """Take what there is now for saved: it is kept elsewhere."""
        self._saved = self.state
        self.history_changed.emit()

    def small_picture(self) -> bytes:
        """Return the artwork as it is now, small, as PNG; nothing if there is none yet."""
        if self.presentation is None:
            return b""
        return png_of(self.presentation.thumbnails["refine"])

    def copy_writer(self, path: Path, replace_read_only: bool = False) -> Callable[[], None]:
        """Return what writes the project as it is now to a file; it may be called from any thread."""
        assert self.source is not None
        state = self.state
        kept = (state.refined, state.handwork, state.proofs, state.guides, state.hand_over)
        project = Project(self._data, self.source.name, state.settings, *kept)
        return partial(write_project, project, self.artwork, path, replace_read_only)

    @property
    def is_changed(self) -> bool:
        """Tell whether there is something that has not been saved."""
        return self.source is not None and self.state is not self._saved

    @property
    def is_complete(self) -> bool:
        """Tell whether what is shown is the full result of the present state."""
        return self.presentation is not None and not self.presentation.is_draft and not self.requests.busy

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
            if refined is not None and self.presentation is not None:
                enlarged = self.presentation.results.enlarged
                refined = replace(refined, dpi=(settings.bring_in.dpi or self._stated_dpi()) * enlarged)
        elif refined is not None or handwork is not None:
            handwork, refined = self._handwork(settings), None
        self._change(name, replace(before, settings=settings, refined=refined, handwork=handwork), merge)

    def trace_anyway(self) -> None:
        """Have the picture traced though it is mostly grain, however long that takes."""
        settings = self.state.settings
        tracing = replace(settings.tracing, anyway=True)
        self.change_settings("Trace it anyway", replace(settings, tracing=tracing))

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

    def set_guides(self, name: str, guides: tuple[Guide, ...]) -> None:
        """Lay other guides across the drawing."""
        self._change(name, replace(self.state, guides=guides), None)

    def set_hand_over(self, name: str, hand_over: HandOver, merge: str | None = None) -> None:
        """Take another way of handing over as one named change."""
        if hand_over != self.state.hand_over:
            self._change(name, replace(self.state, hand_over=hand_over), merge)

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

    def refine(self, name: str, artwork: Artwork, merge: str | None = None, choice: Choice | None = None) -> None:
        """Take edited artwork as one named change, and what is chosen after it, if that is something else."""
        before = self.artwork
        self._change(name, replace(self.state, refined=artwork), merge, choice)
        if before is not None and (told := freed(before, artwork)):
            self.said.emit(told)
        if before is not None and lines_changed(before, artwork):
            self.ask(partial(poured_anew, artwork), partial(self._take_pours, artwork))

    def _take_pours(self, before: Artwork, after: Artwork) -> None:
        """Take artwork whose pours follow its changed lines, as part of the change made last."""
        if self.artwork is before and after is not before:
            same = len(after.shapes) == len(before.shapes)
            self._go_to(Moment(replace(self.state, refined=after), self.choice if same else Choice()))

    def edit(
        self, name: str, function: Callable[..., Artwork | Edited], *arguments: Any, merge: str | None = None
    ) -> None:
        """Apply an edit function to the artwork as one named change; tell if it does not apply."""
        if self.artwork is None:
            return
        try:
            made = function(self.artwork, *arguments)
        except (EditError, LetteringError) as fault:
            self.failed.emit(str(fault))
            return
        self._take_edited(name, made, merge)

    def edit_beside(
        self, name: str, function: Callable[..., Artwork | Edited], *arguments: Any, on_any: bool = False
    ) -> None:
        """Apply an edit that takes long: it is worked out in the background; see `Waiting`."""
        self.edit_in_turn(Waiting(name, lambda: lambda artwork: function(artwork, *arguments), on_any))

    def edit_in_turn(self, edit: Waiting) -> None:
        """Apply an edit that takes long once those asked for before it are done."""
        self._in_turn.add(edit)
        self.history_changed.emit()

    def _take_edited(self, name: str, made: Artwork | Edited, merge: str | None = None) -> None:
        artwork, choice, told = made if isinstance(made, Edited) else (made, None, "")
        self.refine(name, artwork, merge, choice)
        if told:
            self.said.emit(told)

    def _change(self, name: str, state: State, merge: str | None, choice: Choice | None = None) -> None:
        self._history.note(name, Moment(self.state, self.choice), merge)
        self._go_to(Moment(state, self.choice if choice is None else choice))

    def undo(self) -> None:
        """Go back before the last change."""
        if self._in_turn.let_go():
            self.history_changed.emit()
        else:
            self._travel(self._history.back)

    def redo(self) -> None:
        """Do again what was undone."""
        self._travel(self._history.forth)

    def _travel(self, way: Callable[[Moment], Moment | None]) -> None:
        moment = way(Moment(self.state, self.choice))
        if moment is not None:
            self._go_to(moment)

    @property
    def undo_name(self) -> str | None:
        """Name of what undo would take back."""
        return self._in_turn.last_name or self._history.undo_name

    @property
    def redo_name(self) -> str | None:
        """Name of what redo would do again."""
        return self._history.redo_name

    def _go_to(self, moment: Moment) -> None:
        before, state = self.state, moment.state
        self.state = state
        if state.gives_what(before):
            self._choose_what_is_there(moment.choice)
            self.state_changed.emit()
            self.history_changed.emit()
            return
        if self.presentation is not None:
            if state.refined is not None:
                self.presentation = self.presentation.with_artwork(state.refined)
            elif self.presentation.results.settings == state.settings:
                traced = self.presentation.results.artwork
                self.presentation = self.presentation.with_artwork(with_handwork(traced, state.handwork))
            self._choose_what_is_there(moment.choice)
            self.presented.emit()
        self.state_changed.emit()
        self.history_changed.emit()
        self.requests.make_soon()
        self._in_turn.go_on()

    # what is chosen

    def choose(self, choice: Choice | None = None) -> None:
        """Choose something in place of what is chosen, or nothing."""
        choice = choice or Choice()
        if choice != self.choice:
            self.choice = choice
            self.choice_changed.emit()

    def _choose_what_is_there(self, wanted: Choice) -> None:
        """Choose what is wanted, as far as it is in the artwork."""
        artwork = self.artwork
        count = len(artwork.shapes) if artwork is not None else 0
        shapes, anchors = wanted.shapes, wanted.anchors
        if any(s >= count for s in shapes):
            shapes = frozenset(s for s in shapes if s < count)
        if anchors and artwork is not None:
            table = anchor_table(artwork)
            rows = rows_of(artwork, anchors)
            if len(rows) < len(anchors):
                anchors = frozenset(AnchorRef(*name) for name in table.names[rows].tolist())
        is_same = shapes is self.choice.shapes and anchors is self.choice.anchors
        if not is_same:
            self.choose(wanted if shapes is wanted.shapes and anchors is wanted.anchors else Choice(shapes, anchors))

    # results

    def stop(self) -> None:
        """Stop the work going on; the results shown stay."""
        self._in_turn.clear()
        self.requests.stop()
        self.said.emit("Stopped. What is shown is the last result; change a setting to go on.")

    def close(self) -> None:
        """End the worker."""
        self._in_turn.clear()
        self.requests.close()

    def _stated_dpi(self) -> float:
        assert self.source is not None
        return self.source.dpi

    def ask(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Have something worked out in the background; see `Requests.ask`."""
        self.requests.ask(work, done)

    def ask_job(self, work: Callable[[Job, Settings], Any], done: Callable[[Any], None]) -> None:
        """Have something worked out from the open picture and the present settings; see `Requests.ask`."""
        job, settings = self.requests.job, self.state.settings
        if job is not None:
            self.ask(lambda: work(job, settings), done)

    def _take_presentation(self, presentation: Presentation) -> None:
        self.presentation = presentation
        self._choose_what_is_there(self.choice)
        self.presented.emit()

    def _take_findings(self, findings: tuple[Finding, ...]) -> None:
        if self.presentation is not None:
            self.presentation = self.presentation.with_findings(findings)
            self.checked.emit()

    def _take_opened(self, opened: Opened) -> None:
        self._in_turn.clear()
        self.source = opened.picture
        self._data = opened.data
        self.presentation = None
        self._history = History()
        self.path = None if opened.recovered else opened.project_path
        self.brought_back_from = opened.project_path if opened.recovered else None
        self.stamp = None if opened.recovered else opened.stamp
        self.state = opened.state
        self._saved = None if opened.recovered else opened.state
        self.choice = Choice()
        self.requests.take_picture(opened)
        self.opened.emit()
        self.state_changed.emit()
        self.history_changed.emit()
