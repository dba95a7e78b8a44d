"""Recipes: starting points for kinds of artwork."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sobercrow.core.settings.inks import InkKind, Inks
from sobercrow.core.settings.tracing import Meet, TraceKind, Tracing


@dataclass(frozen=True, slots=True)
class Recipe:
    """A named set of settings, and a line on when to use it.

    What belongs to one picture alone is no part of it: crop, turns, touch-ups, inks chosen in it, their order,
    shapes refused, what was said of a sketch by hand.
    """

    name: str
    use: str
    inks: Inks
    tracing: Tracing

    def applied_to(self, inks: Inks, tracing: Tracing) -> tuple[Inks, Tracing]:
        """Return its settings with what belongs to the picture alone kept from the present ones."""
        own = replace(self.tracing, refused=tracing.refused, order=tracing.order, corrections=tracing.corrections)
        return replace(self.inks, touch_ups=inks.touch_ups), own

    @classmethod
    def of(cls, name: str, use: str, inks: Inks, tracing: Tracing) -> Recipe:
        """Make a recipe of present settings, without what belongs to the picture alone."""
        plain = replace(inks, touch_ups=(), palette=(), paper="auto" if inks.paper.startswith("#") else inks.paper)
        return cls(name, use, plain, replace(tracing, refused=(), order=(), corrections=()))


PEN_LETTERING = Recipe(
    "Pen lettering",
    "Writing with an even pen: every turn is kept, nothing is taken for a circle.",
    Inks(InkKind.ONE),
    Tracing(60.0, true_shapes=False),
)
BRUSH_LETTERING = Recipe(
    "Brush lettering",
    "Broad strokes with rough edges: a calm line, drops beside the strokes left out.",
    Inks(InkKind.ONE),
    Tracing(38.0, speck_px2=40.0, true_shapes=False),
)
INKED_DRAWING = Recipe("Inked drawing", "Drawings in black ink: fine lines are kept.", Inks(InkKind.ONE), Tracing(70.0))
PENCIL_SKETCH = Recipe(
    "Pencil sketch",
    "Pale strokes laid over each other: each line is drawn once; working lines and shading are left out.",
    Inks(InkKind.ONE, local=True, contrast=15.0),
    Tracing(38.0, speck_px2=30.0, kind=TraceKind.ONE_LINE),
)
FLAT_MARK = Recipe(
    "Flat mark",
    "Logos and signs of flat colours: lines become straight and level, circles circles.",
    Inks(InkKind.SEVERAL),
    Tracing(50.0, square_up_deg=2.0, straighten_deg=4.0),
)
PAINTED_PICTURE = Recipe(
    "Painted picture",
    "Shaded pictures in eight inks with calm borders.",
    Inks(InkKind.SEVERAL, count=8),
    Tracing(35.0, speck_px2=30.0, true_shapes=False),
)
CUT_OUT = Recipe(
    "Cut-out",
    "For cutters: inks meet flush, nothing too small to cut, straight lines.",
    Inks(InkKind.SEVERAL),
    Tracing(45.0, speck_px2=80.0, square_up_deg=2.0, straighten_deg=4.0, meet=Meet.FLUSH),
)
SINGLE_LINE = Recipe(
    "Single line",
    "For engraving and plotting: the way the pen went, as strokes with a width.",
    Inks(InkKind.ONE),
    Tracing(55.0, kind=TraceKind.CENTRE_LINES),
)
RECIPES = (
    PEN_LETTERING,
    BRUSH_LETTERING,
    INKED_DRAWING,
    PENCIL_SKETCH,
    FLAT_MARK,
    PAINTED_PICTURE,
    CUT_OUT,
    SINGLE_LINE,
)
