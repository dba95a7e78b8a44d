"""The guide in a window beside: its pages, a field to search them, and the passage one asked about."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, Qt, QUrl
from PySide6.QtGui import (
    QColor,
    QFont,
    QResizeEvent,
    QTextBlock,
    QTextBlockFormat,
    QTextCharFormat,
    QTextCursor,
    QTextFormat,
    QTextImageFormat,
)
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from sobercrow.core.guide import FOLDER, Guide, Passage, read_guide
from sobercrow.core.lookup import Entry, Lookup
from sobercrow.desktop import tokens
from sobercrow.desktop.controls import Ground, button, label
from sobercrow.desktop.theme import dress, palette

WIDTH_PX, HEIGHT_PX, LIST_PX, GAP_PX = 820, 720, 216, 12
PICTURE_PX, MARGIN_PX = 520, 24
LEAST_WIDTH_PX = 560
HITS = 12
PASSAGE = Qt.ItemDataRole.UserRole
OBJECT = "\ufffc"
"""What stands in a text for a picture (Unicode, object replacement character)."""
HEADING_PX = {1: 20, 2: 15, 3: tokens.BODY_PX}


class GuideWindow(QWidget):
    """The pages at the left, or the passages that fit what was typed; the text at the right."""

    def __init__(self, parent: QWidget) -> None:
        """Make the window, beside that of its parent."""
        super().__init__(parent, Qt.WindowType.Window)
        self.setWindowTitle("Guide")
        self.guide: Guide = read_guide()
        self.shown: Passage | None = None
        self._been: list[Passage] = []
        self._lookup: Lookup | None = None
        self.field = QLineEdit()
        self.field.setPlaceholderText("Search the guide")
        self.field.setAccessibleName("Search the guide")
        self.field.setClearButtonEnabled(True)
        self.field.textChanged.connect(self._list)
        self.list = QListWidget()
        self.list.setAccessibleName("Pages of the guide")
        self.list.currentItemChanged.connect(self._picked)
        self.back = button("Back", "To the passage shown before.")
        self.back.clicked.connect(self._go_back)
        self.text = QTextBrowser()
        self.text.setAccessibleName("Text of the guide")
        self.text.setOpenLinks(False)
        self.text.setSearchPaths([str(FOLDER)])
        self.text.setFrameShape(QFrame.Shape.NoFrame)
        self.text.anchorClicked.connect(self._follow)
        self._lay_out()
        self._list("")

    def _lay_out(self) -> None:
        left = Ground()
        left.setObjectName("rail")
        left.setFixedWidth(LIST_PX)
        column = QVBoxLayout(left)
        column.setContentsMargins(12, 12, 12, 12)
        self.note = label(muted=True)
        for part in (self.field, self.note, self.list, self.back):
            column.addWidget(part)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(left)
        row.addWidget(self.text, 1)
        self.setMinimumSize(LEAST_WIDTH_PX, 360)
        self.resize(WIDTH_PX, HEIGHT_PX)
        self._dress()

    def _dress(self) -> None:
        self._colours = palette()
        dress(self)

    def place_beside(self, other: QWidget) -> None:
        """Stand at the right of another window, narrower if need be, else over its right edge."""
        room, frame = other.screen().availableGeometry(), other.frameGeometry()
        free = room.right() - frame.right() - GAP_PX
        width = min(WIDTH_PX, free) if free >= LEAST_WIDTH_PX else min(WIDTH_PX, room.width())
        self.resize(width, min(HEIGHT_PX, room.height()))
        x = min(frame.right() + GAP_PX, room.right() - self.width())
        self.move(max(x, room.left()), max(min(frame.top() + 40, room.bottom() - self.height()), room.top()))

    def show_passage(self, passage: Passage) -> None:
        """Show the page of a passage, scrolled to it, with its heading marked."""
        if self.shown is not None and self.shown != passage:
            self._been.append(self.shown)
        self._show(passage)

    def _show(self, passage: Passage) -> None:
        self.shown = passage
        self.back.setEnabled(bool(self._been))
        document = self.text.document()
        document.setMarkdown(self.guide.pages[passage.page])
        document.setDocumentMargin(MARGIN_PX)
        headings = _dress_text(self.text)
        block = next((one for one in headings if one.text() == passage.title), None)
        if block is None or passage.level == 1:
            self.text.setExtraSelections([])
            self.text.verticalScrollBar().setValue(0)
        else:
            self._mark(block)
        self._point_list_at(passage)

    def _mark(self, block: QTextBlock) -> None:
        """Scroll to a heading and lay our accent behind it."""
        cursor = QTextCursor(block)
        place = self.text.document().documentLayout().blockBoundingRect(block)
        self.text.verticalScrollBar().setValue(round(place.top()) - GAP_PX)
        selection = QTextEdit.ExtraSelection()
        selection.cursor = cursor
        marked = QTextCharFormat()
        marked.setBackground(QColor(palette().accent_soft))
        marked.setProperty(QTextFormat.Property.FullWidthSelection, True)
        selection.format = marked
        self.text.setExtraSelections([selection])

    def _point_list_at(self, passage: Passage) -> None:
        self.list.blockSignals(True)
        rows = [self.list.item(k) for k in range(self.list.count())]
        exact = next((item for item in rows if item.data(PASSAGE) == passage), None)
        same_page = (item for item in rows if item.data(PASSAGE) and item.data(PASSAGE).page == passage.page)
        item = exact or next(same_page, None)
        self.list.setCurrentRow(-1 if item is None else self.list.row(item))
        self.list.blockSignals(False)

    def _list(self, typed: str) -> None:
        """List the pages, or the passages that fit what was typed."""
        self.list.blockSignals(True)
        self.list.clear()
        typed = typed.strip()
        passages = self._fitting(typed) if typed else ()
        for passage in passages:
            inside = f"\n{passage.page_title}" if passage.level > 1 else ""
            self._add(passage, f"{passage.title}{inside}")
        for title, heads in self.guide.groups().items() if not typed else ():
            group = QListWidgetItem(title)
            group.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(group)
            for head in heads:
                self._add(head, f"   {head.title}")
        self.list.blockSignals(False)
        self.note.setVisible(bool(typed))
        fits = f"{len(passages)} passages" if len(passages) != 1 else "1 passage"
        self.note.setText(fits if passages else "Nothing fits; try another word, or fewer.")
        if passages:
            self._show(passages[0])

    def _add(self, passage: Passage, text: str) -> None:
        item = QListWidgetItem(text)
        item.setData(PASSAGE, passage)
        item.setToolTip(passage.first_sentence)
        self.list.addItem(item)

    def _fitting(self, typed: str) -> Sequence[Passage]:
        """The passages that have what was typed, or else something like it."""
        having = self.guide.having(typed)
        if having:
            return having
        if self._lookup is None:
            entries = [Entry(one.title, one.page_title, one.plain) for one in self.guide.passages]
            self._lookup = Lookup(entries)
        return [self.guide.passages[k] for k in self._lookup.best(typed, HITS)]

    def _picked(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.show_passage(item.data(PASSAGE))

    def _follow(self, link: QUrl) -> None:
        self.show_passage(self.guide.head(link.path().removesuffix(".md")))

    def changeEvent(self, event: QEvent) -> None:
        """Take on the colours in use."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.PaletteChange and self.shown is not None and self._colours is not palette():
            self._dress()
            self._show(self.shown)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Let pictures be as wide as the text."""
        super().resizeEvent(event)
        if self.shown is not None and event.size().width() != event.oldSize().width():
            self._show(self.shown)

    def _go_back(self) -> None:
        if self._been:
            self._show(self._been.pop())


def _dress_text(view: QTextBrowser) -> list[QTextBlock]:
    """Give the text our sizes and colours; return its headings."""
    colours, headings = palette(), []
    block = view.document().begin()
    while block.isValid():
        cursor = QTextCursor(block)
        cursor.select(QTextCursor.SelectionType.BlockUnderCursor)
        level = block.blockFormat().headingLevel()
        spaced = QTextBlockFormat()
        if not block.text().startswith(OBJECT):
            spaced.setLineHeight(128.0, QTextBlockFormat.LineHeightTypes.ProportionalHeight.value)
        spaced.setBottomMargin(6.0)
        if level:
            headings.append(block)
            style = QTextCharFormat()
            style.setFontWeight(QFont.Weight.DemiBold)
            style.setProperty(QTextFormat.Property.FontPixelSize, HEADING_PX.get(level, tokens.BODY_PX))
            style.setForeground(QColor(colours.text))
            cursor.mergeCharFormat(style)
            spaced.setTopMargin(0.0 if level == 1 else 14.0)
        QTextCursor(block).mergeBlockFormat(spaced)
        _dress_pieces(block, min(PICTURE_PX, max(view.viewport().width() - 2 * MARGIN_PX, 1)))
        block = block.next()
    return headings


def _dress_pieces(block: QTextBlock, width: int) -> None:
    """Give names our weight rather than a slant, links our accent, pictures a width that fits."""
    pieces = []
    iterator = block.begin()
    while not iterator.atEnd():
        pieces.append(iterator.fragment())
        iterator += 1
    for piece in pieces:
        cursor = QTextCursor(block)
        cursor.setPosition(piece.position())
        cursor.setPosition(piece.position() + piece.length(), QTextCursor.MoveMode.KeepAnchor)
        style = piece.charFormat()
        if style.isImageFormat():
            picture = QTextImageFormat(style.toImageFormat())
            picture.setWidth(width)
            cursor.setCharFormat(picture)
            continue
        change = QTextCharFormat()
        if style.isAnchor():
            change.setForeground(QColor(palette().accent))
            change.setFontUnderline(True)
        elif style.fontItalic():
            change.setFontItalic(False)
            change.setFontWeight(QFont.Weight.DemiBold)
        else:
            continue
        cursor.mergeCharFormat(change)


def show_guide(near: QWidget, trail: Sequence[str]) -> GuideWindow:
    """Open the guide beside a window, at the passage about something; see `Guide.about`."""
    return show_passage(near, read_guide().about(trail))


def show_passage(near: QWidget, passage: Passage) -> GuideWindow:
    """Open the guide beside a window, at a passage; one that is open already goes there."""
    window = next(iter(near.findChildren(GuideWindow)), None)
    if window is None:
        window = GuideWindow(near)
        window.place_beside(near)
    window.field.clear()
    window.show()
    window.raise_()
    window.activateWindow()
    window.show_passage(passage)
    return window
