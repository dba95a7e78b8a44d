"""Kills at random moments while files are saved, and while a window starts or keeps copies of unsaved work.

`python bench/kills.py --count 500 --seed 1`
"""

from __future__ import annotations

import argparse
import random
import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

import killed_saving
import killed_window
from sobercrow.core.errors import ExportError
from sobercrow.core.formats.files import write_whole


def main() -> None:
    """Kill, look, and tell."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=500)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    chance = random.Random(options.seed)
    wrong: list[str] = []
    with tempfile.TemporaryDirectory() as folder:
        for number in range(options.count):
            if number % 2:
                wrong += killed_saving.killed(Path(folder), chance.uniform(0.0, 0.25))
            else:
                wrong += killed_window.killed(Path(folder) / "home", chance)
        write_whole(Path(folder) / "next", b"", ExportError)
        left = len(killed_saving.left_over(Path(folder)))
    print(f"{options.count} kills: {len(wrong)} things wrong, {left} parts left after the next file")
    for one in wrong[:20]:
        print(f"- {one}")
    sys.exit(1 if wrong else 0)


if __name__ == "__main__":
    main()
