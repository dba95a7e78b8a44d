"""The commands as data: menus, keys, tooltips and the key list are made from this table."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Command:
    """One command: its name, menu, keys, what it does in one line, what runs it, and when it can run."""

    id: str
    title: str
    menu: str
    keys: tuple[str, ...]
    help: str
    run: Callable[[], object]
    enabled: Callable[[], bool] = lambda: True
    checked: Callable[[], bool] | None = None
    starts_group: bool = False


MENUS = ("File", "Edit", "Choose", "View", "Picture", "Inks", "Artwork", "Line", "Shape", "Help")

HELD_KEYS = (
    ("Q", "Peek", "While held, the cleaned drawing shows beneath the artwork."),
    ("Space", "Pan", "While held, dragging moves the view; so does the middle button."),
    ("Wheel", "Zoom", "Zooms about the pointer."),
    ("Ctrl, Shift", "While dragging", "Ctrl lets an anchor lie anywhere, Shift keeps to steps of 45°."),
    ("Alt", "Ring", "With the Anchors tool, held while dragging: a ring around anchors instead of a frame."),
    ("Arrow keys", "Nudge", "Move what is chosen by 0.1 mm, with Shift 1 mm, with Alt one picture pixel."),
)
"""Keys and wheels that are no commands, for the key list."""
