"""The command line: `sober-crow [FILE]` opens the window, `sober-crow trace` traces without one."""

from __future__ import annotations

import json
import os
import sys
from dataclasses import asdict, replace
from pathlib import Path

import click

from sobercrow.core.cleanup.check import Fault, mend, what_was_done
from sobercrow.core.errors import ExportError, SettingError, SoberCrowError
from sobercrow.core.formats.files import write_whole
from sobercrow.core.formats.palette import read_palette
from sobercrow.core.formats.recipes import SUFFIX, RecipeBook, read_recipe
from sobercrow.core.formats.svg import write_svg
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
    Tracing,
    checked_colour,
    meaning_of,
)

USAGE_EXIT = 2


def _help(owner: type, name: str) -> str:
    meaning = meaning_of(owner, name)
    unit = f" {meaning.unit}" if meaning.unit else ""
    return f"{meaning.label} ({meaning.low:g}–{meaning.high:g}{unit}). {meaning.help}"


@click.command()
@click.argument("picture", type=click.Path(path_type=Path))
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True, help="The SVG file to write.")
@click.option("--threshold", default="auto", help=_help(Inks, "threshold") + " Or auto.")
@click.option("--inks", default="auto", show_default=True, help="How many colours, the paper among them; or auto.")
@click.option("--palette", type=click.Path(path_type=Path), help="Take the inks from a list of colours.")
@click.option("--paper", default="auto", show_default=True, help="Which ink is left out: auto, none or a colour.")
@click.option("--detail", type=float, default=Tracing().detail, show_default=True, help=_help(Tracing, "detail"))
@click.option("--tolerance", type=float, help=_help(Tracing, "tolerance_px"))
@click.option("--corner-angle", type=float, help=_help(Tracing, "corner_angle_deg"))
@click.option("--speck", type=float, help=_help(Tracing, "speck_px2"))
@click.option("--hole", type=float, help=_help(Tracing, "hole_px2"))
@click.option("--square-up", type=float, default=0.0, show_default=True, help=_help(Tracing, "square_up_deg"))
@click.option("--straighten-lines", type=float, default=0.0, show_default=True, help=_help(Tracing, "straighten_deg"))
@click.option("--weight", type=float, default=0.0, show_default=True, help=_help(Tracing, "weight_px"))
@click.option(
    "--meet",
    type=click.Choice([meet.value for meet in Meet]),
    default=Tracing().meet.value,
    show_default=True,
    help="How inks meet: edge to edge, or lower ones running on beneath upper ones.",
)
@click.option(
    "--overlap", type=float, default=Tracing().overlap_px, show_default=True, help=_help(Tracing, "overlap_px")
)
@click.option("--recipe", help="Start from a recipe: its name, or a file. Other options given go before it.")
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
@click.option("--force", is_flag=True, help="Replace an SVG file that is already there.")
def trace(
    picture: Path,
    output: Path,
    threshold: str,
    inks: str,
    palette: Path | None,
    paper: str,
    detail: float,
    tolerance: float | None,
    corner_angle: float | None,
    speck: float | None,
    hole: float | None,
    square_up: float,
    straighten_lines: float,
    weight: float,
    meet: str,
    overlap: float,
    recipe: str | None,
    dpi: float | None,
    page: int,
    light: str,
    straighten: str,
    slant: str,
    enlarge: int | None,
    report: Path | None,
    force: bool,
) -> None:
    """Trace PICTURE (PNG, JPEG, GIF, TIFF, BMP, WebP, or a page of a PDF) to an SVG of true size."""
    clean_up = CleanUp(angle_deg=_angle(straighten) or 0.0, light=0.0 if light == "off" else None, enlarge=enlarge or 1)
    tracing = Tracing(
        detail, tolerance, corner_angle, speck, hole, square_up, straighten_lines, weight, Meet(meet), overlap
    )
    settings = Settings(BringIn(dpi), clean_up, _inks(inks, palette, paper, threshold), tracing)
    if recipe is not None:
        settings = _from_recipe(recipe, settings)
    if output.exists() and not force:
        raise ExportError(f"“{output.name}” is already there; choose another name or add --force to replace it.")
    source = _source(picture, page, dpi or ASSUMED_DPI)
    job = Job(source)
    asked = {Fault.SLANT: slant == "auto", Fault.TURN: _angle(straighten) is None, Fault.SIZE: enlarge is None}
    results = job.run(mended(job, settings, [fault for fault, wanted in asked.items() if wanted]))
    write_svg(results.artwork, output)
    if report is not None:
        write_whole(report, json.dumps(figures_report(results), indent=2).encode() + b"\n", ExportError)


TRACING_OPTIONS = {
    "detail": "detail",
    "tolerance": "tolerance_px",
    "corner_angle": "corner_angle_deg",
    "speck": "speck_px2",
    "hole": "hole_px2",
    "square_up": "square_up_deg",
    "straighten_lines": "straighten_deg",
    "weight": "weight_px",
    "meet": "meet",
    "overlap": "overlap_px",
}


def _from_recipe(name: str, asked: Settings) -> Settings:
    """Return the settings of a recipe, with what was asked for by options of its own put in their place."""
    path = Path(name)
    recipe = read_recipe(path) if path.suffix == SUFFIX else RecipeBook(_recipe_folder()).find(name)
    given = {key for key in (*TRACING_OPTIONS, "inks", "palette", "paper", "threshold") if _is_given(key)}
    fields = {
        TRACING_OPTIONS[key]: getattr(asked.tracing, TRACING_OPTIONS[key]) for key in given & set(TRACING_OPTIONS)
    }
    inks = asked.inks if given - set(TRACING_OPTIONS) else recipe.inks
    return replace(asked, inks=inks, tracing=replace(recipe.tracing, **fields))


def _is_given(option: str) -> bool:
    source = click.get_current_context().get_parameter_source(option)
    return source is click.core.ParameterSource.COMMANDLINE


def _recipe_folder() -> Path:
    """Where the window keeps the user's recipes (XDG Base Directory Specification)."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local/share") / "sober-crow" / "recipes"


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


def figures_report(results: Results) -> dict[str, object]:
    """Return the figures of a result as the report has them."""
    return {
        **asdict(results.figures),
        "done": what_was_done(results.settings.clean_up, results.sheet),
        "threshold": results.separation.threshold if isinstance(results.separation, OneInk) else None,
        "inks": [
            {"name": ink.name, "colour": ink.colour, "role": ink.role.value, "coverage": round(float(share), 5)}
            for ink, share in zip(results.separation.inks, results.separation.coverage, strict=True)
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
            print("sober-crow trace --help      trace a picture without a window")
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
