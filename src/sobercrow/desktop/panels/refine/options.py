"""The options of the tool in hand, made from its settings."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from sobercrow.desktop.controls import NumberField, hair_line, label
from sobercrow.desktop.settings_form import SettingsForm
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
        form = SettingsForm(lambda: tool.settings, lambda settings: setattr(tool, "settings", settings))
        self.fields[tool.id] = form.fields
        column.addWidget(form)
        column.addWidget(hair_line())
        self._groups[tool.id] = holder
        self._layout.addWidget(holder)
        holder.hide()

    def show_tool(self, name: str) -> None:
        """Show the options of the tool in hand, if it has any."""
        for other, holder in self._groups.items():
            holder.setVisible(other == name)
        self.is_shown = name in self._groups
        self.group.setVisible(self.is_shown)
