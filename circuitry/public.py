"""What a script needs of the core, and little else: see docs/python.md for ten lines of it.

Everything is plain data that does not change: an edit gives another build. What cannot be done
raises ``UnusableInput``, which names the thing and the way out.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from circuitry.budget import Budget
from circuitry.budget import budget as _budget
from circuitry.design.model import Build
from circuitry.document.reading import read as _read
from circuitry.document.reading import write
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.finding import Finding
from circuitry.formats.spice import netlist
from circuitry.network import Network, Solution, State, Supply
from circuitry.reach.losses import Loss
from circuitry.reach.losses import losses as _losses
from circuitry.reach.truth import TruthTable
from circuitry.reach.truth import truth_table as _truth_table
from circuitry.recipes.book import RECIPES, recipe_named
from circuitry.recipes.recipe import write_recipe
from circuitry.sizing import Sizing, size_build
from circuitry.sizing.result import FuseSizing, WireSizing
from circuitry.stock.drafting import Wants
from circuitry.stock.drafting import draft as _draft
from circuitry.stock.proposal import Draft

__all__ = [
    "Budget",
    "Build",
    "Draft",
    "Finding",
    "Loss",
    "Sizing",
    "Solution",
    "State",
    "Supply",
    "TruthTable",
    "UnusableInput",
    "Wants",
    "WorstCase",
    "add",
    "budget",
    "check",
    "draft",
    "edit",
    "export",
    "losses",
    "read",
    "recipe_titles",
    "size",
    "solve",
    "truth_table",
    "worst_case",
    "write",
]


@dataclass(frozen=True)
class WorstCase:
    """The largest current of a wire or fuse in A, and the positions in which it flows, in words."""

    amps: float
    when: str


def read(source: str | bytes | Path) -> Build:
    """A build from the text of its document, or from its file.

    >>> car = read(Path("demo/saltmarsh-roadster.json"))
    >>> car.name
    'Saltmarsh Roadster'
    """
    return _read(source.read_bytes() if isinstance(source, Path) else source)


def edit(build: Build, *operations: Mapping[str, Any]) -> Build:
    """The build after operations, as the screen and the history have them.

    >>> car = read(Path("demo/saltmarsh-roadster.json"))
    >>> fields = {"name": "Hooter"}
    >>> change = {"op": "change", "collection": "parts", "id": "horn", "fields": fields}
    >>> edit(car, change).parts["horn"].name
    'Hooter'
    """
    return apply_operations(build, [dict(operation) for operation in operations])


def add(build: Build, recipe: str, answers: Mapping[str, Any] | None = None) -> Build:
    """The build with a whole function written into it; what is not answered is taken as usual.

    >>> car = add(read(Path("demo/saltmarsh-roadster.json")), "sockets", {"key": "run"})
    >>> "power-sockets" in car.circuits
    True
    """
    return write_recipe(build, recipe_named(recipe), dict(answers or {}))


def draft(build: Build, wants: Wants | None = None) -> Draft:
    """The wiring of everything in the list that has none; ``.build`` is the car with it written.

    >>> drafted = draft(read(Path("tests/data/part-wired-roadster.json")))
    >>> "turn-and-hazard" in [step.id for step in drafted.steps]
    True
    """
    return _draft(build, wants or Wants())


def recipe_titles() -> Mapping[str, str]:
    """The functions that can be written into a build: their titles by id.

    >>> recipe_titles()["horn"]
    'Horn'
    """
    return {recipe.id: recipe.title for recipe in RECIPES.values()}


def size(build: Build) -> Sizing:
    """Every fuse and wire chosen, with reasons and findings; ``.build`` has every size filled in.

    >>> sized = size(read(Path("demo/saltmarsh-roadster.json")))
    >>> sized.wires["w20"].current_a <= sized.wires["w20"].carries_a
    True
    """
    return size_build(build)


def worst_case(sizing: Sizing) -> Mapping[str, WorstCase]:
    """The largest current of each wire and fuse over all positions of all switches, by id.

    >>> worst = worst_case(size(read(Path("demo/saltmarsh-roadster.json"))))
    >>> worst["fan-fuse"].when
    'key crank, radiator thermostat hot'
    """
    rows: dict[str, WireSizing | FuseSizing] = {**sizing.wires, **sizing.fuses}
    return {part: WorstCase(row.current_a, row.when) for part, row in rows.items()}


def solve(build: Build, *states: State) -> list[Solution]:
    """Volts and amps in each state, solved together: ``terminal_v``, ``wire_a``, ``fuse_a``,
    ``contact_a`` and what each load does, by id. The build has its sizes: see ``size``.

    >>> sized = size(read(Path("demo/saltmarsh-roadster.json"))).build
    >>> (dark, lit) = solve(sized, State("off"), State("off", {"light-switch": "side"}))
    >>> dark.loads["tail-lamp-left"].amps < 0.001 < lit.loads["tail-lamp-left"].amps
    True
    """
    return Network(build).solve_many(states)


def truth_table(build: Build, circuit: str) -> TruthTable:
    """What the loads of a circuit do in each position of what concerns them, in a sized build.

    >>> table = truth_table(size(read(Path("demo/saltmarsh-roadster.json"))).build, "horn")
    >>> [lever.name for lever in table.levers]
    ['Horn push', 'Isolator inside']
    """
    if circuit not in build.circuits:
        raise UnusableInput("unknown-circuit", circuit, f"The build has no circuit “{circuit}”.")
    return _truth_table(Network(build), tuple(build.loads_of(circuit)))


def budget(sizing: Sizing) -> Budget:
    """What the car draws in each scenario, against alternator and battery.

    >>> car = budget(size(read(Path("demo/quarrel-hill-rally-coupe.json"))))
    >>> {row.id: row.verdict for row in car.scenarios}["rain-motorway"]
    'fine'
    """
    return _budget(sizing, sizing.network)


def losses(build: Build) -> list[Loss]:
    """What is dead when a data bus, a module, a keypad or a control box is lost, in a sized build.

    >>> car = size(read(Path("demo/quarrel-hill-rally-coupe.json"))).build
    >>> {row.name: len(row.dead) for row in losses(car) if row.kind == "keypad"}
    {'Keypad': 4}
    """
    return _losses(Network(build), build.parts_of_kind("load"))


def check(build: Build) -> tuple[Finding, ...]:
    """What is to be looked at, the worst first; each with its mends as operations for ``edit``.

    >>> check(read(Path("demo/saltmarsh-roadster.json")))[0].title
    'Main beam: its ground wire W59 is too thin'
    """
    return size(build).findings


def export(build: Build, state: State | None = None) -> str:
    """The document of a build; with a state, a SPICE deck of the sized build in that state.

    >>> car = read(Path("demo/saltmarsh-roadster.json"))
    >>> read(export(car)) == car
    True
    """
    if state is None:
        return write(build)
    network = Network(build)
    return netlist(network, network.solve(state))
