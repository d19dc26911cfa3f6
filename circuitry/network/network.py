"""The whole build as a network: solve it for a key and switch state, with its relays settled.

This is the only place where a current or a voltage is computed.
"""

from collections.abc import Iterator, Mapping
from copy import copy
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from circuitry.build.kinds import SWITCH_KINDS, relay_contacts, relay_row, terminals_of
from circuitry.build.model import Build, ContactTable, Part, Terminal, Wire
from circuitry.build.routes import length_m
from circuitry.catalogue import catalogue
from circuitry.errors import UnusableInput
from circuitry.network.equations import (
    Drive,
    Element,
    Equations,
    NotConverged,
    Operating,
    Vector,
)
from circuitry.network.laws import law_of_load
from circuitry.network.state import (
    State,
    battery_supply,
    check_state,
    position_of,
)

COPPER_PER_K = 0.00393
METER_OHM = 10e6
BODY_MOHM = 2.0
GARAGE_C = 20.0


@dataclass(frozen=True)
class LoadReading:
    """Voltage across a load, its current, and its light, speed or power in % of rated."""

    volts: float
    amps: float
    output_percent: float


@dataclass(frozen=True)
class RelayReading:
    """Whether a relay has pulled in, and the voltage across its coil."""

    pulled_in: bool
    coil_volts: float


@dataclass(frozen=True)
class Solution:
    """Volts and amps of the build in one state.

    ``terminal_v`` is against battery negative, None where a terminal floats; ``wire_a`` runs from
    ``from_terminal`` to ``to_terminal``; ``fuse_a`` from in to out; ``contact_a`` is the largest
    current in any contact of a switch or relay. ``residual_a`` is the worst node of Kirchhoff's
    law, ``power_mismatch`` the share of source power not found again in the elements.
    """

    state: State
    terminal_v: Mapping[Terminal, float | None]
    wire_a: Mapping[str, float]
    fuse_a: Mapping[str, float]
    contact_a: Mapping[str, float]
    loads: Mapping[str, LoadReading]
    relays: Mapping[str, RelayReading]
    meters_v: tuple[float | None, ...]
    battery_v: float
    battery_a: float
    residual_a: float
    power_mismatch: float
    iterations: int


@dataclass(frozen=True)
class Tolerance:
    """Factors on load current and on the resistance of joints and contacts."""

    load_current: float = 1.0
    joint_resistance: float = 1.0


EXACT = Tolerance()


