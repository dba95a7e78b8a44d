"""The main window: rail, view bar, canvas, panel, gauge line, menus."""

from __future__ import annotations

from collections.abc import Iterator
from typing import cast

from PySide6.QtCore import QPointF, QSettings, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from sobercrow import __version__
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.hit import anchors_in
from sobercrow.core.artwork.proofs import Proof
from sobercrow.core.settings import PenPressure, Unit
from sobercrow.desktop import tokens
from sobercrow.desktop.canvas.view import Canvas
from sobercrow.desktop.clipboard import Clipboard
from sobercrow.desktop.command_table import command_table
from sobercrow.desktop.controls import ARROWS, Ground, Panel, label
from sobercrow.desktop.corner_editing import CornerEditing
from sobercrow.desktop.devices import Devices
from sobercrow.desktop.dialogs import tell
from sobercrow.desktop.document import Document
from sobercrow.desktop.editing.key_trying import KeyTrying
from sobercrow.desktop.editing.lines import LINE_EDITS, WIDE_EDITS
from sobercrow.desktop.editing.shapes import SHAPE_EDITS
from sobercrow.desktop.faults import Faults
from sobercrow.desktop.files import Files
from sobercrow.desktop.gauge import Gauge
from sobercrow.desktop.lettering_offer import LetteringOffer
from sobercrow.desktop.menus import Menus
from sobercrow.desktop.panels.clean_up import CleanUpPanel
from sobercrow.desktop.panels.hand_over import HandOverPanel
from sobercrow.desktop.panels.inks import InksPanel
from sobercrow.desktop.panels.picture_steps import BringInPanel
from sobercrow.desktop.panels.refine import RefinePanel
from sobercrow.desktop.panels.refine.parts import MIME as PART
from sobercrow.desktop.panels.trace import TracePanel
from sobercrow.desktop.pen_dialog import PenDialog
from sobercrow.desktop.preferences import keep_pressure, keep_unit, kept_pressure, kept_unit, prefers_dark
from sobercrow.desktop.proof_sheet import ProofSheet
from sobercrow.desktop.rail import Rail
from sobercrow.desktop.remembered import bring_back, keep
from sobercrow.desktop.ring_card import RingCard
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.seam_pill import SeamPill
from sobercrow.desktop.several.desk import SeveralDesk
from sobercrow.desktop.several.page import SeveralPage
from sobercrow.desktop.start import StartPage
from sobercrow.desktop.steps import LOOKS, Step
from sobercrow.desktop.theme import change_theme, dress
from sobercrow.desktop.tool import ENTER
from sobercrow.desktop.tools import table
from sobercrow.desktop.tools.anchors import Anchors
from sobercrow.desktop.tools.choose import Choose
from sobercrow.desktop.tools.crop import CropEdges
from sobercrow.desktop.tools.pour import ArtworkPour
from sobercrow.desktop.tools.slant import SlantCorners
from sobercrow.desktop.tools.tool_bar import ToolBar
from sobercrow.desktop.typeface_folders import Typefaces
from sobercrow.desktop.view_bar import ViewBar
from sobercrow.desktop.wiring import connect

AUTOSAVE_MS = 8_000
WIDTH_PX, HEIGHT_PX = 1280, 800
SPLIT_PX = 4
"""So wide a strip left of the panel is pulled to make it wider."""
SETTLED_MS = 80
"""By then a panel has laid out what was shown and hidden in it."""
ICONS = {"seam": "seam", "peek": "peek", "fit": "corners-out", "undo": "arrow-u-up-left", "redo": "arrow-u-up-right"}


