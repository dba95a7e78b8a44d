"""Lettering: text as outlines."""

from pathlib import Path

TYPEFACE = Path(__file__).parent / "typeface"
"""The folder of the typeface the application carries."""
