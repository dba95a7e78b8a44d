"""Copies of unsaved work that outlast a run that ends early: one for each window, held by a lock while it lives."""

from __future__ import annotations

import contextlib
import fcntl
import os
import uuid
from collections.abc import Callable
from pathlib import Path

from sobercrow.core.formats.project import SUFFIX

LOCK = ".lock"
OWNERS_ALONE = 0o700


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
        folder.mkdir(parents=True, exist_ok=True)
        folder.chmod(OWNERS_ALONE)
        path = folder / self._name
        self._hold(path)
        return path

    def left(self) -> list[Path]:
        """Return copies of windows that are no more, the newest first."""
        folder = self._folder()
        found = [path for path in folder.glob(f"*{SUFFIX}") if path not in self._held and self._is_free(path)]
        older = folder.parent / f"recovered{SUFFIX}"  # there was one for all windows once
        found += [older] if older.exists() and older not in self._held else []
        return sorted(found, key=lambda path: path.stat().st_mtime, reverse=True)

    def take_over(self, path: Path) -> None:
        """Hold a copy that was left: it goes with this window's own."""
        self._hold(path)

    def forget(self) -> None:
        """Remove the copies this window holds."""
        for path, lock in self._held.items():
            path.unlink(missing_ok=True)
            _lock_of(path).unlink(missing_ok=True)
            os.close(lock)
        self._held.clear()

    def _hold(self, path: Path) -> None:
        if path not in self._held:
            lock = os.open(_lock_of(path), os.O_RDWR | os.O_CREAT, 0o600)
            with contextlib.suppress(OSError):  # some file systems know no locks
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            self._held[path] = lock

    def _is_free(self, path: Path) -> bool:
        try:
            lock = os.open(_lock_of(path), os.O_RDWR)
        except OSError:
            return True
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            return False
        finally:
            os.close(lock)
        return True


def _lock_of(path: Path) -> Path:
    return path.with_suffix(LOCK)
