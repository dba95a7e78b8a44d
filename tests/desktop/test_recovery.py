"""Copies of unsaved work: one a window, nobody else's removed, all that was left offered."""

from __future__ import annotations

import os
import random
import stat
from pathlib import Path

from killed_window import killed
from sobercrow.desktop.recovery import Recovery


def kept(folder: Path, text: str) -> tuple[Recovery, Path]:
    """A window that kept its work."""
    recovery = Recovery(lambda: folder)
    path = recovery.path()
    path.write_text(text)
    return recovery, path


def ended(recovery: Recovery) -> None:
    """Let go of the locks, as the system does when a process ends."""
    for lock in recovery._held.values():
        os.close(lock)


def test_two_windows_keep_a_copy_each_and_remove_their_own_alone(tmp_path: Path) -> None:
    folder = tmp_path / "recovered"
    (one, first), (other, second) = kept(folder, "first"), kept(folder, "second")
    assert first != second
    assert stat.S_IMODE(folder.stat().st_mode) == 0o700
    assert Recovery(lambda: folder).left() == []
    one.forget()
    assert (first.exists(), second.read_text()) == (False, "second")
    other.forget()
    assert list(folder.iterdir()) == []


def test_what_ended_early_is_offered_newest_first_until_it_is_taken_over_and_given_up(tmp_path: Path) -> None:
    folder = tmp_path / "recovered"
    (one, first), (other, second) = kept(folder, "first"), kept(folder, "second")
    os.utime(first, (1.0, 1.0))
    other.label("Kite", Path("/work/kite.sobercrow"), b"no picture")
    first.with_suffix(".json").write_text('{"name": [')
    (tmp_path / "recovered.sobercrow").write_text("of an older version")
    os.utime(tmp_path / "recovered.sobercrow", (0.0, 0.0))
    ended(one)
    ended(other)
    window, later = Recovery(lambda: folder), Recovery(lambda: folder)
    newest, *rest = window.left()
    assert [newest.copy, *(one.copy for one in rest)] == [second, first, tmp_path / "recovered.sobercrow"]
    assert (newest.name, newest.project) == ("Kite", Path("/work/kite.sobercrow"))
    assert rest[0].name == "Drawing without a name"  # its card is damaged
    window.take_over(newest)
    assert [one.copy for one in later.left()] == [first, tmp_path / "recovered.sobercrow"]
    window.give_up(newest)  # not while somebody holds it
    assert second.exists()
    window.forget()
    assert not list(folder.glob(f"{second.stem}*"))
    assert first.read_text() == "first"
    later.give_up(rest[0])
    assert not list(folder.glob(f"{first.stem}*"))


def test_a_window_killed_while_it_works_leaves_its_last_copy_and_nothing_else(tmp_path: Path) -> None:
    chance = random.Random(5)
    for _ in range(2):
        assert killed(tmp_path, chance) == []


def test_a_lock_without_a_copy_goes_once_its_window_is_no_more(tmp_path: Path) -> None:
    window = Recovery(lambda: tmp_path)
    lock = window.path().with_suffix(".lock")
    other = Recovery(lambda: tmp_path)
    assert other.left() == []
    assert lock.exists()
    ended(window)
    assert other.left() == []
    assert not lock.exists()
