"""The shape of the sheet: turns, straightening, slant, crop."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QObject, QRectF, Signal
from PySide6.QtWidgets import QWidget

from sobercrow.core.artwork.hit import union_box
from sobercrow.core.cleanup.find_sheet import find_sheet
from sobercrow.core.cleanup.sheet import crop_around, crop_within, mirror, reshape, sheet_map, turn
from sobercrow.core.cleanup.slant import proportions
from sobercrow.core.cleanup.straighten import find_turn
from sobercrow.core.errors import SettingError
from sobercrow.core.job import Job
from sobercrow.core.settings import CleanUp, Corners, Crop, Meaning, Settings, meaning_of, mm_to_px, px_to_mm
from sobercrow.desktop.controls import NumberField, button, headed, label, row_of
from sobercrow.desktop.dial import Dial
from sobercrow.desktop.document import Document
from sobercrow.desktop.panels.clean_up.part import Part
from sobercrow.desktop.presentation import Presentation


class Wishes(QObject):
    """What the sheet part asks of the window."""

    tool = Signal(str)
    corners = Signal()
    refit = Signal()


class SheetPart(Part):
    """Turn, straighten, undo a slant, crop."""

    title = "Sheet"

    def __init__(self, document: Document) -> None:
        """Work on a document's sheet."""
        super().__init__(document)
        self.wishes = Wishes()
        self.left = button("Turn left", "Turn left (Ctrl+L)\nTurns the picture by a quarter, anticlockwise.")
        self.right = button("Turn right", "Turn right (Ctrl+R)\nTurns the picture by a quarter, clockwise.")
        self.flip = button("Mirror", "Mirror\nExchanges left and right.")
        self.left.clicked.connect(lambda: self.turn(-1))
        self.right.clicked.connect(lambda: self.turn(1))
        self.flip.clicked.connect(self.mirror)
        self.dial = Dial("Straighten")
        self.dial.turned.connect(lambda angle: self.set_number("angle_deg", angle))
        self.auto_angle = button("Automatic", "Straighten automatically\nBy lines of writing and by straight lines.")
        self.auto_angle.clicked.connect(self.straighten)
        self.by_line = button("Along a line", "Along a line (L)\nDraw along what should be level or upright.")
        self.by_line.clicked.connect(lambda: self.wishes.tool.emit("level"))
        self.find = button("Find sheet", "Find sheet\nFinds the corners of a sheet in a photo and undoes its slant.")
        self.find.clicked.connect(self.unslant)
        self.set_corners = button("Set corners", "Set corners\nDrag the four corners on the picture as brought in.")
        self.set_corners.clicked.connect(self.wishes.corners)
        self.slant_state = label(muted=True)
        self.ratio = NumberField(meaning_of(CleanUp, "ratio"))
        self.ratio.slide.hide()
        self.ratio.changed.connect(lambda value: self._reshape("Set proportions", "slant", "ratio", ratio=value))
        self.ratio.reset.connect(lambda: self._reshape("Find proportions", "slant", ratio=None))
        self.margin = NumberField(Meaning("Margin", "Left around the drawing.", 0, 50, "mm", 0.5, 1), brief=True)
        self.margin.box.setValue(3.0)
        self.margin.slide.hide()
        self.margin.back.hide()
        self.margin_mm = 3.0
        self.margin.changed.connect(self._set_margin)
        self.to_drawing = button("To the drawing", "Crop to the drawing\nWith the margin below around it.")
        self.to_drawing.clicked.connect(self.crop_to_drawing)
        self.by_frame = button("By a frame", "By a frame (F)\nPull a frame around what is to be kept.")
        self.by_frame.clicked.connect(lambda: self.wishes.tool.emit("frame"))
        self.uncrop = button("Whole", "Whole picture\nTakes the crop away.")
        self.uncrop.clicked.connect(self.take_crop_away)
        self.crop_size = label(muted=True)

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        angle = self.number("angle_deg", "Sheet", 0.0, "angle")
        self.fields["angle_deg"].slide.hide()  # the dial takes its place
        return [
            headed(self.switch("turn", "Turns and mirror"), row_of(self.left, self.right, self.flip)),
            angle,
            self.dial,
            row_of(self.auto_angle, self.by_line),
            headed(self.switch("slant", "Slant undone"), label("Slant")),
            self.slant_state,
            row_of(self.find, self.set_corners),
            self.ratio,
            headed(self.switch("crop", "Crop"), label("Crop")),
            self.crop_size,
            row_of(self.to_drawing, self.by_frame, self.uncrop),
            self.margin,
        ]

    def _set_margin(self, value: float) -> None:
        self.margin_mm = value

    def set_number(self, name: str, value: float) -> None:
        """Turn the sheet; its crop stays about the same part of the drawing."""
        self._reshape("Straighten", "angle", merge="clean angle", angle_deg=round(value, 2))

    def _reshape(self, name: str, part: str, merge: str | None = None, **fields: object) -> None:
        source = self.document.source
        if source is None:
            return
        try:
            changed = reshape(self.settings.switched(part, True), source.width, source.height, **fields)
            sheet_map(source.width, source.height, changed)
        except SettingError as fault:
            self.document.failed.emit(str(fault))
            return
        self.document.take_clean_up(name, changed, merge)

    def turn(self, clockwise: int) -> None:
        """Turn the picture by quarters."""
        source = self.document.source
        if source is not None:
            self.wishes.refit.emit()
            self.document.take_clean_up("Turn picture", turn(self.settings, source.width, source.height, clockwise))

    def mirror(self) -> None:
        """Exchange left and right."""
        source = self.document.source
        if source is not None:
            self.document.take_clean_up("Mirror picture", mirror(self.settings, source.width, source.height))

    def turn_by(self, more_deg: float) -> None:
        """Straighten by so much more."""
        self.wishes.refit.emit()
        angle = self.settings.in_force().angle_deg + more_deg
        self._reshape("Straighten along a line", "angle", angle_deg=round(min(max(angle, -45.0), 45.0), 2))

    def straighten(self) -> None:
        """Straighten by what is found on the sheet."""

        def look(job: Job, settings: Settings) -> float | None:
            found = find_turn(job.clean_draft(settings, job.source.width * job.source.height).grey)
            return found.angle_deg if found is not None else None

        def take(angle: float | None) -> None:
            if angle is None:
                self.document.said.emit(
                    "No lines of writing and no straight lines were found; draw along a line instead."
                )
            elif abs(angle) < 0.02:
                self.document.said.emit("The sheet stands straight already.")
            else:
                self.turn_by(angle)

        self.document.ask_job(look, take)

    def unslant(self) -> None:
        """Undo the slant of the sheet found in the picture."""

        def take(corners: Corners | None) -> None:
            if corners is None:
                self.document.said.emit("No sheet with four straight sides was found; set its corners by hand.")
            else:
                self.set_slant(corners)

        self.document.ask_job(lambda job, _settings: find_sheet(job.source.pixels), take)

    def set_slant(self, corners: Corners | None) -> None:
        """Undo a slant given by four corners, or with None leave the picture as it is."""
        self.wishes.refit.emit()
        self._reshape("Undo slant" if corners is not None else "Leave slant", "slant", slant=corners)

    def take_crop_away(self) -> None:
        """Show the whole sheet again."""
        self.wishes.refit.emit()
        self.change("Take crop away", crop=None)

    def crop_to(self, kept: QRectF) -> None:
        """Crop to a rectangle of the sheet, in pixels of the cleaned picture."""
        source, shown = self.document.source, self.document.presentation
        if source is None or shown is None:
            return
        x, y = shown.results.sheet_scale
        try:
            whole = sheet_map(source.width, source.height, self.settings, with_crop=False)
            crop = crop_within(whole, kept.left() / x, kept.top() / y, kept.right() / x, kept.bottom() / y)
        except SettingError as fault:
            self.document.failed.emit(str(fault))
            return
        self.wishes.refit.emit()
        self.document.take_clean_up("Crop", self._with_crop(crop))

    def _with_crop(self, crop: Crop) -> CleanUp:
        return replace(self.settings.switched("crop", True), crop=crop)

    def crop_to_drawing(self) -> None:
        """Crop to the artwork with a margin."""
        artwork, source, shown = self.document.artwork, self.document.source, self.document.presentation
        if artwork is None or source is None or shown is None:
            return
        box, scale = union_box(artwork.shapes), shown.results.sheet_scale
        margin = mm_to_px(self.margin_mm, artwork.dpi)
        try:
            crop = crop_around(self.settings, source.width, source.height, box, margin, scale)
        except SettingError as fault:
            self.document.failed.emit(str(fault))
            return
        self.wishes.refit.emit()
        self.document.take_clean_up("Crop to the drawing", self._with_crop(crop))

    def refresh(self, presentation: Presentation) -> None:
        """Show the present state."""
        super().refresh(presentation)
        settings = self.settings
        self.fields["angle_deg"].show_value(settings.angle_deg, settings.angle_deg == 0.0)
        self.dial.show_angle(settings.angle_deg)
        self.slant_state.setText(
            "Undone by four corners." if settings.slant is not None else "As in the picture brought in."
        )
        self.switches["slant"].setEnabled(settings.slant is not None)
        self.ratio.setVisible(settings.slant is not None)
        source = self.document.source
        if settings.slant is not None and source is not None:
            found = proportions(settings.slant, source.width, source.height)
            note = f"Width ÷ height of the sheet; {found:.3f} by the perspective. An upright A4 sheet has 0.707."
            self.ratio.show_value(settings.ratio or found, settings.ratio is None, note)
        crop, dpi = settings.crop, presentation.artwork.dpi / presentation.results.enlarged
        self.switches["crop"].setEnabled(crop is not None)
        self.uncrop.setEnabled(crop is not None)
        if crop is None:
            self.crop_size.setText("Drag the edges of the picture to crop it.")
        else:
            width, height = crop.right - crop.left, crop.bottom - crop.top
            self.crop_size.setText(
                f"{width} × {height} px, {px_to_mm(width, dpi):.1f} × {px_to_mm(height, dpi):.1f} mm."
            )

    def summary(self, presentation: Presentation) -> str:
        """Return how things stand, in a few words."""
        settings = self.settings.in_force()
        words = ["slant undone"] if settings.slant is not None else []
        if settings.quarter_turns:
            words.append(f"{90 * settings.quarter_turns}°")
        if settings.mirrored:
            words.append("mirrored")
        if settings.angle_deg:
            words.append(f"{settings.angle_deg:+.1f}°")
        if settings.crop is not None:
            words.append("cropped")
        return " · ".join(words)
