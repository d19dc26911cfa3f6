"""All recipes, in the order of the work: supply, engine, lamps, motors, cabin, control."""

from collections.abc import Mapping
from types import MappingProxyType

from circuitry.errors import UnusableInput
from circuitry.recipes import comfort, engine, heavy, lamps, logic, motors, supply, trailer, turning
from circuitry.recipes.recipe import Recipe

RECIPES: Mapping[str, Recipe] = MappingProxyType(
    {
        recipe.id: recipe
        for page in (logic, lamps, turning, trailer, motors, engine, comfort, supply, heavy)
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
