"""Where typefaces are looked for: ours, those installed, and the folders the user added."""

from __future__ import annotations

from pathlib import Path

from sobercrow.core.formats.recipes import user_folder
from sobercrow.core.lettering.typefaces import added_folders, all_files


def kept_folders() -> Path:
    """Return the file in which added folders are kept."""
    return user_folder().parent / "typeface-folders.txt"


def typeface_files() -> list[Path]:
    """Return all typeface files."""
    return all_files(added_folders(kept_folders()))
