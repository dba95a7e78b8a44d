"""Small controls the panels are made of."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QEvent, QPointF, QRectF, QSignalBlocker, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import (
    QCheckBox,
    QDoubleSpinBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from sobercrow.core.settings import Meaning
from sobercrow.desktop import tokens
from sobercrow.desktop.theme import icon, palette

ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
"""Which way the arrow keys point: across and down."""
ROW_PX, MOST_ROWS = 25, 6
"""Height of a row in a list of texts, and how many it shows at once."""


def label(text: str = "", *, title: bool = False, strong: bool = False, muted: bool = False) -> QLabel:
    """Return a text in one of our sizes."""
    made = QLabel(text)
    made.setProperty("title", title)
    made.setProperty("strong", strong)
    made.setProperty("muted", muted)
    made.setWordWrap(True)
    return made


def hair_line() -> QFrame:
    """Return a thin rule between groups."""
    line = QFrame()
    line.setProperty("hair", True)
    return line


def button(text: str, tip: str = "", *, main: bool = False) -> QPushButton:
    """Return a push button; the main one of a panel is filled."""
    made = QPushButton(text)
    made.setProperty("main", main)
    made.setToolTip(tip)
    made.setAccessibleName(text)
    return made


class Slide(QWidget):
    """A thin track with a triangle to drag. Values run from 0 to 1; arrows step."""

    slid = Signal(float)

    def __init__(self, name: str, step: float) -> None:
        """Make a slide; `step` is what an arrow key moves, as a share of the track."""
        super().__init__()
        self.share = 0.0
        self._step = step
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setFixedHeight(18)

    def set_share(self, share: float) -> None:
        """Show a value without telling of it."""
        self.share = min(max(share, 0.0), 1.0)
        self.update()

    def _slide_to(self, share: float) -> None:
        share = min(max(share, 0.0), 1.0)
        if share != self.share:
            self.share = share
            self.update()
            self.slid.emit(share)

    def _at(self, event: QMouseEvent) -> float:
        return (event.position().x() - 6) / max(self.width() - 12, 1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go where the pointer is."""
        self._slide_to(self._at(event))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Follow the pointer."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._slide_to(self._at(event))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Step by arrow keys."""
        way = ARROWS.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
        else:
            self._slide_to(self.share + (way[0] - way[1]) * self._step)

    def sizeHint(self) -> QSize:
        """Prefer a wide track."""
        return QSize(200, 18)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint track and triangle."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = palette()
        x = 6 + self.share * (self.width() - 12)
        active = QColor(colours.accent if self.isEnabled() else colours.hair)
        painter.fillRect(QRectF(0, 5, self.width(), 2.5), QColor(colours.hair))
        painter.fillRect(QRectF(0, 5, x, 2.5), active)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(active)
        painter.drawPolygon(QPolygonF([QPointF(x, 4), QPointF(x - 6, 15), QPointF(x + 6, 15)]))
        if self.hasFocus():
            painter.setPen(active)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1))


class NumberField(QWidget):
    """One number of the settings: typed, dragged, stepped, reset, with its unit and a line of help.

    `changed` tells of values the user gave, `reset` that the automatic one is wanted back.
    """

    changed = Signal(float)
    reset = Signal()

    def __init__(self, meaning: Meaning, *, large: bool = False, curved: bool = False, brief: bool = False) -> None:
        """Make a field; `curved` gives small values more of the track (square law), `brief` has no help line."""
        super().__init__()
        self.meaning = meaning
        self._power = 2.0 if curved else 1.0
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(3)
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(label(meaning.label, strong=large), 1)
        self.back = QToolButton()
        self.back.setIcon(icon("arrow-counter-clockwise"))
        self.back.setIconSize(QSize(14, 14))
        self.back.setToolTip(f"Reset {meaning.label.lower()}\nTakes back the automatic choice.")
        self.back.setAccessibleName(f"Reset {meaning.label}")
        self.back.clicked.connect(self.reset)
        self.box = QDoubleSpinBox()
        self.box.setDecimals(meaning.decimals)
        self.box.setRange(meaning.low, meaning.high)
        self.box.setSingleStep(meaning.step)
        self.box.setSuffix(f" {meaning.unit}" if meaning.unit not in ("", "°") else meaning.unit)
        self.box.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.box.setFixedWidth(92)
        self.box.setKeyboardTracking(False)
        self.box.setAccessibleName(meaning.label)
        self.box.setToolTip(meaning.help)
        self.box.valueChanged.connect(self._typed)
        row.addWidget(self.back)
        row.addWidget(self.box)
        layout.addLayout(row)
        self.slide = Slide(meaning.label, meaning.step / (meaning.high - meaning.low))
        self.slide.slid.connect(self._slid)
        layout.addWidget(self.slide)
        self.note = label(meaning.help, muted=True)
        layout.addWidget(self.note)
        self.note.setVisible(not brief)

    def show_value(self, value: float, automatic: bool, note: str | None = None) -> None:
        """Show a value and whether it was chosen automatically; `note` takes the place of the help line."""
        blocker = QSignalBlocker(self.box)
        if abs(self.box.value() - value) >= 0.5 * 10**-self.meaning.decimals or not self.box.hasFocus():
            self.box.setValue(value)
        blocker.unblock()
        span = self.meaning.high - self.meaning.low
        self.slide.set_share(max((value - self.meaning.low) / span, 0.0) ** (1 / self._power))
        self.back.setEnabled(not automatic)
        self.note.setText(note or self.meaning.help)

    def changeEvent(self, event: QEvent) -> None:
        """Follow a change of the theme."""
        if event.type() == QEvent.Type.StyleChange:
            self.back.setIcon(icon("arrow-counter-clockwise"))
        super().changeEvent(event)

    def _typed(self, value: float) -> None:
        self.changed.emit(value)

    def _slid(self, share: float) -> None:
        value = self.meaning.low + share**self._power * (self.meaning.high - self.meaning.low)
        rounded = round(value / self.meaning.step) * self.meaning.step
        self.changed.emit(min(max(rounded, self.meaning.low), self.meaning.high))


