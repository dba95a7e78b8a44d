"""What is told of a fault of the program itself: one sentence, and a report that can be sent to its makers."""

from __future__ import annotations

import platform
import traceback
from pathlib import Path

from sobercrow import __version__

LIBRARIES = ("numpy", "scipy", "opencv-python-headless", "pillow", "shapely", "PySide6")
INTERNAL_EXIT = 70
"""The exit code of a program that failed within (EX_SOFTWARE of BSD's sysexits.h)."""


def fault_sentence(fault: BaseException) -> str:
    """Return what a designer is told of a fault."""
    if isinstance(fault, MemoryError):
        return "There is not enough memory for this; make the picture smaller or crop it."
    return f"Something went wrong within Sober Crow ({type(fault).__name__}); your work is as it was before."


def fault_report(fault: BaseException, doing: str = "") -> str:
    """Return the versions, what was `doing`, and where in the program it failed.

    Names of folders are left out, and so are values: nothing of the user's is in it.
    """
    lines = [f"Sober Crow {__version__}", f"Python {platform.python_version()} on {platform.system()}", *_libraries()]
    if doing:
        lines.append(f"Last: {doing}")
    for one in traceback.TracebackException.from_exception(fault, limit=-40).stack:
        path = Path(one.filename)
        lines.append(f"  {'/'.join(path.parts[-3:])}, line {one.lineno}, in {one.name}")
    lines.append(type(fault).__qualname__)
    return "\n".join(lines) + "\n"


def _libraries() -> list[str]:
    from importlib.metadata import PackageNotFoundError, version  # wanted only once something has failed

    found = []
    for name in LIBRARIES:
        try:
            found.append(f"{name} {version(name)}")
        except PackageNotFoundError:
            continue
    return found
