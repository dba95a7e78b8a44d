"""Copies of unsaved work that outlast a run that ends early: one for each window, held by a lock while it lives."""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import uuid
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

from sobercrow.core.errors import ProjectError
from sobercrow.core.formats.files import make_folder, write_whole
from sobercrow.core.formats.project import SUFFIX
from sobercrow.core.outside import json_of

LOCK, CARD, PICTURE = ".lock", ".json", ".png"
"""What lies beside a copy: its lock, what it is called, and what it looks like."""
OWNERS_ALONE = 0o700
MOST_CARD_BYTES = 1 << 16


@dataclass(frozen=True, slots=True)
class Left:
    """Work a run left that ended early: its copy, name and project, when it was kept, and what it looks like."""

    copy: Path
    name: str
    project: Path | None
    kept_s: float
    picture: Path


class Recovery:
    """The copy of one window, and those of windows that ended early.

    A copy is written, and removed, by its window alone; what another left is removed once it was taken over and then
    saved or given up. `folder` is asked for whenever it is needed.
    """

    def __init__(self, folder: Callable[[], Path]) -> None:
        """Nothing is kept yet."""
        self._folder = folder
        self._name = f"{os.getpid()}-{uuid.uuid4().hex[:8]}{SUFFIX}"
        self._held: dict[Path, int] = {}
        """Copies that are this window's, and the open files that lock them."""

    def path(self) -> Path:
        """Return where this window's copy is to be written: held by its lock from now on."""
        folder = self._folder()
        make_folder(folder, ProjectError)
        folder.chmod(OWNERS_ALONE)
        path = folder / self._name
        self._hold(path)
        return path

    def label(self, name: str, project: Path | None, picture: bytes) -> None:
        """Keep beside this window's copy what it is called, the project it is of, and its picture as PNG."""
        path = self.path()
        card = {"name": name, "project": None if project is None else str(project.absolute())}
        write_whole(path.with_suffix(CARD), json.dumps(card).encode(), ProjectError)
        write_whole(path.with_suffix(PICTURE), picture, ProjectError)

    def left(self) -> list[Left]:
        """Return the work of windows that are no more, the newest first."""
        folder = self._folder()
        for lock in folder.glob(f"*{LOCK}"):  # of a window that ended before it had a copy
            copy = lock.with_suffix(SUFFIX)
            if copy not in self._held and not copy.exists():
                _remove_if_free(copy)
        found = [path for path in folder.glob(f"*{SUFFIX}") if path not in self._held and _is_free(path)]
        older = folder.parent / f"recovered{SUFFIX}"  # there was one for all windows once
        found += [older] if older.exists() and older not in self._held else []
        return sorted(map(_left_at, found), key=lambda one: one.kept_s, reverse=True)

    def take_over(self, left: Left) -> None:
        """Hold work that was left: it goes with this window's own."""
        self._hold(left.copy)

    def give_up(self, left: Left) -> None:
        """Remove work that was left, if its window is no more."""
        _remove_if_free(left.copy)

    def forget(self) -> None:
        """Remove the copies this window holds."""
        for path, lock in self._held.items():
            _remove(path)
            os.close(lock)
        self._held.clear()

    def _hold(self, path: Path) -> None:
        while path not in self._held:
            lock = os.open(path.with_suffix(LOCK), os.O_RDWR | os.O_CREAT, 0o600)
            with contextlib.suppress(OSError):  # some file systems know no locks
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            with contextlib.suppress(FileNotFoundError):  # another window may have removed it before it was locked
                if os.path.samestat(os.fstat(lock), path.with_suffix(LOCK).stat()):
                    self._held[path] = lock
                    return
            os.close(lock)


@contextlib.contextmanager
def _lock_of(copy: Path) -> Iterator[bool]:
    """Hold the lock of a copy for a while if no window does; tells whether it does not."""
    try:
        lock = os.open(copy.with_suffix(LOCK), os.O_RDWR)
    except OSError:
        yield True
        return
    try:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            yield False
        else:
            yield True
    finally:
        os.close(lock)


def _is_free(copy: Path) -> bool:
    with _lock_of(copy) as is_free:
        return is_free


def _remove_if_free(copy: Path) -> None:
    with _lock_of(copy) as is_free:
        if is_free:
            _remove(copy)


def _left_at(copy: Path) -> Left:
    """What a copy is of; one without a card, or with a damaged one, is of a drawing without a name."""
    name, project = "Drawing without a name", None
    with contextlib.suppress(OSError, ValueError, TypeError, AttributeError):
        card = json_of(copy.with_suffix(CARD).read_bytes(), MOST_CARD_BYTES)
        name = str(card.get("name") or name)[:200]
        project = Path(str(card["project"])) if card.get("project") else None
    kept_s = 0.0
    with contextlib.suppress(OSError):
        kept_s = copy.stat().st_mtime
    return Left(copy, name, project, kept_s, copy.with_suffix(PICTURE))


def _remove(copy: Path) -> None:
    for path in (copy, *(copy.with_suffix(suffix) for suffix in (CARD, PICTURE, LOCK))):
        path.unlink(missing_ok=True)