class Switch(QCheckBox):
    """Switches a part of the settings off and on again; its value is kept meanwhile."""

    def __init__(self, what: str) -> None:
        """Make a switch for what is named."""
        super().__init__()
        self.setAccessibleName(f"{what} on")
        self.setFixedHeight(tokens.SWITCH_HEIGHT)
        self.setToolTip(f"{what} on or off\nSwitched off it is left out; its value is kept.")


def tick(text: str, help_: str) -> QCheckBox:
    """Return a box to be ticked, with its text."""
    made = QCheckBox(text)
    made.setAccessibleName(text)
    made.setToolTip(f"{text}\n{help_}")
    return made


class Ground(QWidget):
    """What lies behind a panel, with a hair line at its left. It paints itself: the theme is changed part by part."""

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the ground and the line."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(palette().panel))
        painter.fillRect(0, 0, 1, self.height(), QColor(palette().hair))


class Fold(QWidget):
    """A part of a panel under a heading that folds it away; a line beside the heading says how things stand."""

    def __init__(self, title: str, *parts: QWidget, open_: bool = False) -> None:
        """Put parts under a heading."""
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(tokens.RHYTHM)
        row = QHBoxLayout()
        self.head = QToolButton()
        self.head.setText(title)
        self.head.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.head.setIconSize(QSize(12, 12))
        self.head.setCheckable(True)
        self.head.setChecked(open_)
        self.head.setProperty("fold", True)
        self.head.setAccessibleName(title)
        self.head.setToolTip(f"{title}\nShows or folds away this part.")
        self.head.toggled.connect(self._unfold)
        self.state = label(muted=True)
        self.state.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.head)
        row.addWidget(self.state, 1)
        layout.addWidget(hair_line())
        layout.addLayout(row)
        self.body = group_column(*parts)
        layout.addWidget(self.body)
        self._unfold(open_)

    def _unfold(self, open_: bool) -> None:
        self.body.setVisible(open_)
        self.head.setIcon(icon("caret-down" if open_ else "caret-right"))

    def changeEvent(self, event: QEvent) -> None:
        """Follow a change of the theme."""
        if event.type() == QEvent.Type.StyleChange:
            self._unfold(self.head.isChecked())
        super().changeEvent(event)


def panel_column(*parts: QWidget) -> QWidget:
    """Return a column of widgets at our rhythm, with a margin around."""
    return _column(2 * tokens.RHYTHM, *parts)


def group_column(*parts: QWidget) -> QWidget:
    """Return a column of widgets at our rhythm, to stand in another column."""
    return _column(0, *parts)


def _column(margin: int, *parts: QWidget) -> QWidget:
    column = QWidget()
    column.setObjectName("panelBody")
    layout = QVBoxLayout(column)
    layout.setContentsMargins(margin, margin, margin, margin)
    layout.setSpacing(tokens.RHYTHM + 2)
    for part in parts:
        layout.addWidget(part)
    layout.addStretch(1)
    return column


class Panel(QWidget):
    """Base of the panels: `column` is what is shown, `refresh` brings it up to date."""

    column: QWidget

    def refresh(self) -> None:
        """Show the present state. Every panel has its own way."""

    def groups(self) -> list[QWidget]:
        """The parts of the column, each of which is dressed by itself: a whole panel takes long."""
        return [part for part in self.column.children() if isinstance(part, QWidget)]


def headed(switch: Switch, field: QWidget) -> QWidget:
    """Return a setting with its switch before it."""
    row = QWidget()
    layout = QHBoxLayout(row)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(2)
    layout.addWidget(switch, 0, Qt.AlignmentFlag.AlignTop)
    layout.addWidget(field, 1)
    return row


def row_of(*parts: QWidget) -> QWidget:
    """Return widgets side by side, equally wide."""
    row = QWidget()
    layout = QHBoxLayout(row)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(tokens.RHYTHM)
    for part in parts:
        layout.addWidget(part, 1)
    return row


def text_list(name: str) -> QListWidget:
    """Return an empty list of texts."""
    made = QListWidget()
    made.setAccessibleName(name)
    return made


def fill_list(rows: QListWidget, texts: list[str]) -> None:
    """Show texts in a list that is as high as they need."""
    rows.clear()
    rows.addItems(texts)
    rows.setFixedHeight(min(max(len(texts), 1), MOST_ROWS) * ROW_PX + 6)


def doing(name: str, tip: str, work: Callable[[], object]) -> QPushButton:
    """Return a button that does something when it is clicked."""
    made = button(name, f"{name}\n{tip}")
    made.clicked.connect(lambda: work())
    return made


def choices(names: dict[Any, str], chosen: Callable[[Any], object], tips: dict[Any, str]) -> dict[Any, QPushButton]:
    """Return a button for each of several choices, of which one is marked."""
    made = {}
    for key, name in names.items():
        made[key] = button(name, f"{name}\n{tips.get(key, '')}".rstrip())
        made[key].setCheckable(True)
        made[key].clicked.connect(lambda _checked, key=key: chosen(key))
    return made
