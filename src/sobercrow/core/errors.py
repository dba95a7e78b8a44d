"""The errors of Sober Crow, one tree.

    SoberCrowError
      PictureError    a picture cannot be read
      ProjectError    a project cannot be opened or saved
      PaletteError    a list of inks cannot be read
      ExportError     artwork cannot be written
      SettingError    a setting is outside its range
      LetteringError  lettering cannot be matched, or a typeface cannot be read
      EditError       an edit does not apply to the artwork it was given
      BudgetError     a step would take more work than it may without being asked for in so many words
      Cancelled       the work was stopped on request; not a fault

Each message is one sentence a designer understands: what is wrong, with which file, what to do.
"""

from __future__ import annotations


class SoberCrowError(Exception):
    """Base of all errors raised on purpose."""


class PictureError(SoberCrowError):
    """A picture cannot be read."""


class ProjectError(SoberCrowError):
    """A project cannot be opened or saved."""


class PaletteError(SoberCrowError):
    """A list of inks cannot be read."""


class RecipeError(SoberCrowError):
    """A recipe cannot be read, found, kept or renamed."""


class ExportError(SoberCrowError):
    """Artwork cannot be written."""


class SettingError(SoberCrowError, ValueError):
    """A setting is outside its range."""


class LetteringError(SoberCrowError):
    """Lettering cannot be matched, or a typeface cannot be read."""


class EditError(SoberCrowError, ValueError):
    """An edit does not apply to the artwork it was given."""


class BudgetError(SoberCrowError):
    """A step would take more work or memory than it may; with `anyway` set it is done all the same."""


class Cancelled(SoberCrowError):
    """The work was stopped on request."""
