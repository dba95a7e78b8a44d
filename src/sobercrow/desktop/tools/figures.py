"""What a drag has done so far, told beside the pointer; digits typed meanwhile go straight into it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter

from sobercrow.core.artwork.snapping import Snap
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.tool import ENTER, Pointer
from sobercrow.desktop.tools.marks import paint_hair, paint_told


@dataclass(frozen=True, slots=True)
class Figure:
    """One figure: what it is called, its unit, its decimals, and whether its sign is always told."""

    name: str
    unit: str
    decimals: int = 2
    signed: bool = False

    def told(self, value: float) -> str:
        """Say a value."""
        text = f"{value:{'+' if self.signed else ''}.{self.decimals}f}"
        return f"{text}{self.unit}" if self.unit in ("°", "%") else f"{text} {self.unit}"


ACROSS, DOWN = Figure("across", "mm", signed=True), Figure("down", "mm", signed=True)
LENGTH, ANGLE, RADIUS = Figure("length", "mm"), Figure("angle", "°", 0), Figure("radius", "mm")
TURN, SCALE = Figure("turned", "°", 1, signed=True), Figure("scaled", "%", 1)


class Figures:
    """The figures of a drag. Digits go into one of them, Tab goes to the next, Backspace takes a digit back.

    One that was typed stays as it is while the pointer moves on. Nothing is told while there are none.
    """

    def __init__(self) -> None:
        """Start without any."""
        self.clear()

    def clear(self) -> None:
        """Tell nothing any more."""
        self._figures: tuple[Figure, ...] = ()
        self._values: tuple[float, ...] = ()
        self._typed: list[str] = []
        self._at = 0
        self._snap: Snap | None = None

    def begin(self, *figures: Figure) -> None:
        """Tell of some figures from now on."""
        self.clear()
        self._figures, self._typed = figures, [""] * len(figures)

    def take(self, pointer: Pointer) -> bool:
        """Take what was typed; tell whether Enter was pressed, which takes it all."""
        if pointer.text and self._typed:
            self._typed[self._at] += "." if pointer.text == "," else pointer.text
        elif pointer.key == Qt.Key.Key_Backspace and self._typed:
            self._typed[self._at] = self._typed[self._at][:-1]
        elif pointer.key == Qt.Key.Key_Tab and self._typed:
            self._at = (self._at + 1) % len(self._typed)
        return pointer.key in ENTER

    @property
    def is_typed(self) -> bool:
        """Whether anything was typed."""
        return any(_number(text) is not None for text in self._typed)

    def typed(self, k: int) -> float | None:
        """Return what was typed into a figure, or None."""
        return _number(self._typed[k]) if self._typed else None

    def settle(self, *values: float, snap: Snap | None = None) -> tuple[float, ...]:
        """Return the values dragged to, with those typed in their place; they are told from now on."""
        settled = [_number(text) for text in self._typed]
        self._values = tuple(v if t is None else t for v, t in zip(values, settled, strict=True))
        self._snap = None if self.is_typed else snap
        return self._values

    @property
    def told(self) -> str:
        """All of it in one line, what is being typed with its place marked."""
        if not self._values:
            return ""
        parts = [
            f"{figure.name} {text}▏{figure.unit}" if k == self._at and text else figure.told(value)
            for k, (figure, value, text) in enumerate(zip(self._figures, self._values, self._typed, strict=True))
        ]
        words: Sequence[str] = self._snap.words if self._snap is not None else ()
        return ", ".join((*parts, *words))

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the figures beside the pointer, and hair lines to what it was snapped to."""
        for x0, y0, x1, y1 in self._snap.lines if self._snap is not None else ():
            paint_hair(painter, scene, (x0, y0), (x1, y1))
        if self.told and at is not None:
            paint_told(painter, at, self.told)


def _number(text: str) -> float | None:
    try:
        return float(text)
    except ValueError:
        return None