class MainWindow(QMainWindow):
    """Puts the parts together; every part talks to the document, not to the others."""

    def __init__(self, preferences: QSettings, devices: Devices | None = None, start: StartPage | None = None) -> None:
        """Make the window with an empty desk, and with the devices there are.

        Around a start page that is on screen already it is left to be built in pieces, by going through `building`.
        """
        super().__init__()
        self.preferences, self.devices = preferences, devices or Devices()
        self.start = start or StartPage()
        self.building = self._build()
        if start is None:
            for _ in self.building:
                pass

    def _build(self) -> Iterator[None]:
        """Build the window, pausing between pieces."""
        self.setWindowTitle("Sober Crow")
        self.setMinimumSize(1100, 700)
        self.setAcceptDrops(True)
        self.document = Document()
        self.canvas = Canvas(self.document)
        self.canvas.pen.pressure = kept_pressure(self.preferences)
        self.rail = Rail(self.document)
        self.gauge = Gauge(self.document, self.canvas)
        self.faults = Faults(lambda: self.document.undo_name or "")
        self.files = Files(self.document, self, self.preferences, self.gauge.say, self.devices)
        self.clipboard = Clipboard(self.document, lambda sentence: self.gauge.say(sentence, warning=True))
        self.typefaces = Typefaces()
        self.offer = LetteringOffer(self.document, self.typefaces)
        self.panels: dict[Step, Panel] = {}
        yield
        self.panels[Step.BRING_IN] = self.bring_in_panel = BringInPanel(self.document, self.offer)
        yield
        self.panels[Step.CLEAN_UP] = self.clean_panel = CleanUpPanel(self.document, self.offer)
        yield
        self.panels[Step.INKS] = self.inks_panel = InksPanel(self.document)
        yield
        self.panels[Step.TRACE] = self.trace_panel = TracePanel(self.document)
        yield
        self.tools, self.standing = table.make_tools(table.TOOLS), table.make_tools(table.STANDING)
        marks = [tool.placing for tool in self.tools.values() if isinstance(tool, Anchors | Choose)]
        pour = cast(ArtworkPour, self.tools["art-pour"])
        refine = RefinePanel(self.document, self.canvas.shapes_in_view, marks, pour, self.typefaces)
        self.panels[Step.REFINE] = self.refine_panel = refine
        unit = kept_unit(self.preferences)
        self.panels[Step.HAND_OVER] = self.hand_over_panel = HandOverPanel(
            self.document, lambda: self.files.writing.name, self.devices.cutter, unit, self.take_unit
        )
        self.gauge.set_unit(unit)
        yield
        self.step = Step.TRACE
        self.canvas.hand, self.canvas.standing = self.tools["hand"], tuple(self.standing.values())
        self.in_hand = dict(table.FIRST_TOOLS)
        for tool in self.tools.values():
            if tool.settings is not None and tool.step is Step.REFINE:
                self.refine_panel.options.add(tool)
        self.chosen_views: dict[Step, Showing] = {}
        icons = {f"tool-{tool.id}": tool.icon for tool in self.tools.values() if tool.icon}
        page = SeveralPage(self.trace_panel.recipes.book)
        self.several = SeveralDesk(self.document, page, self.files.may_leave, self.gauge.warn, self.refresh)
        self.menus = Menus(self.menuBar(), command_table(self), {**ICONS, **icons})
        yield
        self.menus.dress()
        yield
        self._lay_out()
        connect(self)
        KeyTrying(self, self.document, refine.runner, (*LINE_EDITS, *WIDE_EDITS, *SHAPE_EDITS))
        self._autosave = QTimer(self)
        self._autosave.timeout.connect(self.files.autosave)
        self._autosave.start(AUTOSAVE_MS)
        yield
        self.go_to(Step.TRACE)
        self.start.show_recent(self.files.recent())
        self.start.show_devices(self.devices.scanner is not None, self.devices.camera is not None)
        for part in self.parts():
            dress(part)
            yield
        bring_back(self)
        self.refresh()

    # layout

    def _lay_out(self) -> None:
        self.desk = QStackedWidget()
        self.desk.addWidget(self.start)
        work = QWidget()
        row = QHBoxLayout(work)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.view_bar = ViewBar(self.menus.actions.__getitem__)
        column.addWidget(self.view_bar)
        self.sheet = ProofSheet(self.document, self.canvas)
        self.stage = QStackedWidget()
        self.stage.addWidget(self.canvas)
        self.stage.addWidget(self.sheet)
        column.addWidget(self.stage, 1)
        self.tool_bar = ToolBar(self.canvas, self.tools.values(), self.menus.actions.__getitem__)
        self.corners = CornerEditing(self.document, self.canvas, cast(SlantCorners, self.standing["slant-corners"]))
        self.pill = SeamPill(self.canvas)
        self.ring_card = RingCard(self.canvas, self.document)
        row.addWidget(self.rail)
        self.panel_ground = self._panel()
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        self.splitter.setHandleWidth(SPLIT_PX)
        self.splitter.setChildrenCollapsible(False)
        for part in (middle, self.panel_ground):
            self.splitter.addWidget(part)
        self.splitter.setStretchFactor(0, 1)
        self.splitter.setStretchFactor(1, 0)
        self.splitter.setSizes([WIDTH_PX - tokens.RAIL_WIDTH - tokens.PANEL_WIDTH, tokens.PANEL_WIDTH])
        row.addWidget(self.splitter, 1)
        self.desk.addWidget(work)
        self.desk.addWidget(self.several.page)
        self._work = work
        whole = QWidget()
        outer = QVBoxLayout(whole)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        outer.addWidget(self.desk, 1)
        outer.addWidget(self.gauge)
        self.setCentralWidget(whole)
        self.resize(WIDTH_PX, HEIGHT_PX)

    def show_sheet(self, on: bool | None = None) -> None:
        """Show the proof sheet in place of the canvas, or the canvas again; None changes over."""
        self.stage.setCurrentWidget(
            self.sheet if (self.stage.currentWidget() is self.canvas if on is None else on) else self.canvas
        )

    def compare(self, proof: Proof) -> None:
        """Lay a proof beside the present result."""
        self.show_sheet(False)
        self.show_as(Showing.FILLED)
        self.canvas.compare_with(proof.artwork)

    def _panel(self) -> QWidget:
        panel = Ground()
        panel.setMinimumWidth(tokens.PANEL_WIDTH)
        panel.setMaximumWidth(tokens.MOST_PANEL_WIDTH)
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(1, 0, 0, 0)
        self.panel_title = label(title=True)
        self.panel_title.setContentsMargins(16, 14, 16, 0)
        layout.addWidget(self.panel_title)
        self.panel_stack = QStackedWidget()
        self.panel_areas: dict[Step, QScrollArea] = {}
        for step, made in self.panels.items():
            area = self.panel_areas[step] = QScrollArea()
            area.setFrameShape(QFrame.Shape.NoFrame)
            area.setWidgetResizable(True)
            area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            area.setWidget(made.column)
            self.panel_stack.addWidget(area)
        layout.addWidget(self.panel_stack, 1)
        return panel

    def bring_up(self, part: QWidget) -> None:
        """Scroll the panel to one of its parts, once it has its place."""
        area = self.panel_areas[self.step]
        QTimer.singleShot(SETTLED_MS, area, lambda: area.verticalScrollBar().setValue(part.y()))

    def take_unit(self, unit: Unit) -> None:
        """Remember the unit chosen, and show the place under the pointer in it."""
        keep_unit(self.preferences, unit)
        self.gauge.set_unit(unit)

    def set_pen(self) -> None:
        """Ask how a pen's pressure becomes width."""
        PenDialog(self.canvas.pen.pressure, self._take_pressure, self).exec()

    def _take_pressure(self, pressure: PenPressure) -> None:
        self.canvas.pen.pressure = pressure
        keep_pressure(self.preferences, pressure)

    def refresh_actions(self) -> None:
        """Show which commands can run now, what undo would do, and what is open."""
        self.menus.refresh()
        self.menus.name_undo(self.document.undo_name, self.document.redo_name)
        changed = "*" if self.document.is_changed else ""
        source = self.document.source
        name = self.document.path.name if self.document.path else (source.name if source else "")
        self.setWindowTitle(f"{changed}{name} · Sober Crow" if name else "Sober Crow")

    def refresh(self, *_: object) -> None:
        """Show the present state."""
        alone = self.start if self.document.source is None else self._work
        self.desk.setCurrentWidget(self.several.page if self.several.is_on else alone)
        self.view_bar.show_table(bool(self.several.page.pieces.rows))
        self.panels[self.step].refresh()
        self.refresh_actions()

    # steps and views

    def go_to(self, step: Step) -> None:
        """Show a step: its panel, its view, its tools."""
        entered = step is not self.step
        self.step = step
        self.rail.set_active(step)
        self.panel_title.setText(LOOKS[step].title)
        self.panel_stack.setCurrentIndex(list(Step).index(step))
        self.canvas.whole_sheet = cast(CropEdges, self.standing["crop-edges"]).active = step is Step.CLEAN_UP
        self.tool_bar.show_step(step)
        if entered:
            self.canvas.drag.give_up()
            self.corners.end()
            self.inks_panel.specks.forget()
            self.hand_over_panel.set_active(step is Step.HAND_OVER)
            self.in_hand.pop(Step.BRING_IN, None)  # measuring is over once one has gone elsewhere
        self._take_up()
        if entered and step is not Step.REFINE:
            self.document.choose()
        self.view_bar.offer(LOOKS[step].views)
        self.show_as(self.chosen_views.get(step, LOOKS[step].views[0]))
        self.refresh()

    def show_as(self, showing: Showing) -> None:
        """Choose what the canvas shows in this step."""
        if showing in LOOKS[self.step].views:
            self.chosen_views[self.step] = showing
        self.canvas.set_showing(showing)
        self.inks_panel.show_view(showing)
        self.set_frame()
        self.view_bar.mark(showing)
        self.seen_anew()

    @property
    def tool(self) -> str:
        """The tool in hand in the present step."""
        return self.in_hand.get(self.step, "")

    def use_tool(self, name: str) -> None:
        """Take up a tool; goes to its step if need be."""
        twins = (tool.id for tool in self.tools.values() if tool.shares == name and tool.step is self.step)
        name = next(twins, name)
        step = self.tools[name].step
        if name != self.in_hand.get(step):
            self.document.choose(Choice(self.document.choice.shapes) if self.tools[name].keeps_shapes else None)
        self.canvas.drag.give_up()
        self.go_to(step)
        self.in_hand[step] = name
        if name == "measure":
            self.show_as(Showing.SOURCE)
            self.bring_in_panel.show_measuring()
        self._take_up()
        self.refresh_actions()

    def _take_up(self) -> None:
        self.ring_card.keep()
        name = self.in_hand.get(self.step)
        self.canvas.tool = self.tools[name] if name is not None else None
        here = (tool for tool in self.tools.values() if tool.step is self.step)
        self.canvas.eraser = next((tool for tool in here if "scrape" in (tool.id, tool.shares)), None)
        self.clean_panel.touch.show_tool(self.tool)
        self.inks_panel.touch.show_tool(self.tool)
        self.refine_panel.show_tool(self.tool if self.step is Step.REFINE else "")
        self.refine_panel.refresh()
        self.canvas.update()

    def set_frame(self) -> None:
        """Show the picture as brought in by itself where nothing is to be compared with it."""
        alone = self.step is Step.BRING_IN and self.canvas.showing is Showing.SOURCE and self.canvas.seam is None
        self.canvas.set_raw(alone or self.corners.is_active)

    def picked(self, x: float, y: float) -> None:
        if self.step is Step.INKS:
            self.inks_panel.several.picked(x, y)
            self.use_tool("point")
            return
        self.clean_panel.picked(x, y)
        self.use_tool("hand")

    def measured(self, length_px: float) -> None:
        shown = self.document.presentation
        enlarged = 1.0 if self.canvas.raw or shown is None else shown.results.enlarged
        self.bring_in_panel.take_measured(length_px / enlarged)

    def edit_corners(self) -> None:
        """Let the four corners of a slanted sheet be dragged on the picture as brought in."""
        self.go_to(Step.CLEAN_UP)
        self.corners.begin()

    def toggle_seam(self) -> None:
        """Put the seam in the middle, or away; in Clean up it compares with the picture as brought in."""
        if self.step is Step.CLEAN_UP and self.canvas.other_side is self.canvas.showing:
            self.canvas.set_other_side(Showing.SOURCE)
        self.canvas.set_seam(0.5 if self.canvas.seam is None else None)

    def seen_anew(self) -> None:
        """Follow a change of seam, camera or frame with what stands on the canvas."""
        self.set_frame()
        self.corners.place()
        self.pill.refresh()
        self.refresh_actions()

    def choose_all(self) -> None:
        """Choose all shapes, or with the Anchors tool all anchors."""
        artwork = self.document.artwork
        if artwork is None:
            return
        if self.tool == "anchors" and self.step is Step.REFINE:
            self.document.choose(Choice(anchors=anchors_in(artwork, (-1e9, -1e9, 1e9, 1e9))))
        else:
            self.use_tool("choose")
            self.document.choose(Choice(shapes=frozenset(range(len(artwork.shapes))) - artwork.fixed))

    # files

    def paste(self) -> None:
        """In Refine put the shapes on the clipboard into the artwork; else bring in a picture."""
        if self.step is Step.REFINE and self.clipboard.has_shapes():
            self.use_tool("choose")
            self.clipboard.paste()
        else:
            self.files.paste()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take pictures and files."""
        data = event.mimeData()
        if data.hasUrls() or data.hasImage() or (data.hasFormat(PART) and self.step is Step.REFINE):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Open what was dropped."""
        event.acceptProposedAction()
        data = event.mimeData()
        if data.hasFormat(PART):
            at = QPointF(self.canvas.mapFrom(self, event.position().toPoint()))
            place = self.canvas.camera.to_picture(at.x(), at.y(), self.canvas.width(), self.canvas.height())
            self.use_tool("choose")
            self.refine_panel.parts.put(bytes(data.data(PART).data()).decode(), place)
            return
        self.files.take(data, "what you dropped")

    def show_opened(self) -> None:
        self.several.take_opened()
        pending = self.files.pending
        source = self.document.source
        if (
            pending is not None
            and source is not None
            and (pending.name == source.name or pending == self.document.path)
        ):
            self.files.remember(pending)
        self.files.pending = None
        self.go_to(Step.REFINE if self.document.state.refined is not None else Step.TRACE)
        self.canvas.setFocus()
        if source is not None and not source.dpi_stated and self.document.path is None:
            self.gauge.say(
                "The picture states no resolution, so 300 dpi is assumed; set it in Bring in.", warning=False
            )

    # ending

    def closeEvent(self, event: QCloseEvent) -> None:
        """Ask about unsaved changes, then end the worker."""
        if not (self.files.may_leave() and self.several.page.may_leave()):
            event.ignore()
            return
        keep(self)
        self._autosave.stop()
        self.files.forget_recovery()
        self.end_work()
        event.accept()

    def end_work(self) -> None:
        """End all that works in the background."""
        self.refine_panel.close_workers()
        self.hand_over_panel.close_workers()
        self.canvas.board.close()
        self.offer.close()
        self.several.page.pieces.clear()
        self.document.close()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Nudge what is chosen with the arrow keys; hold Q to peek, wherever the focus is."""
        if event.key() == Qt.Key.Key_Q and not event.modifiers():
            self.canvas.set_peeking(True)
            return
        if self.ring_card.answers(event.key()):
            return
        if event.key() == Qt.Key.Key_Escape and self.stage.currentWidget() is self.sheet:
            self.show_sheet(False)
        elif event.key() == Qt.Key.Key_Escape and not self.canvas.drag.give_up():
            self.corners.cancel()
            self.trace_panel.sketch.hand.say(None)
            return
        if event.key() in ENTER:
            self.corners.finish()
            return
        way = ARROWS.get(Qt.Key(event.key()))
        if way is None or self.step is not Step.REFINE:
            super().keyPressEvent(event)
            return
        pixels = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        size = 1.0 if pixels or event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.1
        self.refine_panel.nudge(way[0] * size, way[1] * size, pixels)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        """Stop peeking."""
        if event.key() == Qt.Key.Key_Q and not event.isAutoRepeat():
            self.canvas.set_peeking(False)
        else:
            super().keyReleaseEvent(event)

    # help and look

    def is_dark(self) -> bool:
        """Tell whether the dark theme is in use."""
        return prefers_dark(self.preferences)

    def parts(self) -> list[QWidget]:
        """The parts that have a look of their own, those that are seen first."""
        panels = sorted(self.panels, key=lambda step: step is not self.step)
        areas = [self.panel_areas[step].verticalScrollBar() for step in panels]
        groups = [group for step in panels for group in self.panels[step].groups()]
        seen = [self.menuBar(), self.view_bar, self.rail, self.panel_title, self.gauge, self.canvas]
        return [self.start, self.several.page, self.splitter.handle(1), *seen, *groups, *areas, self.sheet]

    def toggle_dark(self) -> None:
        """Change between the light and the dark theme."""
        self.preferences.setValue("dark", "false" if self.is_dark() else "true")
        change_theme(
            cast(QApplication, QApplication.instance()),
            self.is_dark(),
            self,
            self.parts(),
            lambda: self.document.requests.busy,
        )
        self.menus.dress()
        for widget in (self.canvas, self.panel_ground):
            widget.update()
        self.rail.refresh()

    def show_about(self) -> None:
        """Show version and licence."""
        tell(
            self,
            "About Sober Crow",
            f"Sober Crow {__version__}\nFrom a scanned drawing to clean, editable vector artwork.\n\n"
            "MIT licence, the Sober Crow authors. Typeface: Atkinson Hyperlegible Next (OFL). "
            "Icons: Phosphor (MIT) and ours.",
        )
