"""A window that keeps copies of unsaved work one after the other and says so, to be killed at any moment."""

from __future__ import annotations

import os
import random
import subprocess
import sys
import time
from pathlib import Path

from sobercrow.core.artwork.tree import rename_layer
from sobercrow.core.errors import ProjectError
from sobercrow.core.formats.files import PART
from sobercrow.core.formats.project import read_project
from sobercrow.demo.make import PICTURES
from sobercrow.desktop.recovery import Recovery

RECOVERED = Path("sober-crow") / "recovered"
PATIENCE_S = 120.0


def work_on() -> None:
    """Open the window on a picture as the user does; rename a layer, keep a copy, print its number, over and over."""
    from PySide6.QtCore import QSettings

    from sobercrow.desktop.application import make_application, use_theme
    from sobercrow.desktop.front import Front

    application = make_application()
    use_theme(False)
    front = Front(QSettings(str(Path(os.environ["XDG_DATA_HOME"]) / "preferences.ini"), QSettings.Format.IniFormat))
    front.show()
    print("starting", flush=True)
    front.open_path(PICTURES / "tints.png")
    front.bring_in()
    while front.window_in_place is None or not front.window_in_place.document.is_complete:
        application.processEvents()
        time.sleep(0.002)
    window, number = front.window_in_place, 0
    while True:
        number += 1
        artwork = window.document.artwork
        assert artwork is not None
        window.document.refine("Rename", rename_layer(artwork, 0, str(number)))
        window.files.autosave()
        window.files.end_autosave()
        print(number, flush=True)
        application.processEvents()


def killed(home: Path, chance: random.Random) -> list[str]:
    """Run `work_on`, kill it while it starts or works, and return what is wrong with what it left."""
    environment = os.environ | {"XDG_DATA_HOME": str(home), "QT_QPA_PLATFORM": "offscreen"}
    child = subprocess.Popen([sys.executable, __file__], stdout=subprocess.PIPE, text=True, env=environment)
    assert child.stdout is not None
    child.stdout.readline()
    if chance.random() < 0.3:
        time.sleep(chance.uniform(0.0, 2.5))
    else:
        child.stdout.readline()
        time.sleep(chance.uniform(0.0, 0.6))
    ended_by_itself = child.poll()
    child.kill()
    told = child.stdout.read().split()
    child.wait()
    wrong = [] if ended_by_itself is None else [f"it ended by itself with {ended_by_itself}"]
    acknowledged = int(told[-1]) if told else 0
    folder = home / RECOVERED
    recovery = Recovery(lambda: folder)
    left = recovery.left()
    if acknowledged and len(left) != 1:
        wrong.append(f"{len(left)} copies of {acknowledged} that were acknowledged")
    for one in left:
        try:
            refined = read_project(one.copy).refined
        except ProjectError as fault:
            wrong.append(str(fault))
            continue
        found = int(refined.layers[0].name) if refined is not None else -1
        if not acknowledged <= found:
            wrong.append(f"copy {found} where {acknowledged} was acknowledged")
        recovery.take_over(one)
    recovery.label("next", None, b"")  # what is written next removes what was left of files
    recovery.forget()
    if folder.exists():
        wrong += [f"{path.name} is left" for path in folder.iterdir()]
    wrong += [f"{path} is left" for path in home.rglob(f"{PART}*")]
    return wrong


if __name__ == "__main__":
    work_on()
