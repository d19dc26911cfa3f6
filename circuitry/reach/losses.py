"""What still works when a data bus, a module, a keypad or a control box is lost: solved."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from circuitry.design.model import Build, Part
from circuitry.design.state import Supply
from circuitry.devices import electronics_of
from circuitry.devices.electronics import outputs_of
from circuitry.devices.hearing import BUTTON, buses_of
from circuitry.errors import UnusableInput
from circuitry.network.network import Network, Settled
from circuitry.reach.paths import paths_of, state_of

RUNNING = Supply(13.8, 0.005)
"""Battery and alternator together; typical."""


@dataclass(frozen=True)
class Loss:
    """One thing lost, the loads that are dead without it, and those that still come on.

    ``kind`` is bus, module, keypad or control box.
    """

    id: str
    name: str
    kind: str
    dead: tuple[str, ...]
    left: tuple[str, ...]


def can_be_lost(build: Build) -> Iterator[tuple[str, str, str]]:
    """Id, name and kind of each data bus, module, keypad and box that switches something."""
    for bus in buses_of(build):
        yield bus.id, bus.name, "bus"
    keypads = {row.housed.unit for row in build.parts_of_kind(BUTTON) if row.housed}
    for part in electronics_of(build):
        if part.kind == "module":
            yield part.id, part.name, "module"
        elif part.id in keypads:
            yield part.id, part.name, "keypad"
        elif outputs_of(part):
            yield part.id, part.name, "control box"


def losses(network: Network, loads: Sequence[Part]) -> list[Loss]:
    """For each thing that can be lost, which of these loads are dead then in the positions that
    otherwise put them on, and which are not. A load that nothing puts on is in neither."""
    build = network.build
    ways = {load.id: paths_of(build).to_load(load) for load in loads}
    states = {
        load: replace(state_of(build, way.positions), supply=RUNNING)
        for load, way in ways.items()
        if way is not None
    }
    sound = network.try_many(list(states.values()), doing="Looking at what works")
    works = {
        load: (state, row)
        for (load, state), row in zip(states.items(), sound, strict=True)
        if load in _on(network, row)
    }
    things = list(can_be_lost(build))
    asked = [
        replace(state, lost=frozenset({identity}))
        for identity, _, _ in things
        for state, _ in works.values()
    ]
    rows = iter(network.try_many(asked, doing="Losing one thing after the other"))
    found = []
    for identity, name, kind in things:
        after = {load: next(rows) for load in works}
        dead = tuple(load for load, row in after.items() if load not in _on(network, row))
        left = tuple(load for load in after if load not in dead)
        found.append(Loss(identity, name, kind, dead, left))
    return found


def _on(network: Network, row: Settled | UnusableInput) -> frozenset[str]:
    return network.loads_on(row) if isinstance(row, Settled) else frozenset()
