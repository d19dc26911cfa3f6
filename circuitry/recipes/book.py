"""All recipes, in the order of the work: supply, engine, lamps, motors, cabin, control."""

from collections.abc import Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Any

from circuitry.design.model import Build, Circuit
from circuitry.errors import UnusableInput
from circuitry.recipes import (
    buses,
    comfort,
    electric,
    engine,
    extras,
    heavy,
    lamps,
    logic,
    motors,
    sources,
    spares,
    supply,
    trailer,
    turning,
)
from circuitry.recipes.ask import Question
from circuitry.recipes.by_module import WRITERS
from circuitry.recipes.job import Job
from circuitry.recipes.modules import BY_FUSES, BY_MODULES
from circuitry.recipes.recipe import Recipe, write_recipe

FED_BY = Question(
    "fed_by",
    "choice",
    "Fed and switched by",
    choices=(BY_FUSES, BY_MODULES),
    help="A channel of a module guards and switches in one; its switches only tell it.",
)


ON_MODULE = Question(
    "on_module",
    "part",
    "On module",
    of_kind=("module",),
    optional=True,
    left_out=True,
    help="The one beside its loads, unless you say another.",
)


JOINED = Question(
    "joined",
    "flag",
    "Join two channels where one is too weak",
    usual=False,
    help="Their pins are bridged at the plug, and they do the same.",
)
NOT_ON_MODULES = {"fuse", "flasher"}
"""Answers that come to nothing on modules, and are not kept."""
ABOUT_MODULES = (FED_BY, ON_MODULE, JOINED)
"""What need not be asked where the car has no module."""


def _either(recipe: Recipe) -> Recipe:
    """A recipe that can be written on modules too asks which."""
    by_module = WRITERS.get(recipe.id)
    if by_module is None:
        return recipe
    by_fuses = recipe.write

    def write(job: Job) -> None:
        if job.choice(FED_BY.name) == BY_FUSES:
            return by_fuses(job)
        job.used |= dict.fromkeys(NOT_ON_MODULES & job.questions.keys())
        by_module(job)

    return replace(recipe, questions=(*recipe.questions, *ABOUT_MODULES), write=write)


RECIPES: Mapping[str, Recipe] = MappingProxyType(
    {
        recipe.id: _either(recipe)
        for page in (
            logic,
            buses,
            lamps,
            turning,
            trailer,
            motors,
            engine,
            comfort,
            extras,
            supply,
            sources,
            spares,
            electric,
            heavy,
        )
        for recipe in page.RECIPES
    }
)


def fed_otherwise(build: Build, circuit_id: str, by: str, module: str | None = None) -> Build:
    """The build with a function written again on channels of modules, or on fuses and relays.

    ``module`` is the one to take, None the one beside its loads. Raises UnusableInput.
    """
    circuit = build.circuits.get(circuit_id)
    if circuit is None:
        raise UnusableInput(
            "unknown-circuit", circuit_id, f"The build has no circuit “{circuit_id}”."
        )
    recipe_id, answers = _as_asked(build, circuit)
    if recipe_id not in WRITERS:
        said = RECIPES[recipe_id].title if recipe_id else "drawn by hand"
        raise UnusableInput(
            "not-for-modules",
            circuit_id,
            f"{circuit.name} ({said}) cannot be written on channels. Functions that can are "
            f"{', '.join(RECIPES[row].title.lower() for row in WRITERS)}.",
        )
    asked = {**answers, FED_BY.name: by, ON_MODULE.name: module}
    return write_recipe(build, RECIPES[recipe_id], asked, circuit=circuit_id)


def can_be_fed_by_modules(build: Build, circuit: Circuit) -> bool:
    """Whether a circuit is a function that channels can carry too."""
    return _as_asked(build, circuit)[0] in WRITERS


def _as_asked(build: Build, circuit: Circuit) -> tuple[str, dict[str, Any]]:
    """The recipe of a circuit and its answers; of one that was wired straight those of a plain
    load."""
    if circuit.written is not None:
        return circuit.written.recipe, dict(circuit.written.answers)
    loads, intent = build.loads_of(circuit.id), circuit.intent
    if intent is None or not loads:
        return "", {}
    switch = intent.switch
    return "plain-load", {
        "load": {"part": loads[0].id},
        "more": [{"part": load.id} for load in loads[1:]],
        "switch": {"part": switch.part} if switch else None,
        "output": switch.name if switch else "",
        "through": intent.through,
        "key": intent.key,
        "fuse": None,
    }


def recipe_named(name: str) -> Recipe:
    """The recipe of this id; raises UnusableInput."""
    if name not in RECIPES:
        raise UnusableInput(
            "unknown-recipe",
            name,
            f"There is no recipe “{name}”. It is one of {', '.join(RECIPES)}.",
        )
    return RECIPES[name]
