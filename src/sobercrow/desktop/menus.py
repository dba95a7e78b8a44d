"""The menus, made from the commands; they hold the actions that keys and buttons run."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QObject
from PySide6.QtGui import QAction, QActionGroup, QKeySequence
from PySide6.QtWidgets import QMenuBar

from sobercrow.desktop.commands import MENUS, Command
from sobercrow.desktop.theme import icon


class Menus(QObject):
    """An action for every command."""

    def __init__(self, bar: QMenuBar, commands: Iterable[Command], icons: dict[str, str]) -> None:
        """Fill a menu bar; `icons` names those of some commands."""
        super().__init__(bar)
        self.commands = {command.id: command for command in commands}
        self.actions: dict[str, QAction] = {}
        self._icons = icons
        menus = {name: bar.addMenu(name) for name in MENUS}
        steps = QActionGroup(self)
        for command in self.commands.values():
            action = QAction(command.title, bar)
            action.setShortcuts([QKeySequence(k) for k in command.keys])
            action.setCheckable(command.checked is not None)
            action.triggered.connect(lambda _checked, command=command: self._run(command))
            keys = f" ({command.keys[0]})" if command.keys else ""
            action.setToolTip(f"{command.title}{keys}\n{command.help}")
            action.setStatusTip(command.help)
            if command.id.startswith("step-"):
                steps.addAction(action)
            if command.starts_group:
                menus[command.menu].addSeparator()
            menus[command.menu].addAction(action)
            self.actions[command.id] = action

    def dress(self) -> None:
        """Give the commands their icons, in the colours of the theme."""
        for id_, name in self._icons.items():
            self.actions[id_].setIcon(icon(name))

    def _run(self, command: Command) -> None:
        if command.enabled():
            command.run()
        self.refresh()

    def refresh(self) -> None:
        """Show which commands can run now."""
        for id_, command in self.commands.items():
            action = self.actions[id_]
            action.setEnabled(command.enabled())
            if command.checked is not None:
                action.setChecked(command.checked())

    def name_undo(self, undo: str | None, redo: str | None) -> None:
        """Say what undo and redo would do."""
        for id_, verb, name in (("undo", "Undo", undo), ("redo", "Redo", redo)):
            title = f"{verb} {name[0].lower()}{name[1:]}" if name else verb
            action = self.actions[id_]
            action.setText(title)
            action.setIconText(verb)
            action.setToolTip(f"{title} ({action.shortcut().toString()})")
