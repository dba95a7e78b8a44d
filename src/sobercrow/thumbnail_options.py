"""The options of `sober-crow thumbnail`. Needs no libraries of numbers."""

from __future__ import annotations

from pathlib import Path

import click


@click.command()
@click.argument("project", type=click.Path(path_type=Path))
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True, help="The PNG file to write.")
@click.option(
    "-s",
    "--size",
    type=click.IntRange(16, 1024),
    default=256,
    show_default=True,
    help="How long its longer side is, in px.",
)
def thumbnail(project: Path, output: Path, size: int) -> None:
    """Draw a small picture of PROJECT, as file managers show it."""
    from sobercrow.core.errors import ExportError
    from sobercrow.core.formats.files import write_whole
    from sobercrow.core.formats.thumbnail import project_thumbnail

    write_whole(output, project_thumbnail(project, size), ExportError)
