"""Writing files whole or not at all, one or several.

A file is written beside its place under another name, synced, and renamed over it; then the folder is synced, so that
a power cut leaves the old file or the new one. Links are followed, and what may be done with the file stays.
"""

from __future__ import annotations

import contextlib
import errno
import hashlib
import json
import os
import platform
import re
import stat
import tempfile
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import NamedTuple

from sobercrow.core.errors import ExportError, SoberCrowError
from sobercrow.core.outside import json_of

BROUGHT_BACK, PLAN = ".before", ".plan"
COMPUTER = hashlib.sha256(platform.node().encode()).hexdigest()[:8]
PART, PART_OF = ".sober-crow-", re.compile(r"\.sober-crow-([0-9a-f]{8})-(\d+)-")
"""What files are called while they are written: with the computer and the number of the process that does."""
READ_ONLY = "the file there may only be read"
REASONS = {
    errno.ENOSPC: "the disk is full",
    errno.EDQUOT: "no more may be stored for you on this disk",
    errno.EROFS: "the disk can only be read",
    errno.ENAMETOOLONG: "its name is too long",
    errno.ENOENT: "its folder does not exist",
    errno.ENOTDIR: "its folder does not exist",
    errno.EEXIST: "a file of that name is in the way",
    errno.EACCES: "its folder may not be written to",
    errno.EPERM: "its folder may not be written to",
    errno.EISDIR: "a folder of that name is in the way",
    errno.ELOOP: "the link leads to itself",
    errno.EFBIG: "the disk holds no file so large",
}
"""Why a file could not be written, by the number of the system's error (POSIX.1-2017, errno.h)."""


class Stamp(NamedTuple):
    """What tells one state of a file from another: when it was changed, how long it is, and which file it is."""

    changed_ns: int
    size: int
    number: int


def stamp_of(path: Path) -> Stamp | None:
    """Return the stamp of a file as it is on the disk now; None if there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return Stamp(found.st_mtime_ns, found.st_size, found.st_ino)


def is_read_only(path: Path) -> bool:
    """Tell whether there is a file that may only be read: it is replaced if that is asked for alone."""
    return path.is_file() and not os.access(path, os.W_OK)


def told_of_links(path: Path) -> str:
    """Say of a file that has other names (hard links) that they keep the old version; nothing of any other."""
    try:
        others = path.stat().st_nlink - 1
    except OSError:
        return ""
    if others < 1:
        return ""
    return f" It had {others} other name{'s' if others > 1 else ''} (hard links); there the old version stays."


def make_folder(folder: Path, error: type[SoberCrowError]) -> None:
    """Make a folder, and those it is in, unless it is there; raise an error of the given type if it cannot be."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as fault:
        raise error(f"The folder “{folder.name[:80]}” cannot be made: {reason_of(fault)}.") from fault


def write_whole(path: Path, data: bytes, error: type[SoberCrowError], replace_read_only: bool = False) -> None:
    """Write a file to a temporary name beside it, sync it and rename it over the old one.

    A file that may only be read is replaced only if that is said. Other names of it (hard links) keep the old version.

    Raises
    ------
    SoberCrowError
        Of the given type, with a sentence naming the file; an older file of that name is then untouched.
    """
    with _telling(path, error):
        place = _place_of(path, replace_read_only)
        complete_left_over(place.parent)
        temporary = _beside(place, data)
        with _removed_on_fault(temporary):
            temporary.replace(place)
        _sync(place.parent)


def _place_of(path: Path, replace_read_only: bool) -> Path:
    """Where a path leads; raises PermissionError for a file that may only be read."""
    place = path.resolve() if path.is_symlink() else path
    if is_read_only(place) and not replace_read_only:
        raise PermissionError(errno.EACCES, READ_ONLY)
    return place


def _sync(folder: Path) -> None:
    """Have a folder's names on the disk; some file systems know no such thing."""
    with contextlib.suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)


def complete_left_over(folder: Path) -> str:
    """Complete what a run that ended early was writing into a folder and remove what is of no use any more.

    Files of one go are whole on the disk before the first takes its place, and a plan beside them says which is which
    (write-ahead logging, Gray & Reuter 1993, "Transaction Processing"). What other computers write, or processes that
    live, is theirs; no clock is asked. Returns a sentence if files were completed, else nothing.
    """
    left = [path for path in folder.glob(f"{PART}*") if _is_left_over(path)]
    try:
        done = sum(_completed(plan) for plan in left if plan.suffix == PLAN)
    except OSError:
        return ""  # another time
    for path in left:
        with contextlib.suppress(OSError):
            path.unlink(missing_ok=True)
    if not done:
        return ""
    return f"A run before ended while it wrote {done} files into “{folder.name}”; they are complete now."


