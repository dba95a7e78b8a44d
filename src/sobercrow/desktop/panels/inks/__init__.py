"""The inks panel, a file for each of its parts."""

from sobercrow.desktop.panels.inks.panel import InksPanel

__all__ = ["InksPanel"]
