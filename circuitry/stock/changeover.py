"""From an old fuse box to modules, bit by bit: steps after each of which the car runs.

Rear lamps first, then front lamps, horn and wipers, plain feeds, and what the engine hangs on last.
Each step is written into a copy of the build, so that it is known what comes out, what goes in, and
how many ways of the old box are left.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from circuitry.design.model import Build, Circuit, Terminal, Wire
from circuitry.errors import UnusableInput
from circuitry.progress import told
from circuitry.reach.paths import paths_of
from circuitry.recipes.book import can_be_fed_by_modules, fed_otherwise
from circuitry.recipes.modules import BY_MODULES

STEPS = (
    ("Rear lamps", "They are the farthest from the old box, and a dark one is soon seen."),
    ("Front lamps", "By daylight, with the old rear lamps proved before."),
    ("Horn and wipers", "Each needs its own button or stalk: one function at a time."),
    ("Plain feeds", "What is on by a switch or the key alone."),
    ("Fan and pump", "The engine hangs on these: last, and with a fuse at hand."),
)
ENGINE = ("Fuel pump", "Radiator fan")
MOVING = ("Horn", "Wiper", "Washer")


@dataclass(frozen=True)
class Stays:
    """A circuit that stays on fuses and relays, and why."""

    circuit: str
    name: str
    why: str


@dataclass(frozen=True)
class ChangeStep:
    """One step from the old box to the modules.

    ``circuits`` go over in it, and ``done`` have gone before. ``out`` are the fuses and relays that
    come out, ``cut`` the wires; ``laid`` is how many new ones are laid. ``dead`` are loads that
    would not come on after it, and none should be. ``ways_left`` of the old box are taken then.
    """

    title: str
    why: str
    circuits: tuple[str, ...]
    names: tuple[str, ...]
    done: tuple[str, ...]
    stays: tuple[Stays, ...]
    out: tuple[str, ...]
    cut: tuple[str, ...]
    laid: int
    loads: tuple[str, ...]
    dead: tuple[str, ...]
    ways_left: int


@dataclass(frozen=True)
class ChangeOver:
    """The steps in their order, and the ways of the old box that are taken now."""

    ways_taken: int
    steps: tuple[ChangeStep, ...]


def change_over(build: Build) -> ChangeOver:
    """The steps from the panels of a build to its modules; raises UnusableInput without any."""
    if not build.parts_of_kind("module"):
        raise UnusableInput(
            "no-module",
            "module",
            "The build has no module to change over to. Add one, with its feed and its ground.",
        )
    taken, steps = _ways_taken(build), []
    groups = _grouped(build)
    for title, why in told("Changing over, step by step", STEPS):
        rows = groups.get(title, [])
        before = build
        going, stays = [], []
        for circuit in rows:
            if _on_modules(build, circuit):
                continue
            try:
                build = fed_otherwise(build, circuit.id, BY_MODULES)
                going.append(circuit)
            except UnusableInput as problem:
                stays.append(Stays(circuit.id, circuit.name, problem.message))
        was, after = dict(_by_ends(before)), dict(_by_ends(build))
        loads = [load for circuit in going for load in build.loads_of(circuit.id)]
        steps.append(
            ChangeStep(
                title,
                why,
                tuple(row.id for row in going),
                tuple(row.name for row in going),
                tuple(row.name for row in rows if _on_modules(before, row)),
                tuple(stays),
                tuple(_gone(before, build)),
                tuple(row.label for ends, row in _by_ends(before) if ends not in after),
                sum(ends not in was for ends, _ in _by_ends(build)),
                tuple(load.name for load in loads),
                tuple(load.name for load in loads if paths_of(build).to_load(load) is None),
                _ways_taken(build),
            )
        )
    return ChangeOver(taken, tuple(step for step in steps if step.names or step.done or step.stays))


def change_steps(build: Build) -> dict[str, str]:
    """The step in which each circuit goes, or went, over to modules, by its title and in the order
    of steps; empty for a build without modules, or where no module can take any."""
    if not build.parts_of_kind("module"):
        return {}
    groups = _grouped(build)
    return {row.id: title for title, _ in STEPS for row in groups.get(title, ())}


def _grouped(build: Build) -> dict[str, list[Circuit]]:
    """The circuits that a module can take, by the step in which they go."""
    groups: dict[str, list[Circuit]] = {}
    for circuit in build.circuits.values():
        if build.loads_of(circuit.id) and can_be_fed_by_modules(build, circuit):
            groups.setdefault(_step_of(build, circuit), []).append(circuit)
    return groups


def _step_of(build: Build, circuit: Circuit) -> str:
    loads = build.loads_of(circuit.id)
    rows = [load.catalogue or "" for load in loads]
    if any(word in row for row in rows for word in ENGINE):
        return "Fan and pump"
    if any(word in row for row in rows for word in MOVING):
        return "Horn and wipers"
    if circuit.group != "lighting":
        return "Plain feeds"
    middle_m = build.body.length_m / 2
    at_the_rear = all(build.places[load.place].x_m > middle_m for load in loads)
    return "Rear lamps" if at_the_rear else "Front lamps"


def _on_modules(build: Build, circuit: Circuit) -> bool:
    """Whether every load of a circuit is fed by a module."""
    paths = [paths_of(build).to_load(load) for load in build.loads_of(circuit.id)]
    return all(
        path is not None
        and any(
            step.kind == "output" and build.parts[step.owner].kind == "module" for step in path.feed
        )
        for path in paths
    )


def _by_ends(build: Build) -> Iterator[tuple[frozenset[Terminal], Wire]]:
    """Each wire by its two ends: one that is led elsewhere is another."""
    for wire in build.wires.values():
        yield frozenset((wire.from_terminal, wire.to_terminal)), wire


def _gone(before: Build, after: Build) -> Iterator[str]:
    for part in before.parts.values():
        if part.id not in after.parts and part.kind in ("fuse", "relay", "flasher", "diode"):
            yield part.name


def _ways_taken(build: Build) -> int:
    return sum(part.fitted is not None for part in build.parts_of_kind("fuse"))
