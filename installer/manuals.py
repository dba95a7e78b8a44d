"""Manual pages made from the commands themselves: `python installer/manuals.py FOLDER`."""

from __future__ import annotations

import gzip
import sys
from pathlib import Path

import click

from sobercrow import __version__
from sobercrow.cli import COMMANDS, HELP, STOPPED_EXIT, USAGE_EXIT
from sobercrow.completion import Commands
from sobercrow.core.faults import INTERNAL_EXIT

EXIT = f"""0 when all went well, {USAGE_EXIT} with one sentence on standard error when something could not be done, \
{INTERNAL_EXIT} for a fault of the program itself, {STOPPED_EXIT} when it was stopped."""


def page_of(name: str, command: click.Command) -> str:
    """Return the manual page of a command, in roff."""
    context = click.Context(command, info_name=f"sober-crow {name}")
    arguments = [parameter for parameter in command.params if isinstance(parameter, click.Argument)]
    options = [parameter for parameter in command.params if isinstance(parameter, click.Option)]
    first, *rest = (command.help or "").split("\n\n")
    usage = " ".join(argument.make_metavar(context) for argument in arguments)
    body = [
        _head(f"sober-crow-{name}"),
        ".SH NAME",
        f"sober\\-crow\\-{name} \\- {_plain(first)}",
        ".SH SYNOPSIS",
        f".B sober\\-crow {name}",
        f"[OPTIONS] {_escaped(usage)}",
        ".SH DESCRIPTION",
        *("\n.PP\n".join(_escaped(" ".join(part.split())) for part in (first, *rest)),),
        ".SH OPTIONS",
    ]
    for option in options:
        record = option.get_help_record(context)
        if record is not None:
            names, told = record
            body += [".TP", f".B {_escaped(names)}", _escaped(told)]
    return "\n".join([*body, ".SH EXIT STATUS", _escaped(EXIT), ".SH SEE ALSO", ".BR sober\\-crow (1)", ""])


def main_page() -> str:
    """Return the manual page of the program, in roff."""
    others = ", ".join(f".BR sober\\-crow\\-{name} (1)" for name in COMMANDS).replace(", ", "\n")
    lines = [_escaped(line) for line in HELP.splitlines()]
    return "\n".join(
        [
            _head("sober-crow"),
            ".SH NAME",
            "sober\\-crow \\- turn a scanned drawing into clean, editable vector artwork",
            ".SH SYNOPSIS",
            ".B sober\\-crow",
            "[FILE]",
            ".br",
            ".B sober\\-crow",
            "COMMAND [OPTIONS] ...",
            ".SH DESCRIPTION",
            "Makes clean, editable vector artwork of a scanned sketch, hand lettering or a low\\-quality logo.",
            "With a FILE, a picture or a project, or with nothing, the window opens; each command works without one.",
            ".PP",
            ".nf",
            *lines,
            ".fi",
            ".SH EXIT STATUS",
            _escaped(EXIT),
            ".SH SEE ALSO",
            others,
            "",
        ]
    )


def _head(name: str) -> str:
    return f'.TH "{name.upper()}" 1 "" "Sober Crow {__version__}" "Sober Crow"'


def _plain(sentence: str) -> str:
    """A sentence without its capital and full stop."""
    sentence = " ".join(sentence.split()).rstrip(".")
    return _escaped(sentence[:1].lower() + sentence[1:])


def _escaped(text: str) -> str:
    text = text.replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{text}" if text.startswith((".", "'")) else text


def write_pages(folder: Path) -> None:
    """Write all pages, packed, into a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    group = Commands("sober-crow")
    context = click.Context(group)
    pages = {"sober-crow": main_page()}
    for name in COMMANDS:
        command = group.get_command(context, name)
        assert command is not None
        pages[f"sober-crow-{name}"] = page_of(name, command)
    for name, text in pages.items():
        (folder / f"{name}.1.gz").write_bytes(gzip.compress(text.encode(), 9, mtime=0))


if __name__ == "__main__":
    write_pages(Path(sys.argv[1]))
