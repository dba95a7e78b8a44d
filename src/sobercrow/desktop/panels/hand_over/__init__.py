"""The panel of the Hand over step: size and page, format, check, sets, cutter."""

from sobercrow.desktop.panels.hand_over.panel import HandOverPanel

__all__ = ["HandOverPanel"]
