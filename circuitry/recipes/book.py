"""All recipes, in the order of the work: supply, engine, lamps, motors, cabin, control."""

from collections.abc import Mapping
from dataclasses import replace
from types import MappingProxyType

from circuitry.errors import UnusableInput
from circuitry.recipes import (
    buses,
    comfort,
    engine,
    heavy,
    lamps,
    logic,
    motors,
    supply,
    trailer,
    turning,
)
from circuitry.recipes.ask import Question
from circuitry.recipes.by_module import WRITERS
from circuitry.recipes.job import Job
from circuitry.recipes.modules import BY_FUSES, BY_MODULES
from circuitry.recipes.recipe import Recipe

FED_BY = Question(
    "fed_by",
    "choice",
    "Fed and switched by",
    choices=(BY_FUSES, BY_MODULES),
    help="A channel of a module guards and switches in one; its switches only tell it.",
)


def _either(recipe: Recipe) -> Recipe:
    """A recipe that can be written on modules too asks which."""
    by_module = WRITERS.get(recipe.id)
    if by_module is None:
        return recipe
    by_fuses = recipe.write

    def write(job: Job) -> None:
        (by_module if job.choice(FED_BY.name) == BY_MODULES else by_fuses)(job)

    return replace(recipe, questions=(*recipe.questions, FED_BY), write=write)


RECIPES: Mapping[str, Recipe] = MappingProxyType(
    {
        recipe.id: _either(recipe)
        for page in (logic, buses, lamps, turning, trailer, motors, engine, comfort, supply, heavy)
        for recipe in page.RECIPES
    }
)


def recipe_named(name: str) -> Recipe:
    """The recipe of this id; raises UnusableInput."""
    if name not in RECIPES:
        raise UnusableInput(
            "unknown-recipe",
            name,
            f"There is no recipe “{name}”. It is one of {', '.join(RECIPES)}.",
        )
    return RECIPES[name]
