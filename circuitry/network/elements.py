"""A build as two-terminal elements between numbered nodes: what the equations are made of."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np

from circuitry.catalogue import catalogue
from circuitry.design.kinds import (
    SWITCH_KINDS,
    cavity_halves,
    is_sender,
    relay_contacts,
    relay_row,
    supply_pins,
    terminals_of,
)
from circuitry.design.model import Build, ContactTable, Part, Terminal, Wire
from circuitry.design.routes import length_m
from circuitry.errors import UnusableInput
from circuitry.network.equations import Element, Vector
from circuitry.network.laws import Diode, Generator, law_of_load
from circuitry.network.terminals import is_screwed

COPPER_PER_K = 0.00393
BODY_MOHM = 1.0
GARAGE_C = 20.0
BOLTED = ("bolt-down", "breaker panel")
"""Families of fuses whose wires end in rings."""
HIGH_SIDE_MOHM = 20.0
LOW_SIDE_MOHM = 30.0
CHANNEL_MOHM = 5.0
INPUT_OHM = 10_000.0
PULL_UP_OHM = 1_000.0
SENSOR_SUPPLY_V = 5.0
SENSOR_SUPPLY_OHM = 1.0
FLASHER_OHM = 10_000.0
FIELD_OHM = 12.0
"""Typical figures of electronics: what an output loses, what an input draws."""
USUAL_RESISTOR_OHM = 10.0
USUAL_SENDER_OHM = 100.0
USUAL_ALTERNATOR_A = 65.0
REGULATED_V = 14.3
REGULATED_V_PER_K = -0.01
REGULATED_AT_C = 25.0


@dataclass(frozen=True)
class Tolerance:
    """Factors on load current and on the resistance of joints and contacts."""

    load_current: float = 1.0
    joint_resistance: float = 1.0


EXACT = Tolerance()


def nodes_of(build: Build) -> dict[Terminal, int]:
    """A node for each terminal; terminals of fitted and housed parts share those they land on."""
    node: dict[Terminal, int] = {}
    inside: list[Terminal] = []
    for part in build.parts.values():
        for name in terminals_of(part):
            terminal = Terminal(part.id, name)
            if build.lands(terminal) == terminal:
                node[terminal] = len(node)
            else:
                inside.append(terminal)
    for terminal in inside:
        node[terminal] = node[build.lands(terminal)]
    return node


class Elements:
    """The elements of one build: those that sizes change, and those that they do not."""

    def __init__(self, build: Build, node: Mapping[Terminal, int], tolerance: Tolerance) -> None:
        self.build = build
        self.node = node
        self.tolerance = tolerance
        self.body_node = len(set(node.values()))
        self._fuses = build.parts_of_kind("fuse")
        joints = [joints_ohm(build, wire) for wire in build.wires.values()]
        self._joints_ohm = tolerance.joint_resistance * np.array(joints)

    def sized(self) -> list[Element]:
        """Wires and fuses; their conductances come with each set of sizes."""
        wires = self.build.wires.values()
        ends = ((self.node[wire.from_terminal], self.node[wire.to_terminal]) for wire in wires)
        return [
            *(Element("wire", wire.id, *pair) for wire, pair in zip(wires, ends, strict=True)),
            *(self._across("fuse", part, "in", "out", 0.0) for part in self._fuses),
        ]

    def siemens(self, conductor_ohm: Vector, ratings_a: Iterable[float | None]) -> Vector:
        """Conductances of wires and fuses, from each wire's conductor and each fuse's rating."""
        fuses = zip(self._fuses, ratings_a, strict=True)
        return np.concatenate(
            [
                1 / (conductor_ohm + self._joints_ohm),
                [self._fuse_siemens(part, rating_a) for part, rating_a in fuses],
            ]
        )

    def conductor_ohm(self, conductor_c: Mapping[str, float]) -> Vector:
        """Resistance of each wire's conductor in the size it has; 20 °C where nothing is said."""
        build = self.build
        return np.array(
            [
                conductor_ohm(build, wire, conductor_c.get(wire.id, GARAGE_C))
                for wire in build.wires.values()
            ]
        )

    def fixed(self) -> list[Element]:
        """Everything else; the battery last, its figures come with each state."""
        battery = self.build.parts_of_kind("battery")[0]
        return [
            *self._loads(),
            *self._coils(),
            *self._body(),
            *self._contacts(),
            *self._small_parts(),
            *self._flashers(),
            *self._alternators(),
            *self._electronics(),
            self._across("source", battery, "+", "-", 0.0),
        ]

    def _fuse_siemens(self, part: Part, rating_a: float | None) -> float:
        if rating_a is None:
            raise UnusableInput(
                "unrated-fuse", part.id, f"Fuse “{part.name}” has no rating yet. Size it first."
            )
        link_ohm, held_ohm = _fuse_ohm(part.catalogue or "", rating_a)
        return 1 / (link_ohm + held_ohm * self.tolerance.joint_resistance)

    def _loads(self) -> Iterator[Element]:
        for part in self.build.parts_of_kind("load"):
            law = law_of_load(part, self.tolerance.load_current)
            yield self._across("load", part, "+", "-", 0.0, law=law)

    def _coils(self) -> Iterator[Element]:
        for part in self.build.parts_of_kind("relay"):
            row = relay_row(part)
            yield self._across("coil", part, "86", "85", 1 / row.coil_ohm_12v)
            if row.suppression.startswith("diode"):
                yield self._across("suppression", part, "85", "86", 0.0, law=Diode())

    def _body(self) -> Iterator[Element]:
        if not self.build.body_conducts:
            return
        for part in self.build.parts_of_kind("ground point"):
            stud = self.node[Terminal(part.id, "stud")]
            yield Element("body", part.id, stud, self.body_node, 1000 / BODY_MOHM)

    def _contacts(self) -> Iterator[Element]:
        """Every contact of every switch and relay, with the position that closes it."""
        joints = catalogue().joints
        for part in self.build.parts_of_kind(*SWITCH_KINDS):
            if part.contacts:
                heavy = part.kind == "isolator"
                row = joints["isolator contact" if heavy else "switch contact"]
                yield from self._table(part, part.contacts, row.resistance_mohm)
        for part in self.build.parts_of_kind("relay"):
            relay = relay_row(part)
            yield from self._table(part, relay_contacts(relay), relay.contact_mohm)
        mohm = joints["plug contact"].resistance_mohm
        for part in self.build.parts_of_kind("connector"):
            for pin in part.pins:
                siemens = 1000 / mohm / self.tolerance.joint_resistance
                yield self._across("plug", part, *cavity_halves(pin.name), siemens)

    def _table(self, part: Part, table: ContactTable, mohm: float) -> Iterator[Element]:
        siemens = 1000 / mohm / self.tolerance.joint_resistance
        for position in table.positions:
            for group in position.joins:
                for other in group[1:]:
                    yield self._across(
                        "contact", part, group[0], other, siemens, position=position.name
                    )

    def _small_parts(self) -> Iterator[Element]:
        for part in self.build.parts_of_kind("diode"):
            yield self._across("diode", part, "anode", "cathode", 0.0, law=Diode())
        for part in self.build.parts_of_kind("resistor"):
            ohm = part.number("resistance_ohm", USUAL_RESISTOR_OHM)
            yield self._across("resistor", part, "1", "2", 1 / max(ohm, 1e-3))
        for part in self.build.parts_of_kind("sensor"):
            if is_sender(part):
                ohm = part.number("resistance_ohm", USUAL_SENDER_OHM)
                yield self._across("sender", part, "signal", "ground", 1 / max(ohm, 1e-3))

    def _flashers(self) -> Iterator[Element]:
        for part in self.build.parts_of_kind("flasher"):
            mohm = catalogue().flashers[part.catalogue or ""].contact_mohm
            yield self._across("flasher", part, "49", "49a", 1000 / mohm, position="lit")
            yield self._across("electronics", part, "49", "31", 1 / FLASHER_OHM)

    def _alternators(self) -> Iterator[Element]:
        """The generator, and D+: the field to be excited, or the output of the field diodes."""
        for part in self.build.parts_of_kind("alternator"):
            ambient_c = self.build.places[part.place].ambient_c
            regulated_v = part.number("regulated_v", REGULATED_V)
            regulated_v += REGULATED_V_PER_K * (ambient_c - REGULATED_AT_C)
            law = Generator(regulated_v, part.number("rated_a", USUAL_ALTERNATOR_A))
            yield self._across("alternator", part, "B+", "-", 0.0, law=law, position="charging")
            yield self._across("field", part, "D+", "-", 1 / FIELD_OHM, position="rest")
            yield self._across("field", part, "B+", "D+", 10.0, position="charging")

    def _electronics(self) -> Iterator[Element]:
        for part in self.build.parts_of_kind("module", "box"):
            ends = supply_pins(part)
            if ends is None:
                continue
            supply, ground = ends
            for way in part.ways:
                yield self._output(part, supply, way.name, way.name, CHANNEL_MOHM)
            for pin in part.pins:
                match pin.function:
                    case "high side":
                        yield self._output(part, supply, pin.name, pin.name, HIGH_SIDE_MOHM)
                    case "low side":
                        yield self._output(part, pin.name, ground, pin.name, LOW_SIDE_MOHM)
                    case "input":
                        yield self._across("electronics", part, pin.name, ground, 1 / INPUT_OHM)
                    case "input to ground":
                        yield self._across("electronics", part, supply, pin.name, 1 / PULL_UP_OHM)
                    case "sensor supply":
                        yield self._across(
                            "regulator",
                            part,
                            pin.name,
                            ground,
                            1 / SENSOR_SUPPLY_OHM,
                            emf_v=SENSOR_SUPPLY_V,
                            position="awake",
                        )
                    case "sensor ground":
                        yield self._across("electronics", part, pin.name, ground, 100.0)

    def _output(self, part: Part, first: str, last: str, name: str, mohm: float) -> Element:
        return self._across("output", part, first, last, 1000 / mohm, position=on(name))

    def _across(
        self, kind: str, part: Part, first: str, last: str, siemens: float, **fields: Any
    ) -> Element:
        ends = self.node[Terminal(part.id, first)], self.node[Terminal(part.id, last)]
        return Element(kind, part.id, *ends, siemens, **fields)


