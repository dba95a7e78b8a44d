"""Manual pages made from the commands themselves and from the guide: `python installer/manuals.py FOLDER`."""

from __future__ import annotations

import gzip
import re
import sys
from pathlib import Path

import click

from sobercrow import __version__
from sobercrow.cli import COMMANDS, HELP, STOPPED_EXIT, USAGE_EXIT
from sobercrow.completion import Commands
from sobercrow.core.faults import INTERNAL_EXIT
from sobercrow.core.guide import INDEX, plain_text, read_guide

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
            ".BR sober\\-crow\\-guide (7)",
            others,
            "",
        ]
    )


def guide_page() -> str:
    """Return the guide as a manual page of section 7, in roff."""
    guide = read_guide()
    body = [_head("sober-crow-guide", 7), ".SH NAME", "sober\\-crow\\-guide \\- the guide to Sober Crow"]
    for passage in guide.passages:
        if passage.page == INDEX:
            continue
        body.append(f".{'SH' if passage.level == 1 else 'SS'} {_escaped(passage.title)}")
        for block in passage.text.split("\n\n"):
            body += _block(block)
    return "\n".join([*body, ".SH SEE ALSO", ".BR sober\\-crow (1)", ""])


def _block(markdown: str) -> list[str]:
    """A paragraph, a list or lines of code of the guide, in roff; pictures are left out."""
    if markdown.startswith("```"):
        return [".PP", ".nf", *(_escaped(line) for line in markdown.strip("`\n").splitlines()), ".fi"]
    items = re.split(r"(?m)^(?=- |\d+\. )", markdown)
    made = []
    for item in items:
        mark = re.match(r"(-|\d+\.) ", item)
        text = plain_text(item)
        if text:
            made += [f'.IP "{_escaped(mark[1])}" 4' if mark else ".PP", _escaped(text)]
    return made


def _head(name: str, section: int = 1) -> str:
    return f'.TH "{name.upper()}" {section} "" "Sober Crow {__version__}" "Sober Crow"'


def _plain(sentence: str) -> str:
    """A sentence without its capital and full stop."""
    sentence = " ".join(sentence.split()).rstrip(".")
    return _escaped(sentence[:1].lower() + sentence[1:])


def _escaped(text: str) -> str:
    text = text.replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{text}" if text.startswith((".", "'")) else text


def write_pages(folder: Path) -> None:
    """Write all pages, packed, into the folders of their sections below a folder."""
    group = Commands("sober-crow")
    context = click.Context(group)
    pages = {"sober-crow.1": main_page(), "sober-crow-guide.7": guide_page()}
    for name in COMMANDS:
        command = group.get_command(context, name)
        assert command is not None
        pages[f"sober-crow-{name}.1"] = page_of(name, command)
    for name, text in pages.items():
        section = folder / f"man{name[-1]}"
        section.mkdir(parents=True, exist_ok=True)
        (section / f"{name}.gz").write_bytes(gzip.compress(text.encode(), 9, mtime=0))


if __name__ == "__main__":
    write_pages(Path(sys.argv[1]))
