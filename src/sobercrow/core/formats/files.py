"""Writing files whole or not at all."""

from __future__ import annotations

import contextlib
import os
import tempfile
from pathlib import Path

from sobercrow.core.errors import SoberCrowError


def write_whole(path: Path, data: bytes, error: type[SoberCrowError]) -> None:
    """Write a file to a temporary name beside it, sync it and rename it over the old one.

    Raises
    ------
    SoberCrowError
        Of the given type, with a sentence naming the file; an older file of that name is then untouched.
    """
    temporary: str | None = None
    try:
        descriptor, temporary = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        with os.fdopen(descriptor, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        mask = os.umask(0)
        os.umask(mask)
        Path(temporary).chmod(0o666 & ~mask)
        Path(temporary).replace(path)
    except OSError as fault:
        if temporary is not None:
            with contextlib.suppress(OSError):
                Path(temporary).unlink(missing_ok=True)
        reason = {
            FileNotFoundError: "its folder does not exist",
            PermissionError: "its folder may not be written to",
            IsADirectoryError: "a folder of that name is in the way",
        }.get(type(fault), "the disk refused it, perhaps because it is full")
        raise error(f"“{path.name}” could not be saved: {reason}; choose another place.") from fault
