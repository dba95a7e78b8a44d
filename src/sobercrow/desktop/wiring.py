"""Which part of the window hears of what: every signal and who takes it, in tables."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from sobercrow.core.formats.recipes import SUFFIX as RECIPE_SUFFIX
from sobercrow.core.formats.sets import SUFFIX as SET_SUFFIX
from sobercrow.desktop.canvas.layers import SpeckMarks
from sobercrow.desktop.document import Document
from sobercrow.desktop.gauge import Offer
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tools.axis import LayAxis
from sobercrow.desktop.tools.baseline import FrameLettering, PullBaseline
from sobercrow.desktop.tools.correct import Correct
from sobercrow.desktop.tools.crop import CropEdges, CropFrame
from sobercrow.desktop.tools.inks import InkRing, PointAtInks, RepairingInks
from sobercrow.desktop.tools.page import LayOnPage
from sobercrow.desktop.tools.pick import Pick
from sobercrow.desktop.tools.rulers import Level, Measure
from sobercrow.desktop.tools.touch import TouchingUp

if TYPE_CHECKING:
    from collections.abc import Callable

    from sobercrow.core.lettering.area import Box
    from sobercrow.core.settings import Verdict
    from sobercrow.desktop.window import MainWindow

    Rows = tuple[tuple[object, Callable[..., object]], ...]


def connect(window: MainWindow) -> None:
    """Connect the parts of a window."""
    for row in (
        *_of_several(window),
        *_of_document(window),
        *_of_tools(window),
        *_of_panels(window),
        *_of_start(window),
    ):
        signal, taker = row
        signal.connect(taker)  # type: ignore[attr-defined]


def _of_several(window: MainWindow) -> Rows:
    several, page = window.several, window.several.page
    pieces = page.pieces
    window.files.take_several = several.take
    return (
        (page.opened, several.open),
        (page.left, several.leave),
        (page.more_wanted, window.files.open_several),
        (pieces.changed, window.refresh_actions),
        (pieces.said, lambda sentence: window.gauge.say(sentence, warning=False)),
        (pieces.failed, window.gauge.warn),
    )


def _of_document(window: MainWindow) -> Rows:
    document, canvas = window.document, window.canvas
    return (
        (document.opened, window.show_opened),
        *(
            (signal, window.refresh)
            for signal in (
                document.presented,
                document.checked,
                document.state_changed,
                document.busy_changed,
                document.opened,
            )
        ),
        (document.history_changed, window.refresh_actions),
        (document.choice_changed, window.refresh_actions),
        (document.failed, window.gauge.warn),
        (document.broke, window.faults.take),
        (window.faults.happened, lambda sentence: window.gauge.say(sentence, warning=True, offer=_report(window))),
        (document.over_budget, lambda sentence: window.gauge.say(sentence, warning=True, offer=_anyway(document))),
        (canvas.seam_changed, window.seen_anew),
        (canvas.camera_changed, window.seen_anew),
        (window.rail.picked, window.go_to),
        (window.view_bar.wanted, window.show_as),
        (window.view_bar.strength.changed, canvas.set_strengths),
        (window.pill.shown_wanted, window.show_as),
        (window.sheet.closed, lambda: window.show_sheet(False)),
        (window.sheet.compared, window.compare),
    )


def _report(window: MainWindow) -> Offer:
    tip = "Save report\nVersions and where it failed; nothing of the picture, no names of folders."
    return Offer("Save report", tip, lambda: window.files.save_report(window.faults.report))


def _anyway(document: Document) -> Offer:
    tip = "Trace it anyway\nMay take minutes; Stop ends it. Undo takes it back."
    return Offer("Trace it anyway", tip, document.trace_anyway)


def _of_tools(window: MainWindow) -> Rows:
    tools = (*window.tools.values(), *window.standing.values())
    clean, inks = window.clean_panel, window.inks_panel

    def of(kind: type) -> list[object]:
        return [tool for tool in tools if isinstance(tool, kind)]

    return (
        *((cast(CropFrame, tool).cropped, clean.sheet.crop_to) for tool in (*of(CropFrame), *of(CropEdges))),
        *((cast(Level, tool).levelled, clean.sheet.turn_by) for tool in of(Level)),
        *((cast(Measure, tool).measured, window.measured) for tool in of(Measure)),
        *((cast(FrameLettering, tool).framed, partial(_take_area, window)) for tool in of(FrameLettering)),
        *((cast(PullBaseline, tool).pulled, window.refine_panel.match.take_places) for tool in of(PullBaseline)),
        *((window.refine_panel.match.based, cast(PullBaseline, tool).show) for tool in of(PullBaseline)),
        *((cast(LayAxis, tool).laid, window.refine_panel.arrange.take_axis) for tool in of(LayAxis)),
        *((cast(Pick, tool).picked, window.picked) for tool in of(Pick)),
        *((cast(TouchingUp, tool).touched, clean.touch.add) for tool in of(TouchingUp)),
        *((cast(RepairingInks, tool).touched, inks.touch.add) for tool in of(RepairingInks)),
        *((cast(InkRing, tool).ringed, window.ring_card.ring) for tool in of(InkRing)),
        *((cast(Correct, tool).corrected, window.trace_panel.sketch.hand.add) for tool in of(Correct)),
        *((cast(PointAtInks, tool).pointed, inks.several.pointed) for tool in of(PointAtInks)),
    )


def _take_area(window: MainWindow, box: Box) -> None:
    window.use_tool("choose")
    window.refine_panel.match.take_area(box)


def _say(window: MainWindow, verdict: Verdict | None) -> None:
    cast(Correct, window.tools["correct"]).verdict = verdict
    window.canvas.update()


def _mark(window: MainWindow, classes: frozenset[Verdict]) -> None:
    cast(Correct, window.tools["correct"]).marked = classes
    window.canvas.update()


def _of_panels(window: MainWindow) -> Rows:
    clean, inks, trace, canvas = window.clean_panel, window.inks_panel, window.trace_panel, window.canvas
    return (
        (clean.sheet.wishes.tool, window.use_tool),
        (clean.sheet.wishes.refit, canvas.refit),
        (clean.sheet.wishes.corners, window.edit_corners),
        (clean.touch.wishes.tool, window.use_tool),
        (clean.touch.wishes.brush, lambda brush: _take_brush(window, TouchingUp, brush)),
        (clean.check.true_size_wanted, lambda: window.use_tool("measure")),
        (window.bring_in_panel.measure_wanted, lambda: window.use_tool("measure")),
        (inks.wishes.tool, window.use_tool),
        (inks.wishes.brush, lambda brush: _take_brush(window, RepairingInks, brush)),
        (inks.wishes.solo, canvas.show_solo),
        (inks.wishes.alone, lambda on: window.show_as(Showing.SOLO if on else Showing.INKS)),
        (inks.wishes.specks, lambda lines: canvas.set_mark("specks", SpeckMarks(lines) if lines else None)),
        (inks.wishes.load, window.files.load_inks),
        (inks.wishes.save, window.files.save_inks),
        (trace.sketch.wishes.verdict, partial(_say, window)),
        (trace.sketch.wishes.marked, partial(_mark, window)),
        (trace.wishes.sheet, lambda: window.show_sheet(True)),
        (trace.wishes.look, canvas.look_at),
        (trace.wishes.deviation, lambda: window.show_as(Showing.DEVIATION)),
        (window.refine_panel.trying.shown, lambda mark: canvas.set_mark("try", mark)),
        (window.refine_panel.line.stretch.shown, lambda mark: canvas.set_mark("stretch", mark)),
        (window.refine_panel.match.opened, window.bring_up),
        (window.refine_panel.match.area_wanted, lambda: window.use_tool("lettering-area")),
        (window.refine_panel.match.shown, lambda mark: canvas.set_mark("match", mark)),
        (window.refine_panel.even.opened, window.bring_up),
        (window.refine_panel.even.shown, lambda mark: canvas.set_mark("even", mark)),
        (window.refine_panel.even.look, canvas.look_at),
        (window.refine_panel.mend.look, canvas.look_at),
        (window.refine_panel.arrange.axis_wanted, lambda: window.use_tool("axis")),
        (window.corners.slant_wanted, clean.sheet.set_slant),
        (window.corners.changed, window.set_frame),
        *_of_hand_over(window),
    )


def _of_hand_over(window: MainWindow) -> Rows:
    panel, canvas, writing = window.hand_over_panel, window.canvas, window.files.writing
    lay = cast(LayOnPage, window.tools["lay"])

    def open_set() -> None:
        one = writing.open_set()
        if one is not None:
            panel.sets.take(one)

    return (
        (panel.project_wanted, window.files.save),
        (panel.sheet_shown, canvas.set_sheet),
        (panel.page_shown, lambda mark: canvas.set_mark("page", mark)),
        (panel.written_shown, canvas.set_written),
        (panel.can_lay, lambda on: setattr(lay, "can_lay", on)),
        (panel.check.look, canvas.look_at),
        (panel.check.shown, lambda mark: canvas.set_mark("findings", mark)),
        (panel.cutter.shown, lambda mark: canvas.set_mark("blade", mark)),
        (panel.format.save.clicked, writing.save),
        (panel.format.copy.clicked, writing.copy),
        (panel.sets.wanted, writing.save_set),
        (panel.sets.read_wanted, open_set),
        (panel.sets.written_wanted, writing.share_set),
        (lay.pulled, panel.pull_page),
    )


def _of_start(window: MainWindow) -> Rows:
    start, files = window.start, window.files

    def take_set(path: Path) -> None:
        one = files.writing.read_set(path)
        if one is not None and window.document.artwork is not None:
            window.go_to(Step.HAND_OVER)
            window.hand_over_panel.sets.take(one)
        elif one is not None:
            window.gauge.say(f"Open a picture first, then the set “{one.name}” for it.", warning=True)

    def take_recipe(path: Path) -> None:
        name = window.trace_panel.recipes.load_from(path)
        if name is not None:
            window.gauge.say(f"“{name}” is among your recipes now, in Trace.", warning=False)

    files.takers |= {SET_SUFFIX: take_set, RECIPE_SUFFIX: take_recipe}
    return (
        (start.scan_wanted, files.scan),
        (start.photo_wanted, files.shoot),
        (start.open_wanted, files.open),
        (start.paste_wanted, files.paste),
        (start.several_wanted, files.open_several),
        (start.path_wanted, files.open_path),
    )


def _take_brush(window: MainWindow, kind: type[TouchingUp] | type[RepairingInks], brush: object) -> None:
    """Give a brush to all tools of a kind."""
    for tool in window.tools.values():
        if isinstance(tool, kind):
            tool.brush = brush  # type: ignore[assignment]
    window.canvas.update()
