"""All colours, sizes and spacings of the window."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Palette:
    """The colours of one theme."""

    desk: str
    page: str
    panel: str
    rail: str
    field: str
    hair: str
    text: str
    muted: str
    accent: str
    accent_soft: str
    on_accent: str
    rust: str
    mark: str
    """Of marks on the drawing, which lie on the page and on the desk alike."""
    warning_mark: str


LIGHT = Palette(
    desk="#B4B5B1",
    page="#FFFFFF",
    panel="#F7F5F0",
    rail="#EDEAE3",
    field="#FFFFFF",
    hair="#D6D2C8",
    text="#23262B",
    muted="#5F6366",
    accent="#1D7972",
    accent_soft="#D3E6E3",
    on_accent="#FFFFFF",
    rust="#B3472B",
    mark="#166A63",
    warning_mark="#A03C23",
)

DARK = Palette(
    desk="#3B3D3E",
    page="#FFFFFF",
    panel="#26282A",
    rail="#1F2123",
    field="#303336",
    hair="#414447",
    text="#E9E6DF",
    muted="#A5A7A4",
    accent="#63B8B0",
    accent_soft="#24403E",
    on_accent="#10201F",
    rust="#E08363",
    mark="#2F978D",
    warning_mark="#D96C4B",
)

# colour error: from this ΔE00 on, this colour; readable by the colour-blind, since it darkens steadily
ERROR_NONE = "#F4F2EC"
ERROR_STEPS = ((2.0, "#CFE3E0"), (5.0, "#8FBFB9"), (10.0, "#4C8E9C"), (20.0, "#3B4F82"), (40.0, "#2A1C4E"))

# deviation: from so many px on, this colour, and a ribbon so wide on screen
DEVIATION_STEPS = ((0.0, "#CFE3E0"), (0.1, "#8FBFB9"), (0.25, "#4C8E9C"), (0.5, "#3B4F82"), (1.0, "#2A1C4E"))
RIBBON_PX = (1.0, 2.0, 3.5, 5.5, 8.0)
# widths of strokes: from such a share of the usual more or less, this colour
WIDTH_STEPS = ((-1.0, "#2F5FA8"), (-0.12, "#93B4DC"), (-0.04, "#C9C5B4"), (0.04, "#E6B065"), (0.12, "#AE531B"))
DEVIATION_FILL = "#EFECE4"

FAMILY = "Atkinson Hyperlegible Next"
SMALL_PX, BODY_PX, TITLE_PX = 12, 13, 16
RHYTHM = 8
RAIL_WIDTH, PANEL_WIDTH, MOST_PANEL_WIDTH = 140, 304, 460
THUMB_WIDTH, THUMB_HEIGHT = 110, 66
ICON_PX = 20
SWITCH_HEIGHT = 28

# marks on the artwork, in screen pixels
ANCHOR_PX = 4.5
HANDLE_BAR_PX = 4.0
CROP_MARK_PX = 9.0
HIT_PX = 8.0
DRAG_THRESHOLD_PX = 3.0
SEAM_GRIP_PX = 10.0
CRISP_ZOOM = 4.0
GRID_ZOOM = 16.0
MOST_ZOOM = 64.0