def _is_left_over(path: Path) -> bool:
    found = PART_OF.match(path.name)
    return found is not None and found[1] == COMPUTER and not Path("/proc", found[2]).exists()


def _completed(plan: Path) -> int:
    """Do what a plan says and return how many files it is of; one that was not written to its end had no effect yet."""
    try:
        files = [(Path(part).name, Path(place).name) for part, place in json_of(plan.read_bytes())["files"]]
    except (ValueError, TypeError, KeyError):
        return 0
    for part, place in files:  # only names of ours, beside the places they are for
        if PART_OF.match(part) and (plan.parent / part).exists():
            (plan.parent / part).replace(plan.parent / place)
    _sync(plan.parent)
    plan.unlink()
    return len(files)


def write_all(
    files: Mapping[Path, bytes], go_on: Callable[[], None] = lambda: None, replace_read_only: bool = False
) -> str:
    """Write several files, all or none: every one is whole on the disk before the first takes its place.

    `go_on` is asked before each, and may raise `Cancelled`. If one cannot take its place, those before it are put back
    as they were. Returns a sentence if files of a run that ended early were completed, else nothing.

    Raises
    ------
    ExportError
        With a sentence naming the file that could not be written; older files are then untouched.
    """
    told = " ".join(filter(None, map(complete_left_over, sorted({path.resolve().parent for path in files}))))
    with contextlib.ExitStack() as undo:
        ready: dict[Path, Path] = {}
        for path, data in files.items():
            go_on()
            with _telling(path, ExportError):
                place = _place_of(path, replace_read_only)
                ready[place] = _beside(place, data)
                undo.callback(ready[place].unlink, missing_ok=True)
        go_on()
        for folder in {place.parent for place in ready}:
            undo.callback(_plan(folder, ready).unlink, missing_ok=True)
        with contextlib.ExitStack() as back:
            for path, temporary in ready.items():
                with _telling(path, ExportError):
                    if path.exists():
                        kept = temporary.with_suffix(BROUGHT_BACK)
                        os.link(path, kept)
                        undo.callback(kept.unlink, missing_ok=True)
                        back.callback(kept.replace, path)
                    else:
                        back.callback(path.unlink, missing_ok=True)
                    temporary.replace(path)
            for folder in {path.parent for path in ready}:
                _sync(folder)
            back.pop_all()
    return told


def _prefix() -> str:
    return f"{PART}{COMPUTER}-{os.getpid()}-"


def _plan(folder: Path, ready: Mapping[Path, Path]) -> Path:
    """Write down which files of a folder take which places, for a run after this one; see `complete_left_over`."""
    files = [[temporary.name, place.name] for place, temporary in ready.items() if place.parent == folder]
    descriptor, name = tempfile.mkstemp(prefix=_prefix(), suffix=PLAN, dir=folder)
    with os.fdopen(descriptor, "w") as stream:
        json.dump({"files": files}, stream)
        stream.flush()
        os.fsync(stream.fileno())
    return Path(name)


def _beside(path: Path, data: bytes) -> Path:
    """Write data to a file of another name beside a path, synced; it may be used as the one there may."""
    descriptor, name = tempfile.mkstemp(prefix=_prefix(), suffix=".part", dir=path.parent)
    temporary = Path(name)
    with _removed_on_fault(temporary):
        with os.fdopen(descriptor, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        try:
            before = path.stat()
        except FileNotFoundError:
            mask = os.umask(0)
            os.umask(mask)
            temporary.chmod(0o666 & ~mask)
            return temporary
        temporary.chmod(stat.S_IMODE(before.st_mode))
        if (before.st_uid, before.st_gid) != (os.getuid(), os.getgid()):
            with contextlib.suppress(OSError):  # only some may give files away
                os.chown(temporary, before.st_uid, before.st_gid)
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
        raise error(f"“{path.name[:80]}” could not be saved: {reason_of(fault)}; choose another place.") from fault


def reason_of(fault: OSError) -> str:
    """Say what the system did not allow, as the end of a sentence."""
    return READ_ONLY if fault.strerror == READ_ONLY else REASONS.get(fault.errno or 0, "the disk refused it")
