from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from skimage import data

from drawings import artwork_of, circle
from sobercrow.core.errors import ExportError, RecipeError
from sobercrow.core.formats.parts import PartsFolder
from sobercrow.core.formats.recipes import RecipeBook, read_recipe, write_recipe
from sobercrow.core.inks.separation import separate
from sobercrow.core.inspect.kind import suggested_recipe
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import read_picture
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Ink, InkForm, InkKind, Inks, InkTool, InkTouchUp, Meet, Settings, Tracing
from sobercrow.core.settings.recipes import CUT_OUT, FLAT_MARK, RECIPES, Recipe
from sobercrow.demo.make import PICTURES

STROKE = InkTouchUp(InkTool.NIB, InkForm.FREEHAND, ((1.0, 1.0), (5.0, 5.0)), ("#000000",))
BUSY = Inks(InkKind.SEVERAL, palette=(Ink("#ff0000"),), paper="#ff0000", touch_ups=(STROKE,))


@pytest.mark.parametrize("recipe", RECIPES, ids=lambda recipe: recipe.name)
def test_our_recipes_come_back_from_a_file_and_say_when_to_use_them(recipe: Recipe, tmp_path: Path) -> None:
    write_recipe(recipe, tmp_path / "a.recipe")
    assert read_recipe(tmp_path / "a.recipe") == recipe
    assert recipe.use.endswith(".")
    assert (recipe.inks, recipe.tracing) != (Inks(), Tracing())


def test_what_belongs_to_one_picture_is_no_part_of_a_recipe() -> None:
    made = Recipe.of("Mine", "", BUSY, Tracing(refused=((1.0, 2.0, 3.0),), order=("#102030",)))
    assert made.tracing.order == ()
    assert (made.inks.palette, made.inks.paper, made.inks.touch_ups, made.tracing.refused) == ((), "auto", (), ())
    inks, tracing = CUT_OUT.applied_to(BUSY, Tracing(refused=((1.0, 2.0, 3.0),), order=("#102030",)))
    assert tracing.order == ("#102030",)
    assert inks.touch_ups == (STROKE,)
    assert tracing.refused == ((1.0, 2.0, 3.0),)
    assert tracing.meet is Meet.FLUSH


def test_a_book_keeps_finds_renames_and_drops(tmp_path: Path) -> None:
    book = RecipeBook(tmp_path / "recipes")
    assert book.every() == list(RECIPES)
    mine = replace(FLAT_MARK, name="Shop: signs/large")
    book.keep(mine)
    assert book.find("shop: SIGNS/large") == mine
    book.rename(mine.name, "Shop signs")
    assert [recipe.name for recipe in book.own()] == ["Shop signs"]
    assert len(list((tmp_path / "recipes").iterdir())) == 1
    (tmp_path / "recipes" / "broken.recipe").write_text("{")
    assert len(book.own()) == 1
    book.drop("Shop signs")
    assert book.own() == []


@pytest.mark.parametrize(
    ("work", "sentence"),
    [
        (lambda book: book.keep(replace(FLAT_MARK, name="flat mark")), "comes with Sober Crow"),
        (lambda book: book.keep(replace(FLAT_MARK, name="  ")), "needs a name"),
        (lambda book: book.rename("Flat mark", "Mine"), "keeps its name"),
        (lambda book: book.find("Fog"), "There is no recipe “Fog”; there are Pen lettering"),
    ],
)
def test_a_book_refuses_in_a_sentence(work, sentence: str, tmp_path: Path) -> None:
    with pytest.raises(RecipeError, match=sentence):
        work(RecipeBook(tmp_path))


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        (lambda plain: plain.update(format="other"), "no recipe of Sober Crow"),
        (lambda plain: plain.update(name=" "), "no recipe of Sober Crow"),
        (lambda plain: plain["tracing"].update(detail=900), "Detail must lie"),
        (lambda plain: plain.pop("inks"), "no recipe of Sober Crow"),
        (lambda plain: plain.update(version=2), "no recipe of Sober Crow"),
    ],
)
def test_files_that_are_no_recipe_are_refused(change, sentence: str, tmp_path: Path) -> None:
    path = tmp_path / "a.recipe"
    write_recipe(FLAT_MARK, path)
    plain = json.loads(path.read_text())
    change(plain)
    path.write_text(json.dumps(plain))
    with pytest.raises(RecipeError, match=sentence):
        read_recipe(path)
    with pytest.raises(RecipeError, match="not found"):
        read_recipe(tmp_path / "gone.recipe")


@pytest.mark.parametrize(
    ("name", "recipe"),
    [
        ("badge-200.jpg", "Flat mark"),
        ("brush-lettering.jpg", "Brush lettering"),
        ("kite-drawing.png", "Inked drawing"),
        ("pen-lettering.png", "Pen lettering"),
        ("pencil-sketch.png", "Pencil sketch"),
    ],
)
def test_the_recipe_that_suits_each_demo_picture_is_suggested(name: str, recipe: str) -> None:
    job = Job(read_picture(PICTURES / name))
    for pixels in (300_000, None):
        results = job.run(Settings(), pixels)
        assert suggested_recipe(results.separation, results.reduction).name == recipe


@pytest.mark.parametrize("name", ["coffee", "chelsea"])
def test_photographs_are_painted_pictures(name: str) -> None:
    pixels = getattr(data, name)()[::2, ::2].copy()  # scikit-image's sample photographs
    assert suggested_recipe(separate(Picture(pixels, 300.0), Inks())).name == "Painted picture"


NOWHERE = Path("/proc/nowhere/sober-crow")


@pytest.mark.parametrize(
    "keep",
    [
        lambda: RecipeBook(NOWHERE).keep(Recipe("Mine", "", Inks(), Tracing())),
        lambda: PartsFolder(NOWHERE).keep("Mine", artwork_of(circle(10, 10, 5))),
    ],
    ids=["recipe", "part"],
)
def test_a_home_that_is_not_there_is_told_in_a_sentence(keep: Callable[[], None]) -> None:
    with pytest.raises(ExportError, match=r"^The folder “sober-crow” cannot be made: its folder does not exist\.$"):
        keep()
