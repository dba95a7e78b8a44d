"""The panel of the Refine step."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

from sobercrow.core.artwork import anchors, edits
from sobercrow.core.artwork.choosing import told
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.settings import MM_PER_INCH
from sobercrow.desktop.controls import Panel, label, panel_column
from sobercrow.desktop.document import Document
from sobercrow.desktop.editing.edit import Edit
from sobercrow.desktop.editing.runner import DialsHeld, Runner
from sobercrow.desktop.editing.trying import Trying
from sobercrow.desktop.panels.refine.arrange import ArrangePart
from sobercrow.desktop.panels.refine.even import EvenPart
from sobercrow.desktop.panels.refine.layers import LayersPart
from sobercrow.desktop.panels.refine.line import LinePart
from sobercrow.desktop.panels.refine.match import MatchPart
from sobercrow.desktop.panels.refine.mend import MendPart
from sobercrow.desktop.panels.refine.options import OptionsPart
from sobercrow.desktop.panels.refine.parts import PartsPart
from sobercrow.desktop.panels.refine.place import PlacePart
from sobercrow.desktop.panels.refine.pour import PourPart
from sobercrow.desktop.panels.refine.shapes import ShapesPart
from sobercrow.desktop.panels.refine.thin import ThinPart
from sobercrow.desktop.tools.placing import PlacingMarks
from sobercrow.desktop.tools.pour import ArtworkPour
from sobercrow.desktop.typeface_folders import Typefaces

HOW_TO = (
    "A shaky edge: Ease (E), stroke along it.\n"
    "A crooked line: Anchors (A), run along it.\n"
    "A wrong place or colour: Choose (C), click it.\n"
    "A circle that is none: True (T), click it.\n"
    "All well: Hand over (Ctrl+6)."
)


class RefinePanel(Panel):
    """What has been got hold of, and what can be done with it; what is not for it is not seen."""

    def __init__(
        self,
        document: Document,
        seen: Callable[[], Collection[int] | None] = lambda: None,
        marks: Sequence[PlacingMarks] = (),
        pour: ArtworkPour | None = None,
        typefaces: Typefaces | None = None,
    ) -> None:
        """Show a document's choice; `seen` tells which shapes are in view, `marks` those that place what is chosen.

        Lettering is matched in `typefaces`.
        """
        super().__init__()
        self._document = document
        self.trying = Trying(document)
        self.dials = DialsHeld()
        self.runner = Runner(document, self.dials, self.trying)
        self.chosen = label(strong=True)
        self.hint = label(muted=True)
        self.options = OptionsPart()
        self.pour = PourPart(document, pour or ArtworkPour())
        self.shapes = ShapesPart(document)
        self.line = LinePart(document, self.dials, self.runner)
        self.place = PlacePart(document, self.runner, marks)
        self.arrange = ArrangePart(document, self.dials, self.runner)
        self.thin = ThinPart(document, self.dials, self.runner, self.trying, seen)
        self.layers, self.parts = LayersPart(document), PartsPart(document)
        self.match, self.even = MatchPart(document, typefaces or Typefaces()), EvenPart(document, self.trying)
        self.mend = MendPart(document, self.dials)
        self.column = panel_column(
            self.options.group,
            self.pour.group,
            self.chosen,
            self.hint,
            self.layers.group,
            self.shapes.group,
            self.line.group,
            self.place.group,
            self.match.group,
            self.even.group,
            *self.arrange.groups,
            self.parts.group,
            self.thin.group,
            self.mend.group,
        )
        document.choice_changed.connect(self.refresh)
        document.state_changed.connect(self.trying.stop)

    def close_workers(self) -> None:
        """End what works in the background."""
        self.trying.close()
        self.mend.close()
        self.match.close()
        self.even.close()
        self.line.stretch.close()

    def show_tool(self, name: str) -> None:
        """Show what belongs to the tool in hand."""
        self.options.show_tool(name)
        self.pour.show_tool(name)

    def run(self, edit: Edit) -> None:
        """Do an edit."""
        self.runner.run(edit)

    def delete(self) -> None:
        """Delete what is chosen; anchors with their neighbours refitted."""
        if self._document.choice.anchors:
            self.line.delete_chosen(hold_form=True)
        else:
            self.shapes.delete_chosen()

    def delete_plain(self) -> None:
        """Delete the chosen anchors, the neighbours keeping their handles."""
        self.line.delete_chosen(hold_form=False)

    def set_kind(self, kind: AnchorKind) -> None:
        """Make the chosen anchors corner, smooth or even."""
        if self._document.choice.anchors:
            name = f"Make {kind.name.lower()}"
            self._document.edit(name, anchors.set_kind, self._document.choice.anchors, kind)
        self.refresh()

    def nudge(self, dx_mm: float, dy_mm: float, pixels: bool) -> None:
        """Move what is chosen by millimetres, or by picture pixels."""
        artwork, choice = self._document.artwork, self._document.choice
        if artwork is None:
            return
        scale = 1.0 if pixels else artwork.dpi / MM_PER_INCH
        if choice.anchors:
            self._document.edit(
                "Nudge anchors", anchors.move_anchors, choice.anchors, dx_mm * scale, dy_mm * scale, merge="nudge"
            )
        elif choice.shapes:
            self._document.edit(
                "Nudge shapes", edits.move_shapes, choice.shapes, dx_mm * scale, dy_mm * scale, merge="nudge"
            )

    def refresh(self) -> None:
        """Show the present state."""
        artwork, choice = self._document.artwork, self._document.choice
        if artwork is None:
            return
        self.chosen.setText(told(artwork, choice))
        self.hint.setText("" if choice else HOW_TO)
        self.hint.setVisible(not choice and not self.options.is_shown)
        parts = (
            self.layers,
            self.shapes,
            self.line,
            self.thin,
            self.place,
            self.arrange,
            self.match,
            self.even,
            self.mend,
        )
        for part in parts:
            part.refresh()
