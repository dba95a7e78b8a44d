"""What a document is to be handed over as: kept with its project, and where window and command line start from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any

from sobercrow.core.formats.pdf import PdfSettings
from sobercrow.core.formats.sets import PLAIN_SHEET, HandOverSet, Part, plain_set, set_of, settings_of
from sobercrow.core.formats.table import FORMATS, format_of
from sobercrow.core.handover.page import Page, Sheet, TrueSize
from sobercrow.core.handover.plates import PlateSettings
from sobercrow.core.handover.printing import Printing, plain_printing, printing_of
from sobercrow.core.handover.purpose import CheckSettings

USUAL_CHECK = CheckSettings()


@dataclass(frozen=True, slots=True)
class HandOver:
    """Size and page, the format chosen, settings of the formats that were changed, plates if wanted, what the check
    looks for, sets of the document's own, and the colours of a press if PDF is to be in them."""

    sheet: Sheet = PLAIN_SHEET
    format: str = FORMATS[0].id
    settings: tuple[tuple[str, Any], ...] = ()
    plates: PlateSettings | None = None
    check: CheckSettings = USUAL_CHECK
    sets: tuple[HandOverSet, ...] = ()
    printing: Printing | None = None

    def settings_for(self, format_id: str) -> Any:
        """Return the settings of a format: those that were set, else its usual ones."""
        return dict(self.settings).get(format_id) or format_of(format_id).settings()

    def with_settings(self, format_id: str, settings: Any) -> HandOver:
        """Return it with other settings for a format."""
        return replace(self, settings=tuple({**dict(self.settings), format_id: settings}.items()))

    def part(self, name: str = "", format_id: str | None = None) -> Part:
        """Return the file it comes to, in the chosen format or another."""
        chosen = format_id or self.format
        return Part(name or format_of(chosen).title, chosen, self.settings_for(chosen), self.sheet, self.plates)

    def inked(self, part: Part) -> Part:
        """Return a file of it with its printing colours: of a PDF they are part of what is written."""
        if self.printing is None or not isinstance(part.settings, PdfSettings):
            return part
        return replace(part, settings=replace(part.settings, printing=self.printing))

    def inked_set(self, one: HandOverSet) -> HandOverSet:
        """Return a set with the printing colours in all its files that hold them."""
        return replace(one, parts=tuple(map(self.inked, one.parts)))

    def checked_for(self) -> CheckSettings:
        """Return what the check looks for, with the colours that are printed."""
        return replace(self.check, printing=self.printing)


PLAIN = HandOver()
"""What every document starts from."""


def plain_hand_over(one: HandOver) -> dict[str, Any]:
    """Return it as plain values."""
    return {
        "sheet": asdict(one.sheet),
        "format": one.format,
        "settings": {name: asdict(settings) for name, settings in one.settings},
        "plates": one.plates and asdict(one.plates),
        "check": asdict(one.check),
        "sets": list(map(plain_set, one.sets)),
        "printing": one.printing and plain_printing(one.printing),
    }


def hand_over_of(plain: Mapping[str, Any]) -> HandOver:
    """Rebuild it; raises KeyError, TypeError, ValueError or an error of ours for what is none."""
    return HandOver(
        Sheet(settings_of(TrueSize, plain["sheet"]["size"]), settings_of(Page, plain["sheet"]["page"])),
        format_of(str(plain["format"])).id,
        tuple((name, settings_of(format_of(name).settings, values)) for name, values in plain["settings"].items()),
        None if plain["plates"] is None else settings_of(PlateSettings, plain["plates"]),
        settings_of(CheckSettings, plain["check"]),
        tuple(map(set_of, plain["sets"])),
        printing_of(plain["printing"]) if plain.get("printing") else None,
    )
