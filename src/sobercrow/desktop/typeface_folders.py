"""Typefaces at hand: ours, those installed, and those of the folders the user added."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from sobercrow.core.formats.recipes import user_folder
from sobercrow.core.lettering.index import Index
from sobercrow.core.lettering.typefaces import added_folders, all_files


def kept_folders() -> Path:
    """Return the file in which added folders are kept."""
    return user_folder().parent / "typeface-folders.txt"


def typeface_files() -> list[Path]:
    """Return all typeface files."""
    return all_files(added_folders(kept_folders()))


@dataclass(slots=True)
class Typefaces:
    """Typeface files, and what was read of them once it was: shared by all in a window that look lettering up in them.

    `edition` tells whether they are still those that were read.
    """

    files: Callable[[], list[Path]] = typeface_files
    index: Index | None = None
    edition: int = 0

    def forget(self) -> None:
        """Have them read anew: there are others."""
        self.index = None
        self.edition += 1
