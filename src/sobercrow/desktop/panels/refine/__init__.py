"""The panel of the Refine step: what has been got hold of, and what can be done with it."""

from sobercrow.desktop.panels.refine.panel import RefinePanel

__all__ = ["RefinePanel"]
