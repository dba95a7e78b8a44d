"""The options of the tool in hand, made from its settings."""

from __future__ import annotations

from dataclasses import fields, replace

from PySide6.QtWidgets import QVBoxLayout, QWidget

from sobercrow.core.settings import Meaning
from sobercrow.desktop.controls import NumberField, hair_line, label, tick
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
        column.addWidget(hair_line())
        self._groups[tool.id] = holder
        self._layout.addWidget(holder)
        holder.hide()

    @staticmethod
    def _take(tool: Tool, name: str, value: object) -> None:
        tool.settings = replace(tool.settings, **{name: value})

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
