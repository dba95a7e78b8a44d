"""Kills at random moments while saving: never a damaged file, none older than acknowledged, nothing left behind."""

from __future__ import annotations

import random
from pathlib import Path

from killed_saving import killed, left_over
from sobercrow.core.errors import ExportError
from sobercrow.core.formats.files import write_whole

KILLS = 8


def test_kills_while_saving_leave_whole_files(tmp_path: Path) -> None:
    chance = random.Random(26)
    for _ in range(KILLS):
        assert killed(tmp_path, chance.uniform(0.0, 0.15)) == []
    write_whole(tmp_path / "next", b"", ExportError)
    assert left_over(tmp_path) == []
