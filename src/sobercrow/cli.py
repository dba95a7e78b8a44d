"""The command line: `sober-crow [FILE]` opens the window, the commands of `COMMANDS` work without one.

Nothing is imported before it is needed: help, version and mistakes are answered at once.
"""

from __future__ import annotations

import os
import sys
import traceback
from importlib import import_module
from pathlib import Path

import click

from sobercrow import __version__
from sobercrow.core.errors import SoberCrowError
from sobercrow.interrupt import STOPPED_EXIT, end_soon_when_interrupted

USAGE_EXIT = 2
DEBUG = "--debug"
COMPLETE = "_SOBER_CROW_COMPLETE"
"""A shell asks with it how a line may go on."""
COMMANDS = {
    "trace": ("trace_options", "trace"),
    "export": ("hand_over_options", "export"),
    "match": ("lettering_options", "match"),
    "fonts": ("lettering_options", "fonts"),
    "thumbnail": ("thumbnail_options", "thumbnail"),
}
"""The module and the name of each command, brought in when it is asked for."""
HELP = """sober-crow [FILE]            open the window, on a picture or a project
sober-crow trace --help      trace pictures without a window
sober-crow export --help     hand over saved projects without a window
sober-crow match --help      find the typeface of lettering in a picture, and set it anew
sober-crow fonts --help      read typefaces into the index, or list them
sober-crow thumbnail --help  draw a small picture of a project
sober-crow --version         tell which version this is"""


def main() -> None:
    """Run the command line; errors are one sentence on stderr and exit code 2, faults of the program itself 70.

    Ctrl-C ends it with exit code 130.

    With --debug those tell where they happened, too.
    """
    arguments = [argument for argument in sys.argv[1:] if argument != DEBUG]
    first = arguments[0] if arguments else ""
    if COMPLETE in os.environ:
        from sobercrow.completion import complete

        sys.exit(complete())
    if first in COMMANDS:
        _command(first, arguments[1:])
    elif first in ("--help", "-h"):
        print(HELP)
    elif first == "--version":
        print(f"sober-crow {__version__}")
    elif first.startswith("-"):
        _fail(f"There is no option “{first}”; sober-crow --help tells what there is.")
    else:
        _open_window(arguments)


def _command(name: str, arguments: list[str]) -> None:
    module, command_name = COMMANDS[name]
    command = getattr(import_module(f"sobercrow.{module}"), command_name)
    end_soon_when_interrupted()
    try:
        command.main(arguments, prog_name=f"sober-crow {name}", standalone_mode=False)
    except SoberCrowError as fault:
        _fail(str(fault))
    except click.ClickException as fault:
        _fail(fault.format_message())
    except (click.Abort, KeyboardInterrupt):
        _fail("Stopped.", STOPPED_EXIT)
    except Exception as fault:
        from sobercrow.core.faults import INTERNAL_EXIT, fault_sentence

        if DEBUG in sys.argv:
            traceback.print_exception(fault)
        more = "" if DEBUG in sys.argv else f" With {DEBUG} it tells where."
        _fail(f"{fault_sentence(fault)}{more}", INTERNAL_EXIT)


def _open_window(arguments: list[str]) -> None:
    first = arguments[0] if arguments else ""
    is_word = first and not Path(first).exists() and "." not in first and os.sep not in first
    if is_word or len(arguments) > 1:
        _fail(f"“{first}” is no command, and one file is opened at a time; sober-crow --help tells what there is.")
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        _fail("There is no display to open a window on; sober-crow trace works without one.")
    from sobercrow.desktop.application import run  # the window's libraries are not needed for tracing

    sys.exit(run(arguments))


def _fail(sentence: str, code: int = USAGE_EXIT) -> None:
    print(f"sober-crow: {sentence}", file=sys.stderr)
    sys.exit(code)


if __name__ == "__main__":
    main()
