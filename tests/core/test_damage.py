"""Three hundred damaged files, of a seed that is new every day and printed: each ends in a value or one sentence."""

from __future__ import annotations

import datetime
import subprocess
import sys
from pathlib import Path

BENCH = Path(__file__).parents[2] / "bench" / "damage.py"
COUNT = 300


def test_damaged_files_end_in_a_value_or_one_sentence() -> None:
    # in a process that has no threads yet: each file is read in a fork of it
    seed = datetime.date.today().toordinal()
    command = [sys.executable, str(BENCH), "--count", str(COUNT), "--seed", str(seed)]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    print(f"seed {seed}\n{done.stdout}")
    assert done.returncode == 0, done.stdout + done.stderr
