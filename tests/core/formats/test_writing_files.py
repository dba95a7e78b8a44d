"""Writing files: whole or not at all, where links lead, as what they were, with the true reason if it cannot be."""

from __future__ import annotations

import errno
import os
import stat
from pathlib import Path

import pytest

from sobercrow.core.errors import ExportError, ProjectError
from sobercrow.core.formats import files
from sobercrow.core.formats.files import COMPUTER, PART, write_all, write_whole

NO_PROCESS = 2**22 + 1
"""Beyond the largest number Linux gives a process (proc(5), pid_max)."""


def test_a_link_is_followed_and_modes_stay(tmp_path: Path) -> None:
    real, link = tmp_path / "real" / "work", tmp_path / "link"
    real.parent.mkdir()
    real.write_bytes(b"before")
    real.chmod(0o640)
    link.symlink_to(real)
    write_whole(link, b"after", ProjectError)
    assert link.is_symlink()
    assert real.read_bytes() == b"after"
    assert stat.S_IMODE(real.stat().st_mode) == 0o640
    write_all({link: b"again", tmp_path / "new": b"new"})
    assert (link.is_symlink(), real.read_bytes()) == (True, b"again")
    assert stat.S_IMODE(real.stat().st_mode) == 0o640
    assert sorted(path.name for path in tmp_path.iterdir()) == ["link", "new", "real"]
    assert [path.name for path in real.parent.iterdir()] == ["work"]


def test_what_a_killed_process_left_goes_with_the_next_file(tmp_path: Path) -> None:
    whose = ((COMPUTER, NO_PROCESS), (COMPUTER, os.getpid()), ("0123abcd", NO_PROCESS))
    left = [tmp_path / f"{PART}{computer}-{number}-x.part" for computer, number in whose]
    for path in left:
        path.write_bytes(b"half")
        os.utime(path, (0.0, 0.0))  # clocks may be wrong
    (tmp_path / f"{PART}notes").write_bytes(b"of the user's own")
    write_whole(tmp_path / "work", b"whole", ProjectError)
    assert not left[0].exists()
    assert left[1].exists()  # its process lives
    assert left[2].exists()  # it is another computer's
    assert (tmp_path / f"{PART}notes").exists()


@pytest.mark.parametrize(
    ("number", "reason"),
    [
        (errno.ENOSPC, "the disk is full"),
        (errno.EROFS, "the disk can only be read"),
        (errno.EACCES, "its folder may not be written to"),
        (errno.EIO, "the disk refused it"),
    ],
)
def test_the_reason_is_the_true_one_and_nothing_is_left(tmp_path: Path, monkeypatch, number: int, reason: str) -> None:
    path = tmp_path / "work"
    path.write_bytes(b"before")

    def fail(_descriptor: int) -> None:
        raise OSError(number, "as the system has it")

    monkeypatch.setattr(files.os, "fsync", fail)
    for write in (lambda: write_whole(path, b"after", ExportError), lambda: write_all({path: b"after"})):
        with pytest.raises(ExportError, match=rf"^“work” could not be saved: {reason}; choose another place\.$"):
            write()
    assert [(one.name, one.read_bytes()) for one in tmp_path.iterdir()] == [("work", b"before")]


def test_names_too_long_missing_folders_and_files_that_may_only_be_read_are_told(tmp_path: Path, monkeypatch) -> None:
    for path, reason in ((tmp_path / ("x" * 300), "name is too long"), (tmp_path / "no" / "a", "does not exist")):
        with pytest.raises(ProjectError, match=reason):
            write_whole(path, b"", ProjectError)
    long = tmp_path / ("x" * 255)  # the longest name there may be, POSIX NAME_MAX on Linux
    write_whole(long, b"whole", ProjectError)
    assert long.read_bytes() == b"whole"
    monkeypatch.setattr(files.os, "access", lambda _path, _how: False)  # one who may do everything runs the tests
    with pytest.raises(ProjectError, match="may only be read"):
        write_whole(long, b"other", ProjectError)
    assert long.read_bytes() == b"whole"


def test_a_file_is_known_by_its_stamp_and_one_that_may_only_be_read_is_replaced_if_that_is_said(
    tmp_path: Path, monkeypatch
) -> None:
    path = tmp_path / "kite.svg"
    assert files.stamp_of(path) is None
    write_whole(path, b"one", ExportError)
    first = files.stamp_of(path)
    assert files.stamp_of(path) == first
    path.write_bytes(b"two")
    assert files.stamp_of(path) != first
    (tmp_path / "other.svg").hardlink_to(path)
    assert "1 other name (hard links)" in files.told_of_links(path)
    monkeypatch.setattr(files.os, "access", lambda *_: False)
    for write in (
        lambda said: write_whole(path, b"three", ExportError, replace_read_only=said),
        lambda said: write_all({path: b"four"}, replace_read_only=said),
    ):
        with pytest.raises(ExportError, match="may only be read"):
            write(False)
        write(True)
    assert (path.read_bytes(), (tmp_path / "other.svg").read_bytes()) == (b"four", b"two")


@pytest.mark.parametrize("renamed", [0, 1, 3])
def test_a_set_that_was_being_written_when_the_run_ended_is_completed_and_told_of(
    tmp_path: Path, monkeypatch, renamed: int
) -> None:
    paths = [tmp_path / f"kite-{k}.svg" for k in range(3)]
    paths[0].write_bytes(b"old")

    def killed(own: Path, target: Path, times: list[int] = [0]) -> Path:  # noqa: B006
        if times[0] == renamed:
            os._exit(9)
        times[0] += 1
        return os.replace(own, target)  # type: ignore[return-value]

    child = os.fork()
    if child == 0:
        monkeypatch.setattr(Path, "replace", killed)
        write_all(dict.fromkeys(paths, b"new"), lambda: None)
        os._exit(9)
    os.waitpid(child, 0)
    assert {path.read_bytes() for path in paths if path.exists()} <= {b"old", b"new"}
    told = files.complete_left_over(tmp_path)
    assert [path.read_bytes() for path in paths] == [b"new"] * 3
    if renamed < 3:
        assert told == f"A run before ended while it wrote 3 files into “{tmp_path.name}”; they are complete now."
    assert not list(tmp_path.glob(f"{PART}*"))
    assert files.complete_left_over(tmp_path) == ""


def test_plans_name_files_beside_them_alone_and_damaged_ones_go_without_effect(tmp_path: Path) -> None:
    inside = tmp_path / "work"
    inside.mkdir()
    part, plan = (inside / f"{PART}{COMPUTER}-{NO_PROCESS}-{name}" for name in ("a.part", "b.plan"))
    foreign = inside / f"{PART}0123abcd-{NO_PROCESS}-c.plan"
    foreign.write_text('{"files": []}')
    for text in ('{"files": 3}', "[", '{"files": [["a", "b"]]}', f'{{"files": [["../{part.name}", "../outside"]]}}'):
        part.write_bytes(b"new")
        plan.write_text(text)
        files.complete_left_over(inside)
        assert not plan.exists()
        assert not part.exists()
    assert sorted(path.name for path in inside.iterdir()) == sorted([foreign.name, "outside"])
    assert (inside / "outside").read_bytes() == b"new"
    assert [path.name for path in tmp_path.iterdir()] == ["work"]
