"""The step rail: six cards in the order of work."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from sobercrow.desktop import tokens
from sobercrow.desktop.document import Document
from sobercrow.desktop.steps import LOOKS, Step, cost, key_figure
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import ENTER


class StepCard(QWidget):
    """One step: thumbnail, name, key figure. Hatched while its result is out of date."""

    picked = Signal(Step)

    def __init__(self, step: Step) -> None:
        """Make an empty card."""
        super().__init__()
        self.step = step
        self.active = self.stale = False
        self._image = QImage()
        self._figure = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(LOOKS[step].title)
        self.setToolTip(f"{LOOKS[step].title}\nGo to this step; nothing is lost by going back.")
        self.setMinimumHeight(84)
        self.setMaximumHeight(120)

    def sizeHint(self) -> QSize:
        """Prefer room for picture and two lines."""
        return QSize(tokens.RAIL_WIDTH, 116)

    def show_state(self, image: QImage, figure: str, active: bool, stale: bool) -> None:
        """Show the present state of the step."""
        self._image, self._figure, self.active, self.stale = image, figure, active, stale
        self.setAccessibleDescription(figure)
        self.update()

    def tell_cost(self, cost: str) -> None:
        """Tell in the tooltip how long the step took."""
        hint = f"{LOOKS[self.step].title}\nGo to this step; nothing is lost by going back."
        self.setToolTip(f"{hint}\n{cost}" if cost else hint)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go to the step."""
        self.picked.emit(self.step)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Go to the step with the space bar or Enter."""
        if event.key() in (Qt.Key.Key_Space, *ENTER):
            self.picked.emit(self.step)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the card."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        colours = palette()
        if self.active:
            painter.fillRect(self.rect(), QColor(colours.panel))
            painter.fillRect(QRectF(0, 0, 3, self.height()), QColor(colours.accent))
        text_height = 36
        room = QRectF(14, 6, self.width() - 28, self.height() - text_height - 8)
        self._paint_image(painter, room)
        font = painter.font()
        font.setPixelSize(tokens.BODY_PX)
        font.setWeight(font.Weight.DemiBold if self.active else font.Weight.Normal)
        painter.setFont(font)
        painter.setPen(QColor(colours.text))
        line = QRectF(14, self.height() - text_height, self.width() - 15, 18)
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, LOOKS[self.step].title)
        font.setPixelSize(tokens.SMALL_PX - 1)
        font.setWeight(font.Weight.Normal)
        painter.setFont(font)
        painter.setPen(QColor(colours.muted))
        text = painter.fontMetrics().elidedText(self._figure, Qt.TextElideMode.ElideRight, round(line.width()))
        painter.drawText(line.translated(0, 16), Qt.AlignmentFlag.AlignVCenter, text)
        if self.hasFocus():
            painter.setPen(QColor(colours.accent))
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))

    def _paint_image(self, painter: QPainter, room: QRectF) -> None:
        colours = palette()
        painter.fillRect(room, QColor(colours.page if not self._image.isNull() else colours.rail))
        if not self._image.isNull():
            scale = min(room.width() / self._image.width(), room.height() / self._image.height())
            target = QRectF(0, 0, self._image.width() * scale, self._image.height() * scale)
            target.moveCenter(room.center())
            painter.drawImage(target, self._image)
            if self.stale:
                painter.fillRect(room, QBrush(QColor(colours.muted), Qt.BrushStyle.BDiagPattern))
        painter.setPen(QColor(colours.hair))
        painter.drawRect(room)


class Rail(QWidget):
    """All cards; tells which step was picked."""

    picked = Signal(Step)

    def __init__(self, document: Document) -> None:
        """Show the steps of a document."""
        super().__init__()
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(tokens.RAIL_WIDTH)
        self._document = document
        self._active = Step.BRING_IN
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 1, 4)
        layout.setSpacing(2)
        self.cards = {step: StepCard(step) for step in Step}
        for card in self.cards.values():
            card.picked.connect(self.picked)
            layout.addWidget(card, 1)
        layout.addStretch(0)
        for signal in (document.presented, document.opened, document.busy_changed, document.state_changed):
            signal.connect(self.refresh)

    def set_active(self, step: Step) -> None:
        """Mark the step one is in."""
        self._active = step
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Show thumbnails and figures as they are now."""
        presentation = self._document.presentation
        stale_from = self._stale_from()
        for index, (step, card) in enumerate(self.cards.items()):
            image = presentation.thumbnails[step.value] if presentation is not None else QImage()
            card.show_state(image, key_figure(step, self._document), step is self._active, index >= stale_from)
            card.tell_cost(cost(step, self._document))

    def _stale_from(self) -> int:
        """The first step whose result is older than its settings; 6 if none is."""
        presentation, state = self._document.presentation, self._document.state
        if presentation is None:
            return len(self.cards)
        made, wanted = presentation.results.settings, state.settings
        if made.clean_up != wanted.clean_up:
            return 1
        if made.inks != wanted.inks:
            return 2
        return 3 if made.tracing != wanted.tracing or presentation.is_draft else len(self.cards)
