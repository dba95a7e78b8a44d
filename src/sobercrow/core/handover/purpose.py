"""What artwork is handed over for, and what the machine there can do."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from sobercrow.core.handover.printing import OWN_LIMIT, Printing
from sobercrow.core.settings import Checked, Meaning, setting


class Purpose(StrEnum):
    """What the artwork is handed over for."""

    PRINT = "print"
    CUT = "cut"
    ENGRAVE = "engrave"
    WEB = "web"
    PLATES = "plates"


@dataclass(frozen=True, slots=True)
class CheckSettings(Checked):
    """What the next machine can do."""

    purpose: Purpose = Purpose.PRINT
    tool_mm: float = setting(
        0.3,
        Meaning("Finest", "What is narrower, the blade, pen, laser or screen cannot make.", 0.01, 10.0, "mm", 0.05, 2),
    )
    least_mm2: float = setting(
        0.1, Meaning("Smallest shape", "What is smaller is taken for a straggler.", 0.0, 100.0, "mm²", 0.05, 2)
    )
    plates: float = setting(4.0, Meaning("Plates", "How many inks there may be.", 1.0, 32.0, "", 1.0))
    most_ink: float = setting(
        OWN_LIMIT, Meaning("Total ink", "More of all four inks in one place does not dry.", 200.0, 400.0, "%", 10.0)
    )
    printing: Printing | None = None
    """The colours that are printed, for which total ink is looked at."""
    paper: str = field(
        default="#ffffff", metadata={"label": "Paper", "help": "Shapes in its colour would not be seen."}
    )
