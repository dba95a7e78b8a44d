"""Parts: drawn things kept for reuse in any project, as plain SVG files in a folder of the user's."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import ExportError
from sobercrow.core.formats.files import make_folder
from sobercrow.core.formats.svg import write_svg
from sobercrow.core.formats.svg_in import Placed, SvgError, read_svg

SUFFIX, LONGEST_NAME = ".svg", 80
FORBIDDEN = frozenset('/\\:*?"<>|')


@dataclass(frozen=True, slots=True)
class PartsFolder:
    """The parts there are, each a file of its name."""

    folder: Path

    def names(self) -> list[str]:
        """Return the names of all parts, in order."""
        if not self.folder.is_dir():
            return []
        return sorted((path.stem for path in self.folder.glob(f"*{SUFFIX}")), key=str.casefold)

    def _path(self, name: str) -> Path:
        name = name.strip()
        if not name or len(name) > LONGEST_NAME or name.startswith(".") or FORBIDDEN & set(name):
            raise ExportError('A part needs a short name without / \\ : * ? " < > |.')
        return self.folder / f"{name}{SUFFIX}"

    def keep(self, name: str, artwork: Artwork) -> None:
        """Keep artwork under a name, in place of what had it.

        Raises
        ------
        ExportError
            If the name cannot be one, there are no shapes, or the file cannot be written.
        """
        path = self._path(name)
        make_folder(self.folder, ExportError)
        write_svg(artwork, path)

    def read(self, name: str, dpi: float) -> Placed:
        """Return a part as large as it was kept; raise `SvgError` if it cannot be read."""
        return read_svg(self._path(name), dpi)

    def remove(self, name: str) -> None:
        """Take a part away; raise `SvgError` if it cannot be."""
        try:
            self._path(name).unlink()
        except OSError as fault:
            raise SvgError(f"The part “{name}” cannot be taken away: {fault.strerror}.") from fault
