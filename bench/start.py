"""How soon the product is there, as ratios in one run: `python bench/start.py`.

Every process is started a few times, and the quickest start counts. Byte-code is kept, as where the product is used.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from figures import Figure, table

ROOT = Path(__file__).parents[1]
PICTURES = ROOT / "src" / "sobercrow" / "demo" / "pictures"
EMPTY_DESK = """
import sys, tempfile
from PySide6.QtCore import QSettings
from sobercrow.desktop.application import make_application, use_theme
from sobercrow.desktop.front import Front
application = make_application()
use_theme(False)
front = Front(QSettings(tempfile.mkdtemp() + "/p.ini", QSettings.Format.IniFormat))
front.show()
application.processEvents()
"""
FIRST_ARTWORK = (
    EMPTY_DESK
    + f"""
import time
from pathlib import Path
front.open_path(Path({str(PICTURES / "pen-lettering.png")!r}))
front.bring_in()
while front.window_in_place is None or front.window_in_place.document.presentation is None:
    application.processEvents()
    time.sleep(0.002)
application.processEvents()
front.window_in_place.document.close()
"""
)


def seconds(command: list[str], times: int = 5) -> float:
    """Return the seconds of a process's quickest start."""
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    environment["QT_QPA_PLATFORM"] = "offscreen"
    taken = []
    for _ in range(times + 1):  # the first one writes byte-code
        start = time.perf_counter()
        subprocess.run(command, env=environment, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        taken.append(time.perf_counter() - start)
    return min(taken[1:])


def figures() -> Iterator[Figure]:
    """Yield how many times as long as its reference each start takes."""
    python, product = sys.executable, str(Path(sys.executable).parent / "sober-crow")
    out = str(Path(tempfile.mkdtemp()) / "out.svg")
    references = {
        "import click": seconds([python, "-c", "import click"]),
        "from PySide6 import QtWidgets": seconds([python, "-c", "from PySide6 import QtWidgets"]),
        "import numpy, cv2, scipy.ndimage": seconds([python, "-c", "import numpy, cv2, scipy.ndimage"]),
    }
    click, widgets, numbers = references
    badge = [product, "trace", str(PICTURES / "badge-200.jpg"), "-o", out, "--force"]
    rows = [
        ("sober-crow --help", [product, "--help"], click, 2.0),
        ("sober-crow trace --help", [product, "trace", "--help"], click, 2.0),
        ("empty desk painted", [python, "-c", EMPTY_DESK], widgets, 3.0),
        ("sober-crow trace of the small badge", badge, numbers, 2.0),
        ("from start to the artwork of the pen lettering", [python, "-c", FIRST_ARTWORK], numbers, 3.0),
    ]
    for name, command, reference, wanted in rows:
        taken = seconds(command)
        beside = f"{1000 * taken:.0f} ms, `{reference}` {1000 * references[reference]:.0f}"
        yield Figure(f"{name} ({beside})", taken / references[reference], wanted, "×")


if __name__ == "__main__":
    print(table(list(figures())))
