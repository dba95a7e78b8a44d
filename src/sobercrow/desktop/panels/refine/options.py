"""The options of the tool in hand, made from its settings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields, replace

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QLineEdit, QVBoxLayout, QWidget

from sobercrow.core.settings import Meaning
from sobercrow.desktop.controls import NumberField, doing, hair_line, label, row_of, tick
from sobercrow.desktop.tool import Tool


class OptionsPart:
    """One group a tool that has options; that of the tool in hand is seen."""

    def __init__(self) -> None:
        """Start without any."""
        self.group = QWidget()
        self._layout = QVBoxLayout(self.group)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._groups: dict[str, QWidget] = {}
        self.fields: dict[str, dict[str, NumberField]] = {}
        self.is_shown = False
        self.group.hide()

    def add(self, tool: Tool) -> None:
        """Make the controls of a tool's settings."""
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(label(tool.title, strong=True))
        made = self.fields[tool.id] = {}
        for field in fields(tool.settings):
            meaning = field.metadata.get("meaning")
            if isinstance(meaning, Meaning):
                made[field.name] = self._number(tool, field.name, meaning)
                column.addWidget(made[field.name])
            elif isinstance(getattr(tool.settings, field.name), bool):
                box = tick(field.metadata["label"], field.metadata["help"])
                box.toggled.connect(lambda on, name=field.name: self._take(tool, name, on))
                column.addWidget(box)
            elif isinstance(getattr(tool.settings, field.name), str):
                column.addWidget(self._colour(tool, field.name, field.metadata))
        column.addWidget(hair_line())
        self._groups[tool.id] = holder
        self._layout.addWidget(holder)
        holder.hide()

    @staticmethod
    def _take(tool: Tool, name: str, value: object) -> None:
        tool.settings = replace(tool.settings, **{name: value})

    def _colour(self, tool: Tool, name: str, meaning: Mapping[str, str]) -> QWidget:
        """A colour, typed or picked."""
        text = QLineEdit(getattr(tool.settings, name))
        text.setAccessibleName(meaning["label"])
        text.setToolTip(f"{meaning['label']}\n{meaning['help']}")

        def take(colour: QColor) -> None:
            if colour.isValid():
                self._take(tool, name, colour.name())
            text.setText(getattr(tool.settings, name))

        def pick() -> None:
            take(QColorDialog.getColor(QColor(text.text()), text.window(), meaning["label"]))

        text.editingFinished.connect(lambda: take(QColor(text.text().strip())))
        return row_of(label(meaning["label"]), text, doing("Pick", "Choose any colour.", pick))

    def _number(self, tool: Tool, name: str, meaning: Meaning) -> NumberField:
        usual = getattr(tool.settings, name)
        made = NumberField(meaning)

        def take(value: float) -> None:
            self._take(tool, name, value)
            made.show_value(value, value == usual)

        made.changed.connect(take)
        made.reset.connect(lambda: take(usual))
        made.show_value(usual, True)
        return made

    def show_tool(self, name: str) -> None:
        """Show the options of the tool in hand, if it has any."""
        for other, holder in self._groups.items():
            holder.setVisible(other == name)
        self.is_shown = name in self._groups
        self.group.setVisible(self.is_shown)
