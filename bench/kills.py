"""Kills at random moments while projects and sets of files are saved: `python bench/kills.py --count 500 --seed 1`."""

from __future__ import annotations

import argparse
import random
import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from killed_saving import killed, left_over


def main() -> None:
    """Kill, look, and tell."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=500)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    chance = random.Random(options.seed)
    wrong: list[str] = []
    with tempfile.TemporaryDirectory() as folder:
        for _ in range(options.count):
            wrong += killed(Path(folder), chance.uniform(0.0, 0.25))
        left = len(left_over(Path(folder)))
    print(f"{options.count} kills: {len(wrong)} files wrong, {left} parts left until an hour has gone by")
    for one in wrong[:20]:
        print(f"- {one}")
    sys.exit(1 if wrong else 0)


if __name__ == "__main__":
    main()
