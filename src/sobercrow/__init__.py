"""Sober Crow: from a scanned drawing to clean, editable vector artwork."""

__version__ = "0.1.0"
