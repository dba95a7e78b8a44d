"""A process that saves projects one after the other and says so, to be killed at any moment."""

from __future__ import annotations

import random
import subprocess
import sys
import time
from pathlib import Path

from drawings import artwork_of, circle
from sobercrow.core.errors import ProjectError
from sobercrow.core.formats.files import PART, complete_left_over, write_all
from sobercrow.core.formats.project import Project, read_project, write_project
from sobercrow.core.settings import Settings

SET = ("one.svg", "two.svg", "three.svg")
HEAVY = 400_000
"""Bytes of the picture in each project: enough for a kill to come in the middle of one."""


def save_on(folder: Path) -> None:
    """Save project after project, and a set of files after each, and print the number of each that is done."""
    noise = random.Random(1).randbytes(HEAVY)
    artwork = artwork_of(circle(10.0, 10.0, 5.0))
    number = 0
    while True:
        number += 1
        write_project(Project(noise, str(number), Settings(), None), artwork, folder / "work.sobercrow")
        write_all({folder / name: str(number).encode() * 50_000 for name in SET})
        print(number, flush=True)


def killed(folder: Path, after_s: float) -> list[str]:
    """Run `save_on` in a process, kill it so long after its first file, and return what is wrong with what it left."""
    child = subprocess.Popen([sys.executable, __file__, str(folder)], stdout=subprocess.PIPE, text=True)
    assert child.stdout is not None
    child.stdout.readline()
    time.sleep(after_s)
    child.kill()
    told = child.stdout.read().split()
    child.wait()
    acknowledged = int(told[-1]) if told else 1
    wrong = []
    try:
        found = int(read_project(folder / "work.sobercrow").source_name)
    except ProjectError as fault:
        return [str(fault)]
    if not acknowledged <= found <= acknowledged + 1:
        wrong.append(f"project {found} where {acknowledged} was acknowledged")
    for name in SET:
        content = (folder / name).read_bytes()
        kept = content[: len(content) // 50_000].decode()
        if content != kept.encode() * 50_000 or not acknowledged <= int(kept) <= acknowledged + 1:
            wrong.append(f"{name} is {kept[:20]} where {acknowledged} was acknowledged")
    complete_left_over(folder)
    if len({(folder / name).read_bytes() for name in SET}) != 1:
        wrong.append("the set is not of one piece after the next start")
    return wrong


def left_over(folder: Path) -> list[Path]:
    """What was left of files that were being written."""
    return sorted(folder.glob(f"{PART}*"))


if __name__ == "__main__":
    save_on(Path(sys.argv[1]))
