"""Recipes: functions of a car, asked for in a few answers and written as parts and wires."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from circuitry.design.model import Build, Written
from circuitry.errors import UnusableInput
from circuitry.recipes.ask import Question, default_answer
from circuitry.recipes.clearing import clear, sweep, sweep_fuses
from circuitry.recipes.draft import Draft
from circuitry.recipes.job import Job
from circuitry.recipes.plugs import through_connectors


@dataclass(frozen=True)
class Recipe:
    """One function of a car.

    ``summary`` says what it does, ``caution`` what can hurt, ``wrong`` what usually goes wrong.
    ``write`` adds the circuit's parts and wires. ``named_after`` is the question whose load gives
    the circuit its name, where the title would say less.
    """

    id: str
    title: str
    group: str
    criticality: str
    summary: str
    caution: str
    wrong: tuple[str, ...]
    questions: tuple[Question, ...]
    write: Callable[[Job], None]
    stage: int = 1
    named_after: str = ""


def usual_answers(build: Build, recipe: Recipe) -> dict[str, Any]:
    """What a recipe takes for granted in this build, for a form to start from."""
    taken: set[str] = set()
    return {row.name: default_answer(build, row, taken) for row in recipe.questions}


def write_recipe(
    build: Build,
    recipe: Recipe,
    answers: Mapping[str, Any],
    name: str | None = None,
    circuit: str | None = None,
) -> Build:
    """The build with a recipe written into it, as a new circuit or in place of one that is there.

    What is not answered is taken as usual. Raises UnusableInput that names the answer.
    """
    draft = Draft(build)
    if circuit is None:
        own_name = name or _name_of_load(build, recipe, answers) or recipe.title
        row = draft.add_circuit(own_name, recipe.group, recipe.criticality)
        row = replace(row, stage=recipe.stage)
    else:
        if circuit not in build.circuits:
            raise UnusableInput(
                "unknown-circuit", circuit, f"The build has no circuit “{circuit}”."
            )
        row = build.circuits[circuit]
        clear(draft, row, again=True)
        sweep_fuses(draft)
        row = replace(row, name=name or row.name, intent=None)
    draft.circuits[row.id] = row
    job = Job(draft, row, recipe.questions, answers)
    recipe.write(job)
    written = Written(recipe.id, {**job.answers, **job.used})
    draft.circuits[row.id] = replace(draft.circuits[row.id], written=written)
    if circuit is not None:
        sweep(draft, row)
    sweep_fuses(draft)
    through_connectors(draft, {wire.id for wire in draft.wires.values() if wire.circuit == row.id})
    draft.parts = _as_before(build.parts, draft.parts)
    draft.wires = _as_before(build.wires, draft.wires)
    return draft.build


def _name_of_load(build: Build, recipe: Recipe, answers: Mapping[str, Any]) -> str | None:
    """What the load that a recipe is named after is called: ``Window motor left``, Window left."""
    if not recipe.named_after:
        return None
    answer = answers.get(recipe.named_after) or usual_answers(build, recipe)[recipe.named_after]
    if not isinstance(answer, Mapping):
        return None
    part = build.parts.get(str(answer.get("part")))
    said = str(part.name if part else answer.get("name") or "").replace(" motor", "")
    return said[:80].strip() or None


def _as_before(before: Mapping[str, Any], after: Mapping[str, Any]) -> dict[str, Any]:
    """What was there before in its old order, then what is new."""
    kept = {name: after[name] for name in before if name in after}
    return {**kept, **after}


def asks_for_fuse(recipe: Recipe) -> bool:
    """Whether it can be put behind a fuse that is there."""
    return any(row.name == "fuse" for row in recipe.questions)


def needs_key(default: str = "run") -> Question:
    """From which key position a circuit is live."""
    choices = (default, *(key for key in ("always", "accessory", "run") if key != default))
    return Question("key", "choice", "Live from", choices=choices)


FUSE = Question(
    "fuse", "fuse", "Behind", optional=True, help="A free way of the panel, or a fuse to share."
)
FLASHERS = (
    "Flasher electronic, load-sensing",
    "Flasher electronic, any load",
    "Flasher thermal",
)
