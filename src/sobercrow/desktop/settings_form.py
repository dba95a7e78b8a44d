"""The controls of a settings object, made from the meaning of its fields."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import fields, replace
from enum import Enum
from typing import Any

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QCheckBox, QColorDialog, QComboBox, QLineEdit, QVBoxLayout, QWidget

from sobercrow.core.settings import Meaning
from sobercrow.desktop.controls import NumberField, doing, label, row_of, tick

Get = Callable[[], Any]
Take = Callable[[Any], None]


class SettingsForm(QWidget):
    """Numbers, ticks, choices, colours and texts of settings; what is changed is handed to `take` as new settings."""

    def __init__(self, get: Get, take: Take, leave_out: frozenset[str] = frozenset(), brief: bool = False) -> None:
        """Make the controls of the settings that `get` returns; `brief` leaves out the lines of help."""
        super().__init__()
        self._get, self._take, self._brief = get, take, brief
        self.fields: dict[str, NumberField] = {}
        self.ticks: dict[str, QCheckBox] = {}
        self.lists: dict[str, QComboBox] = {}
        self.texts: dict[str, QLineEdit] = {}
        self._usual = get()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        for field in fields(self._usual):
            if field.name not in leave_out and field.metadata:
                column.addWidget(self._control(field.name, field.metadata, getattr(self._usual, field.name)))

    def _control(self, name: str, meaning: Mapping[str, Any], usual: Any) -> QWidget:
        if isinstance(meaning.get("meaning"), Meaning):
            return self._number(name, meaning["meaning"])
        if isinstance(usual, bool):
            box = self.ticks[name] = tick(meaning["label"], meaning["help"])
            box.setChecked(usual)
            box.toggled.connect(lambda on: self._set(name, on))
            return box
        if isinstance(usual, Enum):
            return self._choice(name, meaning, usual)
        return (
            self._colour(name, meaning) if str(usual).startswith("#") or usual == "none" else self._text(name, meaning)
        )

    def _set(self, name: str, value: object) -> None:
        self._take(replace(self._get(), **{name: value}))

    def _number(self, name: str, meaning: Meaning) -> NumberField:
        made = self.fields[name] = NumberField(meaning, brief=self._brief)
        usual = getattr(self._usual, name)

        def take(value: float) -> None:
            self._set(name, value)
            made.show_value(value, value == usual)

        made.changed.connect(take)
        made.reset.connect(lambda: take(usual))
        made.show_value(usual, True)
        return made

    def _choice(self, name: str, meaning: Mapping[str, Any], usual: Enum) -> QWidget:
        box = self.lists[name] = QComboBox()
        box.setAccessibleName(meaning["label"])
        box.setToolTip(f"{meaning['label']}\n{meaning['help']}")
        every = list(type(usual))
        box.addItems([str(one.value) for one in every])
        box.setCurrentIndex(every.index(usual))
        box.activated.connect(lambda k: self._set(name, every[k]))
        return row_of(label(meaning["label"]), box)

    def _text(self, name: str, meaning: Mapping[str, Any]) -> QWidget:
        text = self.texts[name] = QLineEdit(getattr(self._usual, name))
        text.setAccessibleName(meaning["label"])
        text.setToolTip(f"{meaning['label']}\n{meaning['help']}")
        text.editingFinished.connect(lambda: self._set(name, text.text().strip()))
        return row_of(label(meaning["label"]), text)

    def _colour(self, name: str, meaning: Mapping[str, Any]) -> QWidget:
        """A colour, typed or picked; or none, where none is what there usually is."""
        text = self.texts[name] = QLineEdit(getattr(self._usual, name))
        text.setAccessibleName(meaning["label"])
        text.setToolTip(f"{meaning['label']}\n{meaning['help']}")

        def take(colour: QColor) -> None:
            if colour.isValid():
                self._set(name, colour.name())
            elif text.text().strip() == "none" and "none" in meaning["help"].lower() + str(getattr(self._usual, name)):
                self._set(name, "none")
            text.setText(getattr(self._get(), name))

        def pick() -> None:
            take(QColorDialog.getColor(QColor(text.text()), text.window(), meaning["label"]))

        text.editingFinished.connect(lambda: take(QColor(text.text().strip())))
        return row_of(label(meaning["label"]), text, doing("Pick", "Choose any colour.", pick))

    def refresh(self) -> None:
        """Show the present settings."""
        now = self._get()
        for name, field in self.fields.items():
            field.show_value(getattr(now, name), getattr(now, name) == getattr(self._usual, name))
        for name, box in self.ticks.items():
            box.blockSignals(True)
            box.setChecked(getattr(now, name))
            box.blockSignals(False)
        for name, choice in self.lists.items():
            value = getattr(now, name)
            choice.setCurrentText(str(value.value))
        for name, text in self.texts.items():
            if not text.hasFocus():
                text.setText(getattr(now, name))
