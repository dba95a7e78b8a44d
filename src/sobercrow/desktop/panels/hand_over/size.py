"""Size and page of what is handed over."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QWidget

from sobercrow.core.artwork.placing import Nine
from sobercrow.core.handover.page import ARTWORK, LARGEST_MM, OWN, PAPERS, PICTURE, Lie, Page, Sheet, TrueSize, seen_box
from sobercrow.core.settings import Unit, mm_to_px, px_to_mm
from sobercrow.core.settings.meaning import meaning_of
from sobercrow.desktop.controls import Fold, group_column, label, row_of, tick
from sobercrow.desktop.document import Document
from sobercrow.desktop.small_fields import NineGrid, SmallField

NAMES = {PICTURE: "As the picture", ARTWORK: "The artwork alone", OWN: "Own size"}


class SizePart:
    """True size by width, height or scale; the page, its margin, and where the artwork lies on it."""

    def __init__(self, document: Document, unit: Unit, keep_unit: Callable[[Unit], None]) -> None:
        """Work on a document; `keep_unit` remembers the unit chosen."""
        self._document, self._keep_unit = document, keep_unit
        self.unit = unit
        self.units = QComboBox()
        self.units.addItems([one.value for one in Unit])
        self.units.setCurrentIndex(list(Unit).index(unit))
        self.units.setAccessibleName("Unit")
        self.units.setToolTip("Unit\nOf all lengths in this step; px are those of the web, 96 to the inch.")
        self.units.activated.connect(lambda k: self._take_unit(list(Unit)[k]))
        self.width = SmallField("Width", "Of all that is inked; the height follows.", 0.1, LARGEST_MM, unit.value)
        self.height = SmallField("Height", "Of all that is inked; the width follows.", 0.1, LARGEST_MM, unit.value)
        self.scale = SmallField("Scale", "Against the size it was drawn at.", 0.1, 100_000.0, "%", 1)
        self.width.changed.connect(lambda v: self._size("Set width", TrueSize(width_mm=v * self.unit.in_mm)))
        self.height.changed.connect(lambda v: self._size("Set height", TrueSize(height_mm=v * self.unit.in_mm)))
        self.scale.changed.connect(lambda v: self._size("Set scale", TrueSize(scale=v)))
        self.papers = QComboBox()
        self.papers.setAccessibleName("Page")
        self.papers.setToolTip("Page\nThe sheet the artwork is handed over on.")
        self._keys = (PICTURE, ARTWORK, *PAPERS, OWN)
        self.papers.addItems([NAMES.get(key, key) for key in self._keys])
        self.papers.activated.connect(lambda k: self._page("Set page", paper=self._keys[k], by_hand=None))
        self.lying = tick("Lying", "The longer side of the page is level.")
        self.lying.toggled.connect(lambda on: self._page("Turn page", is_lying=on, by_hand=None))
        self.page_width = SmallField("Across", "Of a page of your own.", 0.1, LARGEST_MM, unit.value)
        self.page_height = SmallField("Down", "Of a page of your own.", 0.1, LARGEST_MM, unit.value)
        self.page_width.changed.connect(lambda v: self._page("Set page", width_mm=v * self.unit.in_mm))
        self.page_height.changed.connect(lambda v: self._page("Set page", height_mm=v * self.unit.in_mm))
        self.margin = SmallField("Margin", "Kept free along the edges of the page.", 0.0, 500.0, unit.value)
        self.margin.changed.connect(lambda v: self._page("Set margin", margin_mm=v * self.unit.in_mm))
        self.at = NineGrid("Lies at", "Where on the page the artwork lies; or drag the page on the canvas.")
        self.at.chosen.connect(lambda point: self._page("Lay on page", at=point.value, by_hand=None))
        self.own = row_of(self.page_width, self.page_height)
        place = self.place = QWidget()
        layout = QHBoxLayout(place)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(14)
        layout.addWidget(self.at)
        layout.addWidget(group_column(self.lying, label("Or drag the page on the canvas.", muted=True)), 1)
        self.told = label(muted=True)
        self.told.hide()
        self.size = group_column(row_of(self.width, self.height), row_of(self.scale, self.units), self.told)
        self.fold = Fold("Page", self.papers, self.own, self.margin, place)

    @property
    def _sheet(self) -> Sheet:
        return self._document.state.hand_over.sheet

    def _set(self, name: str, sheet: Sheet, merge: str | None) -> None:
        self._document.set_hand_over(name, replace(self._document.state.hand_over, sheet=sheet), merge)

    def _size(self, name: str, size: TrueSize) -> None:
        self._set(name, replace(self._sheet, size=size), name)

    def _page(self, name: str, **change: object) -> None:
        page: Page = replace(self._sheet.page, **change)  # type: ignore[arg-type]
        self._set(name, replace(self._sheet, page=page), name)

    def drag(self, lie: Lie, dx: float, dy: float) -> None:
        """Lay the artwork where a page that was dragged so far has it."""
        artwork = self._document.artwork
        box = seen_box(artwork) if artwork is not None else None
        if box is not None and (dx or dy):
            x, y = box[0] + lie.dx - dx, box[1] + lie.dy - dy
            at = px_to_mm(x, lie.dpi), px_to_mm(y, lie.dpi)
            self._page("Lay on page", by_hand=at)

    def _take_unit(self, unit: Unit) -> None:
        self.unit = unit
        self._keep_unit(unit)
        self.refresh(None)

    def refresh(self, lie: Lie | None) -> None:
        """Show the present size and page."""
        artwork = self._document.artwork
        box = seen_box(artwork) if artwork is not None else None
        if artwork is None or box is None:
            return
        sheet, page = self._sheet, self._sheet.page
        sizes = px_to_mm(box[2] - box[0], artwork.dpi), px_to_mm(box[3] - box[1], artwork.dpi)
        factor = sheet.size.factor(*sizes)
        across, down = (mm_to_px(1.0, 25.4) * v * factor for v in sizes)
        for field, value, meaning in (
            (self.width, across, meaning_of(TrueSize, "width_mm")),
            (self.height, down, meaning_of(TrueSize, "height_mm")),
            (self.page_width, page.width_mm, meaning_of(Page, "width_mm")),
            (self.page_height, page.height_mm, meaning_of(Page, "height_mm")),
            (self.margin, page.margin_mm, meaning_of(Page, "margin_mm")),
        ):
            field.box.setSuffix(f" {self.unit.value}")
            field.box.setDecimals(self.unit.decimals)
            field.show_value(value / self.unit.in_mm, (meaning.low / self.unit.in_mm, meaning.high / self.unit.in_mm))
        self.scale.show_value(100.0 * factor)
        self.papers.setCurrentIndex(self._keys.index(page.paper))
        self.own.setVisible(page.paper == OWN)
        self.place.setVisible(not page.is_fitted)
        self.lying.blockSignals(True)
        self.lying.setChecked(page.is_lying)
        self.lying.blockSignals(False)
        self.lying.setVisible(page.paper != OWN)
        if page.at in [point.value for point in Nine]:
            self.at.point = Nine(page.at)
            self.at.update()
        if lie is not None:
            self.fold.state.setText(self.told_of(lie))

    def told_of(self, lie: Lie) -> str:
        """Return the size of a page in the unit chosen."""
        unit, decimals = self.unit, self.unit.decimals
        width, height = (px_to_mm(v, lie.dpi) / unit.in_mm for v in (lie.width_px, lie.height_px))
        return f"{width:.{decimals}f} × {height:.{decimals}f} {unit.value}"

    def tell_outside(self, count: int) -> None:
        """Say how many shapes reach beyond the page, if any do."""
        what = "1 shape reaches" if count == 1 else f"{count} shapes reach"
        self.told.setText(f"{what} beyond the page and will be cut off or left out by what reads the file.")
        self.told.setVisible(count > 0)
