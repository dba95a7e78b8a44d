"""All figures of speed in one table, with what is wanted beside each: `python bench/all.py [part ...]`.

Run it alone on the machine: before a change and after it.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Callable, Iterator

from figures import Figure, table


def _start() -> Iterator[Figure]:
    import start

    yield from start.figures()


def _speed() -> Iterator[Figure]:
    import speed

    yield from speed.figures()


def _edits() -> Iterator[Figure]:
    import combine
    import hand_over

    yield from combine.figures()
    yield from hand_over.figures()


PARTS: dict[str, Callable[[], Iterator[Figure]]] = {"start": _start, "speed": _speed, "edits": _edits}

if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    found: list[Figure] = []
    for part in sys.argv[1:] or PARTS:
        for figure in PARTS[part]():
            print(f"{figure.name}: {figure.value:.3g} {figure.unit}", file=sys.stderr)
            found.append(figure)
    print(table(found))
