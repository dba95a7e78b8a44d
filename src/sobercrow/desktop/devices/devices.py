"""The devices the window can bring pictures in from, and hand artwork over to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol, runtime_checkable

if TYPE_CHECKING:  # the empty desk knows of devices before pictures can be worked on
    from sobercrow.core.handover.cutter import Cutter
    from sobercrow.core.picture.devices import Camera, Scanner


class NamedSheet(Protocol):
    """A sheet that can be laid on a simulated device."""

    @property
    def name(self) -> str:
        """What the sheet is called."""


@runtime_checkable
class TakesSheets(Protocol):
    """A simulated device: a real one has whatever lies on it."""

    sheets: Sequence[NamedSheet]

    def lay(self, sheet: Any) -> None:
        """Lay a sheet on the device."""

    def lay_file(self, path: Path) -> None:
        """Lay a picture file on the device."""


@dataclass(frozen=True, slots=True)
class Devices:
    """The devices there are."""

    scanner: Scanner | None = None
    camera: Camera | None = None
    cutter: Cutter | None = None