@cache
def _fuse_ohm(family: str, rating_a: float) -> tuple[float, float]:
    """Cold resistance of a fuse, and of what holds it."""
    row, joints = catalogue().fuse(family, rating_a), catalogue().joints
    bolted = family.startswith(BOLTED)
    held_mohm = (
        2 * joints["ring"].resistance_mohm if bolted else joints["fuse clips"].resistance_mohm
    )
    return row.cold_resistance_mohm / 1000, held_mohm / 1000


def on(output: str) -> str:
    """The position of a box or module in which this output of it is on."""
    return f"{output} on"


def conductor_ohm(build: Build, wire: Wire, conductor_c: float, size: str | None = None) -> float:
    """``R = r20 · L`` times the factor of copper's temperature, in this or another size."""
    return ohm_per_m(wire, size) * length_m(build, wire) * float(copper_factor(conductor_c))


def ohm_per_m(wire: Wire, size: str | None = None) -> float:
    """Resistance of a metre of a wire at 20 °C, in this or another size."""
    name = size or wire.size
    if name is None:
        raise UnusableInput(
            "unsized-wire", wire.label, f"Wire {wire.label} has no size yet. Size it first."
        )
    return catalogue().conductor[name].r20_mohm_per_m / 1000


def copper_factor(conductor_c: Any) -> Any:
    """Resistance of copper against that at 20 °C: ``1 + 0.00393 (T − 20)`` (IEC 60028).

    A float, or an array of them.
    """
    return 1 + COPPER_PER_K * (conductor_c - 20)


def joints_ohm(build: Build, wire: Wire) -> float:
    """Resistance of the joints at both ends of a wire: a ring where it ends on a stud."""
    ends = ((wire.joint_from, wire.from_terminal), (wire.joint_to, wire.to_terminal))
    rows = catalogue().joints
    return sum(rows[own or usual_joint(build, end)].resistance_mohm for own, end in ends) / 1000


def usual_joint(build: Build, terminal: Terminal) -> str:
    """How a wire is joined where nothing is said: a ring on a stud, else as the policy has it."""
    return "ring" if is_screwed(build, terminal) else build.policy.joint
