"""Faults of the program itself, wherever they happen: told in a sentence, the report kept to be saved."""

from __future__ import annotations

import sys
import traceback
from collections.abc import Callable
from types import TracebackType

from PySide6.QtCore import QObject, Signal

from sobercrow.core.faults import fault_report, fault_sentence


class Faults(QObject):
    """Takes what nothing else caught, on any thread, and keeps the report of the last."""

    happened = Signal(str)
    """Told of each, with its sentence."""

    def __init__(self, doing: Callable[[], str]) -> None:
        """`doing` tells what was done last."""
        super().__init__()
        self._doing = doing
        self.report = ""

    def install(self) -> None:
        """Take what nothing catches on the window's own thread from now on."""
        sys.excepthook = self._uncaught

    def take(self, fault: BaseException) -> None:
        """Keep the report of a fault and tell of it."""
        traceback.print_exception(fault)
        self.report = fault_report(fault, self._doing())
        self.happened.emit(fault_sentence(fault))

    def _uncaught(self, kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        if isinstance(fault, KeyboardInterrupt):
            sys.__excepthook__(kind, fault, trace)
        else:
            self.take(fault)
