"""What runs that ended early left unsaved: brought back or given up, one by one."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QDateTime, QLocale, QSize, Qt
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from sobercrow.desktop.controls import button, label, row_of
from sobercrow.desktop.dialogs import Buttons, ask
from sobercrow.desktop.help.dialog import HelpedDialog
from sobercrow.desktop.recovery import Left

PICTURE_PX, SIZE = 72, QSize(460, 360)


class RecoveryDialog(HelpedDialog):
    """A list of unsaved work with its pictures, names and times; leaving it keeps everything."""

    def __init__(
        self,
        left: Sequence[Left],
        open_one: Callable[[Left], None],
        give_up: Callable[[Left], None],
        parent: QWidget | None = None,
    ) -> None:
        """Show work that was left, and have one opened, or some given up."""
        super().__init__(parent, "Unsaved work")
        self.resize(SIZE)
        self._left, self._open_one, self._give_up = list(left), open_one, give_up
        told = label("A run before ended early. This is what it kept; nothing of it is removed until you say so.")
        told.setWordWrap(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Unsaved work")
        self.list.setIconSize(QSize(PICTURE_PX, PICTURE_PX))
        self.list.itemDoubleClicked.connect(lambda _item: self._open())
        self.bring = button("Bring back", "Bring back\nOpens it as unsaved work; save it to keep it.", main=True)
        self.drop = button("Give up", "Give up\nRemoves it for good.")
        later = button("Later", "Later\nKeeps all of it; File, Unsaved work shows it again.")
        self.bring.clicked.connect(self._open)
        self.drop.clicked.connect(self._drop)
        later.clicked.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(told)
        column.addWidget(self.list, 1)
        column.addWidget(row_of(self.drop, later, self.bring))
        self._fill()

    def _fill(self) -> None:
        self.list.clear()
        for one in self._left:
            when = QDateTime.fromSecsSinceEpoch(round(one.kept_s))
            time = QLocale(QLocale.Language.English).toString(when, "d MMMM yyyy, HH:mm")
            item = QListWidgetItem(f"{one.name}\n{time}")
            picture = QPixmap(str(one.picture))
            if not picture.isNull():
                item.setIcon(
                    QIcon(
                        picture.scaled(
                            PICTURE_PX,
                            PICTURE_PX,
                            Qt.AspectRatioMode.KeepAspectRatio,
                            Qt.TransformationMode.SmoothTransformation,
                        )
                    )
                )
            item.setToolTip(str(one.project) if one.project is not None else "It was never saved as a project.")
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _open(self) -> None:
        row = self.list.currentRow()
        if row >= 0:
            self.accept()
            self._open_one(self._left[row])

    def _drop(self) -> None:
        row = self.list.currentRow()
        if row < 0:
            return
        question = f"Give up what was unsaved of “{self._left[row].name}”? It cannot be brought back then."
        if ask(self, "Give up", question, Buttons.Yes | Buttons.Cancel, Buttons.Cancel) == Buttons.Yes:
            self._give_up(self._left.pop(row))
            self._fill()
            if not self._left:
                self.accept()