class Network:
    """The equations of one build whose every wire has a size and every fuse a rating."""

    def __init__(
        self,
        build: Build,
        conductor_c: Mapping[str, float] | None = None,
        tolerance: Tolerance = EXACT,
    ) -> None:
        """``conductor_c`` gives conductor temperatures by wire id; the others are at 20 °C."""
        self.build = build
        self.tolerance = tolerance
        self.node = _number_nodes(build)
        self.node_count = len(set(self.node.values())) + 1
        self.body_node = self.node_count - 1
        self.battery = build.parts_of_kind("battery")[0]
        self.reference = self.node[Terminal(self.battery.id, "-")]
        self.elements = [
            *self._wires(conductor_c or {}),
            *self._fuses(),
            *self._loads(),
            *self._coils(),
            *self._body(),
            *self._contacts(),
            self._source(),
        ]
        self.equations = Equations(self.elements, self.node_count, self.reference)

    def resized(self, build: Build, conductor_c: Mapping[str, float]) -> "Network":
        """The network of the same build in other sizes, ratings and temperatures."""
        other = copy(self)
        other.build = build
        kept = [row for row in self.elements if row.kind not in ("wire", "fuse")]
        other.elements = [*other._wires(conductor_c), *other._fuses(), *kept]
        return other

    def solve(self, state: State, near: Solution | None = None) -> Solution:
        """The steady state; raises UnusableInput when relays chase each other or nothing settles.

        All relays start at rest and move together until none wants to move: a relay at rest
        pulls in at its pull-in voltage, one that is pulled in drops out at its drop-out voltage.

        ``near`` is a solution with the same key and switches, in other sizes or from another
        supply: its relays are taken over as long as each of their coils would pull in, and no
        other, so that the answer is the same.
        """
        check_state(self.build, state)
        if near is not None:
            pulled_in = _pulled_in(near)
            elements, operating = self._solve_with(state, pulled_in, self._node_v(near))
            if self._wanted(elements, operating, frozenset()) == pulled_in:
                return self._solution(state, elements, operating, pulled_in)
        return self._solve_from_rest(state)

    def _solve_from_rest(self, state: State) -> Solution:
        pulled_in: frozenset[str] = frozenset()
        seen = [pulled_in]
        node_v = None
        while True:
            elements, operating = self._solve_with(state, pulled_in, node_v)
            wanted = self._wanted(elements, operating, pulled_in)
            if wanted == pulled_in:
                return self._solution(state, elements, operating, pulled_in)
            if wanted in seen:
                raise self._chase(seen[seen.index(wanted) :])
            seen.append(wanted)
            pulled_in, node_v = wanted, operating.node_v

    def _node_v(self, near: Solution) -> Vector:
        node_v = np.zeros(self.node_count)
        for terminal, volts in near.terminal_v.items():
            node_v[self.node[terminal]] = volts or 0.0
        return node_v

    def conducting(self, solution: Solution) -> list[Element]:
        """The elements that conduct in a solved state."""
        drive = self._drive(self.elements, solution.state, _pulled_in(solution))
        return [row for row, on in zip(self.elements, drive.conducts, strict=True) if on]

    def _solve_with(
        self, state: State, pulled_in: frozenset[str], near_v: Vector | None
    ) -> tuple[list[Element], Operating]:
        meters = [
            self._between("meter", "meter", red, black, 1 / METER_OHM)
            for red, black in state.meters
        ]
        elements = [*self.elements, *meters]
        equations = self.equations
        if meters:
            equations = Equations(elements, self.node_count, self.reference)
        try:
            return elements, equations.solve(self._drive(elements, state, pulled_in), near_v)
        except NotConverged as problem:
            at = next((str(t) for t, node in self.node.items() if node == problem.node), "body")
            raise UnusableInput(
                "not-converged",
                at,
                f"The voltages do not settle: at {at}, {problem.residual_a:.3g} A remain. A load "
                "there may ask for more than its feed can give. Check its rating and its wires.",
            ) from None

    def _drive(self, elements: list[Element], state: State, pulled_in: frozenset[str]) -> Drive:
        """Close the contacts that the state closes, and set the source."""
        at = {part.id: position_of(part, state) for part in self.build.parts_of_kind(*SWITCH_KINDS)}
        at |= dict.fromkeys(pulled_in, "pulled in")
        supply = state.supply or battery_supply(self.battery)
        conducts = np.array(
            [row.position is None or at.get(row.owner, "rest") == row.position for row in elements]
        )
        siemens = np.array([row.conductance_s for row in elements]) * conducts
        emf_v = np.zeros(len(elements))
        siemens[len(self.elements) - 1] = 1 / supply.resistance_ohm
        emf_v[len(self.elements) - 1] = supply.emf_v
        return Drive(siemens, emf_v, conducts)

    def _wanted(
        self, elements: list[Element], operating: Operating, pulled_in: frozenset[str]
    ) -> frozenset[str]:
        wanted = set(pulled_in)
        for row, element in enumerate(elements):
            if element.kind != "coil":
                continue
            kind = relay_row(self.build.parts[element.owner])
            coil_v = abs(float(operating.element_v[row]))
            if coil_v >= kind.pull_in_max_v:
                wanted.add(element.owner)
            elif coil_v <= kind.drop_out_min_v:
                wanted.discard(element.owner)
        return frozenset(wanted)

    def _chase(self, cycle: list[frozenset[str]]) -> UnusableInput:
        moving = frozenset().union(*cycle) - frozenset.intersection(*cycle)
        names = " and ".join(f"“{self.build.parts[part].name}”" for part in sorted(moving))
        return UnusableInput(
            "relays-never-settle",
            ", ".join(sorted(moving)),
            f"Relay {names} never settles: each time it moves it takes away or gives back its own "
            "coil's feed. Feed the coil from a point that its own contacts do not switch.",
        )

    def _wires(self, conductor_c: Mapping[str, float]) -> Iterator[Element]:
        for wire in self.build.wires.values():
            ohm = conductor_ohm(self.build, wire, conductor_c.get(wire.id, GARAGE_C))
            ohm += self.tolerance.joint_resistance * joints_ohm(self.build, wire)
            yield self._between("wire", wire.id, wire.from_terminal, wire.to_terminal, 1 / ohm)

    def _fuses(self) -> Iterator[Element]:
        joints = catalogue().joints
        for part in self.build.parts_of_kind("fuse"):
            if "rating_a" not in part.figures:
                raise UnusableInput(
                    "unrated-fuse", part.id, f"Fuse “{part.name}” has no rating yet. Size it first."
                )
            row = catalogue().fuse(part.catalogue or "", part.number("rating_a", 0))
            bolted = row.family.startswith("bolt-down")
            held_mohm = (
                2 * joints["ring"].resistance_mohm
                if bolted
                else joints["fuse clips"].resistance_mohm
            )
            mohm = row.cold_resistance_mohm + held_mohm * self.tolerance.joint_resistance
            yield self._across("fuse", part, "in", "out", 1000 / mohm)

    def _loads(self) -> Iterator[Element]:
        for part in self.build.parts_of_kind("load"):
            law = law_of_load(part, self.tolerance.load_current)
            a, b = self.node[Terminal(part.id, "+")], self.node[Terminal(part.id, "-")]
            yield Element("load", part.id, a, b, law=law)

    def _coils(self) -> Iterator[Element]:
        for part in self.build.parts_of_kind("relay"):
            yield self._across("coil", part, "86", "85", 1 / relay_row(part).coil_ohm_12v)

    def _body(self) -> Iterator[Element]:
        if not self.build.body_conducts:
            return
        for part in self.build.parts_of_kind("ground point"):
            stud = self.node[Terminal(part.id, "stud")]
            yield Element("body", part.id, stud, self.body_node, 1000 / BODY_MOHM)

    def _contacts(self) -> Iterator[Element]:
        """Every contact of every switch and relay, with the position that closes it."""
        factor = self.tolerance.joint_resistance / 1000
        switch_ohm = catalogue().joints["switch contact"].resistance_mohm * factor
        for part in self.build.parts_of_kind(*SWITCH_KINDS):
            if part.contacts:
                yield from self._table(part, part.contacts, switch_ohm)
        for part in self.build.parts_of_kind("relay"):
            row = relay_row(part)
            yield from self._table(part, relay_contacts(row), row.contact_mohm * factor)

    def _table(self, part: Part, table: ContactTable, ohm: float) -> Iterator[Element]:
        for position in table.positions:
            for group in position.joins:
                for other in group[1:]:
                    closed = self._across("contact", part, group[0], other, 1 / ohm)
                    yield replace(closed, position=position.name)

    def _source(self) -> Element:
        """The battery behind its resistance; its figures come with each state."""
        plus = self.node[Terminal(self.battery.id, "+")]
        return Element("source", self.battery.id, plus, self.reference)

    def _across(self, kind: str, part: Part, first: str, second: str, siemens: float) -> Element:
        return self._between(
            kind, part.id, Terminal(part.id, first), Terminal(part.id, second), siemens
        )

    def _between(
        self, kind: str, owner: str, first: Terminal, second: Terminal, siemens: float
    ) -> Element:
        return Element(kind, owner, self.node[first], self.node[second], siemens)

    def _solution(
        self,
        state: State,
        elements: list[Element],
        operating: Operating,
        pulled_in: frozenset[str],
    ) -> Solution:
        volts, amps = operating.element_v.tolist(), operating.element_a.tolist()
        by_kind: dict[str, dict[str, tuple[float, float]]] = {}
        contact_a: dict[str, float] = {}
        meters_v: list[float | None] = []
        loads: dict[str, LoadReading] = {}
        for element, volt, amp in zip(elements, volts, amps, strict=True):
            if element.kind == "contact":
                contact_a[element.owner] = max(contact_a.get(element.owner, 0.0), abs(amp))
            elif element.kind == "meter":
                known = self._known_v(operating, element.node_a) is not None
                meters_v.append(volt if known else None)
            elif element.law is not None:
                loads[element.owner] = LoadReading(volt, amp, element.law.output_percent(volt))
            else:
                by_kind.setdefault(element.kind, {})[element.owner] = (volt, amp)
        source = next(iter(by_kind["source"].values()))
        return Solution(
            state=state,
            terminal_v={t: self._known_v(operating, node) for t, node in self.node.items()},
            wire_a={owner: amp for owner, (_, amp) in by_kind.get("wire", {}).items()},
            fuse_a={owner: amp for owner, (_, amp) in by_kind.get("fuse", {}).items()},
            contact_a=contact_a,
            loads=loads,
            relays={
                owner: RelayReading(owner in pulled_in, volt)
                for owner, (volt, _) in by_kind.get("coil", {}).items()
            },
            meters_v=tuple(meters_v),
            battery_v=source[0],
            battery_a=0.0 - source[1],
            residual_a=operating.residual_a,
            power_mismatch=_power_mismatch(operating),
            iterations=operating.iterations,
        )

    def _known_v(self, operating: Operating, node: int) -> float | None:
        volts = float(operating.node_v[node])
        return None if volts != volts else volts


