"""The table of tools: a new one is a file beside this and a line here."""

from __future__ import annotations

from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Tool
from sobercrow.desktop.tools.anchors import Anchors
from sobercrow.desktop.tools.axis import LayAxis
from sobercrow.desktop.tools.baseline import FrameLettering, PullBaseline
from sobercrow.desktop.tools.bend import Bend
from sobercrow.desktop.tools.choose import Choose
from sobercrow.desktop.tools.correct import Correct
from sobercrow.desktop.tools.crop import CropEdges, CropFrame
from sobercrow.desktop.tools.cut import Cut
from sobercrow.desktop.tools.draw import Draw
from sobercrow.desktop.tools.ease import Ease
from sobercrow.desktop.tools.guides import Guides
from sobercrow.desktop.tools.hand import Hand
from sobercrow.desktop.tools.ink import ArtworkNib, ArtworkScrape
from sobercrow.desktop.tools.inks import InkBridge, InkNib, InkPour, InkRing, InkSpot, PointAtInks
from sobercrow.desktop.tools.page import LayOnPage
from sobercrow.desktop.tools.pick import Pick, Sample
from sobercrow.desktop.tools.pour import ArtworkPour
from sobercrow.desktop.tools.redraw import Redraw
from sobercrow.desktop.tools.rulers import Level, Measure
from sobercrow.desktop.tools.sample import SampleColour
from sobercrow.desktop.tools.seam import SeamGrip
from sobercrow.desktop.tools.shade import Shade
from sobercrow.desktop.tools.slant import SlantCorners
from sobercrow.desktop.tools.touch import TouchNib, TouchPour, TouchScrape
from sobercrow.desktop.tools.trail import Trail
from sobercrow.desktop.tools.true import MakeTrue

TOOLS: tuple[type[Tool], ...] = (
    Measure,
    Hand,
    CropFrame,
    Level,
    TouchNib,
    TouchScrape,
    TouchPour,
    Pick,
    PointAtInks,
    InkSpot,
    InkRing,
    InkBridge,
    InkNib,
    InkPour,
    Sample,
    Correct,
    Choose,
    Anchors,
    Ease,
    Redraw,
    Draw,
    Trail,
    Cut,
    ArtworkNib,
    ArtworkScrape,
    ArtworkPour,
    Shade,
    MakeTrue,
    Bend,
    LayAxis,
    FrameLettering,
    SampleColour,
    LayOnPage,
)
"""In the order of menus and tool bar."""

STANDING: tuple[type[Tool], ...] = (SlantCorners, PullBaseline, Guides, SeamGrip, CropEdges)
"""Those that are at hand whatever else is, the first that grabs a place has it."""

FIRST_TOOLS = {
    Step.CLEAN_UP: "hand",
    Step.INKS: "point",
    Step.TRACE: "correct",
    Step.REFINE: "choose",
    Step.HAND_OVER: "lay",
}
"""What is in hand in a step until another tool is taken up."""


def make_tools(kinds: tuple[type[Tool], ...]) -> dict[str, Tool]:
    """Return one of each kind, by its id."""
    return {kind.id: kind() for kind in kinds}
