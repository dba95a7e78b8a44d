"""One background thread for all computing; the newest request wins."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QObject, Signal

from sobercrow.core.errors import BudgetError, Cancelled, SoberCrowError
from sobercrow.core.stopping import stoppable

Give = Callable[[Any], None]
Report = Callable[[str, float], None]
Work = Callable[[Give, Report], None]

TELLING_S = 0.03
"""Progress within a step is told no oftener than this: the window's thread has better to do."""


@dataclass(frozen=True, slots=True)
class Request:
    """Work that was asked for.

    `work` gets a function that hands over a result (several may come: a draft, then the full one), and one that
    reports progress; overtaken, it is stopped wherever it asks whether to go on. It captures all it needs and changes
    nothing outside.
    """

    number: int
    work: Work


class Worker(QObject):
    """Runs requests one after the other; a newer one cancels those before it."""

    produced = Signal(int, object)
    progressed = Signal(int, str, float)
    failed = Signal(int, str)
    over_budget = Signal(str)
    """Told after `failed` of work that may be asked for all the same."""
    broke = Signal(object)
    finished = Signal(int)

    def __init__(self) -> None:
        """Start the thread; it ends with the program."""
        super().__init__()
        self._condition = threading.Condition()
        self._next: Request | None = None
        self._newest = 0
        self._closed = False
        self._thread = threading.Thread(target=self._run, name="worker", daemon=True)
        self._thread.start()

    def submit(self, work: Work) -> int:
        """Ask for work in place of all asked for before; return its number."""
        with self._condition:
            self._newest += 1
            self._next = Request(self._newest, work)
            self._condition.notify()
            return self._newest

    def stop(self) -> None:
        """Cancel whatever runs or waits."""
        with self._condition:
            self._newest += 1
            self._next = None

    def close(self) -> None:
        """Cancel everything and end the thread."""
        with self._condition:
            self._newest += 1
            self._next = None
            self._closed = True
            self._condition.notify()
        self._thread.join(timeout=10.0)

    def _run(self) -> None:
        while True:
            with self._condition:
                while self._next is None and not self._closed:
                    self._condition.wait()
                if self._closed:
                    return
                request, self._next = self._next, None
            assert request is not None
            self._serve(request)

    def _serve(self, request: Request) -> None:
        number = request.number

        told: tuple[str, float] = ("", 0.0)

        def overtaken() -> bool:
            return number != self._newest

        def report(step: str, share: float) -> None:
            nonlocal told
            now = time.monotonic()
            if (step != told[0] or now - told[1] > TELLING_S) and not overtaken():
                told = step, now
                self.progressed.emit(number, step, share)

        try:
            with stoppable(overtaken):
                request.work(lambda result: None if overtaken() else self.produced.emit(number, result), report)
        except Cancelled:
            pass
        except SoberCrowError as fault:
            if not overtaken():
                self.failed.emit(number, str(fault))
                if isinstance(fault, BudgetError):
                    self.over_budget.emit(str(fault))
        except Exception as fault:  # a fault of ours must not end the thread and with it all later work
            self.broke.emit(fault)
        finally:
            self.finished.emit(number)
