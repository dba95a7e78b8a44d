"""Lettering matched and typefaces indexed without a window: what `sober-crow match` and `fonts` do."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import click

from sobercrow.core.artwork.edits import choice_of
from sobercrow.core.errors import LetteringError
from sobercrow.core.first_sight import first_settings
from sobercrow.core.formats.hand_over import PLAIN
from sobercrow.core.job import Job
from sobercrow.core.lettering.index import Index, read_index
from sobercrow.core.lettering.letters import lettering_in, lines_of
from sobercrow.core.lettering.matches import told_of
from sobercrow.core.lettering.matching import match
from sobercrow.core.lettering.setting import set_anew
from sobercrow.core.lettering.typefaces import all_files
from sobercrow.core.picture.decode import read_picture
from sobercrow.hand_over import hand_over, order_of, table, tell


def match_picture(picture: Path, outputs: tuple[Path, ...], options: dict[str, Any]) -> None:
    """Print the typefaces nearest to a picture's lettering, and write it set anew if outputs are named.

    Raises
    ------
    SoberCrowError
        With one sentence about what could not be read, found or written.
    """
    order = order_of(outputs, options) if outputs else None
    job = Job(read_picture(picture))
    artwork = job.run(first_settings(job)).artwork
    chosen = lettering_in(artwork)
    index = indexed(options["fonts"])
    lines = lines_of([artwork.shapes[k] for k in sorted(chosen)])
    texts = options["text"].splitlines() if options["text"] else [None] * len(lines)
    if len(texts) != len(lines):
        raise LetteringError(f"The text has {len(texts)} lines, the lettering {len(lines)}; they have to be as many.")
    for line, text in zip(lines, texts, strict=True):
        found = match(line, index, text, options["arc"] == "auto")
        rows = [("typeface", "reads", "how near", "embedding", "file")]
        for one in found[: options["top"]]:
            rows.append((one.face.name, one.text, told_of(one), one.face.embedding, Path(one.face.path).name))
        click.echo(table(rows))
        if order is not None:
            chosen_line = choice_of(artwork, line)
            artwork = set_anew(artwork, chosen_line, found[0], options["own_spacing"] / 100.0).artwork
    if order is not None:
        written, faults = hand_over(artwork, picture.stem, PLAIN, order)
        tell(written, {picture.name: faults}, order.purpose)


def indexed(folders: tuple[Path, ...]) -> Index:
    """Return the index of all typefaces, with a bar while new ones are read; those refused are told of."""
    files = all_files(folders)
    with click.progressbar(length=1000, label="Reading typefaces", file=sys.stderr) as bar:
        index = read_index(files, progress=lambda share: bar.update(round(1000 * share) - bar.pos))
        bar.update(1000 - bar.pos)
    for sentence in index.refused:
        click.echo(f"sober-crow: {sentence}", err=True)
    return index


def index_fonts(folders: tuple[Path, ...]) -> None:
    """Read all typefaces into the index, and tell how many there are."""
    index = indexed(folders)
    click.echo(f"{len(index.faces)} styles of {len({face.path for face in index.faces})} files are in the index.")


def list_fonts(folders: tuple[Path, ...]) -> None:
    """Print all typefaces with what their licences say."""
    index = indexed(folders)
    rows = [("typeface", "embedding", "licence", "file")]
    for face in sorted(index.faces, key=lambda face: face.name):
        rows.append((face.name, face.embedding, face.licence[:60], face.path))
    click.echo(table(rows))
