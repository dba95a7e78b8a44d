"""Ctrl-C ends a command within half a second, whatever is being computed: files are written whole or not at all."""

from __future__ import annotations

import os
import signal
import sys
import threading
import time

STOPPED_EXIT = 130
"""The exit code of a program ended by Ctrl-C: 128 and the number of the signal (common practice)."""
PATIENCE_S = 0.35
"""So long a command may take to end by itself."""


def end_soon_when_interrupted() -> None:
    """From now on, end the program soon after Ctrl-C, also while a library computes and hears nothing of it.

    A signal is heard by Python only between its own steps; the pipe it is written to at once is read by a thread.
    """
    reading, writing = os.pipe()
    os.set_blocking(writing, False)
    signal.set_wakeup_fd(writing, warn_on_full_buffer=False)
    threading.Thread(target=_wait, args=(reading,), name="interrupt", daemon=True).start()


def _wait(reading: int) -> None:
    while os.read(reading, 1) != bytes([signal.SIGINT]):
        pass
    time.sleep(PATIENCE_S)
    sys.stderr.write("sober-crow: Stopped.\n")
    sys.stderr.flush()
    os._exit(STOPPED_EXIT)
