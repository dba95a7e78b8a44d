"""Recipes in the Trace panel: choosing, applying, keeping and sharing them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QComboBox, QFileDialog, QInputDialog, QWidget

from sobercrow.core.errors import SoberCrowError
from sobercrow.core.formats.recipes import SUFFIX, RecipeBook, read_recipe, user_folder, write_recipe
from sobercrow.core.settings.recipes import RECIPES, Recipe
from sobercrow.desktop.controls import button, doing, label, row_of
from sobercrow.desktop.document import Document

FILES = f"Recipes (*{SUFFIX});;All files (*)"


class RecipePart:
    """The recipes there are, the one that suits the picture first in mind."""

    def __init__(self, document: Document) -> None:
        """Work on a document."""
        self._document = document
        self.book = RecipeBook(user_folder())
        self._recipes: list[Recipe] = []
        self._picked = False
        self._named: set[Path] = set()
        """Files that have been told to be no recipes: once is enough."""
        self.choice = QComboBox()
        self.choice.setAccessibleName("Recipe")
        self.choice.activated.connect(self._pick)
        self.use = label(muted=True)
        self.apply = button("Apply", "Apply\nTakes the recipe's settings; crop, repairs and refusals stay.", main=True)
        self.apply.clicked.connect(self._apply)
        self.keep = doing("Keep", "The present settings become a recipe of your own.", self._keep)
        self.rename = doing("Rename", "Gives your recipe another name.", self._rename)
        self.delete = doing("Delete", "Takes your recipe away.", self._delete)
        self.share = doing("Share", "Writes the recipe to a file for others.", self._share)
        self.load = doing("Load", "Takes a recipe from a file among yours.", self._load)
        document.opened.connect(self._forget)

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        return [
            self.choice,
            self.use,
            row_of(self.apply, self.keep),
            row_of(self.rename, self.delete, self.share, self.load),
        ]

    @property
    def chosen(self) -> Recipe:
        """The recipe chosen in the list."""
        return self._recipes[max(self.choice.currentIndex(), 0)]

    def _forget(self) -> None:
        self._picked = False

    def _pick(self) -> None:
        self._picked = True
        self.refresh()

    def _apply(self) -> None:
        recipe, settings = self.chosen, self._document.state.settings
        inks, tracing = recipe.applied_to(settings.inks, settings.tracing)
        self._picked = True
        self._document.change_settings(f"Apply {recipe.name}", replace(settings, inks=inks, tracing=tracing))

    def _keep(self) -> None:
        name, agreed = QInputDialog.getText(self.choice.window(), "Keep a recipe", "Name of the recipe:")
        if agreed:
            self.keep_as(name)

    def keep_as(self, name: str) -> None:
        """Keep the present settings under a name."""
        settings = self._document.state.settings
        use = f"Your own, made from {self._document.source.name if self._document.source else 'a picture'}."
        self._try(lambda: self.book.keep(Recipe.of(name.strip(), use, settings.inks, settings.tracing)), name.strip())

    def _rename(self) -> None:
        old = self.chosen.name
        name, agreed = QInputDialog.getText(self.choice.window(), "Rename a recipe", "New name:", text=old)
        if agreed and name.strip() != old:
            self.rename_to(name)

    def rename_to(self, name: str) -> None:
        """Give the chosen recipe another name."""
        old = self.chosen.name
        self._try(lambda: self.book.rename(old, name), name.strip())

    def _delete(self) -> None:
        self._try(lambda: self.book.drop(self.chosen.name), None)

    def _share(self) -> None:
        proposal = f"{self.chosen.name}{SUFFIX}"
        chosen, _ = QFileDialog.getSaveFileName(self.choice.window(), "Share a recipe", proposal, FILES)
        if chosen:
            self._try(lambda: write_recipe(self.chosen, Path(chosen)), self.chosen.name)

    def _load(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self.choice.window(), "Load a recipe", "", FILES)
        if chosen:
            self.load_from(Path(chosen))

    def load_from(self, path: Path) -> str | None:
        """Take a recipe from a file among the user's; return its name, or None if that could not be done."""
        try:
            recipe = read_recipe(path)
        except SoberCrowError as fault:
            self._document.failed.emit(str(fault))
            return None
        return recipe.name if self._try(lambda: self.book.keep(recipe), recipe.name) else None

    def _try(self, work: Callable[[], None], chosen: str | None) -> bool:
        """Do what may fail; choose a recipe if it did not, and tell whether."""
        try:
            work()
        except (SoberCrowError, OSError) as fault:
            self._document.failed.emit(str(fault))
            return False
        self._picked = chosen is not None
        self._fill(chosen)
        self.refresh()
        return True

    def _fill(self, chosen: str | None) -> None:
        blocker = QSignalBlocker(self.choice)
        self._recipes = self.book.every()
        for path in self.book.left_out:
            if path not in self._named:
                self._named.add(path)
                self._document.failed.emit(f"The recipe file “{path.name}” cannot be read and is left out.")
        self.choice.clear()
        self.choice.addItems([recipe.name for recipe in self._recipes])
        names = [recipe.name for recipe in self._recipes]
        self.choice.setCurrentIndex(names.index(chosen) if chosen in names else 0)
        blocker.unblock()

    def refresh(self) -> None:
        """Show the present state."""
        presentation = self._document.presentation
        if presentation is None:
            return
        if not self._recipes:
            self._fill(None)
        suits = presentation.suits
        if not self._picked:
            self.choice.setCurrentText(suits.name)
        recipe = self.chosen
        suited = " It suits this picture." if recipe.name == suits.name else ""
        self.use.setText(f"{recipe.use}{suited}")
        own = all(recipe.name != ours.name for ours in RECIPES)
        self.rename.setEnabled(own)
        self.delete.setEnabled(own)

    def told(self) -> str:
        """Return which suits the picture, for the heading."""
        presentation = self._document.presentation
        return presentation.suits.name if presentation is not None else ""
