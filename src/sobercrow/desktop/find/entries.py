"""What can be found in a window: gathered from its commands, tools, controls, recipes and guide, listed nowhere by
hand."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QAbstractButton, QAbstractSpinBox, QComboBox, QLineEdit, QWidget

from sobercrow.core.guide import read_guide
from sobercrow.core.lookup import Entry
from sobercrow.desktop.controls import Slide, Switch
from sobercrow.desktop.find.places import folds_of, name_of, own_name
from sobercrow.desktop.find.pointing import point_at
from sobercrow.desktop.help.guide_window import show_passage
from sobercrow.desktop.steps import LOOKS, Step

if TYPE_CHECKING:
    from sobercrow.desktop.window import MainWindow

CONTROLS = (QAbstractButton, QAbstractSpinBox, QComboBox, QLineEdit)
BY_THEMSELVES = ("Reset ", "More ", "Less ")
"""Small buttons of a control are found with it."""


PASSAGE_SHARE = 0.6
"""A passage of the guide is meant less often than what it is about."""


@dataclass(frozen=True, slots=True)
class Found:
    """Something that can be found: what is looked up, its keys, whether it can be done now, and what does it."""

    entry: Entry
    keys: str
    can_run: bool
    run: Callable[[], object]


def found_in(window: MainWindow) -> list[Found]:
    """Return all there is in a window, each once: commands first, then settings, recipes, passages of the guide.

    A button that does what a command does is found as that.
    """
    made = list(_commands(window))
    done = {one.entry.help for one in made if one.entry.help}
    seen = {_key(one) for one in made}
    for one in (*_controls(window), *_recipes(window), *_passages(window)):
        if _key(one) not in seen and one.entry.help not in done:
            seen.add(_key(one))
            made.append(one)
    return made


def _key(one: Found) -> tuple[str, str]:
    """What names something: its name and its step or menu."""
    return one.entry.title.casefold(), one.entry.where.split(" › ")[0]


def _commands(window: MainWindow) -> Iterator[Found]:
    for command in window.menus.commands.values():
        if command.id == "find":
            continue
        keys = QKeySequence(command.keys[0]).toString(QKeySequence.SequenceFormat.NativeText) if command.keys else ""
        entry = Entry(command.title, command.menu, command.help)
        yield Found(entry, keys, command.enabled(), window.menus.actions[command.id].trigger)


def _controls(window: MainWindow) -> Iterator[Found]:
    has_picture = window.document.source is not None
    for step, panel in window.panels.items():
        for control in panel.column.findChildren(QWidget):
            if not isinstance(control, CONTROLS) or isinstance(control, Switch) or _is_part(control):
                continue
            name = own_name(control)
            if not name or name.startswith(BY_THEMSELVES) or _is_head(control):
                continue
            title, *lines = control.toolTip().split("\n")
            help_ = lines[0] if lines else title if title != name else ""
            entry = Entry(name, _where(step, control), help_)
            yield Found(entry, "", has_picture, partial(_lead_to, window, step, control))


def _is_part(control: QWidget) -> bool:
    """Whether a control is but a part of another: the field of a box, the track of a number."""
    parent = control.parentWidget()
    return isinstance(parent, CONTROLS) or isinstance(control, Slide) or control.objectName().startswith("qt_")


def _is_head(control: QWidget) -> bool:
    return bool(control.property("fold"))


def _where(step: Step, control: QWidget) -> str:
    return " › ".join([LOOKS[step].title, *(fold.head.text() for fold in folds_of(control))])


def _lead_to(window: MainWindow, step: Step, control: QWidget) -> None:
    """Go to a control's step, unfold it, and show where it is, or say why it is not there now."""
    window.go_to(step)
    for fold in folds_of(control):
        fold.head.setChecked(True)
    if control.isVisibleTo(window.panels[step].column):
        point_at(window.panel_areas[step], control)
    else:
        sentence = f"“{name_of(control)}” stands in {LOOKS[step].title} once there is something for it to work on."
        window.gauge.say(sentence, warning=False)


def _recipes(window: MainWindow) -> Iterator[Found]:
    part = window.trace_panel.recipes
    for k, recipe in enumerate(part.book.every()):
        run = partial(_take_recipe, window, k)
        yield Found(Entry(recipe.name, "Trace › Recipe", recipe.use), "", window.document.source is not None, run)


def _take_recipe(window: MainWindow, row: int) -> None:
    """Choose a recipe in its list; applying it is one more click, beside which it says what it does."""
    part = window.trace_panel.recipes
    window.go_to(Step.TRACE)
    part.choice.setCurrentIndex(row)
    part.choice.activated.emit(row)
    _lead_to(window, Step.TRACE, part.choice)


def _passages(window: MainWindow) -> Iterator[Found]:
    for passage in read_guide().passages:
        entry = Entry(passage.title, f"Guide › {passage.page_title}", passage.first_sentence, PASSAGE_SHARE)
        yield Found(entry, "", True, partial(show_passage, window, passage))
