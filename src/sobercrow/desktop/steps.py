"""The six steps as the window knows them."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from sobercrow.core.cleanup.clean import STAGES
from sobercrow.core.errors import ExportError
from sobercrow.core.handover.page import lie_of
from sobercrow.core.inks.separation import OneInk
from sobercrow.core.settings import Role, px_to_mm
from sobercrow.desktop.document import Document
from sobercrow.desktop.scene import Showing


class Step(Enum):
    """The steps in the order of work; the value is the key of its thumbnail."""

    BRING_IN = "bring_in"
    CLEAN_UP = "clean_up"
    INKS = "inks"
    TRACE = "trace"
    REFINE = "refine"
    HAND_OVER = "hand_over"


@dataclass(frozen=True, slots=True)
class Look:
    """What a step is called, and what the canvas can show in it, its own first."""

    title: str
    views: tuple[Showing, ...]


_ARTWORK = (Showing.OVER, Showing.FILLED, Showing.OUTLINE)

LOOKS = {
    Step.BRING_IN: Look("Bring in", (Showing.SOURCE, *_ARTWORK)),
    Step.CLEAN_UP: Look("Clean up", (Showing.CLEANED, Showing.SHADE, *_ARTWORK)),
    Step.INKS: Look("Inks", (Showing.INKS, Showing.OVER, Showing.SOLO, Showing.ERROR, Showing.CLEANED, Showing.FILLED)),
    Step.TRACE: Look("Trace", (*_ARTWORK, Showing.DEVIATION, Showing.INKS)),
    Step.REFINE: Look("Refine", (*_ARTWORK, Showing.DEVIATION, Showing.CLEANED)),
    Step.HAND_OVER: Look("Hand over", (Showing.FILLED, Showing.WRITTEN, Showing.OUTLINE, Showing.OVER)),
}


def key_figure(step: Step, document: Document) -> str:
    """Return the one line a step's card says of its present result."""
    presentation, source = document.presentation, document.source
    if presentation is None or source is None:
        return ""
    results, artwork, figures = presentation.results, presentation.artwork, presentation.figures
    if step is Step.BRING_IN:
        dpi = document.state.settings.bring_in.dpi or source.dpi
        sheet_mm = px_to_mm(source.width, dpi), px_to_mm(source.height, dpi)
        return f"{dpi:.0f} dpi · {sheet_mm[0]:.0f} × {sheet_mm[1]:.0f} mm"
    if step is Step.CLEAN_UP:
        return f"paper {results.sheet.levels.white} · ink {results.sheet.levels.black}"
    if step is Step.INKS:
        separation = results.separation
        if isinstance(separation, OneInk):
            how = "local" if results.settings.inks.local else f"at {separation.threshold}"
            if results.settings.inks.limited and not results.settings.inks.local:
                how = "between limits"
            return f"ink {100 * separation.coverage[0]:.1f} % · {how}"
        traced = len(separation.drawn)
        paper = " and paper" if any(ink.role is Role.PAPER for ink in separation.inks) else ""
        return f"{traced} ink{'s' if traced != 1 else ''}{paper}"
    if step is Step.TRACE:
        return f"{results.artwork.anchor_count} anchors"
    if step is Step.REFINE:
        return f"{artwork.anchor_count} anchors · {figures.deviation_mean_px:.2f} px"
    title = document.state.hand_over.part().kind.title.split()[0]
    try:
        lie = lie_of(artwork, document.state.hand_over.sheet)
    except ExportError:  # the panel tells why
        return title
    width_mm, height_mm = px_to_mm(lie.width_px, lie.dpi), px_to_mm(lie.height_px, lie.dpi)
    decimals = 0 if max(width_mm, height_mm) >= 100 else 1
    return f"{title} · {width_mm:.{decimals}f} × {height_mm:.{decimals}f} mm"


_STEP_PARTS = {
    Step.CLEAN_UP: tuple(stage.name for stage in STAGES),
    Step.INKS: ("colours", "inks"),
    Step.TRACE: ("trace", "measure"),
}


def cost(step: Step, document: Document) -> str:
    """Return one line on the time a step took when it was last worked out, or nothing."""
    presentation = document.presentation
    if presentation is None or step not in _STEP_PARTS:
        return ""
    parts = [(name, presentation.results.seconds.get(name, 0.0)) for name in _STEP_PARTS[step]]
    text = f"Took {1000 * sum(s for _, s in parts):.0f} ms"
    slow = [f"{name.lower()} {1000 * s:.0f}" for name, s in parts if s >= 0.002]
    return f"{text}: {', '.join(slow)}." if step is Step.CLEAN_UP and slow else f"{text}."


def stage_cost(name: str, document: Document) -> str:
    """Return one line on the time a stage of clean-up took when it was last worked out, or nothing."""
    presentation = document.presentation
    if presentation is None or name not in presentation.results.seconds:
        return ""
    return f"Took {1000 * presentation.results.seconds[name]:.0f} ms."
