"""Sober Crow: from a scanned drawing to clean, editable vector artwork."""

from pathlib import Path

__version__ = (Path(__file__).parent / "VERSION").read_text().strip()
