"""The panel of the clean-up step, a file for each of its parts."""

from sobercrow.desktop.panels.clean_up.panel import CleanUpPanel

__all__ = ["CleanUpPanel"]
