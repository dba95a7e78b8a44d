"""Damaged files of every kind, each read and used in a process of its own: `python bench/damage.py --count 20000`.

Whatever a file holds, it has to end in a value that can be worked with or in one sentence, within 10 s and 1.5 GB. What
does not is kept in `--keep FOLDER`, and the exit code is 1.
"""

from __future__ import annotations

import argparse
import random
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from damage import makers
from reading_damaged import outcome


def main() -> None:
    """Damage, read and tell."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--count", type=int, default=2000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--kind", action="append")
    parser.add_argument("--keep", type=Path)
    options = parser.parse_args()
    kinds = makers()
    names = options.kind or sorted(kinds)
    told: dict[str, Counter[str]] = {name: Counter() for name in names}
    slowest = dict.fromkeys(names, 0.0)
    causes: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as folder:
        for number in range(options.count):
            kind = names[number % len(names)]
            path = Path(folder) / f"file.{kind}"
            path.write_bytes(kinds[kind](random.Random(f"{options.seed} {number}")))
            start = time.perf_counter()
            made = outcome(kind, path)
            slowest[kind] = max(slowest[kind], time.perf_counter() - start)
            right = made in ("value", "refused")
            told[kind][made if right else "wrong"] += 1
            if not right:
                lines = made.strip().splitlines() or ["nothing"]
                causes[f"{kind}: {lines[-1][:90]} | {lines[-3].strip()[:110] if len(lines) > 3 else ''}"] += 1
                if options.keep is not None:
                    options.keep.mkdir(parents=True, exist_ok=True)
                    (options.keep / f"{number}.{kind}").write_bytes(path.read_bytes())
    print("| | value | refused | wrong | slowest s |\n|---|---|---|---|---|")
    for name in names:
        counts = told[name]
        print(f"| {name} | {counts['value']} | {counts['refused']} | {counts['wrong']} | {slowest[name]:.1f} |")
    for cause, count in causes.most_common(30):
        print(f"{count} × {cause}")
    sys.exit(1 if causes else 0)


if __name__ == "__main__":
    main()
