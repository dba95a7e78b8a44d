"""The commands of the window: what each is called, which keys run it, when it can run."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog

from sobercrow.desktop.choosing_commands import choosing_commands
from sobercrow.desktop.commands import Command
from sobercrow.desktop.editing.lines import LINE_EDITS, WIDE_EDITS
from sobercrow.desktop.editing.shapes import SHAPE_EDITS
from sobercrow.desktop.find.find_list import FindList
from sobercrow.desktop.help.asking import ask
from sobercrow.desktop.help.dialog import HELP_KEY
from sobercrow.desktop.help.guide_window import show_guide
from sobercrow.desktop.help.keys import KeyList
from sobercrow.desktop.lettering_commands import lettering_commands
from sobercrow.desktop.painting import CHEQUERED
from sobercrow.desktop.steps import LOOKS, Step

if TYPE_CHECKING:
    from sobercrow.desktop.window import MainWindow


def _is_step(window: MainWindow, step: Step) -> bool:
    return window.step is step


def command_table(window: MainWindow) -> tuple[Command, ...]:
    """Return all commands of the window, in the order of the menus."""
    document, canvas, refine = window.document, window.canvas, window.refine_panel

    def has_result() -> bool:
        return document.presentation is not None

    def show_keys() -> None:
        KeyList(window.menus.commands.values(), window).exec()

    def chosen() -> bool:
        return bool(document.choice.shapes or document.choice.anchors)

    def shapes_chosen() -> bool:
        return bool(document.choice.shapes)

    def chosen_anchors() -> bool:
        return bool(document.choice.anchors)

    steps = tuple(
        Command(
            f"step-{step.value}",
            LOOKS[step].title,
            "View",
            (f"Ctrl+{n}",),
            "Go to this step.",
            partial(window.go_to, step),
            has_result,
            partial(_is_step, window, step),
            n == 1,
        )
        for n, step in enumerate(Step, 1)
    )
    return (
        Command("open", "Open", "File", ("Ctrl+O",), "Open a picture or a project.", window.files.open),
        Command(
            "several",
            "Several pictures",
            "File",
            (),
            "Lay pictures on a table: traced together, handed over together.",
            window.files.open_several,
        ),
        Command(
            "table",
            "Table",
            "File",
            (),
            "Back to the table of several pictures; what was done here is kept with its picture.",
            window.several.show,
            lambda: bool(window.several.page.pieces.rows),
        ),
        Command(
            "place",
            "Place SVG",
            "File",
            ("Ctrl+Shift+O",),
            "Puts the shapes of a file into the artwork.",
            window.files.place,
            has_result,
        ),
        *_device_commands(window),
        Command(
            "unsaved",
            "Unsaved work",
            "File",
            (),
            "Shows what is kept of runs that ended early.",
            window.files.show_recovery,
        ),
        Command(
            "save",
            "Save project",
            "File",
            ("Ctrl+S",),
            "Keep picture, settings and edits.",
            window.files.save,
            has_result,
            starts_group=True,
        ),
        Command(
            "save-as",
            "Save project as",
            "File",
            ("Ctrl+Shift+S",),
            "Keep them under another name.",
            window.files.save_as,
            has_result,
        ),
        Command(
            "export",
            "Save file",
            "File",
            ("Ctrl+E",),
            "Write the artwork at its true size, in the format chosen in Hand over.",
            window.files.writing.save,
            has_result,
        ),
        Command("quit", "Quit", "File", ("Ctrl+Q",), "Close the window.", window.close, starts_group=True),
        Command(
            "undo",
            "Undo",
            "Edit",
            ("Ctrl+Z",),
            "Take the last change back.",
            document.undo,
            lambda: document.undo_name is not None,
        ),
        Command(
            "redo",
            "Redo",
            "Edit",
            ("Ctrl+Shift+Z", "Ctrl+Y"),
            "Do again what was undone.",
            document.redo,
            lambda: document.redo_name is not None,
        ),
        Command(
            "pen", "Pressure of a pen", "Edit", (), "How hard a tablet's pen is pressed for a width.", window.set_pen
        ),
        Command("fit", "Fit", "View", ("Home",), "Show the whole picture.", canvas.fit, has_result),
        Command(
            "fit-chosen",
            "Fit chosen",
            "View",
            ("Shift+Home",),
            "Show what is chosen as large as it goes.",
            canvas.fit_chosen,
            chosen,
        ),
        Command("zoom-in", "Nearer", "View", ("Ctrl++", "Ctrl+="), "Zoom in.", lambda: canvas.zoom_by(1.5), has_result),
        Command("zoom-out", "Further", "View", ("Ctrl+-",), "Zoom out.", lambda: canvas.zoom_by(1 / 1.5), has_result),
        Command(
            "zoom-full",
            "Pixel for pixel",
            "View",
            ("Ctrl+0",),
            "One screen pixel per picture pixel.",
            lambda: canvas.zoom_to(1.0),
            has_result,
        ),
        Command(
            "seam",
            "Seam",
            "View",
            ("Ctrl+M",),
            "Two results side by side; also pulled in from either edge.",
            window.toggle_seam,
            has_result,
            lambda: canvas.seam is not None,
            True,
        ),
        Command(
            "peek",
            "Peek",
            "View",
            (),
            "The drawing beneath the artwork; also while Q is held.",
            lambda: canvas.set_peeking(not canvas.peeking),
            has_result,
            lambda: canvas.peeking,
        ),
        *_page_commands(window, has_result),
        Command(
            "dark",
            "Dark theme",
            "View",
            (),
            "Light text on dark panels.",
            window.toggle_dark,
            checked=window.is_dark,
            starts_group=True,
        ),
        *steps,
        *_picture_commands(window, has_result),
        *_ink_commands(window, has_result),
        *_tool_commands(window, has_result),
        Command(
            "delete",
            "Delete",
            "Artwork",
            ("Del", "Backspace"),
            "Anchors: the neighbours are refitted.",
            refine.delete,
            chosen,
            starts_group=True,
        ),
        Command(
            "delete-plainly",
            "Delete plainly",
            "Artwork",
            ("Shift+Del",),
            "The neighbours keep their handles.",
            refine.delete_plain,
            chosen_anchors,
        ),
        Command(
            "cut-shapes",
            "Cut",
            "Edit",
            ("Ctrl+X",),
            "Chosen shapes go to the clipboard.",
            window.clipboard.cut,
            shapes_chosen,
            starts_group=True,
        ),
        Command(
            "copy-shapes",
            "Copy",
            "Edit",
            ("Ctrl+C",),
            "Chosen shapes, as SVG too.",
            window.clipboard.copy,
            shapes_chosen,
        ),
        Command(
            "paste", "Paste", "Edit", ("Ctrl+V",), "In Refine shapes; elsewhere a picture is brought in.", window.paste
        ),
        *choosing_commands(window, has_result),
        *_edit_commands(window, has_result),
        *lettering_commands(window, has_result),
        Command(
            "keep-proof",
            "Keep a proof",
            "Artwork",
            ("K",),
            "Keeps the present result with its settings.",
            document.keep_proof,
            has_result,
            starts_group=True,
        ),
        Command(
            "proof-sheet",
            "Proof sheet",
            "Artwork",
            ("Shift+K",),
            "Lays the proofs side by side, and puts them away again.",
            window.show_sheet,
            has_result,
        ),
        Command(
            "find",
            "Find",
            "Help",
            ("F3",),
            "Type a word for what you want to do; commands, settings, passages of the guide are found.",
            lambda: FindList(window).open(),
        ),
        Command(
            "help",
            "About this",
            "Help",
            (HELP_KEY,),
            "Opens the guide at what the pointer is on.",
            partial(ask, window),
            starts_group=True,
        ),
        Command("guide", "Guide", "Help", ("Shift+F1",), "Opens the guide.", partial(show_guide, window, ())),
        Command("keys", "Keys", "Help", (), "All keys and what they do.", show_keys),
        Command("about", "About Sober Crow", "Help", (), "Version and licence.", window.show_about),
    )


def _page_commands(window: MainWindow, has_result: Callable[[], bool]) -> tuple[Command, ...]:
    """What lies behind the artwork while one looks; it is never handed over."""
    canvas = window.canvas

    def pick() -> None:
        colour = QColorDialog.getColor(QColor(canvas.page or "#ffffff"), window, "Page colour")
        if colour.isValid():
            canvas.set_page(colour.name())

    def is_coloured() -> bool:
        return canvas.page not in ("", CHEQUERED)

    rows: tuple[tuple[str, str, str, Callable[[], object], Callable[[], bool]], ...] = (
        ("page-paper", "White page", "As paper.", partial(canvas.set_page, ""), lambda: not canvas.page),
        (
            "page-chequered",
            "Chequered page",
            "So that white and missing parts show.",
            partial(canvas.set_page, CHEQUERED),
            lambda: canvas.page == CHEQUERED,
        ),
        ("page-colour", "Page colour", "Any colour, for looking.", pick, is_coloured),
    )
    return tuple(
        Command(id_, title, "View", (), help_, run, has_result, checked, n == 0)
        for n, (id_, title, help_, run, checked) in enumerate(rows)
    )


def _device_commands(window: MainWindow) -> tuple[Command, ...]:
    commands = []
    if window.devices.scanner is not None:
        commands.append(Command("scan", "Scan", "File", ("Ctrl+Shift+N",), "Scan a sheet.", window.files.scan))
    if window.devices.camera is not None:
        commands.append(Command("photo", "Take a photo", "File", (), "Take a photo of a sheet.", window.files.shoot))
    return tuple(commands)


def _picture_commands(window: MainWindow, has_result: Callable[[], bool]) -> tuple[Command, ...]:
    sheet, document = window.clean_panel.sheet, window.document
    rows: tuple[tuple[str, str, tuple[str, ...], str, Callable[[], object]], ...] = (
        ("turn-left", "Turn left", ("Ctrl+L",), "A quarter anticlockwise.", partial(sheet.turn, -1)),
        ("turn-right", "Turn right", ("Ctrl+R",), "A quarter clockwise.", partial(sheet.turn, 1)),
        ("mirror", "Mirror", (), "Exchange left and right.", sheet.mirror),
        ("straighten", "Straighten", (), "By lines of writing and by straight lines.", sheet.straighten),
        ("unslant", "Undo slant", (), "Find the sheet in a photo and lay it flat.", sheet.unslant),
        ("corners", "Set corners", (), "Drag the four corners of a slanted sheet.", window.edit_corners),
        ("crop-drawing", "Crop to the drawing", (), "With a margin around it.", sheet.crop_to_drawing),
    )
    starts = ("straighten", "crop-drawing")
    return (
        *(
            Command(id_, title, "Picture", keys, help_, run, has_result, starts_group=id_ in starts)
            for id_, title, keys, help_, run in rows
        ),
        Command(
            "uncrop",
            "Whole picture",
            "Picture",
            (),
            "Take the crop away.",
            sheet.take_crop_away,
            lambda: document.state.settings.clean_up.crop is not None,
        ),
    )


def _ink_commands(window: MainWindow, has_result: Callable[[], bool]) -> tuple[Command, ...]:
    several = window.inks_panel.several

    def chosen() -> bool:
        return window.step is Step.INKS and bool(several.list.rows())

    return (
        Command("merge-inks", "Merge inks", "Inks", ("Ctrl+J",), "Join the chosen inks.", several.merge_chosen, chosen),
        Command("remove-inks", "Remove inks", "Inks", (), "Take the chosen inks away.", several.remove, chosen),
        Command(
            "load-inks",
            "Load inks",
            "Inks",
            (),
            "From a list of colours.",
            window.files.load_inks,
            has_result,
            starts_group=True,
        ),
        Command("save-inks", "Save inks", "Inks", (), "As a list.", window.files.save_inks, has_result),
    )


def _edit_commands(window: MainWindow, has_result: Callable[[], bool]) -> tuple[Command, ...]:
    """Edits of lines and shapes."""
    document, refine = window.document, window.refine_panel
    return tuple(
        Command(
            edit.id,
            edit.named,
            edit.menu,
            edit.keys,
            edit.help,
            partial(refine.run, edit),
            (lambda edit=edit: edit.fits(document.choice) and has_result()),  # type: ignore[misc]
            starts_group=edit.starts_group,
        )
        for edit in (*LINE_EDITS, *WIDE_EDITS, *SHAPE_EDITS)
    )


def _tool_commands(window: MainWindow, has_result: Callable[[], bool]) -> tuple[Command, ...]:
    return tuple(
        Command(
            f"tool-{tool.id}",
            tool.title,
            tool.menu,
            (tool.key,) if tool.key else (),
            tool.help,
            partial(window.use_tool, tool.id),
            has_result,
            partial(_has_tool, window, tool.id),
            tool.starts_group,
        )
        for tool in window.tools.values()
        if tool.listed
    )


def _has_tool(window: MainWindow, name: str) -> bool:
    return window.tool == name
