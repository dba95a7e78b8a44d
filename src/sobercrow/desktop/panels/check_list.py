"""The picture check as lines: what was decided, with the alternative, and what is found, with what mends it."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from sobercrow.core.cleanup.check import Fault, Finding, is_mended, mend
from sobercrow.core.inspect.decisions import Decided, Decision, decisions
from sobercrow.desktop.controls import button, label
from sobercrow.desktop.document import Document
from sobercrow.desktop.lettering_offer import LetteringOffer


class CheckList(QWidget):
    """What stands in the way of a good trace; what is mended already stays with a note."""

    true_size_wanted = Signal()

    def __init__(self, document: Document, offer: LetteringOffer) -> None:
        """Show what the check of a document's picture found, and what is offered of its lettering."""
        super().__init__()
        self._document, self._offer = document, offer
        self.set_anew: QWidget | None = None
        self._shown: object = None
        self.mends: dict[Fault, QWidget] = {}
        self.otherwise: dict[Decided, QWidget] = {}
        self._lines = QVBoxLayout(self)
        self._lines.setContentsMargins(0, 0, 0, 0)
        self._lines.setSpacing(6)
        document.checked.connect(self.refresh)
        offer.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Show the present state."""
        presentation = self._document.presentation
        if presentation is None:
            return
        findings = presentation.results.findings
        settings = self._document.state.settings
        results = presentation.results
        source = presentation.source.levels[0]
        size = int(source.width()), int(source.height())
        decided = decisions(results.nature, results.history, results.separation, settings, size)
        shown = [(f, is_mended(settings, f)) for f in findings]
        offered = self._offer.found
        if (decided, shown, offered) == self._shown:
            return
        self._shown = decided, shown, offered
        while self._lines.count():
            item = self._lines.takeAt(0)
            if item is not None and (line := item.widget()) is not None:
                line.hide()
                line.deleteLater()
        self.mends, self.otherwise = {}, {}
        for decision in decided:
            self._lines.addWidget(self._decision(decision))
        self.set_anew = None
        if offered is not None:
            self.set_anew = button(
                "Set anew", f"Set anew\nPuts the typeface's own outlines in their place: {offered.sentence}"
            )
            self.set_anew.clicked.connect(self._offer.set_anew)
            self._lines.addWidget(_row(offered.sentence, self.set_anew))
        for finding, mended in sorted(shown, key=lambda pair: pair[1]):
            self._lines.addWidget(self._line(finding, mended))
        if not findings:
            self._lines.addWidget(label("Nothing found that stands in the way of a good trace.", muted=True))

    def _decision(self, decision: Decision) -> QWidget:
        made = button(decision.action, f"{decision.action}\nInstead of: {decision.sentence}")
        made.clicked.connect(lambda: self._document.change_settings(decision.action, decision.settings))
        self.otherwise[decision.what] = made
        return _row(decision.sentence, made)

    def _line(self, finding: Finding, mended: bool) -> QWidget:
        if mended:
            return _row(finding.sentence, label("mended", muted=True), muted=True)
        made = button(finding.action, f"{finding.action}\nMends: {finding.sentence}")
        made.clicked.connect(lambda: self._mend(finding))
        self.mends[finding.fault] = made
        return _row(finding.sentence, made)

    def _mend(self, finding: Finding) -> None:
        source, settings = self._document.source, self._document.state.settings
        if finding.fault is Fault.RESOLUTION:
            self.true_size_wanted.emit()
        elif source is not None:
            self._document.change_settings(finding.action, mend(settings, finding, source))


def _row(sentence: str, beside: QWidget, muted: bool = False) -> QWidget:
    line = QWidget()
    row = QHBoxLayout(line)
    row.setContentsMargins(0, 0, 0, 0)
    row.addWidget(label(sentence, muted=muted), 1)
    row.addWidget(beside)
    return line
