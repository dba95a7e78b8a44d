"""Set lettering found and set anew: letters, base line and typefaces together, all proposed at once."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QAbstractItemView, QFileDialog, QLineEdit, QListWidget, QListWidgetItem

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.snapping import Guide
from sobercrow.core.artwork.tree import lettered_group
from sobercrow.core.lettering.alike import letters_alike, repeated_in
from sobercrow.core.lettering.area import Box, set_in_area
from sobercrow.core.lettering.baseline import Baseline, parted_from_line, through_three
from sobercrow.core.lettering.heights import guides_of
from sobercrow.core.lettering.index import Index
from sobercrow.core.lettering.matches import Match, is_close, told_of
from sobercrow.core.lettering.setting import set_anew
from sobercrow.core.lettering.typefaces import Face, add_folder
from sobercrow.core.settings import px_to_mm
from sobercrow.desktop.controls import Fold, choices, doing, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.match_mark import MatchMark
from sobercrow.desktop.panels.refine.lettering_choice import choose_lettering, is_elsewhere
from sobercrow.desktop.panels.refine.match_base import BaseFields, SetFields, told_of_line, told_of_weight
from sobercrow.desktop.panels.refine.match_lines import MatchLines
from sobercrow.desktop.panels.refine.match_search import READING, Found, Search
from sobercrow.desktop.typeface_folders import Typefaces, kept_folders
from sobercrow.desktop.worker import Worker

ROWS_PX, LISTED = 214, 12


class MatchPart(QObject):
    """Looks for the typeface of the shapes chosen; what is picked lies over the drawing until it is set."""

    shown = Signal(object)
    based = Signal(object)
    area_wanted = Signal()
    opened = Signal(object)

    def __init__(self, document: Document, typefaces: Typefaces) -> None:
        """Work on a document, with typefaces that are shared with others."""
        super().__init__()
        self._document = document
        self.typefaces = typefaces
        self._found: list[Match] = []
        self._looked_at: tuple[Choice, Artwork | None] | None = None
        self._area: Box | None = None
        self._lines = MatchLines(document)
        self._base: Baseline | None = None
        self._set_in: Face | None = None
        self._places: F64 | None = None
        self._arcs, self._is_setting = True, False
        self._shapes: list[Shape] = []
        self._line_words = ""
        self._just_set: tuple[Artwork, str] | None = None
        self._was_picked = self._is_final = self._searches = self._was_set = False
        self._colour = "#000000"
        self._asked = self._drawn = -1
        self._worker, self._drawer = Worker(), Worker()
        document.presented.connect(self._tell_after)
        self._worker.produced.connect(self._take)
        self._worker.progressed.connect(self._tell)
        self._worker.failed.connect(lambda _number, sentence: self._say(sentence))
        self._drawer.produced.connect(self._take_mark)
        self._drawer.failed.connect(lambda _number, sentence: document.failed.emit(sentence))
        self.find = doing(
            "Choose the lettering", "Chooses the shapes of one ink and about one height.", self.choose_lettering
        )
        self.frame = doing(
            "Frame an area",
            "Looks for lettering in an area of the picture, however small it is.",
            self.area_wanted.emit,
        )
        self.alike = doing("Letters alike", "Letters that occur again get the mean of all copies.", self._draw_alike)
        self.leave = doing("Leave the area", "Goes back to the traced letters.", partial(self.take_area, None))
        self.stop = doing("Stop", "Stops reading and comparing typefaces; what was found stays.", self._stop)
        self.search = doing("Look for another typeface", "Compares all typefaces with these letters.", self._search)
        self.text = QLineEdit()
        self.text.setAccessibleName("What the lettering says")
        self.text.setToolTip("What the lettering says\nType over what is wrong, and press Enter.")
        self.text.returnPressed.connect(lambda: self.look(self.text.text()))
        self.lines = choices(
            {True: "Straight or arc", False: "Straight"},
            self._set_arcs,
            {True: "The base line is proposed from the letters' feet.", False: "Letters stand on a straight line."},
        )
        self.line_told, self.told = label(muted=True), label(muted=True)
        self.base = BaseFields()
        self.base.changed.connect(self._set_base)
        self.list = QListWidget()
        self.list.setAccessibleName("Typefaces")
        self.list.setFixedHeight(ROWS_PX)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.currentRowChanged.connect(self._pick)
        self.list.itemPressed.connect(lambda _item: setattr(self, "_was_picked", True))
        self.how = SetFields()
        self.how.changed.connect(lambda: self._pick(self.list.currentRow()))
        self.set = doing("Set anew", "Puts the typeface's own outlines in place of what is chosen.", self.set_chosen)
        self.add = doing("Add a folder", "Looks through the typefaces of a folder as well.", self._add)
        self.guides = doing(
            "Lay guides",
            "Guides at base line, x-height, cap height, ascender and descender, and along the slant.",
            self.lay_guides,
        )
        lines = row_of(*self.lines.values())
        self._parts = [self.text, lines, self.line_told, self.base.row, self.list, self.how.column]
        self._begin = row_of(self.find, self.frame)
        self.group = Fold(
            "Match",
            self.told,
            self.stop,
            self._begin,
            *self._parts,
            self.alike,
            row_of(self.set, self.guides),
            self._lines.row,
            self.leave,
            self.search,
            self.add,
        )
        self.group.head.toggled.connect(lambda _on: self.refresh())

    def close(self) -> None:
        """End the workers; what they have handed over is not taken any more."""
        self._asked, self._drawn, self._just_set = -1, -1, None
        self._worker.close()
        self._drawer.close()

    def refresh(self) -> None:
        """Look for the typeface of what is chosen, while the part is open; show what there is."""
        document, is_open = self._document, self.group.head.isChecked()
        if document.choice and self._area is not None:
            self._area = None
        shapes = bool(document.choice.shapes) and not document.choice.anchors
        there = shapes or self._area is not None
        if shapes and is_open and not self._is_setting and self._lines.part():
            return  # the first line is chosen, and shown as such
        self._lines.show(there)
        self.alike.setVisible(False)
        for part in (*self._parts, self.set, self.guides):
            part.setVisible(there)
        self.stop.setVisible(self.stop.isVisible() and there)
        self.guides.setVisible(shapes)
        self._begin.setVisible(not there)
        self.leave.setVisible(self._area is not None)
        self.search.setVisible(self._was_set and there)
        self._show_base()
        for arcs, button in self.lines.items():
            button.setChecked(arcs is self._arcs)
        if self._is_setting:
            return
        if not is_open or not there:
            self._looked_at = None
            self._forget()
            self.told.setText("Choose letters that were set in a typeface, or frame them in the picture.")
        elif is_elsewhere(self._looked_at, document):
            self._base, self._searches = None, False
            self.look()

    def _search(self) -> None:
        self._searches = True
        self.look(self.text.text() or None)

    def _draw_alike(self) -> None:
        one = self._picked()
        if one is not None:
            self._document.edit("Letters alike", letters_alike, self._document.choice, one)

    def take_area(self, box: Box | None) -> None:
        """Look for lettering in an area of the picture; None goes back to traced shapes."""
        self._area = None
        if box is not None:
            self._document.choose(Choice())
            self.group.head.setChecked(True)
        self._area, self._looked_at = box, None
        self.refresh()

    def take_places(self, places: F64) -> None:
        """Look again on a base line that was pulled, by three places on it."""
        self._set_base(through_three(places))

    def _set_base(self, base: Baseline | None) -> None:
        self._base = base
        text = self.text.text()
        self.look(text or None)

    def _dpi(self) -> float:
        return self._document.artwork.dpi if self._document.artwork is not None else 1.0

    def _show_base(self) -> None:
        one = self._picked()
        self.base.show_line(one.baseline if one is not None else None, self._places, self._dpi(), self._base is None)

    def choose_lettering(self) -> None:
        """Choose what is most likely the lettering of the artwork, and look for its typeface."""
        self.group.head.setChecked(True)
        choose_lettering(self._document)

    def open(self) -> None:
        """Open the part, and choose the lettering if nothing is chosen."""
        self.group.head.setChecked(True)
        if not self._document.choice.shapes:
            self.choose_lettering()
        self.opened.emit(self.group)

    def look(self, text: str | None = None) -> None:
        """Look for the typeface of what is chosen, knowing what it says or not."""
        artwork, choice, presentation = self._document.artwork, self._document.choice, self._document.presentation
        if artwork is None or presentation is None or not (choice.shapes or self._area):
            return
        self._looked_at = choice, artwork
        self._forget()
        self.text.setText(text or "")  # what was typed stays, right or wrong
        self.told.setText("Looking for the typeface …")
        self.stop.setVisible(True)
        chosen, drawn = parted_from_line([artwork.shapes[k] for k in sorted(choice.shapes)])
        group = None if self._searches or self._area is not None else lettered_group(artwork, choice.shapes)
        self._was_set = group is not None
        self.search.setVisible(self._was_set)
        search = Search(
            chosen,
            self._area,
            presentation.results.cleaned,
            artwork.width_px,
            group,
            self.typefaces.index,
            self.typefaces.files,
            text or None,
            self._arcs,
            self._base or drawn,
            self._set_in,
        )
        self._asked = self._worker.submit(search)

    @property
    def is_found(self) -> bool:
        """Whether there is a typeface what is chosen can be set in."""
        return self._is_final and bool(self._found)

    def set_chosen(self) -> None:
        """Set what is chosen anew in the typeface picked."""
        one = self._as_set()
        document = self._document
        if one is None or document.artwork is None:
            return
        before, name = document.artwork, f"Set in {one.face.name}"
        off_before = self._off_drawing()
        self._is_setting = True  # what is set is not looked for again
        if self._area is not None:
            document.edit(name, set_in_area, self._area, one, self.how.own_spacing, self._colour)
        else:
            document.edit(name, set_anew, document.choice, one, self.how.own_spacing)
        self._is_setting = False
        if document.artwork is not before:
            self._area, self._set_in = None, one.face
            self._looked_at = document.choice, document.artwork
            self._forget()
            self.told.setText(f"{name}, {one.deviation_px:.2f} px off the letters as they were traced.")
            self._just_set = document.artwork, f"{self.told.text()} Off the drawing {off_before:.2f} px before"

    def _off_drawing(self) -> float:
        """How far the letters chosen are off the drawing, in px in the mean."""
        presentation, choice = self._document.presentation, self._document.choice
        if presentation is None or not choice.shapes:
            return 0.0
        return presentation.deviation.figures(presentation.artwork, choice.shapes).deviation_mean_px

    def _tell_after(self) -> None:
        """Tell how far what was set is off the drawing, once that is measured."""
        presentation = self._document.presentation
        if self._just_set is not None and presentation is not None and presentation.artwork is self._just_set[0]:
            self.told.setText(f"{self._just_set[1]}, {self._off_drawing():.2f} px now.")
            self._just_set = None

    def lay_guides(self) -> None:
        """Lay guides at the lines the chosen letters keep to."""
        document = self._document
        if document.artwork is None:
            return
        shapes = [document.artwork.shapes[k] for k in sorted(document.choice.shapes)]

        def take(found: dict[str, Guide]) -> None:
            there = document.state.guides
            fresh = [guide for guide in found.values() if guide not in there]
            document.set_guides("Guides of lettering", (*there, *fresh))
            document.said.emit(f"Guides at {', '.join(found)}: tools snap to them; pull one off the canvas to drop it.")

        document.ask(lambda: guides_of(shapes), take)

    def _forget(self) -> None:
        self._worker.stop()
        self._drawer.stop()
        self._asked = self._drawn = -1
        self._found, self._was_picked, self._is_final = [], False, False
        self.stop.setVisible(False)
        self._places = None
        self.list.clear()
        self.text.clear()
        self.line_told.setText("")
        self.set.setEnabled(False)
        self.shown.emit(None)
        self.based.emit(None)

    def _say(self, sentence: str) -> None:
        self.stop.setVisible(False)
        self.told.setText(sentence)

    def _stop(self) -> None:
        self._worker.stop()
        self._asked = -1
        self.stop.setVisible(False)
        self.told.setText("Stopped. Press Enter in the text to look again.")

    def _tell(self, _number: int, _step: str, share: float) -> None:
        what = "Reading typefaces" if share < READING and self.typefaces.index is None else "Comparing outlines"
        self.told.setText(f"{what}: {share:.0%}")

    def _take(self, number: int, found: object) -> None:
        if number != self._asked:
            return
        if isinstance(found, Index):
            self.typefaces.index = found
            for sentence in found.refused:
                self._document.said.emit(sentence)
            return
        if isinstance(found, Found):
            self.stop.setVisible(False)
            self._colour, self._is_final, self._shapes = found.shapes[0].colour, True, list(found.shapes)
            found = found.matches
        assert isinstance(found, list)
        picked = self._picked()
        self._found = found[:LISTED]
        self.list.blockSignals(True)
        self.list.clear()
        for one in self._found:
            rights = f" · {one.face.embedding}" if one.face.embedding else ""
            near = "what it was set in" if self._was_set else told_of(one)
            item = QListWidgetItem(f"{one.face.name}\n{near}{rights}")
            item.setToolTip(f"{one.face.name}\n{one.face.licence or 'No licence is stated.'}\n{one.face.path}")
            self.list.addItem(item)
        self.set.setEnabled(self._is_final)
        faces = [one.face for one in self._found]
        row = faces.index(picked.face) if picked is not None and self._was_picked and picked.face in faces else 0
        self.list.setCurrentRow(row)
        self.list.blockSignals(False)
        self._pick(row)

    def _take_mark(self, number: int, mark: object) -> None:
        if number == self._drawn:
            assert isinstance(mark, MatchMark)
            self._places = mark.places
            self._show_base()
            more = told_of_weight(px_to_mm(mark.heavier_px, self._dpi())) if self._shapes else ""
            self.line_told.setText(self._line_words + more)
            self.shown.emit(mark)
            self.based.emit(mark.places)

    def _picked(self) -> Match | None:
        row = self.list.currentRow()
        return self._found[row] if 0 <= row < len(self._found) else None

    def _as_set(self) -> Match | None:
        """What is picked, as bold as was asked for."""
        one = self._picked()
        return self.how.applied(one, self._dpi()) if one is not None else None

    def _pick(self, _row: int) -> None:
        one, artwork = self._as_set(), self._document.artwork
        if one is None or artwork is None:
            return
        self.text.setText(one.text)
        unsure = [glyph.character for glyph in one.letters if not glyph.sure]
        told = (
            f"{'Says' if self._was_set else 'Reads'} “{one.text}”, {px_to_mm(one.size_px, artwork.dpi):.2f} mm per em."
        )
        self.told.setText(f"{told} Unsure: {', '.join(unsure)}." if unsure else told)
        self._line_words = told_of_line(one.baseline, artwork.dpi)
        self.line_told.setText(self._line_words)
        self._show_base()
        near_only = self._is_final and not self._was_set and self._area is None and not is_close(one)
        self.alike.setVisible(near_only and bool(repeated_in(one)))
        spacing, drawn = self.how.own_spacing, self._shapes
        self._drawn = self._drawer.submit(lambda give, _report: give(MatchMark(one, spacing, drawn)))

    def _set_arcs(self, arcs: bool) -> None:
        self._arcs = arcs
        self._looked_at = self._base = None
        self.refresh()

    def _add(self) -> None:
        folder = QFileDialog.getExistingDirectory(self.group, "Typefaces to look through")
        if folder:
            add_folder(kept_folders(), Path(folder))
            self.typefaces.forget()
            self._looked_at = None
            self.refresh()