def conductor_ohm(build: Build, wire: Wire, conductor_c: float, size: str | None = None) -> float:
    """``R = r20 · L`` times the factor of copper's temperature, in this or another size."""
    name = size or wire.size
    if name is None:
        raise UnusableInput(
            "unsized-wire", wire.label, f"Wire {wire.label} has no size yet. Size it first."
        )
    per_m = catalogue().conductor[name].r20_mohm_per_m / 1000
    return per_m * length_m(build, wire) * float(copper_factor(conductor_c))


def copper_factor(conductor_c: Any) -> Any:
    """Resistance of copper against that at 20 °C: ``1 + 0.00393 (T − 20)`` (IEC 60028).

    A float, or an array of them.
    """
    return 1 + COPPER_PER_K * (conductor_c - 20)


def joints_ohm(build: Build, wire: Wire) -> float:
    """Resistance of the joints at both ends of a wire."""
    ends = (wire.joint_from or build.policy.joint, wire.joint_to or build.policy.joint)
    return sum(catalogue().joints[joint].resistance_mohm for joint in ends) / 1000


def _number_nodes(build: Build) -> dict[Terminal, int]:
    """A node for each terminal; a fuse in a panel shares the nodes of its bus and its way."""
    node: dict[Terminal, int] = {}
    for part in build.parts.values():
        if part.fitted is None:
            for name in terminals_of(part):
                node[Terminal(part.id, name)] = len(node)
    for part in build.parts.values():
        if part.fitted is not None:
            panel = build.parts[part.fitted.panel]
            bus = next(way.bus for way in panel.ways if way.name == part.fitted.way)
            node[Terminal(part.id, "in")] = node[Terminal(panel.id, bus)]
            node[Terminal(part.id, "out")] = node[Terminal(panel.id, part.fitted.way)]
    return node


def _pulled_in(solution: Solution) -> frozenset[str]:
    return frozenset(part for part, row in solution.relays.items() if row.pulled_in)


def _power_mismatch(operating: Operating) -> float:
    """Share of the source's power that is not found again in the other elements and in itself."""
    delivered_w = -float(operating.emf_v @ operating.element_a)
    dissipated_w = float((operating.element_v - operating.emf_v) @ operating.element_a)
    return abs(delivered_w - dissipated_w) / max(abs(delivered_w), 1e-3)
