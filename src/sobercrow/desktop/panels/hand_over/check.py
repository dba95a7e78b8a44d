"""The check before handing over: each finding with its count, a jump to each place, and its one action."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.handover.page import Lie, laid
from sobercrow.core.handover.purpose import CheckSettings, Purpose
from sobercrow.core.inspect.hand_over import KINDS, Finding, Kind, check
from sobercrow.core.inspect.looked import Spot
from sobercrow.core.inspect.mends import ACTIONS
from sobercrow.desktop.controls import Fold, button, choices, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.page_marks import FindingMarks
from sobercrow.desktop.settings_form import SettingsForm
from sobercrow.desktop.worker import Worker

CLOSE_ZOOM = 6.0
FINE = "Nothing stands in the way."
TITLES = {
    Purpose.PRINT: "Print",
    Purpose.CUT: "Cut",
    Purpose.ENGRAVE: "Engrave",
    Purpose.WEB: "Web",
    Purpose.PLATES: "Plates",
}


class _Row(QWidget):
    """One kind of finding."""

    def __init__(self, kind: Kind) -> None:
        """Make a row with its jump and its action, if it has one."""
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.text = label()
        self.text.setToolTip(kind.help)
        layout.addWidget(self.text, 1)
        self.look = button("Next", f"Next {kind.one}\nGoes from one place to the next. {kind.help}")
        layout.addWidget(self.look)
        action = ACTIONS.get(kind.id)
        self.do = button(action.title, f"{action.title}\n{action.help}") if action is not None else None
        if self.do is not None:
            layout.addWidget(self.do)


class CheckPart(QObject):
    """Looks at the artwork whenever it changes, for the purpose chosen; marks what it finds on the canvas."""

    look = Signal(float, float, float)
    shown = Signal(object)

    def __init__(self, document: Document) -> None:
        """Check a document."""
        super().__init__()
        self._document = document
        self.found: list[Finding] = []
        self._lie: Lie | None = None
        self._asked: object = None
        self._looked_for: Artwork | None = None
        self._looked_at: Artwork | None = None
        self._at: dict[str, int] = {}
        self.is_active = False
        self._worker = Worker()
        self._worker.produced.connect(self._take)
        self.purposes = choices(TITLES, self._set_purpose, {})
        self.form = SettingsForm(lambda: self._settings, self._set, leave_out=frozenset({"purpose"}), brief=True)
        self.rows = {kind.id: _Row(kind) for kind in KINDS}
        for name, row in self.rows.items():
            row.look.clicked.connect(partial(self._next, name))
            if row.do is not None:
                row.do.clicked.connect(partial(self._mend, name))
            row.hide()
        self.fine = label("Looking …", muted=True)
        every = list(self.purposes.values())
        self.finer = Fold("What the machine can do", self.form)
        self.fold = Fold(
            "Check", row_of(*every[:3]), row_of(*every[3:]), self.fine, *self.rows.values(), self.finer, open_=True
        )
        self.setParent(self.fold)  # what is found after the panel has gone is told to nobody

    def close(self) -> None:
        """End what works in the background."""
        self._worker.close()

    @property
    def _settings(self) -> CheckSettings:
        return self._document.state.hand_over.check

    def _set(self, settings: CheckSettings) -> None:
        one = replace(self._document.state.hand_over, check=settings)
        self._document.set_hand_over("Set check", one, "check")

    def _set_purpose(self, purpose: Purpose) -> None:
        self._set(replace(self._settings, purpose=purpose))

    def refresh(self, lie: Lie | None) -> None:
        """Show the settings, and check anew where something has changed."""
        for purpose, choice in self.purposes.items():
            choice.setChecked(purpose is self._settings.purpose)
        self.form.refresh()
        artwork, one = self._document.artwork, self._document.state.hand_over
        if not self.is_active or artwork is None or lie is None or not self._document.is_complete:
            return
        wanted = (one.sheet, one.checked_for())
        if artwork is not self._looked_for or wanted != self._asked:
            self._asked, self._lie, self._looked_for = wanted, lie, artwork
            sheet, settings = one.sheet, one.checked_for()
            self._worker.submit(lambda give, _report: give((artwork, check(laid(artwork, sheet), settings))))

    def _take(self, _number: int, result: object) -> None:
        assert isinstance(result, tuple)
        self._looked_at, self.found = result
        kinds = {finding.kind.id: finding for finding in self.found}
        for name, row in self.rows.items():
            row.setVisible(name in kinds)
            if name in kinds:
                row.text.setText(kinds[name].text)
        self.fine.setText(FINE)
        self.fine.setVisible(not self.found)
        count = sum(len(finding.spots) for finding in self.found)
        self.fold.state.setText(str(count) if count else "")
        self._show(None)

    def _show(self, lit: Spot | None) -> None:
        spots = [spot for finding in self.found for spot in finding.spots]
        shift = (self._lie.dx, self._lie.dy) if self._lie is not None else (0.0, 0.0)
        self.shown.emit(FindingMarks(spots, shift, lit) if spots else None)

    def _spots(self, name: str) -> tuple[Spot, ...]:
        return next((finding.spots for finding in self.found if finding.kind.id == name), ())

    def _next(self, name: str) -> None:
        spots = self._spots(name)
        if spots and self._lie is not None:
            k = self._at[name] = (self._at.get(name, -1) + 1) % len(spots)
            self._show(spots[k])
            self.look.emit(spots[k].x - self._lie.dx, spots[k].y - self._lie.dy, CLOSE_ZOOM)

    def _mend(self, name: str) -> None:
        if self._looked_at is not self._document.artwork:
            self._document.failed.emit("The artwork has changed meanwhile; wait for the check, then do it again.")
            return
        action = ACTIONS[name]
        self._document.edit_beside(f"{action.title}: {name}", action.mend, self._spots(name))
