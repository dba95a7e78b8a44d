"""The options of `sober-crow trace`, and the help made from the settings' own. Needs no libraries of numbers."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import click

from sobercrow.core.settings import BringIn, CleanUp, Inks, Meet, TraceKind, Tracing, Treatment, meaning_of
from sobercrow.hand_over_options import hand_over_options, need_something


def _help(owner: type, name: str) -> str:
    meaning = meaning_of(owner, name)
    unit = f" {meaning.unit}" if meaning.unit else ""
    return f"{meaning.label} ({meaning.low:g}–{meaning.high:g}{unit}). {meaning.help}"


def _auto_or(name: str, others: list[str], help_: str) -> Callable[[Callable[..., None]], Callable[..., None]]:
    """An option that is auto unless it is one of some others."""
    return click.option(name, type=click.Choice(["auto", *others]), default="auto", show_default=True, help=help_)


def _treatment(name: str, what: str) -> Callable[[Callable[..., None]], Callable[..., None]]:
    """An option that says what becomes of something that is none of a sketch's lines."""
    return click.option(
        name,
        type=click.Choice([one.value for one in Treatment]),
        default=Treatment.OUT.value,
        show_default=True,
        help=f"{what}: left out, a layer of their own, or drawn with the lines.",
    )


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
    "strays": "strays_mm",
    "keep_apart": "keep_apart",
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
    help="Filled outlines; strokes with a width; or, of a rough sketch, each line once.",
)
@_treatment("--working-lines", "Faint straight lines and circles of a sketch drawn as one line")
@_treatment("--shading", "Its patches of hatching")
@click.option("--follow-pen", is_flag=True, help="Lines swell and taper as the pen did, as filled shapes.")
@click.option("--free", is_flag=True, help="Draw circles, ellipses, rectangles and bars by free curves too.")
@click.option("--anyway", is_flag=True, help="Trace it even if it is mostly grain, however long that takes.")
@click.option("--dpi", type=float, help=_help(BringIn, "dpi") + " A page of a PDF is drawn at it.")
@click.option("--pdf-page", type=int, default=1, show_default=True, help="Which page of a PDF or a TIFF to trace.")
@_auto_or("--light", ["off"], "Even out the light where it falls off.")
@click.option(
    "--straighten", default="0", show_default=True, help="Turn the sheet clockwise by so many degrees; or auto."
)
@_auto_or(
    "--slant",
    ["found", "off"],
    "Undo the slant of a sheet in a photo: auto if it surely is one, found whatever is found.",
)
@click.option("--leave-out", multiple=True, help="Leave out a coloured pencil, like #5b8fc2; may be given again.")
@_auto_or("--compression", ["undo", "keep"], "Undo JPEG compression: auto for digital graphics.")
@_auto_or("--size", ["own", "keep"], "Trace a picture that was made larger at its own size: auto for digital graphics.")
@_auto_or("--sharpening", ["undo", "keep"], "Undo sharpening: auto for digital graphics.")
@click.option("--keep-dots", is_flag=True, help="Trace the dots of a halftone or a dither one by one.")
@click.option(
    "--enlarge",
    default="1",
    show_default=True,
    help=_help(CleanUp, "enlarge") + " Or auto: as the picture check suggests.",
)
@click.option("--join-colours", is_flag=True, help="Join shapes of one colour that touch each other.")
@click.option("--trim", is_flag=True, help="Take away what lies hidden beneath other shapes.")
@click.option(
    "--mirror",
    type=click.Choice(["left", "right", "top", "bottom"]),
    help="Keep this half of the artwork, and mirror it for the other.",
)
@click.option("--solid", is_flag=True, help="Make everything one silhouette without holes.")
@click.option("--backing", type=float, help="Lay a backing beneath everything, grown by so many mm.")
@click.option("--report", type=click.Path(path_type=Path), help="Write the figures of the result to this JSON file.")
@hand_over_options
def trace(pictures: tuple[Path, ...], outputs: tuple[Path, ...], report: Path | None, **options: Any) -> None:
    """Trace PICTURES (PNG, JPEG, HEIC, AVIF, TIFF, WebP and others, or a page of a PDF) to artwork of true size.

    One picture becomes the files named by -o. Several become files of their names in the folders named by it, and a
    table of their figures is printed; those that fail are told at the end, and the others are written all the same.
    """
    need_something(outputs, options)
    from sobercrow.batch import trace_all  # brings the numbers' libraries, which options and errors do not need

    trace_all(pictures, outputs, report, options)
