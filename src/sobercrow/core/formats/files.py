"""Writing files whole or not at all, one or several."""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path

from sobercrow.core.errors import ExportError, SoberCrowError

BROUGHT_BACK = ".before"


def write_whole(path: Path, data: bytes, error: type[SoberCrowError]) -> None:
    """Write a file to a temporary name beside it, sync it and rename it over the old one.

    Raises
    ------
    SoberCrowError
        Of the given type, with a sentence naming the file; an older file of that name is then untouched.
    """
    with _telling(path, error):
        temporary = _beside(path, data)
        with _removed_on_fault(temporary):
            temporary.replace(path)


def write_all(files: Mapping[Path, bytes], go_on: Callable[[], None] = lambda: None) -> None:
    """Write several files, all or none: every one is whole on the disk before the first takes its place.

    `go_on` is asked before each, and may raise `Cancelled`. If one cannot take its place, those before it are put back
    as they were.

    Raises
    ------
    ExportError
        With a sentence naming the file that could not be written; older files are then untouched.
    """
    with contextlib.ExitStack() as undo:
        ready: dict[Path, Path] = {}
        for path, data in files.items():
            go_on()
            with _telling(path, ExportError):
                ready[path] = _beside(path, data)
                undo.callback(ready[path].unlink, missing_ok=True)
        go_on()
        with contextlib.ExitStack() as back:
            for path, temporary in ready.items():
                with _telling(path, ExportError):
                    if path.exists():
                        kept = path.with_name(f".{path.name}{BROUGHT_BACK}")
                        kept.unlink(missing_ok=True)
                        os.link(path, kept)
                        undo.callback(kept.unlink, missing_ok=True)
                        back.callback(kept.replace, path)
                    else:
                        back.callback(path.unlink, missing_ok=True)
                    temporary.replace(path)
            back.pop_all()


def _beside(path: Path, data: bytes) -> Path:
    """Write data to a file of another name beside a path, synced."""
    descriptor, name = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
    temporary = Path(name)
    with _removed_on_fault(temporary):
        with os.fdopen(descriptor, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        mask = os.umask(0)
        os.umask(mask)
        temporary.chmod(0o666 & ~mask)
    return temporary


@contextlib.contextmanager
def _removed_on_fault(temporary: Path) -> Iterator[None]:
    try:
        yield
    except BaseException:
        with contextlib.suppress(OSError):
            temporary.unlink(missing_ok=True)
        raise


@contextlib.contextmanager
def _telling(path: Path, error: type[SoberCrowError]) -> Iterator[None]:
    """Tell in a sentence what the disk did not allow."""
    try:
        yield
    except OSError as fault:
        reason = {
            FileNotFoundError: "its folder does not exist",
            PermissionError: "its folder may not be written to",
            IsADirectoryError: "a folder of that name is in the way",
        }.get(type(fault), "the disk refused it, perhaps because it is full")
        raise error(f"“{path.name}” could not be saved: {reason}; choose another place.") from fault
