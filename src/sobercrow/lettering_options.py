"""The options of `sober-crow match` and `sober-crow fonts`. Needs no libraries of numbers."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from sobercrow.hand_over_options import hand_over_options


def _fonts_option(command: Any) -> Any:
    return click.option(
        "--fonts",
        type=click.Path(path_type=Path),
        multiple=True,
        help="A folder of typefaces, or one file, besides those installed and ours; may be given several times.",
    )(command)


@click.command()
@click.argument("picture", type=click.Path(path_type=Path))
@click.option("--text", help="What the lettering says, if it is known; line by line.")
@click.option(
    "--arc",
    type=click.Choice(["auto", "off"]),
    default="auto",
    show_default=True,
    help="Whether lettering may stand on an arc.",
)
@_fonts_option
@click.option("--top", type=click.IntRange(1, 100), default=10, show_default=True, help="How many typefaces to list.")
@click.option(
    "--own-spacing",
    type=click.FloatRange(0, 100),
    default=0.0,
    show_default=True,
    help="How much of the typeface's own spacing letters take, in per cent; at 0 they stay where the picture has them.",
)
@hand_over_options
def match(picture: Path, outputs: tuple[Path, ...], **options: Any) -> None:
    """Find the typeface of the lettering in PICTURE, and print those that are nearest.

    The lettering is taken to be the shapes of one ink and about one height. With -o the artwork is written with its
    lettering set anew in the nearest typeface.
    """
    from sobercrow.lettering import match_picture  # brings the numbers' libraries, which options do not need

    match_picture(picture, outputs, options)


@click.command()
@click.argument("what", type=click.Choice(["index", "list"]))
@_fonts_option
def fonts(what: str, fonts: tuple[Path, ...]) -> None:
    """Read all typefaces into the index, so that the next search is quick; or list them."""
    from sobercrow.lettering import index_fonts, list_fonts  # brings the numbers' libraries, which options do not need

    (index_fonts if what == "index" else list_fonts)(fonts)
