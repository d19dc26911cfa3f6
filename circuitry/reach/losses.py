"""What still works when a data bus, a module, a keypad or a control box is lost: solved."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from circuitry.design.model import Build, Part
from circuitry.design.state import State
from circuitry.devices import electronics_of
from circuitry.devices.electronics import outputs_of
from circuitry.devices.hearing import BUTTON, buses_of
from circuitry.errors import UnusableInput
from circuitry.network.network import Network, Settled
from circuitry.reach.paths import paths_of, state_of


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
    states: dict[object, State] = {}
    loads_in: dict[object, list[str]] = {}
    for load in loads:
        way = paths_of(build).to_load(load)
        if way is not None:
            state = state_of(build, way.positions)
            same = state.key, frozenset(state.switches.items()), frozenset(state.values.items())
            states.setdefault(same, state)
            loads_in.setdefault(same, []).append(load.id)
    sound = network.try_many(list(states.values()), doing="Looking at what works")
    works = {
        same: [load for load in loads_in[same] if load in _on(network, row)]
        for same, row in zip(states, sound, strict=True)
    }
    things = list(can_be_lost(build))
    asked = [
        replace(state, lost=frozenset({identity}))
        for identity, _, _ in things
        for state in states.values()
    ]
    rows = iter(network.try_many(asked, doing="Losing one thing after the other"))
    found = []
    for identity, name, kind in things:
        still = {load for same in states for load in _left(network, next(rows), works[same])}
        ordered = [load.id for load in loads if any(load.id in row for row in works.values())]
        dead = tuple(load for load in ordered if load not in still)
        found.append(Loss(identity, name, kind, dead, tuple(x for x in ordered if x in still)))
    return found


def _left(network: Network, row: Settled | UnusableInput, loads: list[str]) -> list[str]:
    on = _on(network, row)
    return [load for load in loads if load in on]


def _on(network: Network, row: Settled | UnusableInput) -> frozenset[str]:
    return network.loads_on(row) if isinstance(row, Settled) else frozenset()
