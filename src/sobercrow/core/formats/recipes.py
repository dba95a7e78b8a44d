"""Recipes in files, to be kept and shared."""

from __future__ import annotations

import json
import os
from dataclasses import asdict
from pathlib import Path

from sobercrow.core.errors import ExportError, RecipeError, SettingError
from sobercrow.core.formats.files import make_folder, write_whole
from sobercrow.core.outside import MOST_VERSION, json_of, reading, whole
from sobercrow.core.picture.decode import read_bytes
from sobercrow.core.settings import Inks, Tracing
from sobercrow.core.settings.recipes import RECIPES, Recipe

SUFFIX = ".recipe"
FORMAT = "sobercrow-recipe"
MOST_BYTES = 1_000_000


def user_folder() -> Path:
    """Return where the user's recipes are kept (XDG Base Directory Specification)."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local/share") / "sober-crow" / "recipes"


def write_recipe(recipe: Recipe, path: Path) -> None:
    """Write a recipe, whole or not at all; raise `ExportError` if it cannot be written."""
    plain = {"format": FORMAT, "version": 1, **asdict(recipe)}
    write_whole(path, json.dumps(plain, indent=1).encode() + b"\n", ExportError)


def read_recipe(path: Path) -> Recipe:
    """Read a recipe that `write_recipe` wrote.

    Raises
    ------
    RecipeError
        With one sentence if the file cannot be read or is none.
    """
    data = read_bytes(path, RecipeError, "a recipe file")
    with reading(RecipeError, f"“{path.name}” is no recipe of Sober Crow; choose a {SUFFIX} file."):
        plain = json_of(data, MOST_BYTES)
        if plain["format"] != FORMAT or whole(plain["version"], 0, MOST_VERSION) > 1:
            raise ValueError("another format")
        try:
            inks, tracing = Inks.from_plain(plain["inks"]), Tracing.from_plain(plain["tracing"])
        except SettingError as fault:
            raise RecipeError(f"“{path.name}” is a recipe that cannot be used: {fault}") from fault
        name = str(plain["name"]).strip()
        if not name:
            raise ValueError("no name")
        return Recipe.of(name, str(plain["use"]), inks, tracing)


class RecipeBook:
    """The recipes there are: ours, and the user's in a folder."""

    def __init__(self, folder: Path) -> None:
        """Keep the user's recipes in a folder, which need not be there yet."""
        self.folder = folder
        self.left_out: tuple[Path, ...] = ()
        """Files in the folder that cannot be read, as of when it was last gone through."""

    def own(self) -> list[Recipe]:
        """Return the user's recipes by name; files that are none are left out."""
        found, left_out = [], []
        for path in sorted(self.folder.glob(f"*{SUFFIX}")) if self.folder.is_dir() else []:
            try:
                found.append(read_recipe(path))
            except RecipeError:
                left_out.append(path)
        self.left_out = tuple(left_out)
        return sorted(found, key=lambda recipe: recipe.name.casefold())

    def every(self) -> list[Recipe]:
        """Return ours and the user's."""
        return [*RECIPES, *self.own()]

    def find(self, name: str) -> Recipe:
        """Return the recipe of a name, capitals or not; raise `RecipeError` naming those there are."""
        for recipe in self.every():
            if recipe.name.casefold() == name.casefold():
                return recipe
        names = ", ".join(recipe.name for recipe in self.every())
        raise RecipeError(f"There is no recipe “{name}”; there are {names}.")

    def keep(self, recipe: Recipe) -> None:
        """Save a recipe among the user's, in place of one of its name.

        Raises
        ------
        RecipeError
            If the name is one of ours or empty.
        ExportError
            If it cannot be written.
        """
        name = recipe.name.strip()
        if not name:
            raise RecipeError("A recipe needs a name.")
        if any(name.casefold() == ours.name.casefold() for ours in RECIPES):
            raise RecipeError(f"“{name}” comes with Sober Crow; choose another name.")
        make_folder(self.folder, ExportError)
        write_recipe(recipe, self._path(name))

    def rename(self, old: str, new: str) -> None:
        """Give one of the user's recipes another name; raise `RecipeError` if it is not theirs or the name is taken."""
        recipe = next((r for r in self.own() if r.name == old), None)
        if recipe is None:
            raise RecipeError(f"“{old}” comes with Sober Crow and keeps its name.")
        if any(r.name.casefold() == new.strip().casefold() for r in self.every()):
            raise RecipeError(f"There is a recipe “{new.strip()}” already; choose another name.")
        self.keep(Recipe(new.strip(), recipe.use, recipe.inks, recipe.tracing))
        self.drop(old)

    def drop(self, name: str) -> None:
        """Delete one of the user's recipes."""
        self._path(name).unlink(missing_ok=True)

    def _path(self, name: str) -> Path:
        safe = "".join(c if c.isalnum() or c in " -_" else f"%{ord(c):x}" for c in name)
        return self.folder / f"{safe}{SUFFIX}"
