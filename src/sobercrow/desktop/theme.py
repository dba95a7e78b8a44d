"""The look of the widgets, made from the tokens: style sheet, typeface, icons."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache
from pathlib import Path

from PySide6.QtCore import QByteArray, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPalette, QPixmap
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QApplication, QWidget

from sobercrow.core.lettering import TYPEFACE
from sobercrow.desktop import tokens
from sobercrow.desktop.tokens import DARK, LIGHT, Palette

ASSETS = Path(__file__).parent / "assets"

LOOK_AGAIN_MS = 100
"""So often it is looked whether parts out of sight may be dressed."""

_palette = LIGHT


def palette() -> Palette:
    """Return the colours in use."""
    return _palette


def apply_theme(application: QApplication, dark: bool) -> None:
    """Give the application our typeface and colours. Every part of a window is dressed by itself, see `dress`.

    (A style sheet of the whole application would be worked out anew whenever a part of a window is put in its place.)
    """
    for file in sorted(TYPEFACE.glob("*.ttf")):
        if file.name not in _loaded:
            QFontDatabase.addApplicationFont(str(file))
            _loaded.add(file.name)
    font = QFont(tokens.FAMILY)
    font.setPixelSize(tokens.BODY_PX)
    font.setFeature(QFont.Tag.fromString("tnum"), 1)
    application.setStyle("Fusion")
    application.setFont(font)
    _use(application, DARK if dark else LIGHT)


def change_theme(
    application: QApplication, dark: bool, window: QWidget, parts: Sequence[QWidget], is_busy: Callable[[], bool]
) -> None:
    """Give the parts of a window another look, one after the other.

    Styling a whole window anew would keep it from answering for a second; a part takes a few milliseconds, but many
    times as long while a worker holds the interpreter: those out of sight wait until it is not busy any more.
    """
    _use(application, DARK if dark else LIGHT)
    waiting, wanted = list(parts), _palette
    timer = QTimer(window, interval=0)

    def go_on() -> None:
        if not waiting or _palette is not wanted:  # done, or changed back meanwhile
            timer.deleteLater()
            window.update()
            return
        seen = next((part for part in waiting if part.isVisible()), None)
        must_wait = seen is None and is_busy()
        timer.setInterval(LOOK_AGAIN_MS if must_wait else 0)
        if not must_wait:
            part = seen or waiting[0]
            waiting.remove(part)
            dress(part)

    timer.timeout.connect(go_on)
    timer.start()


def dress(widget: QWidget) -> None:
    """Give a part of a window, or a dialog before it is shown, the look in use."""
    widget.setStyleSheet(_style_sheet(_palette))


def _use(application: QApplication, wanted: Palette) -> None:
    global _palette
    _palette = wanted
    icon.cache_clear()
    colours = QPalette()
    for role, colour in (
        (QPalette.ColorRole.Window, _palette.panel),
        (QPalette.ColorRole.Base, _palette.field),
        (QPalette.ColorRole.Button, _palette.panel),
        (QPalette.ColorRole.Text, _palette.text),
        (QPalette.ColorRole.WindowText, _palette.text),
        (QPalette.ColorRole.ButtonText, _palette.text),
        (QPalette.ColorRole.PlaceholderText, _palette.muted),
        (QPalette.ColorRole.Highlight, _palette.accent),
        (QPalette.ColorRole.HighlightedText, _palette.on_accent),
        (QPalette.ColorRole.ToolTipBase, _palette.text),
        (QPalette.ColorRole.ToolTipText, _palette.panel),
    ):
        colours.setColor(role, QColor(colour))
    application.setPalette(colours)


_loaded: set[str] = set()


@lru_cache(maxsize=64)
def icon(name: str) -> QIcon:
    """Return one of our icons, in the text colour and, where it is switched on, in the accent."""
    source = (ASSETS / "icons" / f"{name}.svg").read_text()
    result = QIcon()
    for colour, state in ((_palette.text, QIcon.State.Off), (_palette.accent, QIcon.State.On)):
        renderer = QSvgRenderer(QByteArray(source.replace("currentColor", colour).encode()))
        pixmap = QPixmap(2 * tokens.ICON_PX, 2 * tokens.ICON_PX)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        renderer.render(painter, QRectF(pixmap.rect()))
        painter.end()
        result.addPixmap(pixmap, QIcon.Mode.Normal, state)
    return result


@lru_cache(maxsize=2)
def _style_sheet(p: Palette) -> str:
    return f"""
    QWidget {{ color: {p.text}; font-size: {tokens.BODY_PX}px; }}
    QMainWindow, QDialog {{ background: {p.panel}; }}
    QMenuBar {{ background: {p.panel}; padding: 2px 4px; }}
    QMenuBar::item {{ padding: 4px 12px; background: transparent; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {p.accent_soft}; color: {p.text}; }}
    QMenu {{ background: {p.field}; border: 1px solid {p.hair}; padding: 4px; }}
    QMenu::item {{ padding: 5px 24px 5px 16px; }}
    QMenu::item:disabled {{ color: {p.muted}; }}
    QMenu::separator {{ height: 1px; background: {p.hair}; margin: 4px 8px; }}
    QToolTip {{ background: {p.text}; color: {p.panel}; border: 0; padding: 5px 7px; }}
    #rail {{ background: {p.rail}; border-right: 1px solid {p.hair}; }}
    #panel, #panelBody {{ background: {p.panel}; }}
    #viewbar {{ background: {p.panel}; border-bottom: 1px solid {p.hair}; }}
    #gauge {{ background: {p.panel}; border-top: 1px solid {p.hair}; }}
    #gauge QLabel, .muted, QLabel[muted="true"] {{ color: {p.muted}; font-size: {tokens.SMALL_PX}px; }}
    QLabel[title="true"] {{ font-size: {tokens.TITLE_PX}px; font-weight: 600; }}
    QLabel[strong="true"] {{ font-weight: 600; }}
    QLabel[warning="true"] {{ color: {p.rust}; }}
    QSplitter::handle {{ background: {p.panel}; }}
    QFrame[upright="true"] {{ background: {p.hair}; border: 0; margin: 0 3px; }}
    QFrame[hair="true"] {{ background: {p.hair}; max-height: 1px; min-height: 1px; border: 0; }}
    QPushButton {{ background: transparent; border: 1px solid {p.hair}; border-radius: 3px; padding: 5px 10px; }}
    QPushButton:hover {{ border-color: {p.accent}; }}
    QPushButton:pressed {{ background: {p.accent_soft}; }}
    QPushButton:disabled {{ color: {p.muted}; border-color: {p.hair}; }}
    QPushButton:checked {{ background: {p.accent_soft}; border-color: {p.accent}; color: {p.text}; }}
    QPushButton:focus, QToolButton:focus {{ border: 1px solid {p.accent}; }}
    QPushButton[main="true"] {{
        background: {p.accent}; color: {p.on_accent}; border-color: {p.accent}; font-weight: 600;
    }}
    QPushButton[main="true"]:disabled {{ background: {p.hair}; color: {p.muted}; border-color: {p.hair}; }}
    QToolButton {{ background: transparent; border: 1px solid transparent; border-radius: 3px; padding: 3px 7px; }}
    #viewbar QToolButton {{ padding: 3px 5px; }}
    QToolButton:hover {{ background: {p.accent_soft}; }}
    QToolButton:checked {{ background: {p.accent_soft}; color: {p.text}; }}
    QToolButton:disabled {{ color: {p.muted}; }}
    QToolButton[fold="true"] {{ padding: 2px 4px 2px 0; font-weight: 600; }}
    QToolButton[fold="true"]:checked, QToolButton[fold="true"]:hover {{ background: transparent; }}
    QCheckBox {{ spacing: 6px; padding: 2px 0; }}
    QCheckBox::indicator {{ width: 12px; height: 12px; border: 1px solid {p.muted}; border-radius: 2px;
        background: {p.field}; }}
    QCheckBox::indicator:checked {{ background: {p.accent}; border-color: {p.accent}; }}
    QCheckBox::indicator:disabled {{ border-color: {p.hair}; }}
    QCheckBox:focus {{ color: {p.accent}; }}
    QCheckBox::indicator:focus {{ border: 2px solid {p.accent}; }}
    QListView {{ background: {p.field}; border: 1px solid {p.hair}; border-radius: 3px; }}
    QListWidget {{ background: {p.field}; border: 1px solid {p.hair}; border-radius: 3px; }}
    QListWidget::item {{ padding: 3px 4px; }}
    QListWidget::item:selected {{ background: {p.accent_soft}; color: {p.text}; }}
    QListWidget::indicator {{ width: 12px; height: 12px; border: 1px solid {p.muted}; border-radius: 2px; }}
    QListWidget::indicator:checked {{ background: {p.accent}; border-color: {p.accent}; }}
    QComboBox {{ background: {p.field}; border: 1px solid {p.hair}; border-radius: 3px; padding: 4px 8px; }}
    QComboBox::drop-down {{ border: 0; width: 22px; }}
    QComboBox::down-arrow {{ width: 0; height: 0; border-left: 4px solid {p.field}; border-right: 4px solid {p.field};
        border-top: 5px solid {p.muted}; margin-right: 6px; }}
    QComboBox:focus {{ border-color: {p.accent}; }}
    QComboBox QAbstractItemView {{ background: {p.field}; selection-background-color: {p.accent_soft};
        selection-color: {p.text}; }}
    #finding {{ background: {p.field}; border: 1px solid {p.hair}; border-radius: 3px; }}
    #toolbar {{ background: {p.panel}; border: 1px solid {p.hair}; border-radius: 4px; }}
    #card {{ background: {p.panel}; border: 1px solid {p.text}; border-radius: 4px; }}
    #pill {{ background: {p.panel}; border: 1px solid {p.text}; border-radius: 12px; }}
    QDoubleSpinBox, QLineEdit {{
        background: {p.field}; border: 1px solid {p.hair}; border-radius: 3px; padding: 3px 5px;
        selection-background-color: {p.accent}; selection-color: {p.on_accent};
    }}
    QDoubleSpinBox:focus, QLineEdit:focus {{ border-color: {p.accent}; }}
    QDoubleSpinBox::up-button, QDoubleSpinBox::down-button {{ width: 0; height: 0; border: 0; }}
    QAbstractSpinBox QLineEdit {{ background: transparent; border: 0; padding: 0; }}
    QScrollArea {{ border: 0; }}
    #start {{ background: {p.desk}; }}
    #startCard {{ background: {p.panel}; border: 1px solid {p.hair}; border-radius: 4px; }}
    QScrollBar:vertical {{ background: transparent; width: 9px; }}
    QScrollBar::handle:vertical {{ background: {p.hair}; border-radius: 4px; min-height: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
    QProgressBar {{ background: {p.hair}; border: 0; border-radius: 2px; max-height: 4px; }}
    QProgressBar::chunk {{ background: {p.accent}; border-radius: 2px; }}
    """
