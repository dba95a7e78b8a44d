"""What the parts of the clean-up panel share."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import replace
from typing import Any

from PySide6.QtWidgets import QWidget

from sobercrow.core.errors import SettingError
from sobercrow.core.settings import CleanUp, meaning_of
from sobercrow.desktop.controls import NumberField, Switch, headed
from sobercrow.desktop.document import Document
from sobercrow.desktop.presentation import Presentation
from sobercrow.desktop.steps import stage_cost


class Part(ABC):
    """A part of the panel: its widgets, made once, and `refresh`, which brings them up to date."""

    title = ""

    def __init__(self, document: Document) -> None:
        """Work on a document's clean-up settings."""
        self.document = document
        self.switches: dict[str, Switch] = {}
        self.fields: dict[str, NumberField] = {}
        self._stages: dict[str, str] = {}

    @abstractmethod
    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""

    @property
    def settings(self) -> CleanUp:
        """The present clean-up settings."""
        return self.document.state.settings.clean_up

    def change(self, name: str, merge: str | None = None, switch_on: str | None = None, **fields: Any) -> None:
        """Take changed fields as one named change, switching a part on with it; tell if they make no sense."""
        settings = self.settings.switched(switch_on, True) if switch_on is not None else self.settings
        try:
            self.document.take_clean_up(name, replace(settings, **fields), merge)
        except SettingError as fault:
            self.document.failed.emit(str(fault))

    def switch(self, part: str, what: str) -> Switch:
        """Make the switch of a part (a key of `SWITCHES`)."""
        made = self.switches[part] = Switch(what)
        made.clicked.connect(
            lambda on: self.document.take_clean_up(f"{what} {'on' if on else 'off'}", self.settings.switched(part, on))
        )
        return made

    def number(self, name: str, stage: str, automatic: object, switch: str | None = None) -> QWidget:
        """Make the field of a number; `automatic` is what its reset sets, `stage` whose cost its tooltip tells."""
        meaning = meaning_of(CleanUp, name)
        field = self.fields[name] = NumberField(meaning)
        self._stages[name] = stage
        field.changed.connect(lambda value: self.set_number(name, value))
        field.reset.connect(lambda: self.change(f"Reset {meaning.label.lower()}", None, None, **{name: automatic}))
        return headed(self.switch(switch or name, meaning.label), field)

    def set_number(self, name: str, value: float) -> None:
        """Take a number the user gave; setting one switches it on."""
        meaning = meaning_of(CleanUp, name)
        typed: float = round(value) if name == "enlarge" else round(value, 2)
        self.change(f"Set {meaning.label.lower()}", merge=f"clean {name}", switch_on=name, **{name: typed})

    def refresh(self, presentation: Presentation) -> None:
        """Show the present state."""
        for part, switch in self.switches.items():
            switch.setChecked(part not in self.settings.off)
        for name, stage in self._stages.items():
            cost = stage_cost(stage, self.document)
            meaning = meaning_of(CleanUp, name)
            self.fields[name].box.setToolTip(f"{meaning.help}\n{cost}" if cost else meaning.help)
            self.fields[name].slide.setToolTip(f"{meaning.label}\n{cost}")

    def summary(self, presentation: Presentation) -> str:
        """Return how things stand, in a few words."""
        return ""
