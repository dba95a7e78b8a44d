"""Pictures traced and projects handed over without a window: what `sober-crow trace` and `export` do."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any, TypeVar

import click

from sobercrow.core.artwork.combining import Backing
from sobercrow.core.artwork.finishing import Finish, Half, finish
from sobercrow.core.cleanup.check import Fault, mend, what_was_done
from sobercrow.core.errors import ExportError, SettingError, SoberCrowError
from sobercrow.core.first_sight import first_settings, laid_flat
from sobercrow.core.formats.files import write_whole
from sobercrow.core.formats.hand_over import PLAIN
from sobercrow.core.formats.palette import read_palette
from sobercrow.core.formats.project import read_project
from sobercrow.core.formats.recipes import SUFFIX, RecipeBook, read_recipe, user_folder
from sobercrow.core.geometry.forms import kind_of
from sobercrow.core.inks.separation import OneInk
from sobercrow.core.inspect.hand_over import Finding
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import read_bytes
from sobercrow.core.picture.pages import picture_of
from sobercrow.core.picture.picture import Picture
from sobercrow.core.results import Results
from sobercrow.core.settings import (
    ASSUMED_DPI,
    AUTO,
    MOST_INKS,
    NONE,
    BringIn,
    CleanUp,
    InkKind,
    Inks,
    Meet,
    Settings,
    TraceKind,
    Tracing,
    Treatment,
    checked_colour,
    meaning_of,
    px_to_mm,
)
from sobercrow.core.several import artwork_of_project
from sobercrow.core.sketch.bands import strokes_along
from sobercrow.core.sketch.reading import SketchReading
from sobercrow.core.sketch.trace import strays_of
from sobercrow.hand_over import Order, Written, hand_over, is_folder, order_of, table, tell
from sobercrow.trace_options import INK_OPTIONS, TRACING_OPTIONS

Number = TypeVar("Number", int, float)


def trace_all(
    pictures: tuple[Path, ...], outputs: tuple[Path, ...], report: Path | None, options: dict[str, Any]
) -> None:
    """Trace one picture to files, or several into folders, as the options of the command line say.

    Raises
    ------
    SoberCrowError
        With one sentence about what could not be read, set or written.
    """
    settings, order = _settings_of(options), order_of(outputs, options)
    finish_of = _finish_of(options)
    if len(pictures) == 1:
        results = _traced(pictures[0], settings, options, order)
        artwork = finish(results.artwork, finish_of, results.borders.lines)
        written, found = hand_over(artwork, pictures[0].stem, PLAIN, order)
        if report is not None:
            _write_report(report, figures_report(results))
        tell(written, {pictures[0].name: found}, order.purpose)
        return
    done: dict[str, dict[str, Any]] = {}

    def work(picture: Path) -> tuple[list[Written], list[Finding]]:
        results = _traced(picture, settings, options, order)
        made = hand_over(finish(results.artwork, finish_of, results.borders.lines), picture.stem, PLAIN, order)
        done[picture.name] = figures_report(results)
        return made

    def between() -> None:
        click.echo(_table(done))
        if report is not None:
            _write_report(report, done)

    _each(pictures, order, "Tracing", "pictures could not be traced", work, between)


def export_all(projects: tuple[Path, ...], outputs: tuple[Path, ...], options: dict[str, Any]) -> None:
    """Hand over the artwork of one project or several, as the options of the command line say.

    Raises
    ------
    SoberCrowError
        With one sentence about what could not be read or written.
    """
    order = order_of(outputs, options, has_own_sets=True)

    def work(path: Path) -> tuple[list[Written], list[Finding]]:
        project = read_project(path)
        return hand_over(artwork_of_project(project), path.stem, project.hand_over, order)

    if len(projects) == 1:
        written, found = work(projects[0])
        tell(written, {projects[0].name: found}, order.purpose)
        return
    _each(projects, order, "Handing over", "projects could not be handed over", work, lambda: None)


def _each(
    files: tuple[Path, ...],
    order: Order,
    title: str,
    done_to: str,
    work: Callable[[Path], tuple[list[Written], list[Finding]]],
    between: Callable[[], None],
) -> None:
    """Do several files with a progress bar; those that fail are told at the end."""
    names = [path.stem for path in files]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise ExportError(f"Two of the files are called “{twice}”; write them into different folders.")
    single = next((output for output in order.outputs if not is_folder(output) or output.is_file()), None)
    if single is not None:
        raise ExportError(f"“{single.name}” is a file; name a folder for several.")
    written: list[Written] = []
    found: dict[str, list[Finding]] = {}
    failed: list[str] = []
    with click.progressbar(files, label=title, file=sys.stderr) as bar:
        for path in bar:
            try:
                made, found[path.name] = work(path)
                written += made
            except SoberCrowError as fault:
                failed.append(f"{path.name}: {fault}")
    between()
    if failed:
        raise ExportError(f"{len(failed)} of {len(files)} {done_to}. " + " ".join(failed))
    tell(written, found, order.purpose)


def _table(done: dict[str, dict[str, Any]]) -> str:
    """The figures of pictures in columns."""
    rows = [("picture", "shapes", "anchors", "deviation mean", "largest px", "seconds")]
    for name, figures in done.items():
        seconds = sum(figures["seconds"].values())
        away = f"{figures['deviation_mean_px']:.2f}", f"{figures['deviation_max_px']:.2f}"
        rows.append((name, str(figures["shapes"]), str(figures["anchors"]), *away, f"{seconds:.2f}"))
    return table(rows)


def _write_report(path: Path, figures: dict[str, Any]) -> None:
    write_whole(path, json.dumps(figures, indent=2).encode() + b"\n", ExportError)


def _traced(picture: Path, settings: Settings, options: dict[str, Any], order: Order) -> Results:
    """Trace one picture, unless a file it would be written to is there already."""
    for output in order.outputs:
        if (
            not is_folder(output)
            and output.exists()
            and not order.force
            and order.set is None
            and not options["plates"]
        ):
            raise ExportError(f"“{output.name}” is already there; choose another name or add --force to replace it.")
    job = Job(_source(picture, options["pdf_page"], options["dpi"] or ASSUMED_DPI))
    asked = {
        Fault.SLANT: options["slant"] == "found",
        Fault.TURN: _angle(options["straighten"]) is None,
        Fault.SIZE: _times(options["enlarge"]) is None,
    }
    settings = mended(job, settings, [fault for fault, wanted in asked.items() if wanted])
    if options["recipe"] is None:
        settings = _own_instead(settings, first_settings(job, settings))
    else:
        settings = laid_flat(job, settings)
    return job.run(settings)


def _finish_of(options: dict[str, Any]) -> Finish:
    """What is done to the artwork at the end, as the options say."""
    half, grow = options["mirror"], options["backing"]
    return Finish(
        options["join_colours"],
        options["trim"],
        None if half is None else Half(half),
        options["solid"],
        None if grow is None else _checked_backing(grow),
    )


def _checked_backing(grow_mm: float) -> float:
    meaning = meaning_of(Backing, "grow_mm")
    if not meaning.low <= grow_mm <= meaning.high:
        raise SettingError(f"--backing must be from {meaning.low:g} to {meaning.high:g} mm, not {grow_mm:g}.")
    return grow_mm


UNDONE = {"auto": None, "undo": True, "keep": False}
"""What options wish to be undone; None leaves it to what kind of picture it is."""


def _settings_of(options: dict[str, Any]) -> Settings:
    """The settings that options ask for."""
    clean_up = CleanUp(
        compression=UNDONE[options["compression"]],
        own_size={"auto": None, "own": True, "keep": False}[options["size"]],
        screen=False if options["keep_dots"] else None,
        sharpening=UNDONE[options["sharpening"]],
        off=("slant",) if options["slant"] == "off" else (),
        angle_deg=_angle(options["straighten"]) or 0.0,
        light=0.0 if options["light"] == "off" else None,
        pencils=tuple(colour.lower() for colour in options["leave_out"]),
        enlarge=_times(options["enlarge"]) or 1,
    )
    numbers = {field: options[option] for option, field in TRACING_OPTIONS.items()}
    tracing = Tracing(
        **numbers,
        kind=TraceKind(options["kind"]),
        follow_pen=options["follow_pen"],
        meet=Meet(options["meet"]),
        true_shapes=not options["free"],
        anyway=options["anyway"],
        working_lines=Treatment(options["working_lines"]),
        shading=Treatment(options["shading"]),
    )
    paper = NONE if options["keep_paper"] else options["paper"]
    inks = _inks(options["inks"], options["palette"], paper, options["threshold"])
    settings = Settings(BringIn(options["dpi"]), clean_up, inks, tracing)
    return settings if options["recipe"] is None else _from_recipe(options["recipe"], settings)


def _from_recipe(name: str, asked: Settings) -> Settings:
    """Return the settings of a recipe, with what was asked for by options of its own put in their place."""
    path = Path(name)
    recipe = read_recipe(path) if path.suffix == SUFFIX else RecipeBook(user_folder()).find(name)
    return _own_instead(asked, replace(asked, inks=recipe.inks, tracing=recipe.tracing))


def _own_instead(asked: Settings, settings: Settings) -> Settings:
    """Return settings with what was asked for by options of its own put in their place."""
    same = {name: name for name in ("kind", "meet", "follow_pen", "anyway", "working_lines", "shading")}
    own = {**TRACING_OPTIONS, **same, "free": "true_shapes"}
    fields = {field: getattr(asked.tracing, field) for option, field in own.items() if _is_given(option)}
    inks = asked.inks if any(map(_is_given, INK_OPTIONS)) else settings.inks
    return replace(settings, inks=inks, tracing=replace(settings.tracing, **fields))


def _is_given(option: str) -> bool:
    source = click.get_current_context().get_parameter_source(option)
    return source is click.core.ParameterSource.COMMANDLINE


def _source(path: Path, page: int, page_dpi: float) -> Picture:
    return picture_of(read_bytes(path), path.name, page, page_dpi)


def mended(job: Job, settings: Settings, faults: list[Fault]) -> Settings:
    """Return the settings with those of some faults put right that the picture check finds, one after the other."""
    for fault in faults:
        for finding in job.check(settings):
            if finding.fault is fault:
                settings = mend(settings, finding, job.source)
    return settings


def _auto_or(text: str, number: Callable[[str], Number], wanted: str) -> Number | None:
    """Read an option that is auto, for which None stands, or a number."""
    if text == "auto":
        return None
    try:
        return number(text)
    except ValueError as fault:
        raise SettingError(f"{wanted}, not “{text}”.") from fault


def _angle(text: str) -> float | None:
    return _auto_or(text, float, "Straighten must be auto or an angle in degrees")


def _times(text: str) -> int | None:
    return _auto_or(text, int, "Enlarge must be auto or a whole number from 1 to 8")


def _threshold(text: str) -> int | None:
    return _auto_or(text, int, "The threshold must be auto or a whole number from 0 to 255")


def _inks(count: str, palette: Path | None, paper: str, threshold: str) -> Inks:
    """The settings of the inks step: one ink where a threshold is given, else as the colours have it."""
    tone = _threshold(threshold)
    if tone is not None and (palette is not None or count != "auto"):
        raise SettingError("A threshold is for one ink; leave out --threshold, or --inks and --palette.")
    if tone is not None:
        return Inks(InkKind.ONE, tone)
    chosen = paper if paper in (AUTO, NONE) else checked_colour(paper)
    if palette is not None:
        if count != "auto":
            raise SettingError("Give either --inks or --palette, not both.")
        return Inks(InkKind.SEVERAL, palette=read_palette(palette), paper=chosen)
    if count == "auto":
        return Inks(None if chosen == AUTO else InkKind.SEVERAL, paper=chosen)
    try:
        return Inks(InkKind.SEVERAL, count=int(count), paper=chosen)
    except ValueError as fault:
        if isinstance(fault, SettingError):
            raise
        raise SettingError(f"--inks must be auto or a whole number from 2 to {MOST_INKS}, not “{count}”.") from fault


def figures_report(results: Results) -> dict[str, Any]:
    """Return the figures of a result as the report has them."""
    parts = {}
    first = 0
    for layer in results.artwork.layers:
        own = range(first, first + len(layer.shapes))
        first = own.stop
        parts[layer.name] = asdict(results.deviation.figures(results.artwork, own)) if len(own) else {}
    return {
        **asdict(results.figures),
        "done": what_was_done(results.settings.clean_up, results.sheet),
        "threshold": results.separation.threshold if isinstance(results.separation, OneInk) else None,
        "inks": [
            {
                "name": ink.name,
                "colour": ink.colour,
                "role": ink.role.value,
                "coverage": round(float(share), 5),
                **parts.get(ink.name, {}),
            }
            for ink, share in zip(results.separation.inks, results.separation.coverage, strict=True)
        ],
        "true_shapes": [
            {"kind": kind_of(found.form), **asdict(found.form), "deviation_px": round(found.deviation_px, 4)}
            for found in results.forms
        ],
        "sketch": None if results.sketch is None else _told_of_sketch(results, results.sketch),
        "width_mm": round(results.artwork.width_px * 25.4 / results.artwork.dpi, 3),
        "height_mm": round(results.artwork.height_px * 25.4 / results.artwork.dpi, 3),
        "seconds": {step: round(seconds, 4) for step, seconds in results.seconds.items()},
    }


def _told_of_sketch(results: Results, sketch: SketchReading) -> dict[str, object]:
    """What was read of a sketch, for the report."""
    dpi = results.separation.dpi
    strays = strays_of(sketch, results.settings.tracing, dpi)
    lines = [shape.contours[0].sampled(1.0) / results.sketch_scale for shape in results.artwork.layers[-1].shapes]
    made_of = [len(strokes_along(sketch, line, strays)) for line in lines]
    return {
        "strokes": sketch.strokes.count,
        "strokes_of_lines": [count for count in made_of if count],
        "working_lines": len(sketch.forms),
        "patches_of_shading": sketch.patches,
        "stroke_width_mm": round(px_to_mm(sketch.width_px * sketch.reduction, dpi), 3),
        "strays_mm": round(px_to_mm(sketch.strays_px * sketch.reduction, dpi), 3),
    }
