"""What a fault makes of a network: the same elements, some of them otherwise, so that nothing is
laid out anew for any of the hundreds that may be tried."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from circuitry.bench.faults import KINDS, WEAK_CHARGE, WEAK_MOHM, Effects, Fault, effects_of
from circuitry.design.model import Build, Part, Wire
from circuitry.design.state import State, Supply, position_of
from circuitry.devices.battery import open_circuit_v
from circuitry.devices.load import law_of_load, rated_current_a
from circuitry.network import Network
from circuitry.network.equations import Element, Join, Operating
from circuitry.network.network import Change, Settled

FELT_A, FELT_V = 1e-3, 0.02
"""Below this a fault changes nothing that anybody could see or measure."""
RUNS_AT_V = 12.0


@dataclass
class Altered:
    """A change of the network, positions that switches are held in, those that are of the other
    kind, what is lost, another battery; and of lamps that are other lamps, their light against
    that of the right one. ``blows`` is whether fuses and channels open by themselves."""

    change: Change = field(default_factory=Change)
    switches: dict[str, str] = field(default_factory=dict)
    turned: frozenset[str] = frozenset()
    lost: frozenset[str] = frozenset()
    supply: Supply | None = None
    light: dict[str, float] = field(default_factory=dict)
    blows: bool = True

    def state(self, state: State, build: Build) -> State:
        """A state as the fault has it."""
        switches = {**state.switches, **self.switches}
        for name in self.turned:
            switches[name] = _other(build.parts[name], state)
        supply = self.supply or state.supply
        return replace(state, switches=switches, lost=state.lost | self.lost, supply=supply)

    def beside(self, other: "Altered") -> "Altered":
        """This and another at once."""
        return Altered(
            both(self.change, other.change),
            {**self.switches, **other.switches},
            self.turned | other.turned,
            self.lost | other.lost,
            self.supply or other.supply,
            {**self.light, **other.light},
            self.blows and other.blows,
        )

    def is_felt(self, sound: Settled, network: Network) -> bool:
        """Whether it can make any difference in a state, by what flows in the sound car."""
        if self.turned or self.lost or self.supply is not None:
            return True
        state, operating, build = sound.state, sound.operating, network.build
        if any(position_of(build.parts[part], state) != at for part, at in self.switches.items()):
            return True
        change, amps = self.change, operating.element_a
        rows = list(change.opens)
        if rows and np.abs(amps[rows]).max() > FELT_A:
            return True
        if any(_live(sound.operating, network.elements[row]) for row in rows):
            return True  # nothing flows, and what lies behind it is dead all the same
        if any(abs(amps[row]) * ohm > FELT_V for row, ohm in change.ohms.items()):
            return True
        if any(bool(sound.moved[number]) != at for number, at in change.sticks.items()):
            return True
        return any(_joins(join, operating.node_v) for join in change.joins)


def both(one: Change, other: Change) -> Change:
    """Two changes at once; where they are of the same element, the second."""
    return Change(
        set(one.opens | other.opens),
        {**one.ohms, **other.ohms},
        {**one.sticks, **other.sticks},
        [*one.joins, *other.joins],
    )


def _live(operating: Operating, element: Element) -> bool:
    """Whether an element hands on volts."""
    one, other = (float(operating.node_v[node]) for node in (element.node_a, element.node_b))
    conducts = element.law is not None or abs(one - other) < FELT_V
    return conducts and abs(one) > FELT_V and abs(other) > FELT_V


def _joins(join: Join, node_v: "np.ndarray[tuple[int], np.dtype[np.float64]]") -> bool:
    """Whether anything flows, or comes alive, through what is joined."""
    one, other = float(node_v[join.node_a]), float(node_v[join.node_b])
    if one != one or other != other:
        known = other if one != one else one
        return known == known and abs(known) > FELT_V
    return abs(one - other) > FELT_V


def _other(switch: Part, state: State) -> str:
    """The other position of a switch of two."""
    assert switch.contacts is not None
    names = [row.name for row in switch.contacts.positions]
    return names[1] if position_of(switch, state) == names[0] else names[0]


def altered(network: Network, fault: Fault) -> Altered:
    """What a fault makes of a network."""
    effects = effects_of(network, [fault], frozenset({fault.id}), ())
    found = Altered(effects, dict(effects.switches), lost=frozenset(effects.lost))
    _stand(network, effects)
    build = network.build
    change = KINDS[fault.kind].miswires
    if fault.kind == "weak battery":
        found.supply = Supply(open_circuit_v(WEAK_CHARGE), WEAK_MOHM / 1000)
    elif fault.kind == "stand-in switch":
        found.turned = frozenset({fault.of})
    elif change is not None:
        other = change(build, fault)
        _move_wires(network, effects, build.wires, other.wires)
        for name, part in other.parts.items():
            if part is not build.parts[name] and part.kind == "load":
                rated_a = rated_current_a(part)
                _instead(network, effects, name, rated_a / RUNS_AT_V)
                found.light[name] = rated_a / rated_current_a(build.parts[name])
    return found


def _stand(network: Network, effects: Effects) -> None:
    """Motors that cannot turn are their armatures alone."""
    for name in effects.stalled:
        law = law_of_load(network.build.parts[name])
        rated_a, test_v = float(law.rated_a), float(law.test_v)  # type: ignore[attr-defined]
        siemens = rated_a * float(law.inrush_x) / test_v  # type: ignore[attr-defined]
        _instead(network, effects, name, siemens)


def _instead(network: Network, effects: Effects, load: str, siemens: float) -> None:
    (row,) = (r for r in network.rows_of[load] if network.elements[r].kind == "load")
    effects.opens.add(row)
    element = network.elements[row]
    effects.joins.append(Join(element.node_a, element.node_b, siemens))


def _move_wires(
    network: Network, effects: Effects, wires: Mapping[str, Wire], moved: Mapping[str, Wire]
) -> None:
    """Wires that end elsewhere are opened, and joined where they end."""
    for row, (name, wire) in enumerate(wires.items()):
        other = moved[name]
        ends = other.from_terminal, other.to_terminal
        if ends != (wire.from_terminal, wire.to_terminal):
            effects.opens.add(row)
            node_a, node_b = (network.node[end] for end in ends)
            if node_a != node_b:
                effects.joins.append(Join(node_a, node_b, float(network.siemens[row])))
