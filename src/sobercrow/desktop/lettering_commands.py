"""The commands of lettering: matched and set anew, evened, guides laid at its lines."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from sobercrow.desktop.commands import Command
from sobercrow.desktop.steps import Step

if TYPE_CHECKING:
    from sobercrow.desktop.panels.refine.even import EvenPart
    from sobercrow.desktop.panels.refine.match import MatchPart
    from sobercrow.desktop.window import MainWindow


def lettering_commands(window: MainWindow, has_result: Callable[[], bool]) -> tuple[Command, ...]:
    """Return them, in the order of the menu."""
    part, even = window.refine_panel.match, window.refine_panel.even

    def opened(part: MatchPart | EvenPart) -> None:
        window.go_to(Step.REFINE)
        part.open()

    return (
        Command(
            "match",
            "Match the typeface",
            "Shape",
            ("Ctrl+T",),
            "Finds what chosen letters were set in; without a choice, what looks like lettering.",
            partial(opened, part),
            has_result,
            starts_group=True,
        ),
        Command(
            "set-anew",
            "Set anew",
            "Shape",
            (),
            "Puts the outlines of the typeface found in place of the letters.",
            part.set_chosen,
            lambda: part.is_found,
        ),
        Command(
            "even-weights",
            "Even weights",
            "Shape",
            ("Ctrl+Shift+E",),
            "Measures the strokes of drawn letters and brings them alike; without a choice, what looks like lettering.",
            partial(opened, even),
            has_result,
        ),
        Command(
            "lettering-guides",
            "Guides of lettering",
            "Shape",
            (),
            "Guides at base line, x-height, cap height, ascender, descender and slant of chosen letters.",
            part.lay_guides,
            lambda: bool(window.document.choice.shapes),
        ),
    )
