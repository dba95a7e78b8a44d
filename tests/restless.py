"""A restless hand on the real window: random commands, drags, buttons, typing, steps and pictures, by a seed.

Every uncaught error, every warning of a number that is none, and every action that kept the window waiting is kept.
"""

from __future__ import annotations

import contextlib
import cProfile
import io
import pstats
import random
import sys
import time
import traceback
import warnings
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtGui import QColor, QDrag
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QColorDialog,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMenu,
    QWidget,
)

from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause
from sobercrow.desktop.window import MainWindow

STALL_S = 0.3
LEFT_ALONE = {"quit", "close", "help", "guide"}
FILES = ("badge-200.jpg", "tints.png", "swing-sign.jpg", "pen-lettering.png")
KEYS = "1234567890.-aesdqwxtgkmn"
SPECIAL = (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Delete, Qt.Key.Key_Tab, Qt.Key.Key_Left, Qt.Key.Key_Up)
MODIFIERS = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ControlModifier,
)


class RestlessHand:
    """Does things in a window that nobody would, as nobody would."""

    def __init__(self, window: MainWindow, seed: int, profiled: bool = False) -> None:
        """Take a window that shows a result; everything done comes of the seed.

        Profiled, each stall is told with the functions that took longest, and everything takes longer.
        """
        self.profiled = profiled
        self.window, self.random = window, random.Random(seed)
        self.faults: list[str] = []
        self.stalls: list[tuple[float, float, str]] = []
        """Seconds for which actions kept the window waiting, those its thread worked itself, and what they were."""
        self.doing = ""
        self.done: list[str] = []
        window.faults.happened.connect(lambda _: self.faults.append(f"{self.doing}: {window.faults.report}"))
        sys.excepthook = self._uncaught
        warnings.showwarning = self._warned
        # dialogs that wait for an answer are left at once, those that wait all the same soon
        self._leaving = QTimer(interval=20)
        self._leaving.timeout.connect(_leave_dialogs)
        self._leaving.start()
        for kind in (QDialog, QFileDialog):
            kind.exec = lambda *_: 0  # type: ignore[method-assign]
        for name in ("getOpenFileName", "getSaveFileName", "getOpenFileNames"):
            setattr(QFileDialog, name, staticmethod(lambda *_, **__: ("", "")))
        for kind, name, answer in (
            (QFileDialog, "getExistingDirectory", ""),
            (QColorDialog, "getColor", QColor()),
            (QInputDialog, "getText", ("", False)),
        ):
            setattr(kind, name, staticmethod(lambda *_, answer=answer, **__: answer))
        for kind in (QDrag, QMenu):
            kind.exec = lambda *_, **__: None  # type: ignore[method-assign, attr-defined]

    def act(self, times: int) -> None:
        """Do so many things, one after the other."""
        kinds: list[tuple[int, Callable[[], None]]] = [
            (30, self._command),
            (30, self._drag),
            (18, self._press),
            (10, self._type),
            (5, self._step),
            (4, self._undo),
            (2, self._rest),
            (1, self._picture),
        ]
        for _ in range(times):
            (work,) = self.random.choices([work for _, work in kinds], [weight for weight, _ in kinds])
            self.doing = work.__name__[1:]
            start, own = time.perf_counter(), time.thread_time()
            profile = cProfile.Profile() if self.profiled else None
            with profile or contextlib.nullcontext():
                try:
                    work()
                except Exception:  # it came through to the hand itself
                    self.faults.append(f"{self.doing}: {traceback.format_exc()}")
                QApplication.processEvents()
            seconds = time.perf_counter() - start
            if seconds > STALL_S and work.__name__ not in ("_rest", "_picture"):
                own = time.thread_time() - own
                self.stalls.append((seconds, own, f"{self.doing}{_longest(profile) if profile else ''}"))
            self.done.append(self.doing)
            _leave_dialogs()
            pause(0.002)

    def _uncaught(self, kind: type[BaseException], fault: BaseException, trace: object) -> None:
        self.faults.append(f"{self.doing}: {''.join(traceback.format_exception(fault)[-4:])}")

    def _warned(self, message: Warning | str, category: type[Warning], filename: str, line: int, *_: object) -> None:
        if issubclass(category, RuntimeWarning):
            stack = [f for f in traceback.extract_stack() if "sobercrow" in f.filename][-3:]
            where = " < ".join(f"{f.name}:{f.lineno}" for f in reversed(stack))
            self.faults.append(f"{self.doing}: {message} ({Path(filename).name}:{line}; {where})")

    def _command(self) -> None:
        commands = [c for c in self.window.menus.commands.values() if c.id not in LEFT_ALONE and c.enabled()]
        chosen = self.random.choice(commands)
        self.doing = f"command {chosen.id}"
        self.window.menus.actions[chosen.id].trigger()

    def _drag(self) -> None:
        window, canvas = self.window, self.window.canvas
        if self.random.random() < 0.5:
            name = self.random.choice(sorted(window.tools))
            self.doing = f"take {name}"
            window.use_tool(name)
        tool = window.tool
        self.doing = f"drag {tool}"
        modifier = self.random.choice(MODIFIERS)
        at = self._place(canvas)
        if self.random.random() < 0.35:
            QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, modifier, at)
            return
        QTest.mousePress(canvas, Qt.MouseButton.LeftButton, modifier, at)
        for _ in range(self.random.randint(1, 6)):
            at = self._place(canvas) if self.random.random() < 0.2 else at + QPoint(*self._few())
            QTest.mouseMove(canvas, at)
        if self.random.random() < 0.15:
            QTest.keyClick(canvas, self.random.choice(KEYS))
        QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, modifier, at)

    def _few(self) -> tuple[int, int]:
        return self.random.randint(-40, 40), self.random.randint(-40, 40)

    def _place(self, widget: QWidget) -> QPoint:
        return QPoint(self.random.randrange(max(widget.width(), 1)), self.random.randrange(max(widget.height(), 1)))

    def _press(self) -> None:
        buttons = [b for b in self.window.findChildren(QAbstractButton) if b.isVisible() and b.isEnabled()]
        if not buttons:
            return
        chosen = self.random.choice(buttons)
        self.doing = f"button {chosen.text() or chosen.toolTip()[:30]}"
        QTest.mouseClick(chosen, Qt.MouseButton.LeftButton)

    def _type(self) -> None:
        fields = [f for f in self.window.findChildren(QLineEdit) if f.isVisible() and f.isEnabled()]
        if fields and self.random.random() < 0.6:
            field = self.random.choice(fields)
            self.doing = f"type into {field.accessibleName() or field.objectName()}"
            field.setFocus()
            field.selectAll()
            QTest.keyClicks(field, "".join(self.random.choices(KEYS[:12], k=self.random.randint(1, 5))))
            QTest.keyClick(field, Qt.Key.Key_Return)
        else:
            QTest.keyClick(self.window.canvas, self.random.choice(SPECIAL))

    def _step(self) -> None:
        self.window.go_to(self.random.choice(list(type(self.window.step))))

    def _undo(self) -> None:
        for _ in range(self.random.randint(1, 4)):
            (self.window.document.undo if self.random.random() < 0.7 else self.window.document.redo)()

    def _rest(self) -> None:
        end = time.monotonic() + 4.0
        while not self.window.document.is_complete and time.monotonic() < end:
            pause(0.01)

    def _picture(self) -> None:
        name = self.random.choice(FILES)
        self.doing = f"open {name}"
        self.window.document.open_path(PICTURES / name)
        self._rest()


def _longest(profile: cProfile.Profile) -> str:
    told = io.StringIO()
    pstats.Stats(profile, stream=told).sort_stats("cumulative").print_stats("sobercrow", 12)
    return "\n" + "\n".join(told.getvalue().splitlines()[-14:])


def _leave_dialogs() -> None:
    for widget in QApplication.topLevelWidgets():
        if isinstance(widget, QDialog) and widget.isVisible():
            widget.reject()
    popup = QApplication.activePopupWidget()
    if popup is not None:
        popup.close()
