"""How a pen's pressure becomes the width of what is drawn."""

from __future__ import annotations

from dataclasses import dataclass

from sobercrow.core.settings.meaning import Checked, Meaning, setting


@dataclass(frozen=True, slots=True)
class PenPressure(Checked):
    """How much of the width a pen's pressure governs, and along which curve."""

    share: float = setting(
        80.0, Meaning("Pressure", "How much of the width follows the pen; 0 draws evenly.", 0.0, 100.0, "%", 5.0)
    )
    firmness: float = setting(
        1.0, Meaning("Firmness", "More wants a firmer hand for the same width.", 0.3, 3.0, "", 0.1, 1)
    )

    def width_share(self, pressure: float) -> float:
        """Return the share of the full width for a pressure from 0 to 1: 1 at full pressure, rising all the way."""
        governed = self.share / 100.0
        return 1.0 - governed + governed * float(min(max(pressure, 0.0), 1.0) ** self.firmness)
