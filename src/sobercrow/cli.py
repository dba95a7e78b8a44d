"""The command line: `sober-crow [FILE]` opens the window, `sober-crow trace` traces without one."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import click

from sobercrow.core.cleanup.check import Fault, mend, what_was_done
from sobercrow.core.errors import ExportError, SettingError, SoberCrowError
from sobercrow.core.formats.files import write_whole
from sobercrow.core.formats.palette import read_palette
from sobercrow.core.formats.recipes import SUFFIX, RecipeBook, read_recipe, user_folder
from sobercrow.core.formats.svg import write_svg
from sobercrow.core.geometry.forms import kind_of
from sobercrow.core.inks.separation import OneInk
from sobercrow.core.job import Job, Results
from sobercrow.core.picture.decode import decode_picture, read_bytes
from sobercrow.core.picture.pdf import is_pdf, render_page
from sobercrow.core.picture.picture import Picture
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
    checked_colour,
    meaning_of,
)

USAGE_EXIT = 2


def _help(owner: type, name: str) -> str:
    meaning = meaning_of(owner, name)
    unit = f" {meaning.unit}" if meaning.unit else ""
    return f"{meaning.label} ({meaning.low:g}–{meaning.high:g}{unit}). {meaning.help}"


TRACING_OPTIONS = {
    "detail": "detail",
    "tolerance": "tolerance_px",
    "corner_angle": "corner_angle_deg",
    "speck": "speck_px2",
    "hole": "hole_px2",
    "square_up": "square_up_deg",
    "straighten_lines": "straighten_deg",
    "weight": "weight_px",
    "overlap": "overlap_px",
}
"""Options that set a number of the trace step, and its field."""
INK_OPTIONS = ("threshold", "inks", "palette", "paper", "keep_paper")


def _tracing_options(command: Callable[..., None]) -> Callable[..., None]:
    """Give a command an option for each number of the trace step."""
    for option, field in reversed(TRACING_OPTIONS.items()):
        default = getattr(Tracing(), field)
        name = "--" + option.replace("_", "-")
        command = click.option(
            name, type=float, default=default, show_default=default is not None, help=_help(Tracing, field)
        )(command)
    return command


@click.command()
@click.argument("pictures", type=click.Path(path_type=Path), nargs=-1, required=True)
@click.option(
    "-o",
    "--output",
    type=click.Path(path_type=Path),
    required=True,
    help="The SVG file to write; a folder for several.",
)
@click.option("--recipe", help="Start from a recipe: its name, or a file. Other options given go before it.")
@click.option("--threshold", default="auto", help=_help(Inks, "threshold") + " Or auto.")
@click.option("--inks", default="auto", show_default=True, help="How many colours, the paper among them; or auto.")
@click.option("--palette", type=click.Path(path_type=Path), help="Take the inks from a list of colours.")
@click.option("--paper", default="auto", show_default=True, help="Which ink is left out: auto, none or a colour.")
@click.option("--keep-paper", is_flag=True, help="Draw the paper too, as --paper none does.")
@_tracing_options
@click.option(
    "--meet",
    type=click.Choice([meet.value for meet in Meet]),
    default=Tracing().meet.value,
    show_default=True,
    help="How inks meet: edge to edge, or lower ones running on beneath upper ones.",
)
@click.option(
    "--kind",
    type=click.Choice([kind.value for kind in TraceKind]),
    default=Tracing().kind.value,
    show_default=True,
    help="Filled outlines, or strokes with a width.",
)
@click.option("--follow-pen", is_flag=True, help="Centre lines swell and taper as the pen did, as filled shapes.")
@click.option("--free", is_flag=True, help="Draw circles, ellipses, rectangles and bars by free curves too.")
@click.option("--dpi", type=float, help=_help(BringIn, "dpi") + " A page of a PDF is drawn at it.")
@click.option("--page", type=int, default=1, show_default=True, help="Which page of a PDF.")
@click.option(
    "--light",
    type=click.Choice(["auto", "off"]),
    default="auto",
    show_default=True,
    help="Even out the light where it falls off.",
)
@click.option(
    "--straighten", default="0", show_default=True, help="Turn the sheet clockwise by so many degrees; or auto."
)
@click.option(
    "--slant",
    type=click.Choice(["auto", "off"]),
    default="off",
    show_default=True,
    help="Undo the slant of a sheet in a photo.",
)
@click.option("--enlarge", type=int, help=_help(CleanUp, "enlarge") + " Else as the picture check suggests.")
@click.option("--report", type=click.Path(path_type=Path), help="Write the figures of the result to this JSON file.")
@click.option("--force", is_flag=True, help="Replace SVG files that are already there.")
def trace(pictures: tuple[Path, ...], output: Path, report: Path | None, force: bool, **options: Any) -> None:
    """Trace PICTURES (PNG, JPEG, GIF, TIFF, BMP, WebP, or a page of a PDF) to SVG of true size.

    One picture becomes the file named by -o. Several become files of their names in the folder named by it, and a table
    of their figures is printed; those that fail are told at the end, and the others are written all the same.
    """
    settings = _settings_of(options)
    if len(pictures) == 1 and not output.is_dir():
        results = _traced(pictures[0], output, settings, options, force)
        if report is not None:
            _write_report(report, figures_report(results))
        return
    _trace_many(pictures, output, settings, options, report, force)


def _trace_many(
    pictures: tuple[Path, ...],
    folder: Path,
    settings: Settings,
    options: dict[str, Any],
    report: Path | None,
    force: bool,
) -> None:
    """Trace pictures into a folder, with a progress bar and a table of figures."""
    names = [picture.stem for picture in pictures]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise ExportError(f"Two of the pictures are called “{twice}”; trace them into different folders.")
    if folder.exists() and not folder.is_dir():
        raise ExportError(f"“{folder.name}” is a file; name a folder for several pictures.")
    folder.mkdir(parents=True, exist_ok=True)
    done: dict[str, dict[str, Any]] = {}
    failed: list[str] = []
    with click.progressbar(pictures, label="Tracing", file=sys.stderr) as bar:
        for picture in bar:
            try:
                results = _traced(picture, folder / f"{picture.stem}.svg", settings, options, force)
                done[picture.name] = figures_report(results)
            except SoberCrowError as fault:
                failed.append(f"{picture.name}: {fault}")
    click.echo(_table(done))
    if report is not None:
        _write_report(report, done)
    if failed:
        raise ExportError(f"{len(failed)} of {len(pictures)} pictures could not be traced. " + " ".join(failed))


def _table(done: dict[str, dict[str, Any]]) -> str:
    """The figures of pictures in columns."""
    rows = [("picture", "shapes", "anchors", "deviation mean", "largest px", "seconds")]
    for name, figures in done.items():
        seconds = sum(figures["seconds"].values())
        away = f"{figures['deviation_mean_px']:.2f}", f"{figures['deviation_max_px']:.2f}"
        rows.append((name, str(figures["shapes"]), str(figures["anchors"]), *away, f"{seconds:.2f}"))
    widths = [max(len(row[k]) for row in rows) for k in range(len(rows[0]))]
    return "\n".join(
        "  ".join([row[0].ljust(widths[0]), *(cell.rjust(w) for cell, w in zip(row[1:], widths[1:], strict=True))])
        for row in rows
    )


def _write_report(path: Path, figures: dict[str, Any]) -> None:
    write_whole(path, json.dumps(figures, indent=2).encode() + b"\n", ExportError)


def _traced(picture: Path, output: Path, settings: Settings, options: dict[str, Any], force: bool) -> Results:
    """Trace one picture to a file."""
    if output.exists() and not force:
        raise ExportError(f"“{output.name}” is already there; choose another name or add --force to replace it.")
    job = Job(_source(picture, options["page"], options["dpi"] or ASSUMED_DPI))
    asked = {
        Fault.SLANT: options["slant"] == "auto",
        Fault.TURN: _angle(options["straighten"]) is None,
        Fault.SIZE: options["enlarge"] is None,
    }
    results = job.run(mended(job, settings, [fault for fault, wanted in asked.items() if wanted]))
    write_svg(results.artwork, output)
    return results


def _settings_of(options: dict[str, Any]) -> Settings:
    """The settings that options ask for."""
    clean_up = CleanUp(
        angle_deg=_angle(options["straighten"]) or 0.0,
        light=0.0 if options["light"] == "off" else None,
        enlarge=options["enlarge"] or 1,
    )
    numbers = {field: options[option] for option, field in TRACING_OPTIONS.items()}
    tracing = Tracing(
        **numbers,
        kind=TraceKind(options["kind"]),
        follow_pen=options["follow_pen"],
        meet=Meet(options["meet"]),
        true_shapes=not options["free"],
    )
    paper = NONE if options["keep_paper"] else options["paper"]
    inks = _inks(options["inks"], options["palette"], paper, options["threshold"])
    settings = Settings(BringIn(options["dpi"]), clean_up, inks, tracing)
    return settings if options["recipe"] is None else _from_recipe(options["recipe"], settings)


def _from_recipe(name: str, asked: Settings) -> Settings:
    """Return the settings of a recipe, with what was asked for by options of its own put in their place."""
    path = Path(name)
    recipe = read_recipe(path) if path.suffix == SUFFIX else RecipeBook(user_folder()).find(name)
    own = {**TRACING_OPTIONS, "kind": "kind", "meet": "meet", "free": "true_shapes", "follow_pen": "follow_pen"}
    fields = {field: getattr(asked.tracing, field) for option, field in own.items() if _is_given(option)}
    inks = asked.inks if any(map(_is_given, INK_OPTIONS)) else recipe.inks
    return replace(asked, inks=inks, tracing=replace(recipe.tracing, **fields))


def _is_given(option: str) -> bool:
    source = click.get_current_context().get_parameter_source(option)
    return source is click.core.ParameterSource.COMMANDLINE


def _source(path: Path, page: int, page_dpi: float) -> Picture:
    data = read_bytes(path)
    return render_page(data, path.name, page, page_dpi) if is_pdf(data) else decode_picture(data, path.name)


def mended(job: Job, settings: Settings, faults: list[Fault]) -> Settings:
    """Return the settings with those of some faults put right that the picture check finds, one after the other."""
    for fault in faults:
        for finding in job.check(settings):
            if finding.fault is fault:
                settings = mend(settings, finding, job.source)
    return settings


def _angle(text: str) -> float | None:
    if text == "auto":
        return None
    try:
        return float(text)
    except ValueError as fault:
        raise SettingError(f"Straighten must be auto or an angle in degrees, not “{text}”.") from fault


def _threshold(text: str) -> int | None:
    if text == "auto":
        return None
    try:
        return int(text)
    except ValueError as fault:
        raise SettingError(f"The threshold must be auto or a whole number from 0 to 255, not “{text}”.") from fault


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
        "width_mm": round(results.artwork.width_px * 25.4 / results.artwork.dpi, 3),
        "height_mm": round(results.artwork.height_px * 25.4 / results.artwork.dpi, 3),
        "seconds": {step: round(seconds, 4) for step, seconds in results.seconds.items()},
    }


def main() -> None:
    """Run the command line; errors are one sentence on stderr and exit code 2."""
    arguments = sys.argv[1:]
    if arguments and arguments[0] in ("trace", "--help", "-h"):
        if arguments[0] != "trace":
            print("sober-crow [FILE]            open the window, on a picture or a project")
            print("sober-crow trace --help      trace pictures without a window")
            return
        try:
            trace.main(arguments[1:], prog_name="sober-crow trace", standalone_mode=False)
        except SoberCrowError as fault:
            _fail(str(fault))
        except click.ClickException as fault:
            _fail(fault.format_message())
        except (click.Abort, KeyboardInterrupt):
            _fail("Stopped.")
        return
    from sobercrow.desktop.application import run  # the window's libraries are not needed for tracing

    sys.exit(run(arguments))


def _fail(sentence: str) -> None:
    print(f"sober-crow: {sentence}", file=sys.stderr)
    sys.exit(USAGE_EXIT)


if __name__ == "__main__":
    main()
