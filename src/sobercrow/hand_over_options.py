"""The options with which artwork is handed over, for `sober-crow trace` and `sober-crow export` alike."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import click

OPTIONS: tuple[tuple[tuple[str, ...], dict[str, Any]], ...] = (
    (
        ("-o", "--output", "outputs"),
        {
            "type": click.Path(path_type=Path),
            "multiple": True,
            "help": "The file to write, its suffix naming the format; a folder; or - for standard output. Repeatable.",
        },
    ),
    (
        ("--format",),
        {"help": "The format of files in folders and on standard output: svg, pdf, dxf, png, jpeg, webp, hpgl."},
    ),
    (("--width",), {"type": float, "help": "The true width of all that is inked, in --unit."}),
    (("--height",), {"type": float, "help": "The true height of all that is inked, in --unit."}),
    (
        ("--unit",),
        {"default": "mm", "show_default": True, "help": "Of --width, --height and W×H: mm, cm, in, pt or px."},
    ),
    (("--page",), {"help": "picture, artwork, a name such as A4, “A4 lying”, or W×H."}),
    (("--margin",), {"type": float, "help": "Kept free along the edges of the page, in mm."}),
    (("--pixels",), {"type": float, "help": "How many pixels the longer side of PNG, JPEG and WebP has."}),
    (("--background",), {"help": "What lies behind in PNG, JPEG and WebP: none or a colour."}),
    (("--tolerance-mm",), {"type": float, "help": "How far lines and arcs of DXF may run from the curve."}),
    (("--plates",), {"is_flag": True, "help": "Each ink by itself: pages of a PDF, or a file each."}),
    (("--cmyk",), {"is_flag": True, "help": "PDF in the colours of a press: PDF/X-4, by --ink or through --profile."}),
    (
        ("--ink", "inks_printed"),
        {
            "multiple": True,
            "help": "What an ink is printed in: “Red=0 82 90 12”, “Red=Kite red”, or by its colour. Repeatable.",
        },
    ),
    (("--profile",), {"help": "The CMYK profile of the press, as a file; else one for offset on coated paper."}),
    (("--overprint-black",), {"is_flag": True, "help": "Black alone is printed over what lies beneath."}),
    (
        ("--check",),
        {"help": "Look for what stands in the way: print, cut, engrave, web or plates. Exit code 3 if something does."},
    ),
    (("--set",), {"help": "Write a hand-over set into a folder: its name, or a file."}),
    (("--force",), {"is_flag": True, "help": "Replace files that are already there."}),
)


def hand_over_options(command: Callable[..., None]) -> Callable[..., None]:
    """Give a command the options of handing over."""
    for names, how in reversed(OPTIONS):
        command = click.option(*names, **how)(command)
    return command


def need_something(outputs: tuple[Path, ...], options: dict[str, Any]) -> None:
    """Raise `click.UsageError` if there is nothing to do."""
    if not outputs and options["check"] is None:
        raise click.UsageError("Missing option “-o”: say where to write, or with --check what to look for.")


@click.command()
@click.argument("projects", type=click.Path(path_type=Path), nargs=-1, required=True)
@hand_over_options
def export(projects: tuple[Path, ...], outputs: tuple[Path, ...], **options: Any) -> None:
    """Hand over the artwork of saved PROJECTS, with all that was done by hand, as files in any format."""
    need_something(outputs, options)
    from sobercrow.batch import export_all  # brings the numbers' libraries, which options and errors do not need

    export_all(projects, outputs, options)
